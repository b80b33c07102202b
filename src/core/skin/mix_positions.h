#pragma once

#include "skin/skin.h"

namespace bonemoss::skin {

/// The first half of mixBlocks: where the vertices of these blocks are shown, as the layers stand. What follows from that
/// (normals, bounds) is left as it was: for who makes it anew anyway. O(layers * vertices of those blocks), parallel.
void mixPositions(Skin &skin, const std::vector<std::uint32_t> &blocks);

} // namespace bonemoss::skin
