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

/// Fades out where the skin turns away, so that the far side of an ear or a fin stays as it is.
float facing(Vec3f vertexNormal, Vec3f dabNormal)
{
    const float c = dot(vertexNormal, dabNormal);
    return std::clamp((c + 0.05f) * 4, 0.0f, 1.0f);
}

/// Weight of a vertex under one dab, 0 outside.
inline float weightAt(const Dab &d, Falloff f, Vec3f p, Vec3f n)
{
    const float square = squaredLength(p - d.centre);
    if (square >= d.radius * d.radius)
        return 0;
    return weightOf(f, std::sqrt(square) / d.radius) * facing(n, d.normal);
}

/// Where one dab wants to take a vertex, for a weight of w.
Vec3f offsetOf(Tool tool, const Dab &d, Vec3f p, Vec3f n, float w, const image::HeightPicture *stamp)
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

void applyDab(Surface &surface, const BlockArray<std::uint8_t> &mask, const StrokeSettings &settings, const DabPair &pair,
              const std::vector<std::uint32_t> &blocks, const image::HeightPicture *stamp)
{
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        const std::uint8_t *masked = mask.data(b);
        const mesh::PackedNormal *normals = surface.normals.data(b);
        const Vec3f *before = surface.positions.data(b);
        Vec3f *out = nullptr; // taken only when something moves
        for (std::size_t i = 0; i < surface.positions.countIn(b); ++i) {
            const Vec3f p = out ? out[i] : before[i];
            const bool near0 = squaredLength(p - pair.dabs[0].centre) < pair.dabs[0].radius * pair.dabs[0].radius;
            const bool near1 =
                pair.count == 2 && squaredLength(p - pair.dabs[1].centre) < pair.dabs[1].radius * pair.dabs[1].radius;
            if (!near0 && !near1)
                continue;
            const float open = openness(masked, i);
            if (open == 0)
                continue;
            const Vec3f n = normals[i].unpack();
            const float w0 = near0 ? weightAt(pair.dabs[0], settings.falloff, p, n) : 0;
            const float w1 = near1 ? weightAt(pair.dabs[1], settings.falloff, p, n) : 0;
            if (w0 == 0 && w1 == 0)
                continue;
            Vec3f move = w0 > 0 ? offsetOf(settings.tool, pair.dabs[0], p, n, w0, stamp) : Vec3f{};
            if (w1 > 0) {
                const Vec3f twin = offsetOf(settings.tool, pair.dabs[1], p, n, w1, stamp);
                move = w0 > 0 ? (move + twin) * (std::max(w0, w1) / (w0 + w1)) : twin;
            }
            if (!out)
                out = surface.positions.edit(b);
            out[i] = p + move * open;
        }
    });
    updateBlocks(surface, blocks);
}

void applyMask(const Surface &surface, BlockArray<std::uint8_t> &mask, const StrokeSettings &settings, const DabPair &pair,
               const std::vector<std::uint32_t> &blocks)
{
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        const Vec3f *p = surface.positions.data(b);
        const mesh::PackedNormal *n = surface.normals.data(b);
        std::uint8_t *out = nullptr;
        for (std::size_t i = 0; i < surface.positions.countIn(b); ++i) {
            float w = 0, amount = 0;
            for (int k = 0; k < pair.count; ++k) {
                w = std::max(w, weightAt(pair.dabs[k], settings.falloff, p[i], n[i].unpack()));
                amount = pair.dabs[k].amount;
            }
            if (w == 0)
                continue;
            if (!out)
                out = mask.edit(b);
            const float value = float(out[i]) + 255 * amount * w;
            out[i] = std::uint8_t(std::clamp(std::lround(value), 0l, 255l));
        }
    });
}

