#pragma once

#include "base/space_map.h"
#include "skin/skin.h"

#include <optional>

namespace bonemoss::skin {

/// Which part of a skin is moved.
struct Region {
    std::optional<Vec3f> island; ///< only the island nearest to this place, mm
    std::uint16_t group = 0;     ///< only this group; 0 for all
    bool hasLine = false;        ///< nothing before `from`, all of it beyond `to`, softly between
    Vec3f from, to{0, 1, 0};     ///< mm
};

/// How far each vertex takes part, 0 to 1: the region, less what is masked. Empty when nothing does. O(vertices).
std::vector<float> sharesOf(const Skin &skin, const Region &region);

/// A turn about a pivot with a change of size along the creature's axes before it, and a way gone after it. A share of it is a
/// share of the angle, of the change of size and of the way.
struct Motion {
    Vec3f pivot, by;
    Vec3f axis{0, 1, 0}; ///< unit
    float angle = 0;     ///< radians
    Vec3f scale{1, 1, 1};
    std::optional<Vec3f> mirror; ///< unit normal of a plane through mirrorPoint: beyond it the mirrored motion
    Vec3f mirrorPoint;
};

/// Moves a part of the skin; layers turn and grow along with it. shares: of each vertex, as sharesOf gives them. O(vertices),
/// blocks that take no part stay shared. Parallel, the same on any number of threads.
void move(Skin &skin, const std::vector<float> &shares, const Motion &motion);

/// Changes space about a part of the skin: body as the map says, layers turned along with it.
void deform(Skin &skin, const std::vector<float> &shares, const SpaceMap &map);

} // namespace bonemoss::skin
