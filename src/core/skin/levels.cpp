#include "skin/levels.h"

#include "base/parallel.h"
#include "skin/attributes.h"
#include "skin/level_values.h"
#include "skin/local_density.h"
#include "skin/riding.h"

#include <algorithm>
#include <map>
#include <numeric>
#include <set>

namespace bonemoss::skin {

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
    bool isAlike = a.masks.size() == b.masks.size();
    eachAttribute(a, [&]<typename T>(const AttributeKind &kind, const std::string &name, const BlockArray<T> &values) {
        const BlockArray<T> *others = isAlike ? valuesOf(b, kind, name, T{}) : nullptr;
        isAlike = others && isShared(values, *others);
    });
    return isAlike && isShared(a.body, b.body)
           && equal(a.layers, b.layers,
                    [](const Layer &x, const Layer &y) {
                        return x.isShownAs(y) && isShared(x.offsets, y.offsets) && isShared(x.mask, y.mask);
                    })
           && equal(a.groups, b.groups, [](const Group &x, const Group &y) { return x.number == y.number && x.name == y.name; });
}

/// A level as links keep it to be taken in hand again.
std::shared_ptr<const Skin> alone(Skin skin)
{
    skin.links.clear();
    skin.level = 0;
    return std::make_shared<const Skin>(std::move(skin));
}

/// The level in hand as links keep it: only to tell later what was changed, so without a surface but its faces.
std::shared_ptr<const Skin> asItWas(Skin skin)
{
    mesh::Surface faces;
    faces.topology = std::move(skin.shown.topology);
    faces.hidden = std::move(skin.shown.hidden);
    skin.shown = std::move(faces);
    return alone(std::move(skin));
}

/// Whether a layer is another than it was when the levels agreed.
bool isChanged(const Layer &now, const Layer *was)
{
    return was ? !isShared(now.offsets, was->offsets) || (was->growth && was->growth != now.growth) : !now.offsets.isBlank();
}

/// A growth comes to another level as a whole: it holds nothing but what its rule made, of which no old state is the half.
bool comesWhole(const Layer &now, const Layer *was)
{
    return was && was->growth && isChanged(now, was);
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

/// The values of an attribute a level finer, as its row says.
template <typename T> BlockArray<T> finer(const Subdivision &rule, const AttributeKind &kind, const BlockArray<T> &coarse)
{
    if constexpr (std::is_same_v<T, std::uint8_t>)
        if (kind.blend == Blend::Mix)
            return subdivided(rule, coarse);
    return spread(rule, coarse);
}

Skin steppedUp(const Skin &now)
{
    const Skin &was = *now.links[now.level].coarse, &fine = *now.links[now.level].fine;
    Skin out = fine;
    out.links = now.links;
    out.level = now.level + 1;
    if (isSame(now, was)) {
        out.links[now.level] = {alone(now), asItWas(fine)};
        return out;
    }
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
        if (comesWhole(l, old)) {
            if (above)
                note(changed, *above);
            next.offsets = subdivided(rule, l.offsets);
            note(changed, next);
        } else {
            next.offsets = above ? above->offsets : Offsets(out.body.size());
            const bool isNew = isChanged(l, old);
            const Offsets before = isNew && old ? subdivided(rule, old->offsets) : Offsets(),
                          after = isNew ? subdivided(rule, l.offsets) : Offsets();
            next.offsets =
                ridden(next.offsets, before.size() ? &before : nullptr, after.size() ? &after : nullptr, turns, changed);
        }
        next.mask = broughtUp(old ? old->mask : noneHere, l.mask, above ? above->mask : noneAbove, bytesUp);
        if (!isShared(next.mask, above ? above->mask : noneAbove))
            note(changed, next);
        out.layers.push_back(std::move(next));
    }
    bringAttributes(was, now, fine, out,
                    [&](const AttributeKind &kind, const auto &before, const auto &values, const auto &there) {
                        return broughtUp(before, values, there, [&](const auto &v) { return finer(rule, kind, v); });
                    });
    remix(out, changed);
    out.links[now.level] = {alone(now), asItWas(out)};
    return out;
}

Skin steppedDown(const Skin &now)
{
    const Skin &was = *now.links[now.level - 1].fine, &coarse = *now.links[now.level - 1].coarse;
    Skin out = coarse;
    out.links = now.links;
    out.level = now.level - 1;
    if (isSame(now, was)) {
        out.links[out.level] = {asItWas(coarse), alone(now)};
        return out;
    }
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
        if (comesWhole(l, old)) {
            if (below)
                note(changed, *below);
            next.offsets = fitted(rule, l.offsets);
            note(changed, next);
        } else {
            next.offsets = below ? below->offsets : Offsets(out.body.size());
            const Offsets by = fitted(rule, difference(l.offsets, old ? old->offsets : none));
            add(next.offsets, by);
            noteDifference(by);
        }
        next.mask = broughtDown(rule, old ? old->mask : noneHere, l.mask, below ? below->mask : noneBelow);
        if (!isShared(next.mask, below ? below->mask : noneBelow))
            note(changed, next);
        out.layers.push_back(std::move(next));
    }
    bringAttributes(was, now, coarse, out, [&](const AttributeKind &, const auto &before, const auto &values, const auto &there) {
        return broughtDown(rule, before, values, there);
    });
    remix(out, changed);
    out.links[out.level] = {asItWas(out), alone(now)};
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
    if (hasSurface(skin))
        mixBlocks(skin, blocks);
    return Done{};
}

