#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "field/sign_grid.h"
#include "mesh/poly_mesh.h"

namespace bonemoss::field {

/// Exact crossings of a mesh (or several overlapping closed shells) with the lattice, inside by
/// winding count above zero along lines: overlapping shells fuse, with no pockets inside. Where lines
/// do not pair up (holes, flipped faces) the three directions vote.
///
/// spacing  mm, above 0
/// Cost follows the surface area in cells; O(cells of the box / 512) besides. Same bits on any number
/// of threads. TooLarge when a side would pass SignGrid::kMaxBlocksPerSide blocks; Empty without faces.
/// Way: Wang, Leung & Chen 2010, "Layered depth-normal images"; ties by Edelsbrunner & Muecke 1990, "Simulation of Simplicity".
/// isSteady  the lattice lies at whole multiples of the spacing, wherever the mesh begins, and the grid also tells which face
///           each crossing lies on: for a mesh that came from such a lattice
Result<SignGrid> crossMesh(const mesh::PolyMesh &mesh, float spacing, const Progress &progress = {}, bool isSteady = false);

} // namespace bonemoss::field
