#pragma once

// What kinds of fur have in common: locks before they have a shape.

#include "growth/scatter.h"
#include "outgrowth/shapes.h"

namespace bonemoss::outgrowth {

inline constexpr float kLiftByMap = 70;    ///< degrees that a whole mask lifts more than half of one
inline constexpr float kLeastHalf = 0.27f; ///< mm: half of what still prints

/// A lock before it has a shape.
struct Lock {
    Root root;
    Vec3f along;                                             ///< unit, the way it lies
    int level = 0;                                           ///< 0 leads, 1 and 2 fill
    float length = 1;                                        ///< mm
    float half = 1;                                          ///< mm, half its width
    float thick = 1;                                         ///< mm, half its thickness
    float yaw = 0, wave = 0, phase = 0, lift = 0, flick = 0; ///< radians
    float curl = 0;                                          ///< 0 to 1
    int ridges = 1;
    std::uint64_t number = 0;
};

/// The skin that members stand on, with the way things lie there and places spread over it: what takes longest, and is
/// taken over while the skin, the area and what the flow follows stay the same.
struct Standing {
    decltype(mesh::Surface::positions) positions; ///< of the blocks that the area lies in; the others are blank
    std::shared_ptr<const mesh::Topology> topology;
    mesh::BlockArray<std::uint8_t> area;
    growth::Surroundings about;
    growth::ScatterSettings settings;
    std::shared_ptr<const growth::Flow> flow;
    std::shared_ptr<const std::vector<growth::Site>> sites;
    void take(const Input &in); ///< remembers the skin, the area and what is about it
    bool isOf(const Input &in) const;
    std::size_t memoryBytes() const { return sites->capacity() * sizeof(growth::Site) + flow->size() * 3 * sizeof(Vec3f); }
};
/// What kinds work out once for layout and shapes.
struct Prepared {
    virtual ~Prepared() = default;
    std::shared_ptr<const Standing> standing;
};
std::shared_ptr<const Standing> standingOf(const Input &in, const growth::ScatterSettings &settings);

/// All locks of one outgrowth; standing: none where each keeps its own way.
struct Coat : Prepared {
    std::vector<Lock> locks;
    std::vector<bool> isOwnTwin;
};

/// Locks that lie in each other give way: those side by side turn apart, of those one over the other the upper rises and the lower sinks.
/// strength: 0 to 1. Two passes of O(locks) with the lines of all worked out anew.
void pushApart(const Input &in, Coat &coat, float strength);
/// The blocks that an area lies in and so many rings of blocks about them, rising: whatever lies within as many faces of it is there. O(
/// blocks).
std::vector<std::uint32_t> blocksNear(const Input &in, int rings);
/// Share of a mask at a place on the skin, 0 to 1. O(log faces).
float shareAt(const Input &in, const mesh::BlockArray<std::uint8_t> &mask, Vec3f p);
/// What a map says at a place on the skin: 1 as the settings have it, 0 to 2; 1 where there is no such map or it was never touched.
float mapAt(const Input &in, Map map, Vec3f p);
/// Of a place: mm before the plane of symmetry; 1 without one.
float sideOf(const Input &in, Vec3f p);

} // namespace bonemoss::outgrowth
