#include "detail/levels.h"

#include "base/parallel.h"
#include "detail/local_density.h"
#include "detail/riding.h"
#include "mesh/coarsen.h"
#include "mesh/subdivide.h"

#include <algorithm>
#include <map>
#include <numeric>

namespace bonemoss::detail {

namespace {

using mesh::BlockArray;
using mesh::kBlockSize;
using mesh::Subdivision;
using Offsets = BlockArray<Vec3f>;
using Bytes = BlockArray<std::uint8_t>;

template <typename T> bool isShared(const BlockArray<T> &a, const BlockArray<T> &b)
{
    if (a.size() != b.size())
        return false;
    for (std::size_t k = 0; k < a.blockCount(); ++k)
        if (!a.sharesWith(b, k))
            return false;
    return true;
}

bool isSame(const Skin &a, const Skin &b)
{
    const auto equal = [](const auto &x, const auto &y, const auto &test) {
        return std::equal(x.begin(), x.end(), y.begin(), y.end(), test);
    };
    return isShared(a.body, b.body) && isShared(a.mask, b.mask) && isShared(a.groupOf, b.groupOf)
           && isShared(a.shown.hidden, b.shown.hidden)
           && equal(a.paint.channels, b.paint.channels, [](const Bytes &x, const Bytes &y) { return isShared(x, y); })
           && equal(a.layers, b.layers,
                    [](const Layer &x, const Layer &y) {
                        return x.isShownAs(y) && isShared(x.offsets, y.offsets) && isShared(x.mask, y.mask);
                    })
           && equal(a.masks, b.masks,
                    [](const KeptMask &x, const KeptMask &y) { return x.name == y.name && isShared(x.values, y.values); })
           && equal(a.groups, b.groups, [](const Group &x, const Group &y) { return x.number == y.number && x.name == y.name; });
}

/// A level as links keep it.
std::shared_ptr<const Skin> alone(Skin skin)
{
    skin.links.clear();
    skin.level = 0;
    return std::make_shared<const Skin>(std::move(skin));
}

/// Without the blocks in which all is zero.
Offsets sparse(const std::vector<Vec3f> &values)
{
    Offsets all(values), out(values.size());
    for (std::size_t b = 0; b < all.blockCount(); ++b)
        if (const Vec3f *p = all.data(b); std::any_of(p, p + all.countIn(b), [](Vec3f v) { return !(v == Vec3f{}); }))
            out.takeFrom(all, b);
    return out;
}

Offsets difference(const Offsets &a, const Offsets &b)
{
    Offsets out(a.size());
    for (std::size_t k = 0; k < a.blockCount(); ++k) {
        if (a.sharesWith(b, k))
            continue;
        Vec3f *to = out.edit(k);
        const Vec3f *x = a.data(k), *y = b.data(k);
        for (std::size_t i = 0; i < a.countIn(k); ++i)
            to[i] = (x ? x[i] : Vec3f{}) - (y ? y[i] : Vec3f{});
    }
    return out;
}

void add(Offsets &to, const Offsets &what)
{
    for (std::size_t k = 0; k < to.blockCount(); ++k)
        if (const Vec3f *x = what.data(k)) {
            Vec3f *p = to.edit(k);
            for (std::size_t i = 0; i < to.countIn(k); ++i)
                p[i] += x[i];
        }
}

Offsets subdivided(const Subdivision &rule, const Offsets &coarse)
{
    return coarse.isBlank() ? Offsets(rule.vertexCount()) : sparse(rule.apply(coarse.flatten()));
}
Offsets fitted(const Subdivision &rule, const Offsets &fine)
{
    return fine.isBlank() ? Offsets(rule.oldVertexCount()) : sparse(rule.fit(fine.flatten()));
}

Bytes subdivided(const Subdivision &rule, const Bytes &coarse)
{
    if (coarse.isBlank())
        return Bytes(rule.vertexCount());
    const std::vector<std::uint8_t> bytes = coarse.flatten();
    const std::vector<float> fine = rule.apply(std::vector<float>(bytes.begin(), bytes.end()));
    std::vector<std::uint8_t> rounded(fine.size());
    for (std::size_t i = 0; i < fine.size(); ++i)
        rounded[i] = std::uint8_t(std::clamp(std::lround(fine[i]), 0l, 255l));
    return Bytes(rounded);
}

template <typename T> BlockArray<T> spread(const Subdivision &rule, const BlockArray<T> &coarse)
{
    if (coarse.isBlank())
        return BlockArray<T>(rule.vertexCount());
    const std::vector<T> values = coarse.flatten();
    const std::vector<std::uint16_t> fine = rule.spread({values.begin(), values.end()});
    return BlockArray<T>(std::vector<T>(fine.begin(), fine.end()));
}

/// What lies on the finer level: of the coarse values now where they changed, else what was there.
template <typename T, typename Up>
BlockArray<T> broughtUp(const BlockArray<T> &was, const BlockArray<T> &now, const BlockArray<T> &fine, const Up &up)
{
    if (isShared(was, now))
        return fine;
    const BlockArray<T> before = up(was), after = up(now);
    if (after.isBlank())
        return after;
    BlockArray<T> out = fine;
    for (std::size_t b = 0; b < out.blockCount(); ++b) {
        T *to = out.edit(b);
        for (std::size_t i = 0; i < out.countIn(b); ++i)
            if (const T value = after[b * kBlockSize + i]; value != before[b * kBlockSize + i])
                to[i] = value;
    }
    return out;
}

/// The other way: what changed on fine vertices that the coarse level has too.
template <typename T>
BlockArray<T> broughtDown(const Subdivision &rule, const BlockArray<T> &was, const BlockArray<T> &now,
                          const BlockArray<T> &coarse)
{
    if (isShared(was, now))
        return coarse;
    if (now.isBlank())
        return BlockArray<T>(coarse.size());
    BlockArray<T> out = coarse;
    for (std::size_t v = 0; v < coarse.size(); ++v) {
        const std::size_t i = rule.placeOf(std::uint32_t(v));
        if (now[i] != was[i])
            out.edit(v / kBlockSize)[v % kBlockSize] = now[i];
    }
    return out;
}

/// Kept masks and their values on another level; value(mask, its counterpart there or null).
template <typename Value> std::vector<KeptMask> masksOf(const Skin &now, const Value &value)
{
    std::vector<KeptMask> out;
    for (const KeptMask &m : now.masks)
        out.push_back({m.name, value(m)});
    return out;
}

const Bytes &keptOf(const Skin &skin, const std::string &name, const Bytes &none)
{
    const KeptMask *mask = skin.keptMask(name);
    return mask ? mask->values : none;
}

void remix(Skin &skin, const std::vector<bool> &changed)
{
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < changed.size(); ++b)
        if (changed[b])
            blocks.push_back(b);
    mixBlocks(skin, blocks);
}

void note(std::vector<bool> &changed, const Layer &layer)
{
    for (const std::uint32_t b : blocksWith(layer))
        changed[b] = true;
}

/// Surface and sums of a skin that has everything else.
void assemble(Skin &skin, std::shared_ptr<const mesh::Topology> topology, const Bytes &hidden)
{
    skin.shown = mesh::makeSurface(std::move(topology), skin.body);
    skin.shown.hidden = hidden;
    std::vector<bool> layered(skin.body.blockCount(), false);
    for (const Layer &l : skin.layers)
        note(layered, l);
    remix(skin, layered);
}

Skin steppedUp(const Skin &now)
{
    const Skin &was = *now.links[now.level].coarse, &fine = *now.links[now.level].fine;
    Skin out = fine;
    out.links = now.links;
    out.level = now.level + 1;
    if (isSame(now, was))
        return out;
    const Subdivision rule(now.body.size(), now.shown.topology->faces());
    std::vector<bool> changed(out.body.blockCount(), false);
    Turns turns(out.body.blockCount());
    if (!isShared(now.body, was.body)) {
        const Offsets before(rule.apply(was.body.flatten())), after(rule.apply(now.body.flatten()));
        turns = turnsBetween(*fine.shown.topology, before, after);
        std::vector<bool> all(changed);
        const Offsets moved = ridden(fine.body, &before, &after, turns, all);
        for (std::size_t b = 0; b < changed.size(); ++b)
            if (!turns[b].empty()) {
                out.body.takeFrom(moved, b);
                changed[b] = true;
            }
    }
    for (const Layer &l : fine.layers) {
        const Layer *here = now.layer(l.id);
        if (!here || here->shownStrength() != l.shownStrength())
            note(changed, l);
    }
    out.layers.clear();
    const auto bytesUp = [&](const Bytes &b) { return subdivided(rule, b); };
    const Bytes noneHere(now.body.size()), noneAbove(out.body.size());
    for (const Layer &l : now.layers) {
        const Layer *old = was.layer(l.id), *above = fine.layer(l.id);
        Layer next = l;
        next.offsets = above ? above->offsets : Offsets(out.body.size());
        const bool isChanged = old ? !isShared(l.offsets, old->offsets) : !l.offsets.isBlank();
        const Offsets before = isChanged && old ? subdivided(rule, old->offsets) : Offsets(),
                      after = isChanged ? subdivided(rule, l.offsets) : Offsets();
        next.offsets = ridden(next.offsets, before.size() ? &before : nullptr, after.size() ? &after : nullptr, turns, changed);
        next.mask = broughtUp(old ? old->mask : noneHere, l.mask, above ? above->mask : noneAbove, bytesUp);
        if (!isShared(next.mask, above ? above->mask : noneAbove))
            note(changed, next);
        out.layers.push_back(std::move(next));
    }
    out.mask = broughtUp(was.mask, now.mask, fine.mask, bytesUp);
    out.masks = masksOf(now, [&](const KeptMask &m) {
        return broughtUp(keptOf(was, m.name, noneHere), m.values, keptOf(fine, m.name, noneAbove), bytesUp);
    });
    out.paint = Paint::of(
        [&](std::size_t c) { return broughtUp(was.paint.channels[c], now.paint.channels[c], fine.paint.channels[c], bytesUp); });
    out.groups = now.groups;
    out.groupOf = broughtUp(was.groupOf, now.groupOf, fine.groupOf, [&](const auto &g) { return spread(rule, g); });
    out.shown.hidden =
        broughtUp(was.shown.hidden, now.shown.hidden, fine.shown.hidden, [&](const Bytes &h) { return spread(rule, h); });
    remix(out, changed);
    out.links[now.level] = {alone(now), alone(out)};
    return out;
}

Skin steppedDown(const Skin &now)
{
    const Skin &was = *now.links[now.level - 1].fine, &coarse = *now.links[now.level - 1].coarse;
    Skin out = coarse;
    out.links = now.links;
    out.level = now.level - 1;
    if (isSame(now, was))
        return out;
    const Subdivision rule(coarse.body.size(), coarse.shown.topology->faces());
    std::vector<bool> changed(out.body.blockCount(), false);
    const auto noteDifference = [&](const Offsets &by) {
        for (std::size_t b = 0; b < changed.size(); ++b)
            changed[b] = changed[b] || by.has(b);
    };
    if (!isShared(now.body, was.body)) {
        const Offsets by = fitted(rule, difference(now.body, was.body));
        add(out.body, by);
        noteDifference(by);
    }
    for (const Layer &l : coarse.layers) {
        const Layer *here = now.layer(l.id);
        if (!here || here->shownStrength() != l.shownStrength())
            note(changed, l);
    }
    out.layers.clear();
    const Offsets none(now.body.size());
    const Bytes noneHere(now.body.size()), noneBelow(out.body.size());
    for (const Layer &l : now.layers) {
        const Layer *old = was.layer(l.id), *below = coarse.layer(l.id);
        Layer next = l;
        next.offsets = below ? below->offsets : Offsets(out.body.size());
        const Offsets by = fitted(rule, difference(l.offsets, old ? old->offsets : none));
        add(next.offsets, by);
        noteDifference(by);
        next.mask = broughtDown(rule, old ? old->mask : noneHere, l.mask, below ? below->mask : noneBelow);
        if (!isShared(next.mask, below ? below->mask : noneBelow))
            note(changed, next);
        out.layers.push_back(std::move(next));
    }
    out.mask = broughtDown(rule, was.mask, now.mask, coarse.mask);
    out.masks = masksOf(now, [&](const KeptMask &m) {
        return broughtDown(rule, keptOf(was, m.name, noneHere), m.values, keptOf(coarse, m.name, noneBelow));
    });
    out.paint = Paint::of(
        [&](std::size_t c) { return broughtDown(rule, was.paint.channels[c], now.paint.channels[c], coarse.paint.channels[c]); });
    out.groups = now.groups;
    out.groupOf = broughtDown(rule, was.groupOf, now.groupOf, coarse.groupOf);
    out.shown.hidden = broughtDown(rule, was.shown.hidden, now.shown.hidden, coarse.shown.hidden);
    remix(out, changed);
    out.links[now.level - 1] = {alone(out), alone(now)};
    return out;
}

Status mergeHere(Skin &skin, std::uint32_t id)
{
    const auto it = std::find_if(skin.layers.begin(), skin.layers.end(), [&](const Layer &l) { return l.id == id; });
    if (it == skin.layers.end())
        return Error{ErrorCode::Unknown, "layer", "it is not there any more"};
    const std::vector<std::uint32_t> blocks = blocksWith(*it);
    Layer *below = it == skin.layers.begin() ? nullptr : &*(it - 1);
    if (below && std::abs(below->shownStrength()) < 0.01f)
        return Error{ErrorCode::BadValue, below->name, "the layer below is off or at 0 %; switch it on first"};
    if (below) // what its mask keeps from showing goes, or what comes to it would be kept from showing too
        applyLayerMask(*below);
    for (const std::uint32_t b : blocks)
        addShown(*it, b, below ? 1 / below->shownStrength() : 1,
                 {below ? below->offsets.edit(b) : skin.body.edit(b), skin.body.countIn(b)});
    skin.layers.erase(it);
    mixBlocks(skin, blocks);
    return Done{};
}

/// The layers of a kept level as the level in hand has them: order, names, strengths; those it has not, empty.
void takeHeaders(Skin &kept, const Skin &from)
{
    std::vector<Layer> layers;
    std::vector<bool> changed(kept.body.blockCount(), false);
    for (const Layer &l : kept.layers)
        if (const Layer *here = from.layer(l.id); !here || here->shownStrength() != l.shownStrength())
            note(changed, l);
    for (const Layer &l : from.layers) {
        Layer next = l;
        const Layer *own = kept.layer(l.id);
        next.offsets = own ? own->offsets : Offsets(kept.body.size());
        next.mask = own ? own->mask : Bytes(kept.body.size());
        layers.push_back(std::move(next));
    }
    kept.layers = std::move(layers);
    remix(kept, changed);
}

// Finding lower levels.

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
    out.mask = reordered(skin.mask, from);
    for (const KeptMask &m : skin.masks)
        out.masks.push_back({m.name, reordered(m.values, from)});
    out.groups = skin.groups;
    out.groupOf = reordered(skin.groupOf, from);
    out.paint = Paint::of([&](std::size_t c) { return reordered(skin.paint.channels[c], from); });
    assemble(out, std::move(topology), reordered(skin.shown.hidden, from));
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
    assemble(out, std::move(topology), out.shown.hidden);
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

Result<Skin> refine(const Skin &skin, const Progress &progress)
{
    if (skin.level < skin.links.size())
        return Error{ErrorCode::BadValue, "refine", "there is a finer level already; step up to it, or delete the higher levels"};
    progress.say(0, "new faces");
    if (skin.links.empty() && skin.shown.topology->unusedCount() > 0)
        return refine(finest(skin), progress);
    Subdivision rule(skin.body.size(), skin.shown.topology->faces());
    const Error stopped{ErrorCode::Cancelled, "refine", "stopped on request"};
    if (progress.isCancelled())
        return stopped;
    progress.say(0.4f, "new points");
    Skin out;
    out.body = Offsets(rule.apply(skin.body.flatten()));
    for (const Layer &l : skin.layers) {
        if (progress.isCancelled())
            return stopped;
        out.layers.push_back(l);
        out.layers.back().offsets = subdivided(rule, l.offsets);
        out.layers.back().mask = subdivided(rule, l.mask);
    }
    out.mask = subdivided(rule, skin.mask);
    out.masks = masksOf(skin, [&](const KeptMask &m) { return subdivided(rule, m.values); });
    out.groups = skin.groups;
    out.groupOf = spread(rule, skin.groupOf);
    out.paint = Paint::of([&](std::size_t c) { return subdivided(rule, skin.paint.channels[c]); });
    const Bytes hidden = spread(rule, skin.shown.hidden);
    progress.say(0.6f, "blocks");
    const std::size_t n = rule.vertexCount();
    assemble(out, mesh::Topology::build(n, rule.takeFaces()), hidden);
    out.links = skin.links;
    out.links.push_back({alone(skin), alone(out)});
    out.level = skin.level + 1;
    return out;
}

Result<Skin> atLevel(const Skin &skin, std::size_t level, const Progress &progress)
{
    if (level > skin.links.size())
        return Error{ErrorCode::BadValue, "level", "there are only " + std::to_string(skin.links.size() + 1) + " levels"};
    Skin out = skin;
    while (out.level != level) {
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, "level", "stopped on request"};
        out = out.level < level ? steppedUp(out) : steppedDown(out);
    }
    return out;
}

