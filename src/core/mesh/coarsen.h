#pragma once

#include "mesh/poly_mesh.h"

#include <optional>

namespace bonemoss::mesh {

/// The mesh of which one Catmull-Clark step makes the given faces.
struct Coarsened {
    std::vector<Face> faces;               ///< over the kept vertices
    std::vector<std::uint32_t> kept;       ///< fine vertex of each coarse one, in rising order
    std::vector<std::uint32_t> faceCentre; ///< fine vertex in the middle of each coarse face
};

/// Undoes one step in the connectivity: parts the vertices into those that were there, edge points and face points.
/// Nothing when the faces are not all quads that such a step could have made from triangles and quads. O(V + F).
/// Source: the three-way labelling of Taubin 2002, "Detecting and reconstructing subdivision connectivity".
std::optional<Coarsened> coarsen(std::size_t vertexCount, const std::vector<Face> &faces);

} // namespace bonemoss::mesh
