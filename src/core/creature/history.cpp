#include "creature/history.h"

#include "creature/command.h"

#include <algorithm>
#include <cassert>
#include <nlohmann/json.hpp>

namespace bonemoss::creature {

History::History(std::shared_ptr<const Creature> start, std::string title)
{
    m_steps.push_back({std::move(title), nullptr, std::move(start)});
}

void History::push(Creature state, const nlohmann::json &command)
{
    m_steps.resize(m_at + 1);
    m_steps.push_back(
        {titleOf(command), std::make_shared<const nlohmann::json>(command), std::make_shared<const Creature>(std::move(state))});
    if (m_steps.size() > kMostSteps)
        m_steps.erase(m_steps.begin());
    m_at = m_steps.size() - 1;
}

void History::goTo(std::size_t step)
{
    assert(step < m_steps.size());
    m_at = step;
}

std::vector<nlohmann::json> History::commands() const
{
    std::vector<nlohmann::json> out;
    for (std::size_t i = 0; i <= m_at; ++i)
        if (m_steps[i].command)
            out.push_back(*m_steps[i].command);
    return out;
}

} // namespace bonemoss::creature
