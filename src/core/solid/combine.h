#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "mesh/poly_mesh.h"

#include <array>
#include <string>
#include <vector>

namespace bonemoss::solid {

enum class Boolean { Join, Cut, Common };
inline constexpr std::array<std::string_view, 3> kBooleanNames{"join", "cut", "common"};

struct Combined {
    mesh::PolyMesh mesh;            ///< quads away from the seams, triangles at them
    std::vector<std::string> notes; ///< what had to be closed first
};

/// Exact union, difference (first minus second) or intersection of two solids, with a sharp seam. Open meshes are
/// closed first, and said. Can be cancelled through progress. BadValue where one crosses itself at the seam or bounds no volume; Empty when nothing is left.
/// O((n + k) log n) for k crossing faces; of single shells only what is near the seam is worked on, beside O(n) to find it. S. Loriot et al., "Polygon Mesh Processing", CGAL 5.5 manual: corefinement.
Result<Combined> combine(const mesh::PolyMesh &first, const mesh::PolyMesh &second, Boolean how, const Progress &progress = {});

} // namespace bonemoss::solid
