#pragma once

#include "base/types.h"

#include <cstdint>
#include <vector>

namespace bonemoss::mesh {

/// Thin curves as polylines with a radius at each point: hair. Points and radii in mm; a curve has two points or more.
struct Curves {
    std::vector<Vec3f> points;
    std::vector<float> radii;          ///< of each point
    std::vector<std::uint32_t> starts; ///< the first point of each curve

    std::size_t count() const { return starts.size(); }
    std::uint32_t begin(std::size_t curve) const { return starts[curve]; }
    std::uint32_t end(std::size_t curve) const
    {
        return curve + 1 < starts.size() ? starts[curve + 1] : std::uint32_t(points.size());
    }
    std::size_t memoryBytes() const { return points.size() * (sizeof(Vec3f) + sizeof(float)) + starts.size() * 4; }
};

} // namespace bonemoss::mesh
