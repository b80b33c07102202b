#pragma once

#include "creature/creature.h"

#include <filesystem>

namespace bonemoss::creature {

/// Writes a creature that holds one layer and the body it lies on, nothing else: for another creature to take with layer.take.
/// What was at the path goes. Errors: as of saveAs. O(vertices).
Status saveLayer(const std::filesystem::path &path, const Piece &piece, const detail::Layer &layer);

} // namespace bonemoss::creature
