#pragma once

#include "field/knit.h"
#include "field/sign_grid.h"

namespace bonemoss::field {

/// Signs and crossings of a distance source: blocks found by descent with distance bounds, crossings
/// by one step of the secant method between samples of opposite sign.
/// O(surface area in cells). Errors as crossMesh.
Result<SignGrid> crossSource(const DistanceSource &source, float spacing, const Progress &progress = {});

} // namespace bonemoss::field
