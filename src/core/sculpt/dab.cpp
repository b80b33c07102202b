#include "sculpt/dab.h"

#include "base/parallel.h"
#include "image/picture.h"

#include <algorithm>

namespace bonemoss::sculpt {

namespace {

using mesh::BlockArray;
using mesh::Surface;

/// Share of an edit that gets through a mask value.
float openness(const std::uint8_t *mask, std::size_t i)
{
    return mask ? 1 - float(mask[i]) * (1 / 255.0f) : 1;
}

/// Where one dab wants to take a vertex, for a weight of w.
inline Vec3f offsetOf(Tool tool, const Dab &d, Vec3f p, Vec3f n, float w, const image::HeightPicture *stamp)
{
    switch (tool) {
    case Tool::Raise: return d.normal * (d.amount * w);
    case Tool::Swell: return n * (d.amount * w);
    case Tool::Crease: {
        const Vec3f r = p - d.centre;
        Vec3f side = r - d.normal * dot(r, d.normal);
        side -= d.along * dot(side, d.along);
        const float tight = w * w; // narrower than the pull to the line: a valley with a soft shoulder
        return d.normal * (-d.amount * tight) - side * (0.18f * w * std::min(1.0f, std::abs(d.amount) * 12 / d.radius));
    }
    case Tool::Stamp: {
        const Vec3f r = p - d.centre;
        const float x = dot(r, d.u) / d.radius, y = dot(r, d.v) / d.radius;
        const float height = stamp->at(0.5f + 0.5f * x, 0.5f - 0.5f * y) - stamp->middle;
        return d.normal * (height * 2 * d.amount * w);
    }
    default: return {};
    }
}

} // namespace

DabPair withTwin(const Dab &dab, bool isMirrored)
{
    DabPair pair;
    pair.dabs[0] = dab;
    if (isMirrored) {
        Dab &t = pair.dabs[1] = dab;
        for (Vec3f *v : {&t.centre, &t.normal, &t.along, &t.drag, &t.u, &t.v})
            *v = mirrored(*v);
        pair.count = 2;
    }
    return pair;
}

std::vector<std::uint32_t> blocksOf(const Surface &surface, const DabPair &pair)
{
    std::vector<std::uint32_t> blocks = blocksNear(surface, pair.dabs[0].centre, pair.dabs[0].radius);
    if (pair.count == 2) {
        const auto twin = blocksNear(surface, pair.dabs[1].centre, pair.dabs[1].radius);
        std::vector<std::uint32_t> both;
        std::set_union(blocks.begin(), blocks.end(), twin.begin(), twin.end(), std::back_inserter(both));
        blocks = std::move(both);
    }
    return blocks;
}

Vec3f areaNormal(const Surface &surface, const std::vector<std::uint32_t> &blocks, const Dab &dab)
{
    const float radius = dab.radius * 0.5f;
    const Vec3f sum = sumBlocks<Vec3f>(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        Vec3f s;
        if (squaredDistance(surface.bounds[b]->box, dab.centre) > radius * radius)
            return s;
        const Vec3f *p = surface.positions.data(b);
        const mesh::PackedNormal *n = surface.normals.data(b);
        for (std::size_t i = 0; i < surface.positions.countIn(b); ++i) {
            if (squaredLength(p[i] - dab.centre) >= radius * radius)
                continue;
            const Vec3f v = n[i].unpack();
            if (dot(v, dab.normal) > 0)
                s += v;
        }
        return s;
    });
    return squaredLength(sum) > 0 ? normalized(sum) : dab.normal;
}

void DabWork::weigh(const DabPair &pair, const std::vector<std::uint32_t> &blocks, bool facesTheBrush)
{
    for (int k = 0; k < pair.count; ++k)
        weights[k].compute(surface, pair.dabs[k], blocks, {settings.falloff, settings.isConnected, facesTheBrush});
}

namespace {

/// Moves the own vertices of a block; compiled once for each tool, so that its loop holds no choice.
template <Tool T>
void moveBlock(DabWork &work, const DabPair &pair, std::uint32_t b, const float *first, const float *second,
               const image::HeightPicture *stamp)
{
    const std::uint8_t *masked = work.mask.data(b);
    const mesh::PackedNormal *normals = work.surface.normals.data(b);
    Vec3f *p = work.surface.positions.edit(b);
    for (std::size_t i = 0; i < work.surface.positions.countIn(b); ++i) {
        const float w0 = first ? first[i] : 0, w1 = second ? second[i] : 0;
        if (w0 + w1 == 0)
            continue;
        const Vec3f n = T == Tool::Swell ? normals[i].unpack() : Vec3f{};
        Vec3f move = w0 > 0 ? offsetOf(T, pair.dabs[0], p[i], n, w0, stamp) : Vec3f{};
        if (w1 > 0) {
            const Vec3f twin = offsetOf(T, pair.dabs[1], p[i], n, w1, stamp);
            move = w0 > 0 ? (move + twin) * (std::max(w0, w1) / (w0 + w1)) : twin;
        }
        p[i] += move * openness(masked, i);
    }
}

/// Blocks of the list that a pair moves, and those that borrow a moved vertex from one of them.
std::vector<std::uint32_t> blocksToRefresh(const DabWork &work, const DabPair &pair, const std::vector<std::uint32_t> &blocks)
{
    std::vector<std::uint32_t> placeOf(work.surface.positions.blockCount(), kNone);
    for (std::size_t k = 0; k < blocks.size(); ++k)
        placeOf[blocks[k]] = std::uint32_t(k);
    const auto moves = [&](std::uint32_t v) {
        const std::uint32_t k = placeOf[v / mesh::kBlockSize];
        if (k == kNone)
            return false;
        const float *first = work.weights[0].of(k), *second = pair.count == 2 ? work.weights[1].of(k) : nullptr;
        return (first && first[v % mesh::kBlockSize] > 0) || (second && second[v % mesh::kBlockSize] > 0);
    };
    std::vector<std::uint32_t> out;
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        const auto &borrowed = work.surface.topology->block(blocks[k]).borrowed;
        if (work.weights[0].of(k) || (pair.count == 2 && work.weights[1].of(k))
            || std::any_of(borrowed.begin(), borrowed.end(), moves))
            out.push_back(blocks[k]);
    }
    return out;
}

} // namespace

