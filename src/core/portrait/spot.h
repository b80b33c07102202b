#pragma once

#include "portrait/traced_scene.h"

#include <span>

namespace bonemoss::portrait {

inline constexpr Vec3f kClay{0.46f, 0.42f, 0.355f}; ///< linear light, of what has no colour

/// How a place looks that a ray meets.
struct Spot {
    Vec3f normal; ///< with grain
    Vec3f colour; ///< linear light
    FinishValues finish{};
    Vec3f walk; ///< mean free path inside, mm by colour
};
/// size: diagonal of the creature, mm, by which grain is measured, and depth where none is said.
Spot spotOf(const Meeting &meeting, std::span<const io::Material> materials, float size);

} // namespace bonemoss::portrait
