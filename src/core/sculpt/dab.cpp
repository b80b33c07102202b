#include "sculpt/dab.h"

#include "base/parallel.h"
#include "image/picture.h"
#include "sculpt/kelvinlet.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace bonemoss::sculpt {

namespace {

using mesh::BlockArray;
using mesh::Surface;

/// Where one dab wants to take a vertex, for a weight of w.
template <Tool T> Vec3f offsetOf(const DabWork &work, const Dab &d, Vec3f p, Vec3f n, float w, const image::HeightPicture *stamp)
{
    const Vec3f r = p - d.centre;
    if constexpr (T == Tool::Raise)
        return d.normal * (d.amount * w);
    if constexpr (T == Tool::Swell)
        return n * (d.amount * w);
    if constexpr (T == Tool::Gouge)
        return d.drag * (d.amount * w);
    if constexpr (T == Tool::Daub) { // what lies below a plane a little over the area comes up to it
        const float height = dot(p - d.base, d.normal), lack = d.amount - height;
        return lack * d.amount > 0 ? d.normal * (std::clamp(lack, -std::abs(d.amount) * 2, std::abs(d.amount) * 2) * w) : Vec3f{};
    }
    if constexpr (T == Tool::Plane) {
        const float height = dot(p - d.base, d.normal);
        const PlaneSide side = work.settings.planeSide;
        if ((side == PlaneSide::Tops && height < 0) || (side == PlaneSide::Hollows && height > 0))
            return {};
        const float way = d.amount > 0 ? -height * d.amount : std::clamp(height, -d.radius, d.radius) * -0.1f * d.amount;
        return d.normal * (way * w);
    }
    if constexpr (T == Tool::Crease || T == Tool::Pinch) {
        Vec3f side = r - d.normal * dot(r, d.normal);
        side -= d.along * dot(side, d.along);
        if (T == Tool::Pinch)
            return side * (-d.amount * w);
        const float tight = w * w; // narrower than the pull to the line: a valley with a soft shoulder
        return d.normal * (-d.amount * tight) - side * (0.18f * w * std::min(1.0f, std::abs(d.amount) * 12 / d.radius));
    }
    if constexpr (T == Tool::Stamp) {
        // The longer side spans the ring; beside a narrow picture there is nothing.
        const float wide = float(stamp->width), tall = float(stamp->height), longest = std::max(wide, tall);
        const float x = dot(r, d.u) / d.radius * (longest / wide), y = dot(r, d.v) / d.radius * (longest / tall);
        // The falloff ends at the ring: what lies within it fades to its border by itself.
        const float inside = wide == tall ? 1 : std::min(1.0f, 10 * (1 - std::max(std::abs(x), std::abs(y))));
        if (inside <= 0)
            return {};
        const float height = stamp->at(0.5f + 0.5f * x, 0.5f - 0.5f * y) - stamp->middle;
        return d.normal * (height * 2 * d.amount * w * inside);
    }
    return {};
}

/// What several dabs do together: the sum, held to what the strongest would do alone.
template <typename Offset> Vec3f together(const Shares &s, std::size_t i, const Offset &offset)
{
    Vec3f move;
    float sum = 0, most = 0;
    for (int k = 0; k < s.count; ++k) {
        const float w = s.weights[std::size_t(k)][i];
        if (w > 0) {
            move += offset(*s.dabs[std::size_t(k)], w);
            sum += w;
            most = std::max(most, w);
        }
    }
    return sum > most ? move * (most / sum) : move;
}

/// Moves vertices one way, each as far as its weight says, four at a time: what offsetOf says of Raise and Gouge, to the bit.
void push(Vec3f *p, const float *weights, std::size_t n, Vec3f way, float amount)
{
    using mesh::Lanes;
    const Lanes ways[3] = {{way.x, way.y, way.z, way.x}, {way.y, way.z, way.x, way.y}, {way.z, way.x, way.y, way.z}};
    std::size_t i = 0;
    for (; i + 4 <= n; i += 4) {
        Lanes w, at[3];
        std::memcpy(&w, weights + i, sizeof w);
        std::memcpy(at, p + i, sizeof at);
        const Lanes far = amount * w,
                    by[3] = {__builtin_shufflevector(far, far, 0, 0, 0, 1), __builtin_shufflevector(far, far, 1, 1, 2, 2),
                             __builtin_shufflevector(far, far, 2, 3, 3, 3)};
        const Lanes has[3] = {__builtin_shufflevector(w, w, 0, 0, 0, 1), __builtin_shufflevector(w, w, 1, 1, 2, 2),
                              __builtin_shufflevector(w, w, 2, 3, 3, 3)};
        for (std::size_t k = 0; k < 3; ++k)
            at[k] = has[k] > 0 ? at[k] + ways[k] * by[k] : at[k];
        std::memcpy(p + i, at, sizeof at);
    }
    for (; i < n; ++i)
        if (weights[i] > 0)
            p[i] += way * (amount * weights[i]);
}

/// Moves the own vertices of a block; compiled once for each tool, so that its loop holds no choice.
template <Tool T> void moveBlock(DabWork &work, const Shares &shares, std::uint32_t b, const image::HeightPicture *stamp)
{
    const std::uint8_t *masked = work.mask.data(b);
    const mesh::PackedNormal *normals = work.surface.normals.data(b);
    const Vec3f *start = work.start.positions.data(b);
    const float limit = work.settings.limit;
    Vec3f *p = work.surface.positions.edit(b);
    const Dab only = *shares.dabs[0]; // of its own, so that the loop need not look whether p reaches into it
    const float *weights = shares.weights[0];
    const auto move = [&](std::size_t i, const auto &moveOf) {
        const Vec3f n = T == Tool::Swell ? normals[i].unpack() : Vec3f{};
        p[i] += moveOf([&](const Dab &d, float w) { return offsetOf<T>(work, d, p[i], n, w, stamp); }) * openness(masked, i);
    };
    mesh::eachRun(shares.spots, work.surface.positions.countIn(b), [&](std::size_t begin, std::size_t end) {
        constexpr bool isOneWay = T == Tool::Raise || T == Tool::Gouge;
        const bool isPushed = isOneWay && shares.count == 1 && !masked;
        if (isPushed)
            push(p + begin, weights + begin, end - begin, T == Tool::Gouge ? only.drag : only.normal, only.amount);
        for (std::size_t i = begin; !isPushed && shares.count == 1 && i < end; ++i)
            if (weights[i] > 0)
                move(i, [&](const auto &offset) { return offset(only, weights[i]); });
        for (std::size_t i = begin; shares.count > 1 && i < end; ++i)
            if (shares.most(i) > 0)
                move(i, [&](const auto &offset) { return together(shares, i, offset); });
        for (std::size_t i = begin; limit > 0 && i < end; ++i)
            if (shares.most(i) > 0)
                p[i] = held(p[i], start[i], limit);
    });
}

/// Up to a height over the skin as it was, never past it.
void slabBlock(DabWork &work, const Shares &shares, std::uint32_t b)
{
    const std::uint8_t *masked = work.mask.data(b);
    const mesh::PackedNormal *normals = work.start.normals.data(b);
    const Vec3f *start = work.start.positions.data(b);
    Vec3f *p = work.surface.positions.edit(b);
    const float height = shares.dabs[0]->amount;
    for (std::size_t i = 0; i < work.surface.positions.countIn(b); ++i) {
        const float w = shares.most(i) * openness(masked, i);
        if (w == 0)
            continue;
        const Vec3f n = normals[i].unpack();
        const float lack = height * w - dot(p[i] - start[i], n);
        if (lack * height > 0)
            p[i] += n * lack;
        if (work.settings.limit > 0)
            p[i] = held(p[i], start[i], work.settings.limit);
    }
}

/// Towards where the vertices would be without the layer.
void restoreBlock(DabWork &work, const Shares &shares, std::uint32_t b)
{
    const Vec3f *layer = b < work.needs.layer.blockCount() ? work.needs.layer.data(b) : nullptr;
    const std::uint8_t *masked = work.mask.data(b);
    const Vec3f *start = work.start.positions.data(b);
    Vec3f *p = work.surface.positions.edit(b);
    for (std::size_t i = 0; i < work.surface.positions.countIn(b); ++i) {
        const float w = shares.most(i) * shares.dabs[0]->amount * openness(masked, i);
        if (w == 0)
            continue;
        const Vec3f target = start[i] - (layer ? layer[i] * work.needs.layerStrength : Vec3f{});
        p[i] += (target - p[i]) * std::min(w, 1.0f);
        if (work.settings.limit > 0)
            p[i] = held(p[i], start[i], work.settings.limit);
    }
}

} // namespace

