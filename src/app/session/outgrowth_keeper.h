#pragma once

#include "app/session/latest.h"
#include "app/session/session.h"

#include <QTimer>

namespace bonemoss::app {

/// Makes those outgrowths anew, behind one's work, that a stroke left as they were: fur and the like, which takes longer than a stroke may.
class OutgrowthKeeper : public QObject
{
    Q_OBJECT
public:
    explicit OutgrowthKeeper(Session &session);

private:
    using State = std::shared_ptr<const document::Creature>;
    struct Fresh {
        State of, made; ///< made: null where it failed
    };
    void look();
    void take(Fresh fresh);

    Session &m_session;
    QTimer m_again; ///< while the session is busy
    Fresh m_late;   ///< that waits for it
    Latest<Fresh> m_next;
};

} // namespace bonemoss::app
