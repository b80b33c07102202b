#include "command/history.h"

#include "command/command.h"
#include "skin/attributes.h"

#include <algorithm>
#include <cassert>
#include <nlohmann/json.hpp>
#include <unordered_set>

namespace bonemoss::command {

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

namespace {

template <typename T> std::size_t notIn(const mesh::BlockArray<T> &before, const mesh::BlockArray<T> &now)
{
    std::size_t sum = 0;
    for (std::size_t b = 0; b < now.blockCount(); ++b)
        if (now.has(b) && (b >= before.blockCount() || !now.sharesWith(before, b)))
            sum += now.countIn(b) * sizeof(T);
    return sum;
}

/// Block by block, by identity: a few comparisons for each, so that a stroke on a large skin is counted in no time.
std::size_t notIn(const skin::Skin &before, const skin::Skin &now)
{
    const bool hasOwnShape =
        !now.shown.positions.isBlank() && !now.body.isBlank() && !now.shown.positions.sharesWith(now.body, 0);
    std::size_t sum = notIn(before.body, now.body) + notIn(before.shown.normals, now.shown.normals)
                      + (hasOwnShape ? notIn(before.shown.positions, now.shown.positions) : 0);
    skin::eachAttribute(
        now, [&]<typename T>(const skin::AttributeKind &kind, const std::string &name, const mesh::BlockArray<T> &values) {
            const mesh::BlockArray<T> *old = skin::valuesOf(before, kind, name, T{});
            sum += notIn(old ? *old : mesh::BlockArray<T>(), values);
        });
    for (const skin::Layer &l : now.layers) {
        const skin::Layer *old = before.layer(l.id);
        sum += notIn(old ? old->offsets : mesh::BlockArray<Vec3f>(), l.offsets)
               + notIn(old ? old->mask : mesh::BlockArray<std::uint8_t>(), l.mask);
    }
    const mesh::Topology *t = now.shown.topology.get(), *was = before.shown.topology.get();
    for (std::size_t b = 0; t && t != was && b < t->blockCount(); ++b)
        if (const mesh::BlockFaces &f = t->block(b); !was || b >= was->blockCount() || &was->block(b) != &f)
            sum += sizeof f + f.faces.size() * sizeof(mesh::LocalFace) + f.borrowed.size() * 4;
    const skin::Skin none{};
    for (std::size_t k = 0; k < now.links.size(); ++k)
        for (const auto state : {&skin::LevelLink::coarse, &skin::LevelLink::fine}) {
            const skin::Skin *here = (now.links[k].*state).get();
            const skin::Skin *old = k < before.links.size() ? (before.links[k].*state).get() : &none;
            sum += here == old ? 0 : notIn(*old, *here);
        }
    return sum;
}

} // namespace

std::size_t bytesNotIn(const Creature &before, const Creature &now)
{
    std::size_t sum = sizeof(Creature) + now.armature.forms.size() * sizeof(armature::Form);
    std::unordered_set<const void *> counted; // of new pieces: what several levels share
    for (const auto &p : now.pieces)
        if (const Piece *old = before.piece(p->id); !old)
            p->skin.eachBlock([&](const void *block, std::size_t bytes) { sum += counted.insert(block).second ? bytes : 0; });
        else if (old != p.get())
            sum += notIn(old->skin, p->skin);
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

} // namespace bonemoss::command
