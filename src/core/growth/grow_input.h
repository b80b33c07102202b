#pragma once

#include "base/noise.h"
#include "base/parallel.h"
#include "base/random.h"
#include "growth/ball_table.h"
#include "growth/growth.h"
#include "growth/scatter.h"

#include <array>

namespace bonemoss::growth {

/// What a kind of growth works from.
struct GrowInput {
    const Growth &growth;
    const Ground &ground;
    const Flow &flow;
    const Surroundings &about;
    const mesh::BlockArray<std::uint8_t> &masked;
    const Progress &progress;

    /// A place for noise: of twins both have the same. And a direction turned back to its own side.
    Vec3f folded(Vec3f p) const;
    Vec3f unfolded(Vec3f at, Vec3f direction) const;
    /// Sites of the growth, with what was done to them by hand.
    std::vector<Site> sites(const ScatterSettings &settings) const;
};

/// A vertex as heights see it.
struct Spot {
    Vec3f at, normal;
    Vec3f folded; ///< for noise: twins have the same
};

/// Calls body(block, first, count, box, near) for short runs of vertices of all blocks that are not wholly masked; near holds the
/// numbers of the sites within reach(site) mm of the run, and may be put in another order. Parallel over blocks; blocks and
/// runs are compact, so that the sites are looked up once for a run. O(vertices + runs * sites near).
template <typename Reach, typename Body>
void forEachRun(const GrowInput &in, const std::vector<Site> &sites, const Reach &reach, const Body &body)
{
    constexpr std::size_t kRun = 48, kRuns = 8;
    std::vector<Vec3f> places(sites.size());
    std::vector<float> squaredReach(sites.size());
    float most = 0;
    for (std::size_t i = 0; i < sites.size(); ++i) {
        const float far = reach(sites[i]);
        places[i] = sites[i].at, squaredReach[i] = far * far, most = std::max(most, far);
    }
    const PointGrid grid(places, 2 * most);
    const auto &positions = in.ground.positions;
    forEachBlock(positions.blockCount(), 1, in.progress.stop, [&](BlockRange r) {
        const std::size_t b = r.begin, n = positions.countIn(b);
        const std::uint8_t *masked = in.masked.size() > 0 ? in.masked.data(b) : nullptr;
        if (masked && std::all_of(masked, masked + n, [](std::uint8_t m) { return m == 255; }))
            return;
        const std::span<const Vec3f> at(positions.data(b), n);
        std::array<Box3f, (mesh::kBlockSize + kRun - 1) / kRun> boxes;
        const auto together = [&](std::size_t first, std::size_t end) {
            Box3f box;
            for (std::size_t k = first; k < end; ++k)
                box.add(boxes[k]);
            return box;
        };
        const std::size_t runs = (n + kRun - 1) / kRun;
        for (std::size_t k = 0; k < runs; ++k)
            boxes[k] = boxAbout(at.subspan(k * kRun, std::min(kRun, n - k * kRun)));
        BallTable about, inRuns;
        const Box3f whole = together(0, runs);
        grid.around(whole.centre(), whole.diagonal() / 2 + most,
                    [&](std::uint32_t i) { about.add(places[i], squaredReach[i], i); });
        std::vector<std::uint32_t> near;
        for (std::size_t outer = 0; outer < runs; outer += kRuns) { // first for several runs, then for each
            const std::size_t end = std::min(runs, outer + kRuns);
            about.meet(together(outer, end), inRuns);
            for (std::size_t k = outer; k < end; ++k) {
                inRuns.meet(boxes[k], near);
                body(b, k * kRun, std::min(kRun, n - k * kRun), boxes[k], near);
            }
        }
    });
}

/// Calls body(block, index in it, spot, near) for every vertex that is not wholly masked; near as in forEachRun.
/// O(vertices * sites near).
template <typename Reach, typename Body>
void forEachVertex(const GrowInput &in, const std::vector<Site> &sites, const Reach &reach, const Body &body)
{
    forEachRun(in, sites, reach,
               [&](std::size_t b, std::size_t first, std::size_t count, const Box3f &, std::vector<std::uint32_t> &near) {
                   const Vec3f *at = in.ground.positions.data(b);
                   const mesh::PackedNormal *normals = in.ground.normals.data(b);
                   const std::uint8_t *masked = in.masked.size() > 0 ? in.masked.data(b) : nullptr;
                   for (std::size_t i = first; i < first + count; ++i)
                       if (!masked || masked[i] < 255)
                           body(b, i, Spot{at[i], normals[i].unpack(), in.folded(at[i])}, std::span<const std::uint32_t>(near));
               });
}

/// Heights by vertex: body(spot, near) -> mm.
template <typename Reach, typename Height>
void heights(const GrowInput &in, const std::vector<Site> &sites, const Reach &reach, mesh::BlockArray<float> &out,
             const Height &height)
{
    for (std::size_t b = 0; b < out.blockCount(); ++b)
        out.edit(b); // so that the loop only writes
    forEachVertex(in, sites, reach, [&](std::size_t b, std::size_t i, const Spot &spot, std::span<const std::uint32_t> near) {
        out.edit(b)[i] = height(spot, near);
    });
}

inline float smoothStep(float from, float to, float v)
{
    const float t = std::clamp((v - from) / (to - from), 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

// The kinds, in growth_cells.cpp, growth_spots.cpp, growth_waves.cpp and growth_veins.cpp.
void growScales(const GrowInput &in, mesh::BlockArray<float> &out);
void growCracks(const GrowInput &in, mesh::BlockArray<float> &out);
void growSpots(const GrowInput &in, mesh::BlockArray<float> &out);
void growWaves(const GrowInput &in, mesh::BlockArray<float> &out);
void growPrints(const GrowInput &in, mesh::BlockArray<float> &out);
void growVeins(const GrowInput &in, mesh::BlockArray<float> &out);
ScatterSettings scaleSites(const Growth &growth);
ScatterSettings spotSites(const Growth &growth);

} // namespace bonemoss::growth