namespace {

/// One step p + factor * weight * (mean of neighbours - p) for the own vertices of a block.
void smoothStep(const Surface &s, const BlockArray<std::uint8_t> &mask, Falloff falloff, const DabPair &pair, std::uint32_t b,
                float factor, std::vector<Vec3f> &out)
{
    thread_local std::vector<Vec3f> position, sum; // scratch
    thread_local std::vector<float> count;
    const mesh::BlockFaces &faces = s.topology->block(b);
    gatherPositions(s, b, position);
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
    const std::uint8_t *masked = mask.data(b);
    out.assign(position.begin(), position.begin() + faces.own);
    for (std::size_t i = 0; i < faces.own; ++i) {
        float w = 0;
        for (int k = 0; k < pair.count; ++k) {
            const float square = squaredLength(position[i] - pair.dabs[k].centre);
            if (square < pair.dabs[k].radius * pair.dabs[k].radius)
                w = std::max(w, weightOf(falloff, std::sqrt(square) / pair.dabs[k].radius));
        }
        w *= openness(masked, i);
        if (w > 0 && count[i] > 0)
            out[i] = position[i] + (sum[i] * (1 / count[i]) - position[i]) * (factor * w);
    }
}

} // namespace

void applySmooth(Surface &surface, const BlockArray<std::uint8_t> &mask, const StrokeSettings &settings, const DabPair &pair,
                 const std::vector<std::uint32_t> &blocks, int passes)
{
    // G. Taubin, "A Signal Processing Approach to Fair Surface Design", 1995: a step that shrinks and
    // one that grows, with pass band 1 / lambda + 1 / mu = 0.1.
    constexpr float kLambda = 0.6307f, kMu = -0.6732f;
    std::vector<std::vector<Vec3f>> next(blocks.size());
    const float amount = std::abs(pair.dabs[0].amount);
    for (int pass = 0; pass < passes * 2; ++pass) {
        const float factor = (pass % 2 ? kMu : kLambda) * amount;
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            smoothStep(surface, mask, settings.falloff, pair, blocks[r.begin], factor, next[r.begin]);
        });
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            Vec3f *out = surface.positions.edit(blocks[r.begin]);
            std::copy(next[r.begin].begin(), next[r.begin].end(), out);
        });
    }
    updateBlocks(surface, blocks);
}

std::vector<std::vector<float>> connectedWeights(const Surface &surface, const Dab &dab, const std::vector<std::uint32_t> &blocks,
                                                 Falloff falloff)
{
    // Vertices within the radius, joined over the faces of the blocks; those joined to the seed count.
    std::vector<std::uint32_t> start(blocks.size() + 1, 0), slotOf(surface.positions.blockCount(), kNone);
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        slotOf[blocks[k]] = std::uint32_t(k);
        start[k + 1] = start[k] + std::uint32_t(surface.positions.countIn(blocks[k]));
    }
    std::vector<std::uint32_t> parent(start.back());
    std::vector<float> weight(start.back(), 0);
    std::uint32_t seed = kNone;
    float nearest = std::numeric_limits<float>::max();
    for (std::size_t k = 0; k < blocks.size(); ++k)
        for (std::uint32_t i = 0; i < start[k + 1] - start[k]; ++i) {
            const std::uint32_t id = start[k] + i;
            parent[id] = id;
            const float square = squaredLength(surface.positions.data(blocks[k])[i] - dab.centre);
            weight[id] = weightOf(falloff, std::sqrt(square) / dab.radius);
            if (square < nearest)
                nearest = square, seed = id;
        }
    const auto find = [&](std::uint32_t v) {
        while (parent[v] != v)
            v = parent[v] = parent[parent[v]];
        return v;
    };
    for (std::size_t k = 0; k < blocks.size(); ++k)
        for (std::size_t f = 0; f < surface.topology->block(blocks[k]).faces.size(); ++f) {
            const mesh::Face face = surface.topology->faceOf(blocks[k], f);
            std::uint32_t first = kNone;
            for (const std::uint32_t v : face.v) {
                if (v == kNone || slotOf[v / mesh::kBlockSize] == kNone)
                    continue;
                const std::uint32_t id = start[slotOf[v / mesh::kBlockSize]] + v % std::uint32_t(mesh::kBlockSize);
                if (weight[id] == 0)
                    continue;
                if (first == kNone)
                    first = id;
                else
                    parent[find(id)] = find(first);
            }
        }
    std::vector<std::vector<float>> out(blocks.size());
    const std::uint32_t root = seed == kNone ? kNone : find(seed);
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        out[k].resize(start[k + 1] - start[k]);
        for (std::uint32_t i = 0; i < out[k].size(); ++i)
            out[k][i] = weight[start[k] + i] > 0 && find(start[k] + i) == root ? weight[start[k] + i] : 0;
    }
    return out;
}

} // namespace bonemoss::sculpt
