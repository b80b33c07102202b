#pragma once

#include "mesh/surface.h"

namespace bonemoss::mesh {

// Normals of the own vertices of a block: of each the sum of the area-weighted normals of its faces, in the order of the
// faces, made unit. position has the own and borrowed vertices (mm; the fourth lane is any number). Both functions give the
// same bits and tell whether each normal is longer than 0; where they say no, it may still be so.

/// All of them, by adding each face into its corners: for a block that is made once. O(faces).
bool addNormals(const BlockFaces &faces, const Lanes *position, PackedNormal *out);

/// Those of some spots, by fetching the faces about each vertex: quicker, but asks for the table of them.
/// O(faces of those spots).
bool fetchNormals(const BlockFaces &faces, std::uint64_t spots, const Lanes *position, PackedNormal *out);

} // namespace bonemoss::mesh
