#include "command/recipe.h"

#include "base/files.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::command {

using nlohmann::json;

namespace {
constexpr int kRecipeVersion = 1;
constexpr const char *kRecipeFormat = "bonemoss-recipe";

/// A path as a recipe in that folder names it: from the folder where file and recipe would move together (the
/// file lies in it, below it, or at most two folders up), else as it is.
std::string pathFrom(const std::filesystem::path &folder, const std::filesystem::path &file)
{
    const std::filesystem::path near = file.lexically_normal().lexically_relative(folder);
    if (!file.is_absolute() || near.empty())
        return shownPath(file);
    return near.string().starts_with("../../../") ? shownPath(file) : near.string();
}
} // namespace

static Result<std::vector<json>> readAfter(const std::filesystem::path &path, int deep)
{
    constexpr int kDeepest = 8; // a recipe that comes after itself has no end
    const auto bytes = readFile(path);
    if (!bytes)
        return bytes.error();
    const char *text = reinterpret_cast<const char *>(bytes->data());
    const json doc = json::parse(text, text + bytes->size(), nullptr, false, true);
    const auto malformed = [&](std::string why) { return Error{ErrorCode::Malformed, shownPath(path), std::move(why)}; };
    if (doc.is_discarded())
        return malformed("is not JSON");
    if (!doc.is_object() || doc.value("format", json()) != kRecipeFormat)
        return malformed("is not a Bone Moss recipe");
    const auto version = doc.find("version");
    if (version == doc.end() || !version->is_number_integer())
        return malformed("does not say its version");
    if (version->get<int>() > kRecipeVersion)
        return Error{
            ErrorCode::Unsupported, shownPath(path),
            fmt::format("was written for version {} of the format; this program knows {}", version->dump(), kRecipeVersion)};
    const auto commands = doc.find("commands");
    if (commands == doc.end() || !commands->is_array())
        return malformed("holds no list of commands");
    std::vector<json> all;
    if (const auto after = doc.find("after"); after != doc.end()) {
        if (!after->is_string() || std::filesystem::path(after->get<std::string>()).has_parent_path())
            return malformed("comes \"after\" something that is not a file in its folder");
        if (deep == kDeepest)
            return malformed("comes after itself, or after too many others");
        auto first = readAfter(path.parent_path() / after->get<std::string>(), deep + 1);
        if (!first)
            return first.error();
        all = std::move(*first);
    }
    all.insert(all.end(), commands->begin(), commands->end());
    return all;
}

Result<std::vector<json>> readRecipe(const std::filesystem::path &path)
{
    return readAfter(path, 0);
}

Status writeRecipe(const std::filesystem::path &path, const std::vector<json> &commands)
{
    std::string text = fmt::format("{{\n\"format\": \"{}\",\n\"version\": {},\n\"commands\": [\n", kRecipeFormat, kRecipeVersion);
    std::error_code failed; // then the paths stay as they are
    const std::filesystem::path folder = std::filesystem::absolute(path, failed).lexically_normal().parent_path();
    for (std::size_t i = 0; i < commands.size(); ++i) {
        json c = commands[i];
        if (const auto file = c.find("path"); file != c.end() && file->is_string() && !failed)
            *file = pathFrom(folder, file->get<std::string>());
        text += c.dump(-1, ' ', false, json::error_handler_t::replace) + (i + 1 < commands.size() ? ",\n" : "\n");
    }
    text += "]\n}\n";
    return writeFile(path, text);
}

Result<Creature> replay(const Creature &start, const std::vector<json> &commands, CommandContext &context,
                        const std::function<void(const Creature &, const json &)> &after)
{
    Creature now = start;
    for (std::size_t i = 0; i < commands.size(); ++i) {
        if (context.progress.isCancelled())
            return Error{ErrorCode::Cancelled, "recipe", "stopped on request"};
        context.progress.say(float(i) / float(commands.size()), titleOf(commands[i]));
        CommandContext inner{{{context.progress.stop, {}}, {}}, context.folder};
        auto next = apply(now, commands[i], inner);
        for (Note &note : inner.notes)
            context.notes.push_back(std::move(note));
        if (!next)
            return Error{next.error().code, fmt::format("command {} ({})", i + 1, next.error().subject), next.error().detail};
        now = std::move(*next);
        if (after)
            after(now, commands[i]);
    }
    return now;
}

} // namespace bonemoss::command
