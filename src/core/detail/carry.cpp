#include "detail/carry.h"

#include "base/parallel.h"
#include "mesh/nearest_faces.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::detail {

namespace {

using mesh::BlockArray;
using mesh::kBlockSize;
using mesh::NearestFace;

constexpr std::size_t kMeasured = 50000; // vertices at which losses are looked at: at most so many, of few an eighth
constexpr std::size_t kRun = 64;         // of them in a row

template <typename T> auto blended(const BlockArray<T> &from, const NearestFace &at)
{
    auto sum = from[at.corners[0]] * at.weights[0];
    for (std::size_t k = 1; k < 3; ++k)
        sum = sum + from[at.corners[k]] * at.weights[k];
    return sum;
}

/// Offsets on the new vertices; blocks where there is nothing stay missing.
BlockArray<Vec3f> carried(const BlockArray<Vec3f> &old, std::span<const NearestFace> nearest)
{
    BlockArray<Vec3f> out(nearest.size());
    if (old.isBlank())
        return out;
    forEachBlock(out.blockCount(), 1, [&](BlockRange r) {
        const std::size_t first = r.begin * kBlockSize, n = out.countIn(r.begin);
        const bool any = std::any_of(nearest.begin() + std::ptrdiff_t(first), nearest.begin() + std::ptrdiff_t(first + n),
                                     [&](const NearestFace &f) {
                                         return old.has(f.corners[0] / kBlockSize) || old.has(f.corners[1] / kBlockSize)
                                                || old.has(f.corners[2] / kBlockSize);
                                     });
        if (!any)
            return;
        auto block = std::make_shared<mesh::Block<Vec3f>>();
        block->values.resize(n);
        bool isBlank = true;
        for (std::size_t i = 0; i < n; ++i) {
            block->values[i] = blended(old, nearest[first + i]);
            isBlank = isBlank && block->values[i] == Vec3f{};
        }
        if (!isBlank)
            out.put(r.begin, std::move(block));
    });
    return out;
}

BlockArray<std::uint8_t> carried(const BlockArray<std::uint8_t> &old, std::span<const NearestFace> nearest)
{
    BlockArray<std::uint8_t> out(nearest.size());
    if (old.isBlank())
        return out;
    forEachBlock(out.blockCount(), 1, [&](BlockRange r) {
        auto block = std::make_shared<mesh::Block<std::uint8_t>>();
        block->values.resize(out.countIn(r.begin));
        for (std::size_t i = 0; i < block->values.size(); ++i) // a blend of bytes is a byte
            block->values[i] = std::uint8_t(blended(old, nearest[r.begin * kBlockSize + i]) + 0.5f);
        out.put(r.begin, std::move(block));
    });
    return out;
}

/// Runs of old vertices, evenly taken.
std::vector<std::uint32_t> measuredVertices(std::size_t n)
{
    std::vector<std::uint32_t> out;
    const std::size_t runs =
        std::max<std::size_t>(1, std::min(std::max<std::size_t>(n / 8, 4096), std::min(n, kMeasured)) / kRun);
    for (std::size_t k = 0; k < runs; ++k)
        for (std::size_t i = k * n / runs; i < std::min(n, k * n / runs + kRun); ++i)
            if (out.empty() || i > out.back())
                out.push_back(std::uint32_t(i));
    return out;
}

CarryLoss lossOf(std::string what, std::size_t n, const std::function<double(std::size_t)> &off)
{
    CarryLoss loss{std::move(what), 0, 0, false};
    for (std::size_t i = 0; i < n; ++i) {
        const double d = off(i);
        loss.mean += d;
        loss.largest = std::max(loss.largest, d);
    }
    loss.mean /= double(std::max<std::size_t>(1, n));
    return loss;
}

std::vector<CarryLoss> measured(const Skin &old, const Skin &now, float reach, bool isPart)
{
    std::vector<std::uint32_t> at = measuredVertices(old.body.size());
    std::vector<Vec3f> points;
    for (const std::uint32_t v : at)
        points.push_back(old.shown.positions[v]);
    std::vector<NearestFace> nearest =
        isPart ? mesh::nearestFacesWithin(now.shown, points, reach) : nearestFaces(now.shown, points, reach);
    if (isPart) {
        std::size_t stayed = 0;
        for (std::size_t i = 0; i < at.size(); ++i)
            if (nearest[i].distance <= reach / 8)
                at[stayed] = at[i], nearest[stayed++] = nearest[i];
        at.resize(stayed), nearest.resize(stayed);
    }
    std::vector<CarryLoss> out{lossOf("skin", at.size(), [&](std::size_t i) { return double(nearest[i].distance); })};
    for (std::size_t k = 0; k < old.layers.size(); ++k)
        out.push_back(lossOf(old.layers[k].name, at.size(), [&](std::size_t i) {
            return double(length(old.layers[k].offsets[at[i]] - blended(now.layers[k].offsets, nearest[i])));
        }));
    if (old.hasMask()) {
        out.push_back(lossOf("mask", at.size(), [&](std::size_t i) {
            return std::abs(double(old.mask[at[i]]) - double(blended(now.mask, nearest[i]))) / 255;
        }));
        out.back().isShare = true;
    }
    return out;
}

} // namespace