DabSet everywhere(const Dab &dab, const std::vector<Isometry> &places)
{
    DabSet set(places.size(), dab);
    for (std::size_t k = 1; k < places.size(); ++k) {
        const Isometry &to = places[k];
        Dab &d = set[k];
        for (Vec3f *p : {&d.centre, &d.base})
            *p = to.apply(*p);
        for (Vec3f *v : {&d.normal, &d.along, &d.drag, &d.u, &d.v, &d.lean})
            *v = to.turn(*v);
        d.spin *= to.handed;
    }
    return set;
}

std::vector<std::uint32_t> blocksOf(const Surface &surface, const DabSet &dabs, float reach)
{
    std::vector<std::uint32_t> blocks;
    for (const Dab &d : dabs) {
        const auto near = blocksNear(surface, d.centre, d.radius * reach);
        if (blocks.empty()) {
            blocks = near;
            continue;
        }
        std::vector<std::uint32_t> both;
        std::set_union(blocks.begin(), blocks.end(), near.begin(), near.end(), std::back_inserter(both));
        blocks = std::move(both);
    }
    return blocks;
}

Area areaUnder(const Surface &surface, const std::vector<std::uint32_t> &blocks, const Dab &dab, const DabWeights *weights)
{
    struct Sum {
        Vec3f points, normals;
        float count = 0;
        Sum operator+(const Sum &o) const { return {points + o.points, normals + o.normals, count + o.count}; }
    };
    const float radius = dab.radius * 0.5f;
    const Sum sum = sumBlocks<Sum>(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        Sum s;
        if (squaredDistance(surface.bounds[b]->box, dab.centre) > radius * radius)
            return s;
        const Vec3f *p = surface.positions.data(b);
        const mesh::PackedNormal *n = surface.normals.data(b);
        const float *w = weights ? weights->of(r.begin) : nullptr;
        if (weights && !w)
            return s;
        for (std::size_t i = 0; i < surface.positions.countIn(b); ++i) {
            if (squaredLength(p[i] - dab.centre) >= radius * radius || (w && w[i] == 0))
                continue;
            const Vec3f v = n[i].unpack();
            if (dot(v, dab.normal) > 0)
                s = s + Sum{p[i] - dab.centre, v, 1};
        }
        return s;
    });
    if (sum.count == 0 || squaredLength(sum.normals) == 0)
        return {dab.centre, dab.normal};
    return {dab.centre + sum.points * (1 / sum.count), normalized(sum.normals)};
}

