#pragma once

#include "document/creature.h"
#include "growth/growth.h"

#include <string>
#include <vector>

namespace bonemoss::document {

/// Whether a growth stands in single scales or spots, which can be picked and masked; lines, nets and prints do not.
bool hasScales(const growth::GrowthKind &kind);

/// A number that changes when the skin without its growths does, or the guides on it. O(vertices), at the speed of memory.
std::uint64_t groundMark(const Piece &piece);

/// The growths of a piece that no longer fit it, by their ids.
std::vector<std::uint32_t> staleGrowths(const Piece &piece);

/// Says when the vertices of a skin lie too far apart for what a growth makes; empty when they do not.
std::string coarseness(const skin::Skin &skin, const growth::Growth &growth, const skin::Layer *layer = nullptr);

} // namespace bonemoss::document
