#include "growth/repeats.h"

#include "skin/marks.h"

#include "base/parallel.h"
#include "base/point_grid.h"
#include "base/random.h"
#include "growth/grow_input.h"
#include "mesh/nearest_faces.h"

#include <algorithm>
#include <array>

namespace bonemoss::growth {

using mesh::BlockArray;
using mesh::kBlockSize;

namespace {

constexpr int kSide = 9;
using Patch = std::array<float, kSide * kSide>;

/// Height of what is shown over the body, along the shown normal.
BlockArray<float> reliefOf(const Skin &skin)
{
    BlockArray<float> out(skin.body.size());
    std::vector<std::shared_ptr<mesh::Block<float>>> made(out.blockCount());
    forEachBlock(made.size(), 1, [&](BlockRange r) {
        const std::size_t b = r.begin;
        if (skin.shown.positions.sharesWith(skin.body, b))
            return;
        made[b] = std::make_shared<mesh::Block<float>>();
        made[b]->values.resize(out.countIn(b));
        for (std::size_t i = 0; i < out.countIn(b); ++i)
            made[b]->values[i] =
                dot(skin.shown.positions.data(b)[i] - skin.body.data(b)[i], normalized(skin.shown.normals.data(b)[i].unpack()));
    });
    for (std::size_t b = 0; b < made.size(); ++b)
        out.put(b, std::move(made[b]));
    return out;
}

struct Peak {
    Vec3f at, normal;
    float height = 0;
};

/// Vertices higher than all about them, and of those within `apart` of each other the highest.
std::vector<Peak> peaksOf(const Skin &skin, const BlockArray<float> &relief, float apart)
{
    std::vector<std::vector<Peak>> perBlock(relief.blockCount());
    forEachBlock(perBlock.size(), 1, [&](BlockRange r) {
        const std::size_t b = r.begin;
        const float *own = relief.data(b);
        if (!own)
            return;
        const mesh::BlockFaces &f = skin.shown.topology->block(b);
        std::vector<float> value(f.own + f.borrowed.size());
        for (std::size_t i = 0; i < value.size(); ++i)
            value[i] = i < f.own ? own[i] : relief[f.borrowed[i - f.own]];
        std::vector<bool> isPeak(f.own, true);
        for (const mesh::LocalFace &face : f.faces)
            for (std::size_t c = 0, n = std::size_t(face.size()); c < n; ++c)
                for (std::size_t d = 0; d < n; ++d)
                    if (face.v[c] < f.own && value[face.v[d]] > value[face.v[c]])
                        isPeak[face.v[c]] = false;
        for (std::size_t i = 0; i < f.own; ++i)
            if (isPeak[i] && own[i] > 1e-4f)
                perBlock[b].push_back(
                    {skin.shown.positions.data(b)[i], normalized(skin.shown.normals.data(b)[i].unpack()), own[i]});
    });
    std::vector<Peak> all, out;
    for (const auto &p : perBlock)
        all.insert(all.end(), p.begin(), p.end());
    std::vector<Vec3f> places;
    for (const Peak &p : all)
        places.push_back(p.at);
    const PointGrid grid(places, apart);
    for (std::uint32_t i = 0; i < all.size(); ++i) {
        bool isHighest = true;
        grid.around(all[i].at, apart, [&](std::uint32_t j) {
            isHighest = isHighest && (all[j].height < all[i].height || (all[j].height == all[i].height && j >= i));
        });
        if (isHighest)
            out.push_back(all[i]);
    }
    return out;
}

/// Patches of heights about the peaks, their mean taken away and their length made 1; all zero where the relief is flat.
std::vector<Patch> patchesOf(const Skin &skin, const BlockArray<float> &relief, const std::vector<Peak> &peaks, float width)
{
    std::vector<Vec3f> points;
    points.reserve(peaks.size() * kSide * kSide);
    for (const Peak &p : peaks) {
        const Vec3f crown = std::abs(p.normal.y) < 0.95f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
        const Vec3f u = normalized(cross(crown, p.normal)), v = cross(p.normal, u);
        for (int y = 0; y < kSide; ++y)
            for (int x = 0; x < kSide; ++x)
                points.push_back(p.at + (u * (float(x) / (kSide - 1) - 0.5f) + v * (float(y) / (kSide - 1) - 0.5f)) * width);
    }
    const auto nearest = mesh::nearestFaces(skin.shown, points, width);
    std::vector<Patch> out(peaks.size());
    forEachBlock(out.size(), 64, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            float mean = 0, square = 0;
            for (std::size_t k = 0; k < out[i].size(); ++k) {
                const mesh::NearestFace &f = nearest[i * out[i].size() + k];
                float h = 0;
                for (std::size_t c = 0; c < f.corners.size(); ++c)
                    h += relief[f.corners[c]] * f.weights[c];
                out[i][k] = h, mean += h / float(out[i].size());
            }
            for (float &h : out[i])
                h -= mean, square += h * h;
            const float length = std::sqrt(square);
            for (float &h : out[i])
                h = length > 0.02f * peaks[i].height ? h / length : 0;
        }
    });
    return out;
}

} // namespace

