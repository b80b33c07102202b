#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "mesh/poly_mesh.h"

#include <cstdint>
#include <span>

namespace bonemoss::solid {

inline constexpr float kStays = 2;

/// Fewer triangles of about the same shape: edges are drawn together in the order of the least error of volume and
/// border, never so that the skin stops being manifold; open borders stay.
/// faces   wanted, counted as triangles; met within 1 % unless the shape forbids it
/// keep    0 to 1 per vertex: how much more of the faces stay there, kStays where the vertex itself does; empty for none
/// P. Lindstrom & G. Turk, "Fast and memory efficient polygonal simplification", 1998; through CGAL.
/// O(F log F). Errors: BadValue (more faces than there are, or fewer than 4), Cancelled.
Result<mesh::PolyMesh> simplify(const mesh::PolyMesh &mesh, std::size_t faces, std::span<const float> keep = {},
                                const Progress &progress = {});

/// Lets vertices of faces that go from one group to another stay, so that the border between them does.
/// groupOf  a number per vertex; keep  as simplify takes it, made as long where it was empty
void keepRims(const mesh::PolyMesh &mesh, std::span<const std::uint16_t> groupOf, std::vector<float> &keep);

/// Makes faces anew as even triangles with edges of a given length; what is around them stays as it is.
/// faces  which ones, as numbers into mesh.faces
/// edge   mm
/// M. Botsch & L. Kobbelt, "A remeshing approach to multiresolution modeling", 2004 (split, collapse, flip, relax);
/// through CGAL. Errors: Empty.
Result<mesh::PolyMesh> remesh(const mesh::PolyMesh &mesh, std::span<const std::uint32_t> faces, float edge);

} // namespace bonemoss::solid
