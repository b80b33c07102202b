// Finding the levels below a skin whose faces came from subdivision.
#include "skin/attributes.h"
#include "skin/level_values.h"
#include "skin/levels.h"
#include "mesh/coarsen.h"

#include <algorithm>
#include <map>
#include <numeric>

namespace bonemoss::skin {

namespace {

using mesh::BlockArray;
using mesh::Subdivision;
using Offsets = BlockArray<Vec3f>;

template <typename T> BlockArray<T> reordered(const BlockArray<T> &values, const std::vector<std::uint32_t> &from)
{
    if (values.isBlank())
        return BlockArray<T>(from.size());
    std::vector<T> out(from.size());
    for (std::size_t i = 0; i < from.size(); ++i)
        out[i] = values[from[i]];
    return BlockArray<T>(out);
}
Offsets withoutBlank(const Offsets &o)
{
    return o.isBlank() ? o : sparse(o.flatten());
}

/// The same skin with its vertices in another order, from[i] being the old number of i.
Skin reordered(const Skin &skin, std::shared_ptr<const mesh::Topology> topology, const std::vector<std::uint32_t> &from)
{
    Skin out;
    out.body = reordered(skin.body, from);
    for (const Layer &l : skin.layers) {
        out.layers.push_back(l);
        out.layers.back().offsets = withoutBlank(reordered(l.offsets, from));
        out.layers.back().mask = reordered(l.mask, from);
    }
    makeAttributes(skin, out, [&](const AttributeKind &, const auto &values) { return reordered(values, from); });
    assemble(out, std::move(topology));
    return out;
}

/// The level below a fine one: its vertices where the fine ones lie, then brought closer to the fine form.
Skin levelBelow(const Subdivision &rule, const Skin &fine, std::shared_ptr<const mesh::Topology> topology)
{
    std::vector<std::uint32_t> from(rule.oldVertexCount());
    for (std::uint32_t v = 0; v < from.size(); ++v)
        from[v] = rule.placeOf(v);
    Skin out = reordered(fine, topology, from);
    const auto closer = [&](Offsets &coarse, const Offsets &wanted) {
        add(coarse, fitted(rule, difference(wanted, subdivided(rule, coarse))));
    };
    closer(out.body, fine.body);
    for (std::size_t k = 0; k < out.layers.size(); ++k)
        closer(out.layers[k].offsets, fine.layers[k].offsets);
    assemble(out, std::move(topology));
    return out;
}

/// Numbers that the vertices of a fine level get when it is made from the coarse one: from[i] is the number in `step`'s
/// mesh of the vertex that the rule calls i. coarseFrom: the same of the coarse level.
std::vector<std::uint32_t> numbersFrom(const Subdivision &rule, const std::vector<mesh::Face> &coarseFaces,
                                       const std::vector<mesh::Face> &fineFaces, const mesh::Coarsened &step,
                                       const std::vector<std::uint32_t> &coarseFrom)
{
    std::map<std::array<std::uint32_t, 4>, std::vector<std::uint32_t>> centres; // by sorted corners
    const auto keyOf = [](mesh::Face f) {
        std::sort(f.v.begin(), f.v.end());
        return f.v;
    };
    for (std::size_t f = 0; f < step.faces.size(); ++f)
        centres[keyOf(step.faces[f])].push_back(step.faceCentre[f]);
    std::vector<std::pair<std::uint64_t, std::uint32_t>> corners; // kept vertex and centre, fine face
    const auto pairOf = [](std::uint32_t kept, std::uint32_t centre) { return std::uint64_t(kept) << 32 | centre; };
    std::vector<bool> isCentre(std::accumulate(fineFaces.begin(), fineFaces.end(), 0u, [](std::uint32_t m, const mesh::Face &f) {
        return std::max(m, *std::max_element(f.v.begin(), f.v.end()) + 1);
    }));
    for (const std::uint32_t c : step.faceCentre)
        isCentre[c] = true;
    for (std::uint32_t f = 0; f < fineFaces.size(); ++f)
        for (std::size_t c = 0; c < 4; ++c)
            if (isCentre[fineFaces[f].v[c]])
                corners.push_back({pairOf(fineFaces[f].v[(c + 2) % 4], fineFaces[f].v[c]), f});
    std::sort(corners.begin(), corners.end());
    std::vector<std::uint32_t> from(rule.vertexCount(), kNone);
    std::size_t next = 0;
    for (mesh::Face f : coarseFaces) {
        const std::size_t n = std::size_t(f.size());
        for (std::size_t c = 0; c < n; ++c)
            f.v[c] = coarseFrom[f.v[c]];
        auto &list = centres[keyOf(f)];
        const std::uint32_t centre = list.back();
        if (list.size() > 1) // two faces over the same corners
            list.pop_back();
        for (std::size_t c = 0; c < n; ++c, ++next) {
            const std::uint32_t kept = step.kept[f.v[c]];
            const auto it = std::lower_bound(corners.begin(), corners.end(), std::pair{pairOf(kept, centre), 0u});
            const mesh::Face &old = fineFaces[it->second], &made = rule.faces()[next];
            const std::size_t k = std::size_t(std::find(old.v.begin(), old.v.end(), kept) - old.v.begin());
            for (std::size_t i = 0; i < 4; ++i)
                from[made.v[i]] = old.v[(k + i) % 4];
        }
    }
    return from;
}

} // namespace

Result<Skin> findLower(const Skin &skin, std::size_t count, const Progress &progress)
{
    if (!skin.links.empty())
        return Error{ErrorCode::BadValue, "levels", "it has levels already; delete those below and above first"};
    std::vector<mesh::Coarsened> steps;
    const std::vector<mesh::Face> faces = skin.shown.topology->faces();
    const auto facesAt = [&](std::size_t k) -> const std::vector<mesh::Face> & { return k == 0 ? faces : steps[k - 1].faces; };
    progress.say(0, "looking for subdivision");
    while (steps.size() < count) {
        auto step = mesh::coarsen(steps.empty() ? skin.body.size() : steps.back().kept.size(), facesAt(steps.size()));
        if (!step)
            break;
        steps.push_back(std::move(*step));
    }
    if (steps.empty())
        return Error{ErrorCode::BadValue, "levels", "its faces were not made by subdivision; lower levels have to be knitted"};
    struct Step {
        Subdivision rule;
        std::shared_ptr<const mesh::Topology> coarse;
    };
    std::vector<Step> made; // from the coarsest
    std::vector<std::uint32_t> from(steps.back().kept.size());
    std::iota(from.begin(), from.end(), 0u);
    auto topology = mesh::Topology::build(from.size(), steps.back().faces);
    for (std::size_t k = steps.size(); k-- > 0;) {
        const std::vector<mesh::Face> coarse = topology->faces();
        Subdivision rule(from.size(), coarse);
        from = numbersFrom(rule, coarse, facesAt(k), steps[k], from);
        auto fine = mesh::Topology::build(rule.vertexCount(), rule.faces());
        made.push_back({std::move(rule), std::exchange(topology, std::move(fine))});
    }
    progress.say(0.6f, "points of the lower levels");
    std::vector<Skin> states{reordered(skin, topology, from)};
    for (std::size_t k = made.size(); k-- > 0;)
        states.push_back(levelBelow(made[k].rule, states.back(), made[k].coarse));
    std::reverse(states.begin(), states.end());
    return linked(std::move(states));
}

} // namespace bonemoss::skin
