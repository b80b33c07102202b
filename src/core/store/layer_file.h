#pragma once

#include "document/creature.h"

#include <filesystem>

namespace bonemoss::store {

/// Writes a creature that holds one layer and the body it lies on, nothing else: for another creature to take with layer.take.
/// What was at the path goes. Errors: as of saveAs. O(vertices).
Status saveLayer(const std::filesystem::path &path, const document::Piece &piece, const skin::Layer &layer);

} // namespace bonemoss::store
