#pragma once

#include "portrait/traced_scene.h"
#include "proof/layers.h"

namespace bonemoss::proof {

/// A place of the outer surface and what lies on both sides of it.
struct WallPlace {
    std::uint32_t triangle = 0;
    Vec3f at, normal;
    float thickness = 1e30f; ///< mm of the solid under it
    float gap = 1e30f;       ///< mm to a face that looks at it; beyond `far`: none
};

/// Measures walls and gaps at the middles of triangles (every `step`-th), all bodies being one: walls within other bodies do not count.
/// Straight in by one ray; where that tells less than `near` mm by nine rays within 20 degrees, of which the third longest counts. `far`: mm
/// up to which gaps are looked for. O(triangles / step * log faces), parallel.
std::vector<WallPlace> wallsOf(const portrait::TracedScene &traced, std::span<const Triangle> triangles, std::size_t step,
                               float near, float far, const Progress &progress = {});

/// Whether a place lies within another body than its own: how many are about it, looking along `way` out of its own.
int bodiesAbout(const portrait::TracedScene &traced, Vec3f at, Vec3f way, float epsilon);

} // namespace bonemoss::proof
