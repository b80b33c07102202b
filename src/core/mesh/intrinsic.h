#pragma once

#include "base/types.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace bonemoss::mesh {

/// The Laplacian of a triangle mesh by cotangents, and the area about each vertex.
struct Laplacian {
    struct Entry {
        std::uint32_t a = 0, b = 0;
        double weight =
            0; ///< half the sum of the cotangents across from the edge; never below 0 but for edges that cannot be turned
    };
    std::vector<Entry> edges;
    std::vector<double> area; ///< mm^2: a third of the triangles about the vertex
};
/// On the intrinsic Delaunay triangulation of the surface: edges are turned, by their lengths alone, until the angles across from each
/// add up to no more than 180 degrees, so that weights are not below 0 and do not hang on how a surface is cut into triangles. Edges with
/// other than two triangles stay. Source: M. Fisher, B. Springborn, A. I. Bobenko & P. Schroeder 2006, "An algorithm for the
/// construction of intrinsic Delaunay triangulations". O(edges), as a rule.
Laplacian delaunayLaplacian(std::span<const Vec3f> points, std::span<const std::array<std::uint32_t, 3>> triangles);

} // namespace bonemoss::mesh
