#pragma once

// What kinds of fur have in common: locks before they have a shape.

#include "growth/scatter.h"
#include "outgrowth/shapes.h"

namespace bonemoss::outgrowth {

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
    int ridges = 1;
    std::uint64_t number = 0;
};

/// All locks of one outgrowth, and the flow they follow; none where each keeps its own way.
struct Coat {
    std::vector<Lock> locks;
    std::vector<bool> isOwnTwin;
    std::unique_ptr<growth::Flow> flow;
};

growth::Ground groundOf(const mesh::Surface &skin);
/// 255 where a rule on an area does not grow.
mesh::BlockArray<std::uint8_t> outside(const Input &in);
/// Of a place: mm before the plane of symmetry; 1 without one.
float sideOf(const Input &in, Vec3f p);

} // namespace bonemoss::outgrowth
