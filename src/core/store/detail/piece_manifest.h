#pragma once

#include "store/detail/manifest.h"

namespace bonemoss::store::detail {

/// One piece with its layers, levels, masks, groups and guides; blocks go to write.
nlohmann::json writePiece(const Piece &piece, const WriteBlob &write);
/// What its states share in the file they share again in memory. What cannot be read is left empty and named in damage;
/// without body or faces there is no piece: Damaged. Throws what the JSON library throws.
Result<std::shared_ptr<const Piece>> readPiece(const nlohmann::json &j, const ReadBlob &read, std::vector<std::string> &damage);

} // namespace bonemoss::store::detail
