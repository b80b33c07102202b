#pragma once

#include "mesh/poly_mesh.h"

#include <span>
#include <utility>

namespace bonemoss::mesh {

// Editing of low cages of quads and triangles. Each returns a new mesh; faces that stay keep their numbers, new ones
// come after them. Faces and vertices must be in range; what cannot be done leaves the mesh as it was and returns
// false in `done`.

using FaceList = std::span<const std::uint32_t>;
using EdgeKeyPair = std::pair<std::uint32_t, std::uint32_t>;

/// One quad of the given half sizes, facing `normal`, its first side along `along`.
PolyMesh sheetCage(Vec3f middle, Vec3f normal, Vec3f along, float halfLong, float halfWide);
/// A box of six quads.
PolyMesh boxCage(Vec3f middle, Vec3f half);
/// A band of quads along points, `width` mm wide, facing `normals` (one a point).
PolyMesh stripCage(const std::vector<Vec3f> &points, const std::vector<Vec3f> &normals, float width);

/// Mean normal of some faces by area; not zero unless they cancel out.
Vec3f meanNormal(const PolyMesh &cage, FaceList faces);

/// Lifts faces by `by` and closes the sides with quads.
PolyMesh extruded(const PolyMesh &cage, FaceList faces, Vec3f by);
/// Adds a quad to each open edge (as the face that owns it runs along it), `by` away; neighbours share corners.
PolyMesh extended(const PolyMesh &cage, std::span<const EdgeKeyPair> edges, Vec3f by, bool &done);
/// Mean unit direction in which the faces of some edges would go on beyond them; zero when they cancel out.
Vec3f outwards(const PolyMesh &cage, std::span<const EdgeKeyPair> edges);
/// Sets a ring of quads inside the outline of faces, `width` mm from it.
PolyMesh inset(const PolyMesh &cage, FaceList faces, float width);
/// Cuts the edges around faces off: the outline moves in by `width` on the faces and out along the sides.
PolyMesh bevelled(const PolyMesh &cage, FaceList faces, float width);
/// Splits the band of quads across an edge in two, at a share of it from its first vertex.
PolyMesh withRing(const PolyMesh &cage, EdgeKeyPair edge, float share, bool &done);
/// Moves vertices; others within `reach` mm of one of them follow by a raised cosine.
PolyMesh softMoved(const PolyMesh &cage, std::span<const std::uint32_t> vertices, Vec3f by, float reach);
/// Takes faces away, and the vertices that none needs any more.
PolyMesh withoutFaces(const PolyMesh &cage, FaceList faces);

} // namespace bonemoss::mesh
