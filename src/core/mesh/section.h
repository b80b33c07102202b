#pragma once

#include "mesh/surface.h"

#include <vector>

namespace bonemoss::mesh {

/// A line in which a plane cuts a surface.
struct Section {
    std::vector<Vec3f> points; ///< in order; the first is not repeated at the end of a closed one
    bool isClosed = false;
    float length = 0; ///< mm
    float area = 0;   ///< mm^2 enclosed, 0 for an open one
};

/// All lines in which the plane through `point` with unit `normal` cuts a surface. Blocks that the plane misses
/// cost nothing else. A vertex that lies in the plane counts as just above it, so that no line is split there.
std::vector<Section> sections(const Surface &surface, Vec3f point, Vec3f normal);

/// The one that passes nearest to a place; null when there is none.
const Section *nearestSection(const std::vector<Section> &all, Vec3f place);

} // namespace bonemoss::mesh