void DabWork::weigh(const DabSet &dabs, const std::vector<std::uint32_t> &blocks, bool facesTheBrush, float reach)
{
    weights.resize(std::max(weights.size(), dabs.size()));
    for (std::size_t k = 0; k < dabs.size(); ++k)
        weights[k].compute(surface, dabs[k], blocks, spreadOf(k, facesTheBrush, reach));
}

Spread DabWork::spreadOf(std::size_t k, bool facesTheBrush, float reach) const
{
    return {settings.falloff,
            settings.drawn,
            settings.isConnected,
            facesTheBrush || settings.isFrontOnly,
            reach,
            island.blocks.empty() ? nullptr : &island,
            settings.stencil.get(),
            places[k].inverse()};
}

void DabWork::weighGuarded(const DabSet &dabs, const std::vector<std::uint32_t> &blocks)
{
    weights.resize(std::max(weights.size(), dabs.size()));
    for (std::size_t k = 0; k < dabs.size(); ++k) {
        const Dab &d = dabs[k];
        const float little = 0.02f * d.radius; // clear of the faces about the middle
        const auto far = settings.guardsThin && settles(settings.tool)
                             ? castRay(surface, {d.centre - d.normal * little, -d.normal})
                             : std::nullopt;
        const bool isThin = far && far->distance < d.radius && dot(far->normal, d.normal) < 0;
        weights[k].compute(surface, d, blocks, spreadOf(k, isThin, 1));
    }
}

Shares DabWork::sharesOf(const DabSet &dabs, std::size_t k) const
{
    Shares s;
    for (std::size_t d = 0; d < dabs.size(); ++d)
        if (const float *w = weights[d].of(k)) {
            s.weights[std::size_t(s.count)] = w;
            s.dabs[std::size_t(s.count++)] = &dabs[d];
            s.spots |= weights[d].spotsOf(k);
        }
    return s;
}

