#pragma once

#include "mesh/poly_mesh.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>

#include <bit>

namespace bonemoss::solid::detail {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Point = Kernel::Point_3;
using SurfaceMesh = CGAL::Surface_mesh<Point>;

inline Point toCgal(Vec3f p)
{
    return {double(p.x), double(p.y), double(p.z)};
}
inline Vec3f fromCgal(const Point &p)
{
    return {float(p.x()), float(p.y()), float(p.z())};
}

/// Of a place, by its bits.
struct HashPlace {
    std::size_t operator()(const Vec3f &p) const
    {
        std::uint64_t h = std::bit_cast<std::uint32_t>(p.x);
        h = h * 0x9E3779B97F4A7C15ull + std::bit_cast<std::uint32_t>(p.y);
        h = h * 0x9E3779B97F4A7C15ull + std::bit_cast<std::uint32_t>(p.z);
        return std::size_t(h ^ h >> 29);
    }
};

/// Triangles of a mesh (quads along their shorter diagonal). Vertices keep their numbers; where edges have more than
/// two faces, or faces turn the wrong way, vertices are doubled at the end until the mesh is manifold.
SurfaceMesh toCgal(const mesh::PolyMesh &mesh);

/// Faces of three corners; vertices that are gone leave no gaps.
mesh::PolyMesh fromCgal(const SurfaceMesh &mesh);

/// Puts quads back: where both triangles of a quad of `source` stand in `triangles` (corners found by their exact
/// places), they become that quad again.
mesh::PolyMesh withQuads(const mesh::PolyMesh &triangles, const mesh::PolyMesh &source);

} // namespace bonemoss::solid::detail