void applyDab(DabWork &work, const DabPair &pair, const std::vector<std::uint32_t> &blocks, const image::HeightPicture *stamp)
{
    work.weigh(pair, blocks, true);
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const float *first = work.weights[0].of(r.begin), *second = pair.count == 2 ? work.weights[1].of(r.begin) : nullptr;
        if (!first && !second)
            return;
        const std::uint32_t b = blocks[r.begin];
        switch (work.settings.tool) {
        case Tool::Raise: return moveBlock<Tool::Raise>(work, pair, b, first, second, stamp);
        case Tool::Swell: return moveBlock<Tool::Swell>(work, pair, b, first, second, stamp);
        case Tool::Crease: return moveBlock<Tool::Crease>(work, pair, b, first, second, stamp);
        case Tool::Stamp: return moveBlock<Tool::Stamp>(work, pair, b, first, second, stamp);
        default: return;
        }
    });
    updateBlocks(work.surface, blocksToRefresh(work, pair, blocks));
}

void applyMask(DabWork &work, const DabPair &pair, const std::vector<std::uint32_t> &blocks)
{
    work.weigh(pair, blocks, true);
    const float amount = 255 * pair.dabs[0].amount;
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const float *first = work.weights[0].of(r.begin), *second = pair.count == 2 ? work.weights[1].of(r.begin) : nullptr;
        if (!first && !second)
            return;
        const std::uint32_t b = blocks[r.begin];
        std::uint8_t *out = work.mask.edit(b);
        for (std::size_t i = 0; i < work.surface.positions.countIn(b); ++i) {
            const float w = std::max(first ? first[i] : 0, second ? second[i] : 0);
            out[i] = std::uint8_t(std::clamp(std::lround(float(out[i]) + amount * w), 0l, 255l));
        }
    });
}

namespace {

/// One step p + factor * weight * (mean of neighbours - p) for the own vertices of a block.
void smoothStep(const DabWork &work, std::uint32_t b, const float *first, const float *second, float factor,
                std::vector<Vec3f> &out)
{
    thread_local std::vector<Vec3f> position, sum; // scratch
    thread_local std::vector<float> count;
    const mesh::BlockFaces &faces = work.surface.topology->block(b);
    gatherPositions(work.surface, b, position);
    sum.assign(position.size(), Vec3f{});
    count.assign(position.size(), 0);
    for (const mesh::LocalFace &f : faces.faces) {
        const std::size_t n = std::size_t(f.size());
        for (std::size_t c = 0; c < n; ++c) { // an inner edge is met from both sides: same weight for all
            const std::uint16_t a = f.v[c], d = f.v[c + 1 < n ? c + 1 : 0];
            sum[a] += position[d], count[a] += 1;
            sum[d] += position[a], count[d] += 1;
        }
    }
    const std::uint8_t *masked = work.mask.data(b);
    out.assign(position.begin(), position.begin() + faces.own);
    for (std::size_t i = 0; i < faces.own; ++i) {
        const float w = std::max(first ? first[i] : 0, second ? second[i] : 0) * openness(masked, i);
        if (w > 0 && count[i] > 0)
            out[i] = position[i] + (sum[i] * (1 / count[i]) - position[i]) * (factor * w);
    }
}

} // namespace

void applySmooth(DabWork &work, const DabPair &pair, const std::vector<std::uint32_t> &blocks, int passes)
{
    // G. Taubin, "A Signal Processing Approach to Fair Surface Design", 1995: a step that shrinks and
    // one that grows, with pass band 1 / lambda + 1 / mu = 0.1.
    constexpr float kLambda = 0.6307f, kMu = -0.6732f;
    work.weigh(pair, blocks, false);
    std::vector<std::vector<Vec3f>> next(blocks.size());
    const float amount = std::abs(pair.dabs[0].amount);
    for (int pass = 0; pass < passes * 2; ++pass) {
        const float factor = (pass % 2 ? kMu : kLambda) * amount;
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            const float *first = work.weights[0].of(r.begin), *second = pair.count == 2 ? work.weights[1].of(r.begin) : nullptr;
            next[r.begin].clear();
            if (first || second)
                smoothStep(work, blocks[r.begin], first, second, factor, next[r.begin]);
        });
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            if (!next[r.begin].empty())
                std::copy(next[r.begin].begin(), next[r.begin].end(), work.surface.positions.edit(blocks[r.begin]));
        });
    }
    updateBlocks(work.surface, blocksToRefresh(work, pair, blocks));
}

} // namespace bonemoss::sculpt
