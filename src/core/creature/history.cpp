#include "creature/history.h"

#include "creature/command.h"

#include <algorithm>
#include <cassert>
#include <nlohmann/json.hpp>
#include <unordered_set>

namespace bonemoss::creature {

History::History(std::shared_ptr<const Creature> start, std::string title)
{
    m_steps.push_back({std::move(title), nullptr, std::move(start)});
}

void History::push(Creature state, const nlohmann::json &command)
{
    m_steps.resize(m_at + 1);
    const std::size_t bytes = bytesNotIn(now(), state);
    m_steps.push_back({titleOf(command), std::make_shared<const nlohmann::json>(command),
                       std::make_shared<const Creature>(std::move(state)), bytes});
    m_at = m_steps.size() - 1;
    keepWithin();
}

/// A step that goes frees what it does not share with the one after it; that is taken to be as much as the step after it brought:
/// a change takes the place of what was there.
std::size_t History::bytes() const
{
    std::size_t sum = 0;
    for (std::size_t i = 1; i < m_steps.size(); ++i)
        sum += m_steps[i].bytes;
    return sum;
}

void History::setBudget(std::size_t bytes)
{
    m_budget = bytes;
    keepWithin();
}

void History::keepWithin()
{
    std::size_t sum = bytes(), gone = 0;
    while (gone + 1 < m_at && (sum > m_budget || m_steps.size() - gone > kMostSteps))
        sum -= m_steps[++gone].bytes;
    m_steps.erase(m_steps.begin(), m_steps.begin() + std::ptrdiff_t(gone));
    m_at -= gone;
    m_dropped += gone;
}

std::size_t bytesNotIn(const Creature &before, const Creature &now)
{
    std::unordered_set<const void *> known;
    for (const auto &p : before.pieces)
        if (const Piece *other = now.piece(p->id); other && other != p.get())
            p->skin.eachBlock([&](const void *block, std::size_t) { known.insert(block); });
    std::size_t sum = sizeof(Creature) + now.armature.forms.size() * sizeof(armature::Form);
    for (const auto &p : now.pieces)
        if (before.piece(p->id) != p.get())
            p->skin.eachBlock([&](const void *block, std::size_t bytes) { sum += known.insert(block).second ? bytes : 0; });
    for (const Reference &r : now.references)
        if (const Reference *other = before.reference(r.id); !other || other->file != r.file)
            sum += r.file->bytes.size();
    return sum;
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
