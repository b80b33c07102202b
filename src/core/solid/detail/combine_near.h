#pragma once

#include "solid/combine.h"

#include <optional>

namespace bonemoss::solid::detail {

/// What combine() makes, worked out near the seam alone: there both are cut along it, of each patch one point tells whether it
/// is inside the other, and what hangs on a patch that stays, stays as it is. Nothing where that does not give a solid (they
/// touch, lie in one plane, cross themselves) or nearSeam() gives nothing. O(n) beside the seam.
std::optional<mesh::PolyMesh> combinedNearSeam(const mesh::PolyMesh &first, const mesh::PolyMesh &second, Boolean how,
                                               const Progress &progress = {});

} // namespace bonemoss::solid::detail
