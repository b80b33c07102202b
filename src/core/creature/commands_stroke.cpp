// Strokes: what they may be told, how they run on a skin, and where they are repeated.
#include "creature/region.h"
#include "creature/reknit.h"
#include "creature/stroke_command.h"
#include "detail/levels.h"
#include "detail/local_density.h"
#include "image/picture.h"

#include <fmt/format.h>

#include <algorithm>
#include <numbers>

namespace bonemoss::creature {

using nlohmann::json;

namespace {

constexpr float kRadians = std::numbers::pi_v<float> / 180;

sculpt::StrokeSettings settingsOf(const Params &p)
{
    sculpt::StrokeSettings s;
    s.tool = *sculpt::toolNamed(p.text("tool"));
    s.size = p.number("size");
    s.strength = p.number("strength");
    s.falloff = *sculpt::falloffNamed(p.text("falloff"));
    s.spacing = p.number("spacing");
    s.steadiness = p.number("steadiness");
    s.scatter = p.number("scatter");
    s.sizeScatter = p.number("sizeScatter");
    s.isReversed = p.isOn("reverse");
    s.isMirrored = p.isOn("mirror");
    s.isConnected = p.isOn("connected");
    s.pressureToStrength = p.isOn("pressureToStrength");
    s.pressureToSize = p.isOn("pressureToSize");
    s.stamp = p.text("stamp");
    s.randomStrength = p.number("randomStrength"), s.randomFlip = p.isOn("randomFlip");
    s.depth = p.number("depth");
    s.isDragged = p.isOn("drag");
    s.randomTurn = p.number("randomTurn");
    s.turn = p.number("turn") * kRadians;
    s.seed = std::uint32_t(p.integer("seed"));
    s.edge = p.number("edge");
    const auto choice = [&](const char *name, const auto &choices) {
        return std::size_t(std::find(std::begin(choices), std::end(choices), p.text(name)) - std::begin(choices));
    };
    s.planeSide = sculpt::PlaneSide(choice("side", sculpt::kPlaneSides));
    s.planeFrom = sculpt::PlaneFrom(choice("plane", sculpt::kPlaneFroms));
    s.planePoint = p.point("planePoint");
    s.planeNormal = normalized(p.point("planeNormal"));
    s.knead = sculpt::KneadKind(choice("knead", sculpt::kKneadKinds));
    s.shrinks = p.isOn("shrink");
    s.reach = p.number("reach");
    s.isFrontOnly = p.isOn("frontOnly");
    s.isIslandOnly = p.isOn("islandOnly");
    s.guardsThin = p.isOn("guardThin");
    s.rope = p.number("rope");
    s.tilt = p.number("tilt");
    s.limit = p.number("limit");
    s.strengthCurve = p.number("strengthCurve");
    s.sizeCurve = p.number("sizeCurve");
    if (p.has("curve")) {
        const std::vector<float> heights = p.numbers("curve");
        std::copy_n(heights.begin(), std::min(heights.size(), s.drawn.size()), s.drawn.begin());
    }
    return s;
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
    if (const detail::Layer *l = piece.skin.layer(layer); l && l->isLocked && tool != sculpt::Tool::Mask)
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

template <typename Names> std::vector<std::string> words(const Names &names)
{
    return {std::begin(names), std::end(names)};
}

std::vector<ParamSpec> strokeParams()
{
    std::vector<std::string> tools;
    for (std::size_t t = 0; t < sculpt::kToolCount; ++t)
        tools.emplace_back(nameOf(sculpt::Tool(t)));
    ParamSpec layer = plainParam(ParamKind::Reference, "layer", "", "layer the stroke goes to; 0 is the body", "0");
    ParamSpec seed = numberParam("seed", "", "of random turns", 0, 4294967295.0, "1");
    seed.kind = ParamKind::Integer;
    std::vector<ParamSpec> params{
        pieceParam(),
        layer,
        required(choiceParam("tool", "what the stroke does", tools)),
        required(plainParam(ParamKind::Samples, "samples", "mm", "pen readings; see the recipe format")),
        numberParam("size", "mm", "radius of the tool", 0.01, 10000, "10"),
        numberParam("strength", "", "0 to 1", 0, 1, "0.5"),
        choiceParam("falloff", "how it fades to its rim", words(sculpt::kFalloffNames), "\"dome\""),
        numberParam("spacing", "", "between prints, of the radius", 0.02, 4, "0.15"),
        numberParam("steadiness", "", "how much of the path before is kept", 0, 0.95, "0"),
        numberParam("scatter", "", "how far prints fall beside the way, of the radius", 0, 10, "0"),
        numberParam("sizeScatter", "", "by how much prints are smaller, at random", 0, 1, "0"),
        switchParam("reverse", "dig instead of build", "false"),
        switchParam("mirror", "in every place of the piece's symmetry", "true"),
        switchParam("connected", "only skin that hangs together with the middle of the dab", "true"),
        switchParam("pressureToStrength", "pressure sets strength", "true"),
        switchParam("pressureToSize", "pressure sets size", "false"),
        textParam("stamp", "height picture of the stamp tool: one of the creature's own, or one that comes with the program",
                  "\"scales\""),
        numberParam("randomStrength", "", "stamp: how much weaker a print may be, 0 to 1", 0, 1, "0"),
        switchParam("randomFlip", "stamp: every other print or so is its mirror image", "false"),
        numberParam("depth", "mm", "of a stamp, from its middle to its extremes; of a slab its height", 0, 1000, "1"),
        switchParam("drag", "one print drawn out to size and angle", "false"),
        numberParam("randomTurn", "", "of each print, 1 for any angle", 0, 1, "0"),
        numberParam("turn", "deg", "of the picture", -360, 360, "0"),
        seed,
        numberParam("edge", "", "tools that change faces: length of the edges wanted, of the size", 0.01, 1, "0.12"),
        choiceParam("side", "which skin Plane moves", words(sculpt::kPlaneSides), "\"both\""),
        choiceParam("plane", "where Plane's plane lies", words(sculpt::kPlaneFroms), "\"area\""),
        plainParam(ParamKind::Point, "planePoint", "mm", "a point of a locked plane", "[0, 0, 0]"),
        plainParam(ParamKind::Point, "planeNormal", "", "of a locked plane", "[0, 1, 0]"),
        choiceParam("knead", "what Knead does with what it holds", words(sculpt::kKneadKinds), "\"drag\""),
        switchParam("shrink", "smooth without keeping the volume", "false"),
        numberParam("reach", "", "smooth: width of the bumps that go, of the size; 0 for those of single faces", 0, 0.5, "0"),
        switchParam("frontOnly", "nothing that faces away from the dab", "false"),
        switchParam("islandOnly", "where not only connected skin is meant: only the island the stroke began on", "false"),
        switchParam("guardThin", "smooth, relax, restore: where the skin is thinner than the ring its far side stays", "true"),
        numberParam("rope", "", "length of a rope that the tool hangs on, of the size", 0, 10, "0"),
        numberParam("tilt", "", "how far dabs lean with the pen, 0 to 1", 0, 1, "0"),
        numberParam("limit", "mm", "how far a vertex may go in this stroke; 0 for any way", 0, 1000, "0"),
        numberParam("strengthCurve", "", "power of the pressure for strength", 0.2, 5, "1"),
        numberParam("sizeCurve", "", "power of the pressure for size", 0.2, 5, "1"),
        plainParam(ParamKind::Numbers, "curve", "", "of the drawn falloff: 7 heights from the middle to the rim"),
        numberParam("reknit", "mm", "knits the piece again at this spacing when the stroke is done", 0, 1000),
    };
    for (ParamSpec &s : stencilParams(false))
        params.push_back(std::move(s));
    return params;
}

} // namespace

LiveStroke::LiveStroke(const detail::Skin &skin, sculpt::StrokeSettings settings, std::uint32_t layer)
    : m_begunOn(skin.shown.topology), m_surface(std::make_unique<mesh::Surface>(skin.shown)),
      m_mask(std::make_unique<mesh::BlockArray<std::uint8_t>>(skin.mask)), m_layer(layer), m_settings(settings),
      m_stroke(*m_surface, *m_mask, std::move(settings), needsOf(skin, layer))
{
    if (changesFaces(m_settings.tool))
        m_skin = skin;
}

sculpt::StrokeNeeds LiveStroke::needsOf(const detail::Skin &skin, std::uint32_t layer)
{
    sculpt::StrokeNeeds needs;
    needs.evenOut = [this](const sculpt::DabSet &dabs) { return evenOut(dabs); };
    if (const detail::Layer *l = skin.layer(layer); l && m_settings.tool == sculpt::Tool::Restore) {
        detail::Layer seen = *l;
        applyLayerMask(seen);
        needs.layer = seen.offsets, needs.layerStrength = l->shownStrength();
    }
    return needs;
}

/// Takes over what was moved since the last change of faces.
Status LiveStroke::fold()
{
    if (m_settings.tool != sculpt::Tool::Tendril)
        return Done{};
    const Status taken = detail::takeSculpted(m_skin, *m_surface, m_stroke.touched(), m_layer);
    if (taken)
        *m_surface = m_skin.shown;
    return taken;
}

std::vector<std::uint32_t> LiveStroke::evenOut(const sculpt::DabSet &dabs)
{
    if (m_folded)
        m_folded = fold();
    if (!m_folded)
        return {};
    std::vector<detail::Spot> spots;
    for (const sculpt::Dab &d : dabs)
        spots.push_back({d.centre, d.normal, d.radius});
    using detail::Evening;
    const Evening how = m_settings.tool == sculpt::Tool::Tendril                             ? Evening::Both
                        : (m_settings.tool == sculpt::Tool::Denser) != m_settings.isReversed ? Evening::Finer
                                                                                             : Evening::Coarser;
    const auto changed = detail::evenOut(m_skin, spots, dabs[0].amount, how);
    if (!changed.empty()) {
        *m_surface = m_skin.shown;
        *m_mask = m_skin.mask;
    }
    return changed;
}

Status LiveStroke::finish(detail::Skin &skin)
{
    if (changesFaces(m_settings.tool)) {
        if (m_folded)
            m_folded = fold();
        if (!m_folded)
            return m_folded;
        constexpr std::size_t kRoom = 8; // one part in so many may stay unused
        if (m_skin.shown.topology->unusedCount() * kRoom > m_skin.body.size())
            detail::compact(m_skin);
        skin = m_skin;
        return Done{};
    }
    if (m_settings.tool == sculpt::Tool::Mask) {
        skin.mask = *m_mask;
        return Done{};
    }
    return detail::takeSculpted(skin, *m_surface, m_stroke.touched(), m_layer);
}

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
    json c = {{"do", "sculpt.stroke"},
              {"piece", piece},
              {"layer", layer},
              {"tool", nameOf(s.tool)},
              {"size", s.size},
              {"strength", s.strength},
              {"falloff", nameOf(s.falloff)},
              {"spacing", s.spacing},
              {"steadiness", s.steadiness},
              {"reverse", s.isReversed},
              {"mirror", s.isMirrored},
              {"connected", s.isConnected},
              {"pressureToStrength", s.pressureToStrength},
              {"pressureToSize", s.pressureToSize},
              {"samples", rows}};
    if (s.tool == sculpt::Tool::Stamp) {
        c["stamp"] = s.stamp, c["depth"] = s.depth, c["drag"] = s.isDragged;
        c["randomTurn"] = s.randomTurn, c["turn"] = std::clamp(s.turn / kRadians, -360.0f, 360.0f), c["seed"] = s.seed;
        if (s.randomStrength > 0 || s.randomFlip)
            c["randomStrength"] = s.randomStrength, c["randomFlip"] = s.randomFlip;
    }
    if (changesFaces(s.tool))
        c["edge"] = s.edge;
    if (s.tool == sculpt::Tool::Slab)
        c["depth"] = s.depth;
    if (s.tool == sculpt::Tool::Plane) {
        c["side"] = sculpt::kPlaneSides[std::size_t(s.planeSide)], c["plane"] = sculpt::kPlaneFroms[std::size_t(s.planeFrom)];
        if (s.planeFrom == sculpt::PlaneFrom::Locked)
            c["planePoint"] = row(s.planePoint), c["planeNormal"] = row(s.planeNormal);
    }
    if (s.tool == sculpt::Tool::Knead)
        c["knead"] = sculpt::kKneadKinds[std::size_t(s.knead)];
    if (s.tool == sculpt::Tool::Smooth)
        c["shrink"] = s.shrinks, c["reach"] = s.reach;
    if (s.falloff == sculpt::Falloff::Drawn)
        c["curve"] = s.drawn;
    // What most strokes leave as it is
    const sculpt::StrokeSettings plain;
    if (s.isFrontOnly)
        c["frontOnly"] = true;
    if (s.isIslandOnly)
        c["islandOnly"] = true;
    if (!s.guardsThin)
        c["guardThin"] = false;
    if (s.rope > 0)
        c["rope"] = s.rope;
    if (s.tilt > 0)
        c["tilt"] = s.tilt;
    if (s.stencil)
        writeStencil(*s.stencil, c);
    if (s.scatter > 0 || s.sizeScatter > 0)
        c["scatter"] = s.scatter, c["sizeScatter"] = s.sizeScatter, c["seed"] = s.seed;
    if (s.limit > 0)
        c["limit"] = s.limit;
    if (s.strengthCurve != plain.strengthCurve)
        c["strengthCurve"] = s.strengthCurve;
    if (s.sizeCurve != plain.sizeCurve)
        c["sizeCurve"] = s.sizeCurve;
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

} // namespace bonemoss::creature
