#pragma once

#include "app/session/session.h"

#include <QTimer>

#include <vector>

namespace bonemoss::app {

/// Which growths and rules of colour of the chosen piece no longer fit the skin, found when the hand rests. Growths grow again behind
/// one's work on wish, rules of colour run again.
class GrowthKeeper : public QObject
{
    Q_OBJECT
public:
    explicit GrowthKeeper(Session &session);
    const std::vector<std::uint32_t> &stale() const { return m_stale; }               ///< layers
    const std::vector<std::uint32_t> &staleColours() const { return m_staleColours; } ///< colour layers
    bool growsByItself() const { return m_growsByItself; }
    void setGrowsByItself(bool on);              ///< kept for the next start
    bool rulesRun() const { return m_rulesRun; } ///< rules of colour, by themselves
    void setRulesRun(bool on);                   ///< kept for the next start

signals:
    void staleChanged();

private:
    void look();
    void growAgain();

    Session &m_session;
    QTimer m_rests;
    std::vector<std::uint32_t> m_stale, m_staleColours;
    bool m_growsByItself = false, m_rulesRun = true;
};

} // namespace bonemoss::app
