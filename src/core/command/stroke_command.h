#pragma once

#include "document/ops/live_stroke.h"
#include "skin/skin.h"
#include "sculpt/stroke.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>

namespace bonemoss::command {

/// What a stroke is laid on.
struct StrokeOn {
    std::uint32_t piece = 0, layer = 0;
    bool isPosed = false;      ///< on the creature as it stands
    std::string bone;          ///< whose weights it changes; empty for the skin itself
    bool evensWeights = false; ///< of all bones
};
/// The command that replays a stroke.
nlohmann::json strokeCommand(const StrokeOn &on, const sculpt::StrokeSettings &settings, std::vector<sculpt::PenSample> samples);

/// The settings in such a command, of which only the tool must be there; samples, piece and layer are not looked at.
Result<sculpt::StrokeSettings> strokeSettings(nlohmann::json command);

} // namespace bonemoss::command
