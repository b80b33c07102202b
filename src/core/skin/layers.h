#pragma once

#include "skin/skin.h"
#include "sculpt/symmetry.h"

namespace bonemoss::skin {

// What becomes of the layers of a skin. Each of these changes what is shown in the blocks the layer holds, on every level that
// has the layer; the layer named must be there.

/// Takes a layer out; the hand work on a growth becomes an ordinary layer.
void removeLayer(Skin &skin, std::uint32_t layer);

/// Puts a layer at another place among the layers, counted from below; past the end means on top.
void moveLayer(Skin &skin, std::uint32_t layer, std::size_t to);

/// Shows one layer alone, with its hand work, or (isAlone false) all that are switched on again.
void showAlone(Skin &skin, std::uint32_t layer, bool isAlone);

/// A second one of a layer right above it, unlocked, with that id and name.
Status duplicateLayer(Skin &skin, std::uint32_t layer, std::uint32_t id, const std::string &name);

/// Changes what a layer holds to its image under a map of space; growths become painted. missed: share (0 to 1) of the level in
/// hand that has no counterpart, and nothing of the layer now. As copiedLayer.
Status mapLayer(Skin &skin, std::uint32_t layer, const sculpt::Isometry &place, double &missed);

/// Puts a copy of a layer of another skin on top, by where it lies, with that id and name. from: a finest level. missed as above.
Status layOver(Skin &skin, const Skin &from, const Layer &layer, std::uint32_t id, const std::string &name, double &missed);

} // namespace bonemoss::skin
