#pragma once

#include "base/item.h"
#include "mesh/poly_mesh.h"

namespace bonemoss::document {

/// A low mesh of hard edges beside the skin: props, straps, brow strips. Shown smooth, edited as it is.
struct Cage : Item {
    mesh::PolyMesh mesh; ///< in creature space, mm
    int smooth = 2;      ///< Catmull-Clark steps that it is shown and handed over with, 0 to 4
    bool isMirrored = false;
};

/// With its twin across the middle plane, the two sharing what lies on it; then smoothed.
mesh::PolyMesh shownCage(const Cage &cage);

} // namespace bonemoss::document
