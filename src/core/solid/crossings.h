#pragma once

#include "mesh/poly_mesh.h"

#include <cstddef>

namespace bonemoss::solid {

/// Pairs of triangles of a mesh that pass through each other, or touch where they have neither corner nor side in common; quads along
/// their shorter diagonal. Exact. O(F log F + pairs), some microseconds a face.
std::size_t selfCrossings(const mesh::PolyMesh &mesh);

} // namespace bonemoss::solid
