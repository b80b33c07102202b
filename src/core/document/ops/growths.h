#pragma once

#include "document/creature.h"
#include "growth/growth.h"
#include "base/operation.h"

#include <string>
#include <vector>

namespace bonemoss::document {

/// A number that changes when the skin without its growths does, or the guides on it. O(vertices), at the speed of memory.
std::uint64_t groundMark(const Piece &piece);

/// The growths of a piece that no longer fit it, by their ids.
std::vector<std::uint32_t> staleGrowths(const Piece &piece);

/// Says when the vertices of a skin lie too far apart for what a growth makes; empty when they do not.
std::string coarseness(const skin::Skin &skin, const growth::Growth &growth, const skin::Layer *layer = nullptr);

/// What a growth on a piece follows (surroundings.h), with the stamp and the map of sizes that it names. Unknown for those.
Result<growth::Surroundings> surroundingsOf(const Creature &creature, const Piece &piece, const growth::Growth &growth);

/// Grows a layer of a piece by a rule; context is told when the skin is too coarse for it. As growth::grow.
Status growLayer(const Creature &creature, Piece &piece, std::uint32_t layer, growth::Growth growth, Operation &context);

} // namespace bonemoss::document
