#pragma once

#include "mesh/poly_mesh.h"

#include <cstdint>
#include <span>
#include <vector>

namespace bonemoss::mesh {

/// Which island each vertex belongs to, islands counted from 0 in the order of their first vertex. O(V + F).
std::vector<std::uint32_t> islandsOf(const PolyMesh &mesh, std::uint32_t &count);

/// Some faces of a mesh with the vertices they need, in their order.
/// sources  when given, is set to the old number of each vertex
PolyMesh extract(const PolyMesh &mesh, const std::vector<bool> &faces, std::vector<std::uint32_t> *sources = nullptr);

/// A mesh whose faces do not reach across the line where a value per vertex is 0.
struct CutMesh {
    PolyMesh mesh;          ///< old vertices keep their numbers, those on the line follow
    std::vector<bool> isIn; ///< of each face: on the side where values are above 0
};
/// Faces that the line crosses are cut along it, quads as two triangles; a line that passes within a twelfth of an
/// edge from a vertex goes through the vertex. values.size() == positions.size(). O(F).
CutMesh cutAlong(const PolyMesh &mesh, std::vector<float> values);

} // namespace bonemoss::mesh
