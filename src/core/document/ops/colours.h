#pragma once

#include "base/operation.h"
#include "colour/rule.h"
#include "document/creature.h"

#include <string>
#include <vector>

namespace bonemoss::document {

/// A number that changes when what a rule goes by does: the skin as it is shown, guides, and what the rule names. O(vertices), at the speed
/// of memory.
std::uint64_t colourMark(const Creature &creature, const Piece &piece, const colour::Rule &rule);
/// Colour layers of a piece whose rules no longer fit it.
std::vector<std::uint32_t> staleColours(const Creature &creature, const Piece &piece);
/// Says when the vertices of a skin lie too far apart for what a rule draws; empty when they do not.
std::string coarseness(const skin::Skin &skin, const colour::Rule &rule);
/// Runs a rule for a colour layer of a piece; context is told when the skin is too coarse for it. Errors: Unknown for what it names and is
/// not there; as colour::run.
Status runRule(const Creature &creature, Piece &piece, std::uint32_t layer, colour::Rule rule, Operation &context);

const skin::PaletteColour *paletteColour(const Creature &creature, std::uint32_t id);
/// An entry of the palette has changed: what was painted with it follows. Composes the layers that use it.
void followPalette(Creature &creature, const std::vector<skin::PaletteColour> &changed);

/// How the creature is coloured now.
Scheme schemeOf(const Creature &creature, std::uint32_t id, std::string name);
/// Colours it that way. Layers and entries that are gone are passed over, new ones stay as they are; context is told of outgrowths that
/// could not be made anew.
void useScheme(Creature &creature, const Scheme &scheme, Operation &context);

} // namespace bonemoss::document
