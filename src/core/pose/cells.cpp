#include "pose/cells.h"

#include "base/parallel.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bonemoss::pose {

namespace {

constexpr float kLeastHeight = 0.04f; ///< of the highest: less is valley
constexpr float kSaddle = 0.75f;      ///< of the lower peak: cells that meet above it are one

/// Heights of a layer, evened out a little so that wrinkles on a scale are no peaks of their own.
std::vector<float> heightsOf(const skin::Skin &skin, const skin::Layer &layer)
{
    std::vector<float> out(skin.body.size(), 0);
    for (std::size_t b = 0; b < layer.offsets.blockCount(); ++b)
        if (const Vec3f *o = layer.offsets.data(b))
            for (std::size_t i = 0; i < layer.offsets.countIn(b); ++i) {
                const float mask = layer.mask.has(b) ? 1 - float(layer.mask.data(b)[i]) / 255 : 1;
                out[b * mesh::kBlockSize + i] = mask * dot(o[i], skin.shown.normals.data(b)[i].unpack());
            }
    constexpr int kPasses = 2;
    for (int pass = 0; pass < kPasses; ++pass) {
        std::vector<float> next = out;
        forEachBlock(skin.body.blockCount(), 1, [&](BlockRange r) {
            const std::size_t b = r.begin;
            if (!layer.offsets.has(b))
                return;
            const mesh::BlockFaces &f = skin.shown.topology->block(b);
            std::vector<float> value(f.own + f.borrowed.size()), sum(value.size(), 0), count(value.size(), 0);
            for (std::size_t i = 0; i < value.size(); ++i)
                value[i] = out[skin.shown.topology->vertexOf(b, std::uint16_t(i))];
            for (const mesh::LocalFace &face : f.faces)
                for (std::size_t c = 0, n = std::size_t(face.size()); c < n; ++c) {
                    const std::uint16_t a = face.v[c], d = face.v[c + 1 < n ? c + 1 : 0];
                    sum[a] += value[d], count[a] += 1, sum[d] += value[a], count[d] += 1;
                }
            for (std::size_t i = 0; i < f.own; ++i)
                if (count[i] > 0)
                    next[b * mesh::kBlockSize + i] = (value[i] + sum[i] / count[i]) / 2;
        });
        out = std::move(next);
    }
    return out;
}

/// Vertices beside each, one after the other; twice where two faces share the edge.
struct Beside {
    std::vector<std::uint32_t> first, of;
    std::span<const std::uint32_t> at(std::uint32_t v) const { return {of.data() + first[v], first[v + 1] - first[v]}; }
};
Beside besideOf(const skin::Skin &skin, const skin::Layer &layer)
{
    Beside out;
    out.first.assign(skin.body.size() + 1, 0);
    const auto each = [&](const auto &use) {
        for (std::size_t b = 0; b < skin.body.blockCount(); ++b) {
            if (!layer.offsets.has(b))
                continue;
            const mesh::BlockFaces &f = skin.shown.topology->block(b);
            for (const mesh::LocalFace &face : f.faces)
                for (std::size_t c = 0, n = std::size_t(face.size()); c < n; ++c) {
                    const std::uint16_t a = face.v[c], d = face.v[c + 1 < n ? c + 1 : 0];
                    const std::uint32_t u = skin.shown.topology->vertexOf(b, a), v = skin.shown.topology->vertexOf(b, d);
                    if (a < f.own)
                        use(u, v);
                    if (d < f.own)
                        use(v, u);
                }
        }
    };
    each([&](std::uint32_t u, std::uint32_t) { ++out.first[u + 1]; });
    std::partial_sum(out.first.begin(), out.first.end(), out.first.begin());
    out.of.resize(out.first.back());
    std::vector<std::uint32_t> at(out.first.begin(), out.first.end() - 1);
    each([&](std::uint32_t u, std::uint32_t v) { out.of[at[u]++] = v; });
    return out;
}

} // namespace

