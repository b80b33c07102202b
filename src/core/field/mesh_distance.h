#pragma once

#include "base/result.h"
#include "field/knit.h"
#include "mesh/surface.h"

#include <memory>
#include <vector>

namespace bonemoss::field {

/// Distance to the solid that a surface encloses: to its nearest face, with the sign from winding along lines at a
/// spacing (mm) and, nearer than that, from the side of the surface. Errors as crossMesh. O(surface area in cells).
Result<std::unique_ptr<DistanceSource>> distanceOf(const mesh::Surface &surface, float spacing);

enum class Blend { Join, Cut, Common };

/// Solids blended into one: all together, the others out of the first, or what all have in common; melting into each
/// other over `melt` mm. A. Ricci, "A Constructive Geometry for Computer Graphics", 1973, with a quadratic blend.
std::unique_ptr<DistanceSource> blended(std::vector<std::unique_ptr<DistanceSource>> parts, Blend how, float melt);

/// A solid grown by some mm, or (below 0) shrunk: edges and corners of what grows become round.
std::unique_ptr<DistanceSource> offsetBy(std::unique_ptr<DistanceSource> solid, float mm);

} // namespace bonemoss::field
