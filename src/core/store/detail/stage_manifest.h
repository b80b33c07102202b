#pragma once

#include "store/detail/manifest.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::store::detail {

nlohmann::json writeStage(const Creature &creature, const WriteBlob &write);
/// What is missing or no number stays as in a new creature; what cannot be read is named in damage.
Status readStage(const nlohmann::json &manifest, const ReadBlob &read, Creature &creature, std::vector<std::string> &damage);

} // namespace bonemoss::store::detail
