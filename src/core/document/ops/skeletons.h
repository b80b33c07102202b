#pragma once

#include "document/creature.h"

#include <optional>
#include <string>
#include <vector>

namespace bonemoss::document {

/// The middle of the flesh near a place, and how thick it is there.
struct Middle {
    Vec3f at;
    float radius = 1; ///< mm, to the nearest skin
};
/// From a place in a skin or on it: each way through it pulls towards its own middle, the short ones most. None where no skin is shown.
std::optional<Middle> middleOf(const Creature &creature, Vec3f near);

/// What a ready skeleton has.
struct SkeletonPlan {
    std::uint32_t legs = 4; ///< 2, 4 or 6
    bool hasArms = false, hasWings = false, hasTail = true;
    bool hasDigits = true; ///< found by the tips of paws and hands
};
/// A joint of a ready skeleton, to be put in its place.
struct Landmark {
    std::string name, bone;       ///< of the joint; of the bone that ends here, empty for none
    std::uint32_t parent = kNone; ///< the landmark where that bone begins
    bool isMirrored = false;      ///< it has a twin across the middle plane
    bool endsLimb = false;        ///< digits may grow from it
    Vec3f at;                     ///< mm
};
/// The joints of a plan where a usual creature in the box of the skins has them: +z in front, +y above.
std::vector<Landmark> landmarksOf(const Creature &creature, const SkeletonPlan &plan);

/// Tips of what sticks out around a place: where the way over the skin from `root` is farther than anywhere about, within a radius, mm.
/// At most `most`, from one side to the other. O(vertices within the radius * log).
std::vector<Vec3f> tipsAround(const Creature &creature, Vec3f root, Vec3f place, float radius, std::size_t most = 6);

} // namespace bonemoss::document
