#pragma once

#include "mesh/poly_mesh.h"

#include <optional>

namespace bonemoss::mesh {

/// What can be counted and weighed of a mesh. Volume, centre and genus mean what they say only where
/// the mesh is closed.
struct Measures {
    std::size_t vertices = 0, faces = 0, triangles = 0, quads = 0;
    std::size_t boundaryEdges = 0;                                      ///< edges with one face
    std::size_t nonManifoldEdges = 0;                                   ///< edges with more than two faces
    std::size_t flippedEdges = 0;                                       ///< edges whose two faces run the same way along them
    std::optional<Vec3f> firstBoundary, firstNonManifold, firstFlipped; ///< an end of the first of each
    std::size_t components = 0;                                         ///< islands joined by shared vertices
    std::ptrdiff_t genus = 0;                                           ///< handles summed over islands; 0 where not closed
    bool closed = false; ///< every edge has exactly two faces that run opposite ways
    double volumeMm3 = 0, areaMm2 = 0;
    double centreOfMassMm[3] = {0, 0, 0}; ///< of the enclosed solid; of the surface where not closed
    Box3f bounds;
};

/// What a closed mesh weighs at even density. O(F).
struct Mass {
    double volumeMm3 = 0;
    Vec3f centre; ///< mm
};
Mass massOf(const PolyMesh &mesh);

/// O(F log F). Volume and centre by the divergence theorem (Mirtich 1996), quads split along 0-2.
Measures measure(const PolyMesh &mesh);

} // namespace bonemoss::mesh
