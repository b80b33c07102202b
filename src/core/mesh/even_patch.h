#pragma once

#include "mesh/nearest_faces.h"

namespace bonemoss::mesh {

/// A spot of triangles whose edges shall get other lengths. A border (edges of one triangle) stays as it is.
struct EdgePatch {
    std::vector<Vec3f> positions;
    std::vector<std::array<std::uint32_t, 3>> triangles; ///< counter-clockwise from outside; no edge of three
    std::vector<float> edge;                             ///< mm, of the edges wanted about each vertex; above 0
    std::vector<std::uint8_t> isFixed; ///< 1: it is not moved or taken away, nor is an edge of two of them changed
};

/// What became of it. Vertices keep their numbers; new ones come after them.
struct EvenedPatch {
    std::vector<Vec3f> positions;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<std::uint8_t> isGone, isMoved; ///< of each vertex; a new one counts as moved
    std::vector<NearestFace> on;               ///< where a moved one lies on the patch as it was
    bool isChanged = false;
};

/// Splits edges longer than 4/3 and collapses those shorter than 4/5 of what is wanted, turns edges towards larger
/// angles and relaxes vertices along the surface, `passes` times; every vertex moved or made lies on the surface as it was.
/// M. Botsch, L. Kobbelt, "A Remeshing Approach to Multiresolution Modeling", 2004; edges are turned where the angles
/// against them add up to more than pi (B. Delaunay, "Sur la sphere vide", 1934) instead of by valence, as that bounds
/// angles from below. Keeps what is closed closed and what is manifold manifold.
/// O(triangles before and after), one thread. Stops making vertices at `mostVertices`.
EvenedPatch evenOut(const EdgePatch &patch, int passes, std::size_t mostVertices = 400'000);

} // namespace bonemoss::mesh
