#pragma once

#include "base/result.h"
#include "mesh/poly_mesh.h"

#include <cstddef>
#include <span>
#include <vector>

namespace bonemoss::solid {

/// The closed runs of open edges of a mesh, each as vertices in the order their faces have them.
/// O(F log F).
std::vector<std::vector<std::uint32_t>> openBorders(const mesh::PolyMesh &mesh);

struct Closed {
    mesh::PolyMesh mesh;             ///< old vertices and faces keep their numbers; new ones follow
    std::size_t holes = 0, left = 0; ///< closed; left open because the border touches itself
};

enum class Fill {
    Coarse, ///< a membrane of as few triangles as there can be
    Flat,   ///< the same with triangles about as large as the border's edges
    Smooth  ///< those, going on with the curvature around the hole
};

/// Closes holes with triangles.
/// only  borders to close, as numbers into openBorders; empty for all
/// Sources: constrained and refined Delaunay triangulation in the border's mean plane (L. P. Chew 1993; J. Ruppert
/// 1995); where the border hides behind itself there, the triangulation of P. Liepa, "Filling holes in meshes", 2003;
/// fairing by M. Botsch & L. Kobbelt 2004; all through CGAL.
Closed closeHoles(const mesh::PolyMesh &mesh, Fill how, std::span<const std::size_t> only = {});

} // namespace bonemoss::solid