std::string CarryLoss::text() const
{
    return isShare ? fmt::format("{}: {:.2g} % lost on average, {:.2g} % at most", what, mean * 100, largest * 100)
                   : fmt::format("{}: {:.2g} mm off on average, {:.2g} mm at most", what, mean, largest);
}

Carried carryOver(const Skin &old, const mesh::PolyMesh &mesh, float reach, const Progress &progress, bool isPart)
{
    Carried out;
    out.skin = makeSkin(mesh, true);
    Skin &now = out.skin;
    progress.say(0.75f, "looking up what lay there");
    const std::vector<NearestFace> nearest = nearestFaces(old.shown, mesh.positions, reach);
    progress.say(0.85f, "layers and mask");
    for (const Layer &l : old.layers) {
        Layer moved = l;
        moved.offsets = carried(l.offsets, nearest);
        now.layers.push_back(std::move(moved));
    }
    now.mask = carried(old.mask, nearest);
    for (std::size_t b = 0; b < now.body.blockCount(); ++b)
        if (std::any_of(now.layers.begin(), now.layers.end(), [&](const Layer &l) { return l.offsets.has(b); }))
            now.body.edit(b); // so that the loop below only writes
    forEachBlock(now.body.blockCount(), 1, [&](BlockRange r) {
        for (const Layer &l : now.layers)
            if (l.offsets.has(r.begin) && l.shownStrength() != 0) {
                Vec3f *body = now.body.edit(r.begin);
                const Vec3f *offset = l.offsets.data(r.begin);
                for (std::size_t i = 0; i < now.body.countIn(r.begin); ++i)
                    body[i] -= offset[i] * l.shownStrength();
            }
    });
    progress.say(0.95f, "measuring what was lost");
    out.losses = measured(old, now, reach, isPart);
    return out;
}

Skin together(std::span<const Skin *const> skins)
{
    mesh::PolyMesh all;
    std::vector<std::uint8_t> mask;
    struct Whole {
        Layer layer;
        std::vector<Vec3f> offsets;
    };
    std::vector<Whole> layers;
    bool isMasked = false;
    std::vector<Vec3f> body;
    for (const Skin *s : skins) {
        const std::size_t first = all.positions.size();
        mesh::append(all, toPolyMesh(s->shown));
        const std::size_t n = all.positions.size();
        const std::vector<Vec3f> own = s->body.flatten();
        body.insert(body.end(), own.begin(), own.end());
        isMasked = isMasked || s->hasMask();
        const std::vector<std::uint8_t> m = s->mask.flatten();
        mask.insert(mask.end(), m.begin(), m.end());
        for (const Layer &l : s->layers) {
            auto it = std::find_if(layers.begin(), layers.end(), [&](const Whole &w) {
                return w.layer.name == l.name && w.layer.strength == l.strength && w.layer.isOn == l.isOn
                       && w.offsets.size() <= first;
            });
            if (it == layers.end())
                it = layers.insert(layers.end(), Whole{l, {}});
            it->offsets.resize(first);
            const std::vector<Vec3f> offsets = l.offsets.flatten();
            it->offsets.insert(it->offsets.end(), offsets.begin(), offsets.end());
        }
        for (Whole &w : layers)
            w.offsets.resize(n);
    }
    Skin out;
    out.shown = mesh::makeSurface(all);
    out.body = BlockArray<Vec3f>(body);
    out.mask = isMasked ? BlockArray<std::uint8_t>(mask) : BlockArray<std::uint8_t>(mask.size());
    for (Whole &w : layers) {
        w.layer.offsets = BlockArray<Vec3f>(w.offsets);
        out.layers.push_back(std::move(w.layer));
    }
    return out;
}

} // namespace bonemoss::detail
