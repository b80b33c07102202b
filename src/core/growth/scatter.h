#pragma once

#include "growth/flow.h"

namespace bonemoss::growth {

/// A place on the ground where one scale, pore or wart stands.
struct Site {
    Vec3f at, normal;
    Vec3f along, across;      ///< unit, in the surface; across = normal x along
    float size = 1;           ///< mm to its neighbours, across
    float certain = 1;        ///< of its direction
    float inner = 1;          ///< 0 at the border of the mask, 1 well inside
    std::uint64_t number = 0; ///< random, its own; the same for twins
    bool isMiddle = false;    ///< on the plane of symmetry: its own twin
    bool isMissing = false;   ///< taken away by hand
    float lift = 1;           ///< times the height, by hand
};

/// The site across a plane; its pattern is mirrored too.
Site mirrored(const Site &site, Vec3f point, Vec3f normal);

struct ScatterSettings {
    float size = 2;      ///< mm between neighbours, across
    float aspect = 1;    ///< length along the flow over width
    float rows = 0;      ///< 0 scattered, 1 in staggered rows across the flow
    float variation = 0; ///< 0 to 1, of places and sizes
    float settle = 1;    ///< 0 as thrown, 1 evened out
    float border = 0;    ///< over how many sizes they shrink towards what is masked
    float joints = 0;    ///< 0 to 1: how much they shrink at joints
    std::uint64_t seed = 1;
    bool isMirrored = true;
    friend bool operator==(const ScatterSettings &, const ScatterSettings &) = default;
};

/// Sites that cover what is not masked, no two nearer than their size allows: darts thrown in a fixed order, random but for the
/// eight turns that cubes of space take so that many can be thrown at once (Bridson 2007; on surfaces Corsini, Cignoni &
/// Scopigno 2012; turns after L.-Y. Wei, "Parallel Poisson Disk Sampling", 2008), each kept when no other is nearer than the mean of
/// their sizes in a metric stretched along the flow. Then evened out: each site goes to the mean of the places that its
/// neighbours want it at, on a lattice of staggered rows or at equal distance (after the position fields of Jakob et
/// al. 2015). With a plane and isMirrored, both sides are twins. masked: 255 keeps free; may be blank.
/// O(vertices + sites), the same on any number of threads.
std::vector<Site> scatter(const Ground &ground, const Flow &flow, const Surroundings &about,
                          const mesh::BlockArray<std::uint8_t> &masked, const ScatterSettings &settings,
                          const Progress &progress = {});

/// Side of the cubes of the ground points that sites are chosen among, in sizes of the smallest.
inline constexpr float kGroundCube = 0.5f;
/// Side of the cells of the grid over those points, in such cubes, where sites of the greatest size are not four cells long.
inline constexpr float kGroundCell = 4.5f;

/// Distance of two places in the metric of a site: mm across it, stretched along the flow.
inline float distanceFrom(const Site &s, float aspect, Vec3f p)
{
    const Vec3f d = p - s.at;
    const float a = dot(d, s.along) / aspect, b = dot(d, s.across), c = dot(d, s.normal);
    return std::sqrt(a * a + b * b + c * c);
}

} // namespace bonemoss::growth
