#pragma once

#include "base/result.h"
#include "document/creature.h"
#include "sculpt/tool.h"

#include <memory>
#include <string>

namespace bonemoss::document {

/// The finest level of a piece that a command only looks at.
skin::Skin wholeSkin(const Piece &piece);

/// The mask that a command names: the one in hand ("hand"), a kept one, or none ("none"); inverted on wish.
Result<mesh::BlockArray<std::uint8_t>> maskNamed(const skin::Skin &skin, const std::string &from, bool isInverted);

/// A name for a layer that no other of the skin has.
std::string layerName(const skin::Skin &skin, const std::string &wanted);

/// Whether a stroke on a layer goes to its hand layer: a growth is only changed by what shows of it.
bool needsHandLayer(const skin::Skin &skin, std::uint32_t layer, sculpt::Tool tool);

/// The layer above a growth that holds the hand work on it; made when there is none.
std::uint32_t handLayer(skin::Skin &skin, std::uint32_t growth, std::uint32_t &nextId);

/// The creature with one more piece, under that name or one like it.
Creature withNewPiece(Creature creature, const std::string &name, skin::Skin skin);

/// The creature with a taken piece in its new shape.
Creature putBack(Creature creature, std::shared_ptr<const Piece> piece);

} // namespace bonemoss::document
