#pragma once

#include "base/progress.h"
#include "skin/skin.h"

namespace bonemoss::growth {

struct RepeatSettings {
    float width = 4;        ///< mm, of the pattern that is looked for
    float reach = 40;       ///< mm: farther apart the eye does not compare
    float likeness = 0.95f; ///< 0 to 1, of the two reliefs
};

/// A place whose relief is that of an earlier place again, at the same turn and size.
struct RepeatSpot {
    Vec3f at, of;       ///< mm: it, and the place it repeats
    float likeness = 0; ///< correlation of the two reliefs
};

/// Where the relief of the layers (what is shown over the body) repeats itself. The highest places of the relief are compared
/// with each other: patches of 9 by 9 heights about them, upright as the crown has it, by their correlation. One entry for each place but
/// the first of a set. O(vertices + places * those within reach). The same on any number of threads. Cancelled gives none.
std::vector<RepeatSpot> findRepeats(const skin::Skin &skin, const RepeatSettings &settings, const Progress &progress = {});

/// A mask of what lies within half a width (mm) of the spots. O(vertices * spots).
mesh::BlockArray<std::uint8_t> maskOfSpots(const skin::Skin &skin, const std::vector<RepeatSpot> &spots, float width);

/// Makes repeated places differ: what the painted, unlocked layers hold about each is made weaker and stronger in patches, never turned over.
/// Returns how many vertices changed. Masked vertices stay.
std::size_t varySpots(skin::Skin &skin, const std::vector<RepeatSpot> &spots, float width, std::uint64_t seed);

} // namespace bonemoss::growth
