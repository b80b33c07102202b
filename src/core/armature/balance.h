#pragma once

#include "base/types.h"

#include <span>
#include <vector>

namespace bonemoss::armature {

/// How a creature stands: where its weight falls and what carries it.
struct Balance {
    Vec3f weightPoint;          ///< centre of mass at even density, mm
    float floor = 0;            ///< height of the floor under it, mm
    std::vector<Vec3f> contact; ///< convex hull of what touches the floor, counter-clockwise seen from the crown
    /// From the foot of the plumb line to the nearest edge of the contact area, mm; below 0 when it falls
    /// outside by that much and the creature would tip over.
    float margin = 0;
    Vec3f tip; ///< unit direction along the floor in which it would tip first
    bool stands() const { return margin >= 0 && contact.size() > 2; }
};

/// Balance of a body of which some points and the centre of mass are known. What lies within `tolerance` mm
/// of the lowest point touches the floor. O(n log n).
/// Source: hull by the monotone chain (Andrew 1979); a body stands while the plumb line of its centre of
/// mass meets the hull of its supports.
Balance balanceOf(std::span<const Vec3f> points, Vec3f weightPoint, float tolerance);

/// Convex hull in the plane of the floor, counter-clockwise seen from the crown, without points on its edges.
std::vector<Vec3f> floorHull(std::vector<Vec3f> points);

} // namespace bonemoss::armature
