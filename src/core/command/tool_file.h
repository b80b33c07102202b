#pragma once

#include "base/result.h"
#include "sculpt/stroke.h"

#include <filesystem>

namespace bonemoss::command {

/// A tool with its settings, as a person keeps it: {"format": "bonemoss-tool", "version": 1, "settings": {...}}, the settings being
/// those of sculpt.stroke without the stroke. Errors: Unreadable, Malformed, Unsupported (a newer version), BadValue.
Result<sculpt::StrokeSettings> readTool(const std::filesystem::path &path);
Status writeTool(const std::filesystem::path &path, const sculpt::StrokeSettings &settings);

} // namespace bonemoss::command
