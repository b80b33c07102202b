// Strokes: what they may be told, how they run on a skin, and where they are repeated.
#include "command/region.h"
#include "document/ops/reknit.h"
#include "command/sculpt/stroke_fields.h"
#include "command/stroke_command.h"
#include "skin/levels.h"
#include "skin/local_density.h"
#include "image/picture.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::command {

using nlohmann::json;

namespace {

sculpt::StrokeSettings settingsOf(const Params &p)
{
    return readFields(strokeFields(), p);
}

/// What is wrong with the settings of a stroke beyond what the table says; empty when nothing.
std::string complaintAbout(const Params &p, const Piece &piece, std::uint32_t layer)
{
    const sculpt::Tool tool = *sculpt::toolNamed(p.text("tool"));
    if (p.has("curve")) {
        const std::vector<float> heights = p.numbers("curve");
        if (heights.size() != sculpt::kFirstDrawn.size()
            || std::any_of(heights.begin(), heights.end(), [](float h) { return h < 0 || h > 1; }))
            return fmt::format("the falloff's curve needs {} heights from 0 to 1", sculpt::kFirstDrawn.size());
    }
    if (p.text("plane") == "locked" && squaredLength(p.point("planeNormal")) == 0)
        return "a locked plane needs a normal";
    if (const skin::Layer *l = piece.skin.layer(layer); l && l->isLocked && tool != sculpt::Tool::Mask)
        return fmt::format("has the layer {} locked; unlock it first", l->name);
    if (tool == sculpt::Tool::Restore && layer == 0)
        return "is the body; Restore goes back to the skin without a layer, so choose a layer";
    if (changesFaces(tool) && !piece.skin.links.empty())
        return "has levels, and this tool makes new faces; delete the levels below and above the one in hand first";
    return {};
}

Result<Creature> stroke(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    auto layer = findLayer(**piece, p.value("layer"));
    if (!layer)
        return layer.error();
    if (const std::string why = complaintAbout(p, **piece, *layer); !why.empty())
        return Error{ErrorCode::BadValue, (*piece)->name, why};
    sculpt::StrokeSettings settings = settingsOf(p);
    Creature after = before;
    if (needsHandLayer((*piece)->skin, *layer, settings.tool))
        layer = handLayer((*piece)->skin, *layer, after.nextId);
    settings.symmetry = (*piece)->symmetry;
    if (settings.tool == sculpt::Tool::Stamp && !(settings.picture = stampNamed(before, settings.stamp)))
        return Error{ErrorCode::Unknown, "stamp", fmt::format("there is no stamp \"{}\"", settings.stamp)};
    const auto stencil = stencilOf(before, p);
    if (!stencil)
        return stencil.error();
    settings.stencil = *stencil;
    LiveStroke live((*piece)->skin, settings, *layer);
    for (const sculpt::PenSample &s : p.samples("samples"))
        live.add(s);
    if (const Status done = live.finish((*piece)->skin); !done)
        return done.error();
    if (p.has("reknit") && p.number("reknit") > 0 && !changesFaces(settings.tool)) {
        auto again = reknitted((*piece)->skin, {p.number("reknit"), 0}, context, false);
        if (!again)
            return again.error();
        (*piece)->skin = std::move(*again);
    }
    return putBack(std::move(after), std::move(*piece));
}

Result<Creature> setSymmetry(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    sculpt::Symmetry &s = (*piece)->symmetry;
    if (p.has("plane"))
        s.hasPlane = p.isOn("plane");
    if (p.has("around"))
        s.around = int(p.integer("around"));
    const auto direction = [&](const char *name, Vec3f &to) {
        if (!p.has(name))
            return true;
        const Vec3f v = normalized(p.point(name));
        if (v == Vec3f{})
            return false;
        to = v;
        return true;
    };
    if (!direction("normal", s.normal) || !direction("axis", s.axis))
        return Error{ErrorCode::BadValue, "piece.symmetry", "a normal or an axis needs a length"};
    if (p.has("point"))
        s.point = p.point("point");
    if (p.has("axisPoint"))
        s.axisPoint = p.point("axisPoint");
    return putBack(before, std::move(*piece));
}

std::vector<ParamSpec> strokeParams()
{
    std::vector<ParamSpec> params{
        pieceParam(), plainParam(ParamKind::Reference, "layer", "", "layer the stroke goes to; 0 is the body", "0"),
        required(plainParam(ParamKind::Samples, "samples", "mm", "pen readings; see the recipe format"))};
    for (ParamSpec &s : specsOf(strokeFields()))
        params.push_back(std::move(s));
    params.push_back(numberParam("reknit", "mm", "knits the piece again at this spacing when the stroke is done", 0, 1000));
    for (ParamSpec &s : stencilParams(false))
        params.push_back(std::move(s));
    return params;
}

} // namespace

json strokeCommand(std::uint32_t piece, std::uint32_t layer, const sculpt::StrokeSettings &s,
                   const std::vector<sculpt::PenSample> &samples)
{
    json rows = json::array();
    const auto row = [](Vec3f v) { return std::array<float, 3>{v.x, v.y, v.z}; };
    for (const sculpt::PenSample &q : samples) {
        const auto o = row(q.origin), d = row(q.direction);
        rows.push_back({o[0], o[1], o[2], d[0], d[1], d[2], q.pressure, q.timeMs});
        if (s.tilt > 0 && !(q.lean == Vec3f{}))
            for (const float v : row(q.lean))
                rows.back().push_back(v);
    }
    json c = {{"do", "sculpt.stroke"}, {"piece", piece}, {"layer", layer}, {"samples", rows}};
    writeFields(strokeFields(), s, c);
    if (s.stencil)
        writeStencil(*s.stencil, c);
    return c;
}

Result<sculpt::StrokeSettings> strokeSettings(json command)
{
    if (!command.is_object())
        return Error{ErrorCode::BadValue, "tool", "settings must be an object"};
    command["samples"] = json::array();
    const auto p = Params::check({"sculpt.stroke", "", "", strokeParams(), stroke}, command);
    if (!p)
        return p.error();
    if (const std::string why = complaintAbout(*p, {}, 1); !why.empty())
        return Error{ErrorCode::BadValue, "tool", why};
    return settingsOf(*p);
}

std::vector<CommandSpec> strokeCommands()
{
    ParamSpec around = numberParam("around", "", "times about the axis, itself counted", 1, sculpt::Symmetry::kMostAround);
    around.kind = ParamKind::Integer;
    return {
        {"sculpt.stroke", "Stroke", "One stroke of a tool, from its pen readings.", strokeParams(), stroke},
        {"piece.symmetry",
         "Symmetry",
         "Where strokes on a piece are repeated: across a plane, around an axis, or both. At first the middle plane.",
         {pieceParam(), switchParam("plane", "across a plane"), plainParam(ParamKind::Point, "point", "mm", "of the plane"),
          plainParam(ParamKind::Point, "normal", "", "of the plane"), around,
          plainParam(ParamKind::Point, "axisPoint", "mm", "of the axis"), plainParam(ParamKind::Point, "axis", "", "its way")},
         setSymmetry},
    };
}

} // namespace bonemoss::command
