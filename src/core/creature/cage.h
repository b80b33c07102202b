#pragma once

#include "mesh/poly_mesh.h"

#include <cstdint>
#include <string>

namespace bonemoss::creature {

/// A low mesh of hard edges beside the skin: props, straps, brow strips. Shown smooth, edited as it is.
struct Cage {
    std::uint32_t id = 0;
    std::string name;
    mesh::PolyMesh mesh; ///< in creature space, mm
    int smooth = 2;      ///< Catmull-Clark steps that it is shown and handed over with, 0 to 4
    bool isMirrored = false, isHidden = false, isLocked = false;
};

/// With its twin across the middle plane, the two sharing what lies on it; then smoothed.
mesh::PolyMesh shownCage(const Cage &cage);

} // namespace bonemoss::creature
