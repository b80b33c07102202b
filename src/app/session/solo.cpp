#include "app/session/solo.h"

#include "app/benches/bench.h"
#include "command/fields.h"
#include "command/items/item_fields.h"

#include <algorithm>
#include <iterator>

namespace bonemoss::app {

void Solo::toggle(const std::vector<std::uint32_t> &chosen)
{
    const document::Creature &c = m_session.creature();
    std::vector<std::uint32_t> shown, hidden; // of the kind that is looked at
    const auto see = [&](std::uint32_t id, bool isHidden) { (isHidden ? hidden : shown).push_back(id); };
    if (rowOf(m_session.bench()).showsForms)
        for (const auto &f : c.armature.forms)
            see(f.id, f.isHidden);
    else
        for (const auto &p : c.pieces)
            see(p->id, p->isHidden);
    const auto has = [](const std::vector<std::uint32_t> &ids, std::uint32_t id) {
        return std::find(ids.begin(), ids.end(), id) != ids.end();
    };
    std::vector<std::uint32_t> back = std::exchange(m_hidden, {});
    std::erase_if(back, [&](std::uint32_t id) { return !has(hidden, id); }); // gone, or shown by hand since
    if (!back.empty()) {
        m_session.run(toCommand(command::ShowItems{.show = command::namesOf(back)}));
        return;
    }
    std::erase_if(shown, [&](std::uint32_t id) { return has(chosen, id); });
    std::vector<std::uint32_t> wanted;
    std::copy_if(hidden.begin(), hidden.end(), std::back_inserter(wanted), [&](std::uint32_t id) { return has(chosen, id); });
    if (chosen.empty() || (shown.empty() && wanted.empty()))
        return;
    if (m_session.run(toCommand(command::ShowItems{.show = command::namesOf(wanted), .hide = command::namesOf(shown)})))
        m_hidden = shown;
}

} // namespace bonemoss::app
