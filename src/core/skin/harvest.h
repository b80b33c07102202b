#pragma once

#include "base/result.h"
#include "image/picture.h"
#include "mesh/surface.h"

#include <optional>

namespace bonemoss::skin {

/// Groups of a skin, one of which is meant.
struct OneGroup {
    const mesh::BlockArray<std::uint16_t> *groupOf = nullptr; ///< of each vertex; null: all of the skin is meant
    std::uint16_t number = 0;
};

/// Where a stamp is taken from a skin: a rectangle about a place.
struct HarvestSpot {
    Vec3f at, normal; ///< mm; unit, out of the skin
    Vec3f up;         ///< towards the picture's top; need not lie in the skin
    float size = 10;  ///< mm, half its width: as the size of a stamp's print
    int pixels = 256; ///< along the longer side
    float tall = 0;   ///< mm, half its height; 0: as wide
    OneGroup group{}; ///< what does not belong to it is left out, and its border fades to the base
};

struct Harvest {
    image::HeightPicture picture; ///< 0.5 is the base
    float depth = 0;              ///< mm from the base to the highest or deepest place
};

/// The rectangle about a group as it lies: square to the mean of its normals. Nothing when the group is empty, or goes so far
/// round that its normals have no mean. up: as in HarvestSpot. O(vertices).
std::optional<HarvestSpot> spotAbout(const mesh::Surface &surface, const OneGroup &group, Vec3f up);

/// The relief of a skin over its own base, as a stamp: rays down on to the rectangle; the base is the quadric that fits its rim,
/// or the group's, best (least squares), so that the curve of the body stays behind and what lies in the middle does not.
/// Pressed at `depth` with full strength on level skin it gives the same relief. Errors: Empty when less than half of the
/// rectangle meets skin, or next to nothing of the group does. O(pixels^2 * log faces).
Result<Harvest> harvest(const mesh::Surface &surface, const HarvestSpot &spot);

} // namespace bonemoss::skin