/// Takes what a layer of a kept level holds.
void empty(Skin &kept, std::uint32_t id)
{
    Layer &layer = *kept.layer(id);
    std::vector<bool> changed(kept.body.blockCount(), false);
    note(changed, layer);
    layer.offsets = Offsets(kept.body.size());
    remix(kept, changed);
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
        next.growth = own ? own->growth : nullptr; // what its offsets are, not what they are to be
        layers.push_back(std::move(next));
    }
    kept.layers = std::move(layers);
    remix(kept, changed);
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
    makeAttributes(skin, out, [&](const AttributeKind &kind, const auto &values) { return finer(rule, kind, values); });
    progress.say(0.6f, "blocks");
    const std::size_t n = rule.vertexCount();
    assemble(out, mesh::Topology::build(n, rule.takeFaces()));
    out.links = skin.links;
    out.links.push_back({alone(skin), asItWas(out)});
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

Skin linked(std::vector<Skin> states)
{
    Skin out = states.back();
    out.links.clear();
    std::shared_ptr<const Skin> below;
    for (std::size_t k = 0; k < states.size(); ++k) {
        auto here = k + 1 < states.size() ? alone(std::move(states[k])) : asItWas(std::move(states[k]));
        if (below)
            out.links.push_back({below, here});
        below = std::move(here);
    }
    out.level = out.links.size();
    return out;
}

void forgetGrown(Skin &skin, std::uint32_t id)
{
    const auto forget = [&](std::shared_ptr<const Skin> &state) {
        if (const Layer *layer = state->layer(id); !layer || !layer->growth || layer->offsets.isBlank())
            return;
        Skin without = *state;
        without.layer(id)->offsets = Offsets(without.body.size());
        state = asItWas(std::move(without));
    };
    if (skin.level > 0)
        forget(skin.links[skin.level - 1].fine);
    if (skin.level < skin.links.size())
        forget(skin.links[skin.level].coarse);
}

void eachState(Skin &skin, const std::function<void(Skin &)> &edit)
{
    edit(skin);
    std::map<const Skin *, std::shared_ptr<const Skin>> done;
    for (LevelLink &link : skin.links)
        for (std::shared_ptr<const Skin> *kept : {&link.coarse, &link.fine}) {
            auto &now = done[kept->get()];
            if (!now) {
                auto changed = std::make_shared<Skin>(**kept);
                edit(*changed);
                now = std::move(changed);
            }
            *kept = now;
        }
}

Status onAllLevels(Skin &skin, std::uint32_t id, const std::function<Status(Skin &)> &edit)
{
    const Skin before = skin;
    if (const Status done = edit(skin); !done) {
        skin = before;
        return done;
    }
    // Where the state of a level no longer knows how a growth was, all of it will come to the next one: that must not have it too.
    std::set<const Skin *> emptied;
    const auto isForgotten = [&](const Skin *state) {
        const Layer *layer = state->layer(id);
        return emptied.contains(state) || (layer && layer->growth && layer->offsets.isBlank());
    };
    for (std::size_t k = skin.level; k-- > 0 && isForgotten(skin.links[k].fine.get());)
        emptied.insert(skin.links[k].coarse.get());
    for (std::size_t k = skin.level; k < skin.links.size() && isForgotten(skin.links[k].coarse.get()); ++k)
        emptied.insert(skin.links[k].fine.get());
    std::map<const Skin *, std::shared_ptr<const Skin>> done;
    for (LevelLink &link : skin.links)
        for (std::shared_ptr<const Skin> *kept : {&link.coarse, &link.fine}) {
            auto &now = done[kept->get()];
            if (!now && isSame(before, **kept)) { // it is the level in hand, unchanged, and stays so
                now = asItWas(skin);
            } else if (!now) {
                Skin changed = **kept;
                takeHeaders(changed, before);
                if (emptied.contains(kept->get()) && changed.layer(id))
                    empty(changed, id);
                if (const Status edited = edit(changed); !edited) {
                    skin = before;
                    return edited;
                }
                now = hasSurface(**kept) ? alone(std::move(changed)) : asItWas(std::move(changed));
            }
            *kept = now;
        }
    return Done{};
}

Status mergeDown(Skin &skin, std::uint32_t id)
{
    return onAllLevels(skin, id, [id](Skin &state) { return mergeHere(state, id); });
}

mesh::Surface surfaceOf(const Skin &skin)
{
    if (hasSurface(skin))
        return skin.shown;
    Skin whole = skin;
    whole.shown = mesh::makeSurface(skin.shown.topology, skin.body);
    whole.shown.hidden = skin.shown.hidden;
    std::vector<std::uint32_t> all(skin.body.blockCount());
    std::iota(all.begin(), all.end(), 0u);
    mixBlocks(whole, all);
    return whole.shown;
}

} // namespace bonemoss::skin
