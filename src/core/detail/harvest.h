#pragma once

#include "base/result.h"
#include "image/picture.h"
#include "mesh/surface.h"

namespace bonemoss::detail {

/// Where a stamp is taken from a skin: a square about a place.
struct HarvestSpot {
    Vec3f at, normal; ///< mm; unit, out of the skin
    Vec3f up;         ///< towards the picture's top; need not lie in the skin
    float size = 10;  ///< mm, half the side: as the size of a stamp's print
    int pixels = 256; ///< a side
};

struct Harvest {
    image::HeightPicture picture; ///< 0.5 is the base
    float depth = 0;              ///< mm from the base to the highest or deepest place
};

/// The relief of a skin over its own base, as a stamp: rays down on to the square; the base is the quadric that fits the
/// square's rim best (least squares), so that the curve of the body stays behind and what lies in the middle does not.
/// Pressed at `depth` with full strength on level skin it gives the same relief. Errors: Empty when less than half of the
/// square meets skin. O(pixels^2 * log faces).
Result<Harvest> harvest(const mesh::Surface &surface, const HarvestSpot &spot);

} // namespace bonemoss::detail
