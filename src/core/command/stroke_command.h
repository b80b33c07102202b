#pragma once

#include "document/ops/live_stroke.h"
#include "skin/skin.h"
#include "sculpt/stroke.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>

namespace bonemoss::command {

/// The command that replays a stroke.
nlohmann::json strokeCommand(std::uint32_t piece, std::uint32_t layer, const sculpt::StrokeSettings &settings,
                             std::vector<sculpt::PenSample> samples, bool isPosed = false);

/// The settings in such a command, of which only the tool must be there; samples, piece and layer are not looked at.
Result<sculpt::StrokeSettings> strokeSettings(nlohmann::json command);

} // namespace bonemoss::command
