#include "app/actions/actions.h"

#include <QAction>
#include <QMenu>

namespace bonemoss::app {

Actions::Actions(Session &session, KeyMap &keys, QObject *parent) : QObject(parent), m_session(session), m_keys(keys)
{
    for (const auto signal : {&Session::creatureChanged, &Session::choiceChanged, &Session::benchChanged})
        connect(&session, signal, this, &Actions::refresh);
}

QAction *Actions::add(QMenu *menu, const ActionRow &row)
{
    QAction *action = menu->addAction(row.text);
    m_keys.add(action, QLatin1String(row.id), row.key);
    if (!row.tip.isEmpty()) {
        const QString key = action->shortcut().toString(QKeySequence::NativeText);
        action->setToolTip(key.isEmpty() ? row.tip : tr("%1 (%2)").arg(row.tip, key));
        menu->setToolTipsVisible(true);
    }
    connect(action, &QAction::triggered, this, row.run);
    if (row.when != When::Always) {
        m_known.push_back({action, row.when});
        action->setEnabled(isUsable(row.when));
    }
    return action;
}

bool Actions::isUsable(When when) const
{
    const document::Creature &c = m_session.creature();
    const document::Piece *piece = c.piece(m_session.piece());
    switch (when) {
    case When::Always: return true;
    case When::HasPiece: return piece || !c.pieces.empty();
    case When::HasForms: return !c.armature.forms.empty();
    case When::HasLevels: return piece && !piece->skin.links.empty();
    case When::CanUndo: return m_session.canUndo();
    case When::CanRedo: return m_session.canRedo();
    }
    return true;
}

void Actions::refresh()
{
    for (const Known &known : m_known)
        known.action->setEnabled(isUsable(known.when));
}

} // namespace bonemoss::app