Cells cellsOf(const skin::Skin &skin, const skin::Layer &layer)
{
    const std::vector<float> height = heightsOf(skin, layer);
    const Beside beside = besideOf(skin, layer);
    const float highest = height.empty() ? 0 : *std::max_element(height.begin(), height.end());
    Cells out{mesh::BlockArray<std::uint32_t>(skin.body.size()), mesh::BlockArray<std::uint8_t>(skin.body.size())};
    if (highest <= 0)
        return out;
    std::vector<std::uint32_t> order;
    for (std::uint32_t v = 0; v < height.size(); ++v)
        if (height[v] > kLeastHeight * highest)
            order.push_back(v);
    std::sort(order.begin(), order.end(),
              [&](std::uint32_t a, std::uint32_t b) { return height[a] > height[b] || (height[a] == height[b] && a < b); });
    std::vector<std::uint32_t> cell(height.size(), kNone), joined; // of each vertex; of each cell the one that it is part of
    std::vector<std::uint32_t> peak;
    const auto root = [&](std::uint32_t c) {
        while (joined[c] != c)
            c = joined[c] = joined[joined[c]];
        return c;
    };
    for (const std::uint32_t v : order) {
        std::uint32_t best = kNone;
        for (const std::uint32_t o : beside.at(v))
            if (cell[o] != kNone) {
                const std::uint32_t c = root(cell[o]);
                if (best == kNone || height[peak[c]] > height[peak[best]])
                    best = c;
            }
        if (best == kNone) {
            best = std::uint32_t(peak.size());
            peak.push_back(v), joined.push_back(best);
        }
        for (const std::uint32_t o : beside.at(v)) // cells that meet here
            if (cell[o] != kNone)
                if (const std::uint32_t c = root(cell[o]); c != best && height[v] > kSaddle * height[peak[c]])
                    joined[c] = best;
        cell[v] = best;
    }
    for (const std::uint32_t v : order) {
        const std::uint32_t top = peak[root(cell[v])];
        const float t = std::clamp((height[v] / height[top] - 0.3f) / 0.3f, 0.0f, 1.0f);
        const auto share = std::uint8_t(std::lround(255 * t * t * (3 - 2 * t)));
        if (share == 0)
            continue;
        out.peak.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = top + 1;
        out.share.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = share;
    }
    return out;
}

bool hasStiffLayers(const skin::Skin &skin)
{
    return std::any_of(skin.layers.begin(), skin.layers.end(),
                       [](const skin::Layer &l) { return l.rigid > 0 && l.shownStrength() != 0; });
}

void stiffen(const skin::Skin &skin, Weights &weights, mesh::BlockArray<Vec3f> &body)
{
    const Weights own = weights;
    for (const skin::Layer &layer : skin.layers) {
        if (!(layer.rigid > 0) || layer.shownStrength() == 0)
            continue;
        const Cells cells = cellsOf(skin, layer);
        for (std::size_t b = 0; b < cells.share.blockCount(); ++b) {
            if (!cells.share.has(b))
                continue;
            const std::size_t n = cells.share.countIn(b);
            std::vector<std::vector<std::uint8_t>> rows(weights.size(), std::vector<std::uint8_t>(n));
            std::vector<float> shares(weights.size());
            std::vector<std::uint8_t> bytes(weights.size());
            Vec3f *p = body.edit(b);
            for (std::size_t k = 0; k < weights.size(); ++k)
                if (const std::uint8_t *w = weights[k].values.data(b))
                    std::copy_n(w, n, rows[k].begin());
            for (std::size_t i = 0; i < n; ++i) {
                const float s = float(cells.share.data(b)[i]) / 255 * layer.rigid;
                if (s <= 0)
                    continue;
                const std::uint32_t top = cells.peak.data(b)[i] - 1;
                for (std::size_t k = 0; k < weights.size(); ++k)
                    shares[k] = std::lerp(float(rows[k][i]), float(own[k].values[top]), s);
                roundWeights(shares, bytes);
                for (std::size_t k = 0; k < weights.size(); ++k)
                    rows[k][i] = bytes[k];
                p[i] = lerp(p[i], skin.body[top], s); // the twist of a bone is that of the highest place too
            }
            for (std::size_t k = 0; k < weights.size(); ++k) {
                if (!weights[k].values.has(b)
                    && std::all_of(rows[k].begin(), rows[k].end(), [](std::uint8_t w) { return w == 0; }))
                    continue;
                auto block = std::make_shared<mesh::Block<std::uint8_t>>();
                block->values.assign(rows[k].begin(), rows[k].end());
                weights[k].values.put(b, std::move(block));
            }
        }
    }
}

} // namespace bonemoss::pose
