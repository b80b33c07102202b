#pragma once

#include "document/ops/growths.h"
#include "document/creature.h"
#include "growth/growth.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::command {

/// The command that grows this on a piece: in a layer that is a growth, or in a new one (0).
nlohmann::json growCommand(std::uint32_t piece, std::uint32_t layer, const growth::Growth &growth);

} // namespace bonemoss::command