void refresh(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks)
{
    std::vector<std::uint64_t> movedIn(work.surface.positions.blockCount(), 0);
    for (std::size_t k = 0; k < blocks.size(); ++k)
        for (std::size_t d = 0; d < dabs.size(); ++d)
            movedIn[blocks[k]] |= work.weights[d].spotsOf(k);
    std::vector<std::uint32_t> stale;
    std::vector<mesh::Spots> moved;
    for (const std::uint32_t b : blocks) {
        mesh::Spots spots{movedIn[b]};
        const auto &borrowed = work.surface.topology->block(b).borrowed;
        for (std::size_t i = 0; ~spots.own != 0 && i < borrowed.size(); ++i)
            if (movedIn[borrowed[i] / mesh::kBlockSize] & mesh::Spots::ofOwn(borrowed[i] % mesh::kBlockSize))
                spots.borrowed |= mesh::Spots::ofBorrowed(i);
        if (spots.own || spots.borrowed)
            stale.push_back(b), moved.push_back(spots);
    }
    updateBlocks(work.surface, stale, moved);
}

void applyDab(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, const image::HeightPicture *stamp)
{
    work.settings.tool == Tool::Restore ? work.weighGuarded(dabs, blocks) : work.weigh(dabs, blocks, true);
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const Shares shares = work.sharesOf(dabs, r.begin);
        if (shares.count == 0)
            return;
        const std::uint32_t b = blocks[r.begin];
        switch (work.settings.tool) {
        case Tool::Raise: return moveBlock<Tool::Raise>(work, shares, b, stamp);
        case Tool::Daub: return moveBlock<Tool::Daub>(work, shares, b, stamp);
        case Tool::Swell: return moveBlock<Tool::Swell>(work, shares, b, stamp);
        case Tool::Crease: return moveBlock<Tool::Crease>(work, shares, b, stamp);
        case Tool::Pinch: return moveBlock<Tool::Pinch>(work, shares, b, stamp);
        case Tool::Plane: return moveBlock<Tool::Plane>(work, shares, b, stamp);
        case Tool::Gouge: return moveBlock<Tool::Gouge>(work, shares, b, stamp);
        case Tool::Stamp: return moveBlock<Tool::Stamp>(work, shares, b, stamp);
        case Tool::Slab: return slabBlock(work, shares, b);
        case Tool::Restore: return restoreBlock(work, shares, b);
        default: return;
        }
    });
    refresh(work, dabs, blocks);
}

void applyMask(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks)
{
    work.weigh(dabs, blocks, true);
    const float amount = 255 * dabs[0].amount;
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const Shares shares = work.sharesOf(dabs, r.begin);
        if (shares.count == 0)
            return;
        const std::uint32_t b = blocks[r.begin];
        std::uint8_t *out = work.mask.edit(b);
        for (std::size_t i = 0; i < work.surface.positions.countIn(b); ++i)
            out[i] = std::uint8_t(std::clamp(std::lround(float(out[i]) + amount * shares.most(i)), 0l, 255l));
    });
}

std::vector<std::vector<float>> sharesUnder(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks)
{
    work.weigh(dabs, blocks, true);
    std::vector<std::vector<float>> out(blocks.size());
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const Shares shares = work.sharesOf(dabs, r.begin);
        if (shares.count == 0)
            return;
        out[r.begin].resize(work.surface.positions.countIn(blocks[r.begin]));
        for (std::size_t i = 0; i < out[r.begin].size(); ++i)
            out[r.begin][i] = dabs[0].amount * shares.most(i);
    });
    return out;
}

Touch touchOf(const mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask, const StrokeSettings &settings,
              const mesh::Hit &hit, float pressure)
{
    mesh::Surface same = surface; // shares its blocks; nothing is changed
    mesh::BlockArray<std::uint8_t> masked = mask;
    const std::vector<Isometry> places = settings.isMirrored ? settings.symmetry.places() : std::vector<Isometry>(1);
    const StrokeNeeds none;
    DabWork work{same, masked, settings, surface, none, places};
    Dab dab;
    dab.centre = dab.base = hit.point, dab.normal = hit.normal;
    dab.radius = radiusOf(settings, pressure);
    const float reach = settings.tool == Tool::Knead ? Kelvinlet::kReach : 1;
    const DabSet dabs = everywhere(dab, places);
    Touch touch{blocksOf(surface, dabs, reach), {}};
    if (settings.isIslandOnly && !settings.isConnected)
        work.island = islandUnder(surface, dabs, hit);
    if (settles(settings.tool))
        work.weighGuarded(dabs, touch.blocks);
    else
        work.weigh(dabs, touch.blocks, !takesHold(settings.tool), reach);
    touch.shares.resize(touch.blocks.size());
    forEachBlock(touch.blocks.size(), 1, [&](BlockRange r) {
        const Shares shares = work.sharesOf(dabs, r.begin);
        const std::uint32_t b = touch.blocks[r.begin];
        const std::uint8_t *m = marks(settings.tool) && !paints(settings.tool) ? nullptr : mask.data(b);
        if (shares.count == 0)
            return;
        std::vector<float> &out = touch.shares[r.begin];
        out.resize(surface.positions.countIn(b));
        for (std::size_t i = 0; i < out.size(); ++i)
            out[i] = shares.most(i) * openness(m, i);
    });
    return touch;
}

