#pragma once

#include "base/result.h"
#include "mesh/nearest_faces.h"

namespace bonemoss::solid {

/// Puts newly knitted skin in place of some faces of a mesh; all other faces and their vertices stay as they are, and a
/// strip of triangles closes the seam.
/// region   of each face of the mesh: whether it is replaced
/// knitted  a closed skin of the whole mesh, as field::knitAgain makes it, with the faces about each vertex
/// spacing  mm, of the knit
/// BadValue when the region has no room for new skin, or when the new skin's rims do not match the old ones (a fold that
/// fused across the region's border). O(F log F).
Result<mesh::PolyMesh> patchedIn(const mesh::PolyMesh &mesh, std::vector<bool> region, const mesh::PolyMesh &knitted,
                                 std::span<const mesh::FacesNear> near, float spacing);
/// The same with a skin whose vertices are known to belong in the region or not; beyond the region it may be open.
Result<mesh::PolyMesh> patchedIn(const mesh::PolyMesh &mesh, std::vector<bool> region, const mesh::PolyMesh &knitted,
                                 std::vector<bool> isIn, float spacing);

} // namespace bonemoss::solid
