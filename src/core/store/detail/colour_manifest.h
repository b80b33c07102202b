#pragma once

#include "store/detail/manifest.h"
#include "skin/colour_layer.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::store::detail {

nlohmann::json writeColourLayer(const skin::ColourLayer &layer);
/// A blend or a rule that is not known leaves the layer as it would be without, and a word about it. piece: its name, for that.
skin::ColourLayer readColourLayer(const nlohmann::json &record, const std::string &piece, std::vector<std::string> &damage);

nlohmann::json writePalette(const std::vector<skin::PaletteColour> &palette);
std::vector<skin::PaletteColour> readPalette(const nlohmann::json &list);

nlohmann::json writeOwnPalette(const Creature &creature, const WriteBlob &write);
Status readOwnPalette(const nlohmann::json &manifest, const ReadBlob &read, Creature &creature, std::vector<std::string> &damage);
nlohmann::json writeSchemes(const Creature &creature, const WriteBlob &write);
Status readSchemes(const nlohmann::json &manifest, const ReadBlob &read, Creature &creature, std::vector<std::string> &damage);

} // namespace bonemoss::store::detail
