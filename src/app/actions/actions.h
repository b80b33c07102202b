#pragma once

#include "app/session/session.h"
#include "app/theme/keys.h"

#include <QKeySequence>
#include <QObject>

#include <functional>

class QAction;
class QMenu;

namespace bonemoss::app {

/// When an action can be used; otherwise it is grey. Actions with a key of their own stay Always and say in words what is missing: a
/// key that does nothing tells nothing.
enum class When { Always, HasPiece, HasForms, HasLevels, CanUndo, CanRedo };

/// An action as one row: menu, key, greying, tooltip, the keys dialog and the search by words follow from it.
struct ActionRow {
    QString text;   ///< with the letter to press in the menu
    const char *id; ///< in settings, tests and the keys dialog
    QKeySequence key;
    std::function<void()> run;
    When when = When::Always;
    QString tip{}; ///< where the text alone does not say it; the key is added
};

/// All actions of the window.
class Actions : public QObject
{
    Q_OBJECT
public:
    Actions(Session &session, KeyMap &keys, QObject *parent = nullptr);
    QAction *add(QMenu *menu, const ActionRow &row);
    bool isUsable(When when) const;
    void refresh(); ///< greys what cannot be used now

private:
    struct Known {
        QAction *action;
        When when;
    };
    Session &m_session;
    KeyMap &m_keys;
    std::vector<Known> m_known;
};

} // namespace bonemoss::app
