#include "command/tool_file.h"

#include "base/files.h"
#include "command/stroke_command.h"

#include <nlohmann/json.hpp>

namespace bonemoss::command {

using nlohmann::json;

namespace {
constexpr const char *kToolFormat = "bonemoss-tool";
constexpr int kToolVersion = 1;
} // namespace

Result<sculpt::StrokeSettings> readTool(const std::filesystem::path &path)
{
    const auto bytes = readFile(path);
    if (!bytes)
        return bytes.error();
    const char *text = reinterpret_cast<const char *>(bytes->data());
    const json whole = json::parse(text, text + bytes->size(), nullptr, false);
    if (!whole.is_object() || !whole.contains("format") || whole["format"] != kToolFormat || !whole.contains("settings"))
        return Error{ErrorCode::Malformed, shownPath(path), "is no tool of this program"};
    if (const auto version = whole.find("version");
        version != whole.end() && version->is_number() && version->get<double>() > kToolVersion)
        return Error{ErrorCode::Unsupported, shownPath(path), "was written by a newer program"};
    auto settings = strokeSettings(whole["settings"]);
    if (!settings)
        return Error{settings.error().code, shownPath(path), settings.error().text()};
    return settings;
}

Status writeTool(const std::filesystem::path &path, const sculpt::StrokeSettings &settings)
{
    json tool = strokeCommand({}, settings, {});
    for (const char *ofTheStroke : {"do", "piece", "layer", "samples", "mirror"})
        tool.erase(ofTheStroke);
    const json whole{{"format", kToolFormat}, {"version", kToolVersion}, {"settings", tool}};
    return writeFile(path, whole.dump(2) + "\n");
}

} // namespace bonemoss::command
