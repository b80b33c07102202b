#pragma once

#include "base/progress.h"
#include "field/sign_grid.h"
#include "mesh/nearest_faces.h"

namespace bonemoss::field {

/// What is known of the mesh that a net is made from.
struct Lineage {
    const mesh::PolyMesh &from;
    std::vector<mesh::FacesNear> near; ///< of its faces, those that the crossings about each vertex lie on
    /// The vertex of it that lies in the same cell, on one of those faces, within a fifth of the spacing: then the new one
    /// stands in its place; else kNone.
    std::vector<std::uint32_t> kept;
};

/// Closed, manifold quads between the inside and outside samples of a grid: one vertex for each
/// connected sheet in a cell, at the mean of the sheet's crossings; one quad for each crossed edge.
///
/// Vertices come block by block along a Hilbert curve, faces after them. O(slots + vertices), counted
/// before it is written; same bits on any number of threads. Cancelled: an empty mesh.
/// Ways: Gibson 1998, "Constrained elastic surface nets"; Nielson 2004, "Dual marching cubes" (a
/// vertex per sheet); Wenger 2013, "Isosurfaces", ch. 3.7 (edges met by four quads and their cure).
/// lineage  filled, when given; the grid must have been made of its mesh, and be steady
mesh::PolyMesh surfaceNets(const SignGrid &grid, const Progress &progress = {}, Lineage *lineage = nullptr);

/// Number of quads surfaceNets would make, without making them.
std::size_t countQuads(const SignGrid &grid);

} // namespace bonemoss::field