mesh::Island islandUnder(const mesh::Surface &surface, const DabSet &dabs, const mesh::Hit &hit)
{
    const auto cornerOf = [&](const mesh::Hit &h) { return surface.topology->faceOf(h.block, h.face).v[0]; };
    std::vector<std::uint32_t> seeds{cornerOf(hit)};
    for (std::size_t k = 1; k < dabs.size(); ++k)
        if (const auto twin = nearestPoint(surface, dabs[k].centre))
            seeds.push_back(cornerOf(*twin));
    return mesh::islandsAt(*surface.topology, seeds);
}

float radiusOf(const StrokeSettings &s, float given)
{
    const float pressure = std::clamp(given, 0.0f, 1.0f);
    return s.size * (s.pressureToSize ? 0.25f + 0.75f * curved(pressure, s.sizeCurve) : 1.0f);
}

float curved(float pressure, float power)
{
    return power == 1 ? pressure : std::pow(pressure, power);
}

namespace {

/// Where one dab takes a vertex that it holds.
Vec3f heldOffset(const StrokeSettings &s, const Kelvinlet &solid, const Dab &d, Vec3f p, float w)
{
    const Vec3f r = p - d.centre;
    if (s.tool == Tool::Twist)
        return rotate(rotationAbout(d.normal, d.spin * w), r) - r;
    if (s.tool != Tool::Knead)
        return d.drag * w;
    switch (s.knead) {
    case KneadKind::Drag: return solid.dragged(r, d.drag) * w;
    case KneadKind::Turn: return solid.turned(r, d.normal * d.spin) * w;
    case KneadKind::Swell: return solid.swollen(r, d.amount) * w;
    case KneadKind::Squeeze: {
        const float share = length(d.drag);
        return share > 0 ? solid.squeezed(r, d.drag * (1 / share), d.amount * share) * w : Vec3f{};
    }
    }
    return {};
}

} // namespace

void applyHold(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, const Surface &from)
{
    const Kelvinlet solid(dabs[0].radius);
    const bool isElastic = work.settings.tool == Tool::Knead;
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const Shares shares = work.sharesOf(dabs, r.begin);
        if (shares.count == 0)
            return;
        const std::uint32_t b = blocks[r.begin];
        const std::uint8_t *masked = work.mask.data(b);
        Vec3f *out = work.surface.positions.edit(b);
        const Vec3f *was = &from == &work.surface ? out : from.positions.data(b);
        const float limit = changesFaces(work.settings.tool) ? 0 : work.settings.limit; // new faces have no start
        const Vec3f *start = limit > 0 ? work.start.positions.data(b) : nullptr;
        for (std::size_t i = 0; i < from.positions.countIn(b); ++i) {
            if (shares.most(i) == 0)
                continue;
            Vec3f move;
            if (isElastic) { // fields reach far, so the strongest is told by what it does, not by its weight
                float sum = 0, most = 0;
                for (int k = 0; k < shares.count; ++k) {
                    const auto at = std::size_t(k);
                    const Vec3f one = heldOffset(work.settings, solid, *shares.dabs[at], was[i], shares.weights[at][i]);
                    const float size = length(one);
                    move += one, sum += size, most = std::max(most, size);
                }
                if (sum > most)
                    move *= most / sum;
            } else {
                move = together(shares, i, [&](const Dab &d, float w) { return heldOffset(work.settings, solid, d, was[i], w); });
            }
            out[i] = was[i] + move * openness(masked, i);
            if (limit > 0)
                out[i] = held(out[i], start[i], limit);
        }
    });
    if (isElastic)
        refresh(work, dabs, blocks);
    else
        updateBlocks(work.surface, blocks);
}

} // namespace bonemoss::sculpt
