#include "app/theme/keys.h"

#include <QAction>
#include <QSettings>

namespace bonemoss::app {

namespace {
QString settingOf(const QString &id)
{
    return QStringLiteral("keys/") + id;
}
} // namespace

void KeyMap::add(QAction *action, const QString &id, const QKeySequence &shipped)
{
    action->setObjectName(id);
    m_shipped.push_back({id, action->text().remove(QLatin1Char('&')), shipped, false});
    m_actions.push_back(action);
    action->setShortcut(keyOf(id));
}

void KeyMap::addHeld(HeldKey held, const QString &id, const QString &text, Qt::Key shipped)
{
    m_shipped.push_back({id, text, QKeySequence(shipped), true});
    m_held.emplace_back(held, id);
}

HeldKey KeyMap::held(int key) const
{
    for (const auto &[held, id] : m_held)
        if (keyOf(id) == QKeySequence(key))
            return held;
    return HeldKey::None;
}

QKeySequence KeyMap::keyOf(const QString &id) const
{
    const QVariant own = QSettings().value(settingOf(id));
    if (own.isValid())
        return QKeySequence(own.toString(), QKeySequence::PortableText);
    for (const KeyEntry &e : m_shipped)
        if (e.id == id)
            return e.key;
    return {};
}

QString KeyMap::conflict(const QString &id, const QKeySequence &key) const
{
    if (!key.isEmpty())
        for (const KeyEntry &e : m_shipped)
            if (e.id != id && keyOf(e.id) == key)
                return e.text;
    return {};
}

void KeyMap::set(const QString &id, const QKeySequence &key)
{
    QSettings().setValue(settingOf(id), key.toString(QKeySequence::PortableText));
    for (QAction *a : m_actions)
        if (a->objectName() == id)
            a->setShortcut(key);
}

void KeyMap::reset()
{
    QSettings().remove(QStringLiteral("keys"));
    for (QAction *a : m_actions)
        a->setShortcut(keyOf(a->objectName()));
}

} // namespace bonemoss::app