Skin finest(const Skin &skin, const Progress &progress)
{
    auto top = atLevel(skin, skin.links.size(), progress);
    Skin out = top ? std::move(*top) : skin; // only a stop keeps it from getting there
    out.links.clear();
    out.level = 0;
    compact(out);
    return out;
}

void dropLower(Skin &skin)
{
    skin.links.erase(skin.links.begin(), skin.links.begin() + std::ptrdiff_t(skin.level));
    skin.level = 0;
}

void dropHigher(Skin &skin)
{
    skin.links.resize(skin.level);
}

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

Skin linked(std::vector<Skin> states)
{
    Skin out = states.back();
    out.links.clear();
    std::shared_ptr<const Skin> below;
    for (Skin &state : states) {
        auto here = alone(std::move(state));
        if (below)
            out.links.push_back({below, here});
        below = std::move(here);
    }
    out.level = out.links.size();
    return out;
}

Status mergeDown(Skin &skin, std::uint32_t id)
{
    const Skin before = skin;
    if (const Status merged = mergeHere(skin, id); !merged)
        return merged;
    std::map<const Skin *, std::shared_ptr<const Skin>> done;
    for (LevelLink &link : skin.links)
        for (std::shared_ptr<const Skin> *kept : {&link.coarse, &link.fine}) {
            auto &now = done[kept->get()];
            if (!now) {
                Skin changed = **kept;
                takeHeaders(changed, before);
                if (const Status merged = mergeHere(changed, id); !merged)
                    return merged;
                now = alone(std::move(changed));
            }
            *kept = now;
        }
    return Done{};
}

} // namespace bonemoss::detail
