#pragma once

#include <QKeySequence>
#include <QString>

#include <vector>

class QAction;

namespace bonemoss::app {

/// Every action with a key: its name in settings, words, and the key it comes with.
struct KeyEntry {
    QString id, text;
    QKeySequence key;
    bool isHeld = false; ///< one key without modifiers, held while the pen or mouse moves
};

/// What a held key turns a stroke into, or what a sideways move sets while it is held.
enum class HeldKey { None, Smooth, Dig, Mask, Size, Strength, Falloff };

/// Keys as the person set them, over the ones shipped. Actions register once and follow changes.
class KeyMap
{
public:
    void add(QAction *action, const QString &id, const QKeySequence &shipped);
    void addHeld(HeldKey held, const QString &id, const QString &text, Qt::Key shipped);
    /// What the key stands for while held.
    HeldKey held(int key) const;
    const std::vector<KeyEntry> &shipped() const { return m_shipped; }
    QKeySequence keyOf(const QString &id) const;
    /// Words of another action that has this key, or empty.
    QString conflict(const QString &id, const QKeySequence &key) const;
    void set(const QString &id, const QKeySequence &key);
    void reset();

private:
    std::vector<KeyEntry> m_shipped;
    std::vector<QAction *> m_actions;
    std::vector<std::pair<HeldKey, QString>> m_held; // and its id
};

} // namespace bonemoss::app
