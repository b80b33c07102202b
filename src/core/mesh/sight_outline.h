#pragma once

#include "mesh/surface.h"

#include <array>
#include <optional>
#include <span>
#include <vector>

namespace bonemoss::mesh {

/// What lies inside a closed outline drawn in a view, however deep.
class SightOutline
{
public:
    /// outline (mm): at least three points; direction: unit, along which it is looked; eye (mm): of a perspective view.
    SightOutline(std::span<const Vec3f> outline, Vec3f direction, std::optional<Vec3f> eye);

    /// By the crossing number of a ray in the outline's plane. Behind the eye nothing is inside. O(points of the outline).
    bool holds(Vec3f place) const;

private:
    using Point = std::array<float, 2>;
    std::optional<Point> flat(Vec3f place) const;

    Vec3f m_direction, m_u, m_v, m_origin;
    std::optional<Vec3f> m_eye;
    float m_far; ///< of the plane of the outline from the eye, mm
    std::vector<Point> m_outline;
};

/// Whether a place of a skin is seen from a unit way: it faces it, and no skin lies before it. O(log faces).
bool isSeen(const Surface &skin, Vec3f place, Vec3f normal, Vec3f fromWay);

} // namespace bonemoss::mesh
