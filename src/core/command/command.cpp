#include "command/command.h"

#include "document/finite.h"
#include "document/ops/outgrowths.h"
#include "document/ops/posing.h"
#include "command/params.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::command {

using nlohmann::json;

namespace {

json schemaOf(const ParamSpec &p)
{
    static const json numbers = {{"type", "array"}, {"items", {{"type", "number"}}}};
    static const json reference = {{"type", {"string", "integer"}}};
    json s;
    switch (p.kind) {
    case ParamKind::Number: s["type"] = "number"; break;
    case ParamKind::Integer: s["type"] = "integer"; break;
    case ParamKind::Switch: s["type"] = "boolean"; break;
    case ParamKind::Path:
    case ParamKind::Text: s["type"] = "string"; break;
    case ParamKind::Choice: s["enum"] = p.choices; break;
    case ParamKind::Point: s = numbers, s["minItems"] = s["maxItems"] = 3; break;
    case ParamKind::Numbers: s = numbers; break;
    case ParamKind::Points:
    case ParamKind::Samples: s = {{"type", "array"}, {"items", numbers}}; break;
    case ParamKind::Reference: s = reference; break;
    case ParamKind::References: s = {{"type", "array"}, {"items", reference}}; break;
    }
    if (p.kind == ParamKind::Number || p.kind == ParamKind::Integer) {
        if (std::isfinite(p.min))
            s["minimum"] = p.min;
        if (std::isfinite(p.max))
            s["maximum"] = p.max;
    }
    if (!p.defaultJson.empty())
        s["default"] = json::parse(p.defaultJson);
    if (!p.unit.empty())
        s["x-unit"] = p.unit;
    s["description"] = p.description;
    return s;
}

} // namespace

const std::vector<CommandSpec> &commands()
{
    static const std::vector<CommandSpec> all = [] {
        std::vector<CommandSpec> rows;
        for (auto part : {itemCommands(),      armatureCommands(),  orderCommands(),  skinCommands(),  rebuildCommands(),
                          matchCommands(),     levelCommands(),     markCommands(),   maskCommands(),  strokeCommands(),
                          wholeMaskCommands(), pictureCommands(),   manyCommands(),   shapeCommands(), partCommands(),
                          cageCommands(),      layerCommands(),     growthCommands(), stampCommands(), moveCommands(),
                          stencilCommands(),   outgrowthCommands(), colourCommands(), ruleCommands(),  paletteCommands(),
                          poseCommands(),      driveCommands(),     boneCommands(),   lightCommands(), stageCommands(),
                          printCommands(),     plateCommands()})
            rows.insert(rows.end(), part.begin(), part.end());
        return rows;
    }();
    return all;
}

const CommandSpec *findCommand(std::string_view name)
{
    for (const CommandSpec &c : commands())
        if (c.name == name)
            return &c;
    return nullptr;
}

namespace {

/// Layers that corrected a pose before and whose bones are gone now are kept, but show no longer: says so.
void tellLostCorrections(const Creature &before, const Creature &after, CommandContext &context)
{
    const std::vector<std::string> now = lostCorrections(after);
    if (now.empty())
        return;
    const std::vector<std::string> was = lostCorrections(before);
    for (const std::string &name : now)
        if (std::find(was.begin(), was.end(), name) == was.end())
            context.notes.push_back(fmt::format(
                "layer \"{}\" corrects a pose of a bone that is gone: it is kept, but does not show until its drive is changed",
                name));
}

} // namespace

Result<Creature> apply(const Creature &before, const json &command, CommandContext &context)
{
    if (!command.is_object() || !command.contains("do") || !command["do"].is_string())
        return Error{ErrorCode::BadValue, "command", "must be an object with a name under \"do\""};
    const std::string name = command["do"].get<std::string>();
    const CommandSpec *spec = findCommand(name);
    if (!spec)
        return Error{ErrorCode::Unknown, "command", fmt::format("there is no command \"{}\"", name)};
    const auto params = checkParams(spec->params, command);
    if (!params)
        return params.error();
    const std::size_t notes = context.notes.size();
    try { // the one place where an exception of a command ends: the creature stays as it was
        const Creature fresh = hasStaleOutgrowths(before) ? withFreshOutgrowths(before, context) : before;
        auto after = spec->apply(fresh, *params, context);
        if (!after)
            return after;
        after = withOutgrowthsRiding(fresh, std::move(*after), context);
        if (const std::string what = whatIsNotFinite(before, *after); !what.empty()) {
            context.notes.resize(notes, Note(""));
            return Error{ErrorCode::BadValue, name,
                         fmt::format("{} would no longer be a finite number; use less extreme values", what)};
        }
        tellLostCorrections(before, *after, context);
        return after;
    } catch (...) {
        context.notes.resize(notes, Note(""));
        return errorInFlight(name);
    }
}

std::string titleOf(const ParamSpec &param)
{
    if (!param.title.empty())
        return param.title;
    std::string out;
    for (const char c : param.name)
        if (c >= 'A' && c <= 'Z')
            out += ' ', out += char(c - 'A' + 'a');
        else
            out += out.empty() && c >= 'a' && c <= 'z' ? char(c - 'a' + 'A') : c;
    return out;
}

std::string told(const Note &note)
{
    return note.at ? fmt::format("{} (first near {:.4g}, {:.4g}, {:.4g})", note.text, note.at->x, note.at->y, note.at->z)
                   : note.text;
}

std::string titleOf(const json &command)
{
    const auto text = [&](const char *key) { // of anything that may stand in a file
        const auto found = command.is_object() ? command.find(key) : command.end();
        return found != command.end() && found->is_string() ? found->get<std::string>() : std::string();
    };
    const CommandSpec *spec = findCommand(text("do"));
    if (!spec)
        return "?";
    if (spec->name == "sculpt.stroke") {
        std::string tool = text("tool");
        if (tool.empty())
            return spec->title;
        tool[0] = char(std::toupper(static_cast<unsigned char>(tool[0])));
        return tool;
    }
    const std::string about = text("name");
    return about.empty() ? spec->title : spec->title + ": " + about;
}

json commandSchema()
{
    json variants = json::array();
    for (const CommandSpec &c : commands()) {
        json properties = {{"do", {{"const", c.name}}}};
        json needed = {"do"};
        for (const ParamSpec &p : c.params) {
            properties[p.name] = schemaOf(p);
            if (p.isRequired)
                needed.push_back(p.name);
        }
        variants.push_back({{"title", c.title},
                            {"description", c.description},
                            {"type", "object"},
                            {"properties", properties},
                            {"required", needed},
                            {"additionalProperties", false}});
    }
    return {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
            {"title", "Bone Moss command"},
            {"version", 1},
            {"oneOf", variants}};
}

} // namespace bonemoss::command
