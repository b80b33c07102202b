#pragma once

#include "command/command.h"

#include <nlohmann/json.hpp>

namespace bonemoss::command {

/// The parameters of a command, checked against its table: kinds, ranges, choices, unknown names, and that nothing is missing.
Result<nlohmann::json> checkParams(const std::vector<ParamSpec> &specs, const nlohmann::json &command);

/// What is wrong with a value for a parameter; empty when it fits.
std::string complaint(const ParamSpec &param, const nlohmann::json &value);

} // namespace bonemoss::command
