#pragma once

#include "command/command.h"

#include <nlohmann/json_fwd.hpp>

#include <functional>

namespace bonemoss::command {

/// Reads a recipe file: {"format": "bonemoss-recipe", "version": 1, "commands": [...]}.
/// "after": a recipe in its folder, whose commands come first. Errors: Unreadable, Malformed, Unsupported (a newer version).
Result<std::vector<nlohmann::json>> readRecipe(const std::filesystem::path &path);
/// Paths of files are written as seen from the recipe's folder where they lie near it.
Status writeRecipe(const std::filesystem::path &path, const std::vector<nlohmann::json> &commands);

/// Applies commands one after another. On an error the number of the command is in its subject.
/// after, when given, is called with the state each command led to.
Result<Creature> replay(const Creature &start, const std::vector<nlohmann::json> &commands, CommandContext &context,
                        const std::function<void(const Creature &, const nlohmann::json &)> &after = {});

} // namespace bonemoss::command
