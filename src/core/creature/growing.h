#pragma once

#include "creature/creature.h"
#include "detail/growth.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::creature {

/// The command that grows this on a piece: in a layer that is a growth, or in a new one (0).
nlohmann::json growCommand(std::uint32_t piece, std::uint32_t layer, const detail::Growth &growth);

/// Whether a growth stands in single scales or spots, which can be picked and masked; lines, nets and prints do not.
bool hasScales(const detail::GrowthKind &kind);

/// A number that changes when the skin without its growths does, or the guides on it. O(vertices), at the speed of memory.
std::uint64_t groundMark(const Piece &piece);
/// The growths of a piece that no longer fit it, by their ids.
std::vector<std::uint32_t> staleGrowths(const Piece &piece);

/// Says when the vertices of a skin lie too far apart for what a growth makes; empty when they do not.
std::string coarseness(const detail::Skin &skin, const detail::Growth &growth, const detail::Layer *layer = nullptr);

} // namespace bonemoss::creature
