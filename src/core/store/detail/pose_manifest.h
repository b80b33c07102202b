#pragma once

#include "store/detail/manifest.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::store::detail {

nlohmann::json writePosing(const Creature &creature, const WriteBlob &write);
/// Turns of bones that are not there any more are kept: they count again when their form comes back.
Status readPosing(const nlohmann::json &manifest, const ReadBlob &read, Creature &creature, std::vector<std::string> &damage);

} // namespace bonemoss::store::detail