std::vector<RepeatSpot> findRepeats(const Skin &skin, const RepeatSettings &settings, const Progress &progress)
{
    progress.say(0.1f, "relief");
    const BlockArray<float> relief = reliefOf(skin);
    std::vector<Peak> peaks = peaksOf(skin, relief, 0.5f * settings.width);
    std::sort(peaks.begin(), peaks.end(), [](const Peak &a, const Peak &b) {
        return a.height != b.height ? a.height > b.height
               : a.at.x != b.at.x   ? a.at.x < b.at.x
               : a.at.y != b.at.y   ? a.at.y < b.at.y
                                    : a.at.z < b.at.z;
    });
    if (progress.isCancelled())
        return {};
    progress.say(0.4f, "patches");
    const std::vector<Patch> patches = patchesOf(skin, relief, peaks, settings.width);
    if (progress.isCancelled())
        return {};
    progress.say(0.7f, "comparing");
    std::vector<Vec3f> places;
    for (const Peak &p : peaks)
        places.push_back(p.at);
    const PointGrid grid(places, settings.reach);
    std::vector<RepeatSpot> best(peaks.size());
    forEachBlock(peaks.size(), 16, progress.stop, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i)
            grid.around(places[i], settings.reach, [&](std::uint32_t j) {
                if (j >= i || dot(peaks[i].normal, peaks[j].normal) < 0) // the higher of two is the first
                    return;
                float sum = 0;
                for (std::size_t k = 0; k < patches[i].size(); ++k)
                    sum += patches[i][k] * patches[j][k];
                if (sum >= settings.likeness && sum > best[i].likeness)
                    best[i] = {places[i], places[j], sum};
            });
    });
    std::erase_if(best, [](const RepeatSpot &s) { return s.likeness == 0; });
    return progress.isCancelled() ? std::vector<RepeatSpot>{} : best;
}

mesh::BlockArray<std::uint8_t> maskOfSpots(const skin::Skin &skin, const std::vector<RepeatSpot> &spots, float width)
{
    return skin::valuesBy<std::uint8_t>(skin.body.size(), [&](std::size_t v) {
        const Vec3f at = skin.shown.positions[v];
        const bool isNear = std::any_of(spots.begin(), spots.end(),
                                        [&](const RepeatSpot &s) { return squaredLength(s.at - at) < 0.25f * width * width; });
        return isNear ? std::uint8_t(255) : std::uint8_t(0);
    });
}

std::size_t varySpots(Skin &skin, const std::vector<RepeatSpot> &spots, float width, std::uint64_t seed)
{
    std::vector<Vec3f> places;
    for (const RepeatSpot &s : spots)
        places.push_back(s.at);
    const PointGrid grid(places, width);
    std::vector<std::uint32_t> changed;
    std::size_t count = 0;
    for (std::uint32_t b = 0; b < skin.body.blockCount(); ++b) { // edit() copies what others share, so it stays on one thread
        const Vec3f *at = skin.shown.positions.data(b);
        const std::uint8_t *mask = skin.mask.data(b);
        std::vector<float> times(skin.body.countIn(b), 1);
        bool any = false;
        for (std::size_t i = 0; i < times.size(); ++i) {
            float near = 0;
            std::uint32_t of = 0;
            grid.around(at[i], 0.75f * width, [&](std::uint32_t k) {
                const float t = 1 - squaredLength(places[k] - at[i]) / (0.5625f * width * width);
                if (t > near)
                    near = t, of = k;
            });
            if (near <= 0 || (mask && mask[i] == 255))
                continue;
            // Up to half weaker, up to a third stronger: from place to place and within it.
            const float whole = 0.6f + 0.6f * randomUnit(seed, of), part = 1.4f * noiseAt(at[i], 0.4f * width, seed * 31 + of);
            times[i] = std::lerp(1.0f, std::clamp(whole * (1 + part), 0.25f, 1.6f),
                                 std::sqrt(near) * (mask ? 1 - float(mask[i]) / 255 : 1));
            any = true, ++count;
        }
        if (!any)
            continue;
        for (Layer &l : skin.layers)
            if (!l.growth && !l.isLocked && l.offsets.has(b)) {
                Vec3f *o = l.offsets.edit(b);
                for (std::size_t i = 0; i < times.size(); ++i)
                    o[i] *= times[i];
            }
        changed.push_back(b);
    }
    mixBlocks(skin, changed);
    return count;
}

} // namespace bonemoss::growth
