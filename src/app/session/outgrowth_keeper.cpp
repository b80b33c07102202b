#include "app/session/outgrowth_keeper.h"

#include "document/ops/outgrowths.h"

namespace bonemoss::app {

OutgrowthKeeper::OutgrowthKeeper(Session &session) : m_session(session), m_next([this](Fresh fresh) { take(std::move(fresh)); })
{
    m_again.setSingleShot(true);
    m_again.setInterval(60);
    connect(&m_again, &QTimer::timeout, this, [this] { take(std::exchange(m_late, {})); });
    connect(&session, &Session::creatureChanged, this, &OutgrowthKeeper::look);
}

void OutgrowthKeeper::look()
{
    if (!document::hasStaleOutgrowths(m_session.creature()))
        return;
    m_next.ask([of = m_session.share()](const std::stop_token &stop) {
        Operation context{{stop, {}}, {}};
        return Fresh{of, std::make_shared<const document::Creature>(document::withFreshOutgrowths(*of, context))};
    });
}

void OutgrowthKeeper::take(Fresh fresh)
{
    if (fresh.of != m_session.share())
        return; // another state came, and its own work with it
    if (!fresh.made || m_session.refresh(fresh.of, fresh.made))
        return;
    m_late = std::move(fresh);
    m_again.start();
}

} // namespace bonemoss::app
