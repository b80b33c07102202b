#include "detail/levels.h"
#include "creature/params.h"
#include "detail/local_density.h"
#include "sculpt/dab.h"
#include "creature/reknit.h"
#include "creature/stroke_command.h"

#include "image/picture.h"

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
    s.isReversed = p.isOn("reverse");
    s.isMirrored = p.isOn("mirror");
    s.isConnected = p.isOn("connected");
    s.pressureToStrength = p.isOn("pressureToStrength");
    s.pressureToSize = p.isOn("pressureToSize");
    s.stamp = p.text("stamp");
    s.depth = p.number("depth");
    s.isDragged = p.isOn("drag");
    s.randomTurn = p.number("randomTurn");
    s.turn = p.number("turn") * kRadians;
    s.seed = std::uint32_t(p.integer("seed"));
    s.edge = p.number("edge");
    return s;
}

Result<Creature> stroke(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const auto layer = findLayer(**piece, p.value("layer"));
    if (!layer)
        return layer.error();
    if (changesFaces(settingsOf(p).tool) && !(*piece)->skin.links.empty())
        return Error{ErrorCode::BadValue, (*piece)->name,
                     "has levels, and this tool makes new faces; delete the levels below and above the one in hand first"};
    LiveStroke live((*piece)->skin, settingsOf(p), *layer);
    for (const sculpt::PenSample &s : p.samples("samples"))
        live.add(s);
    if (const Status done = live.finish((*piece)->skin); !done)
        return done.error();
    if (p.has("reknit") && p.number("reknit") > 0 && !changesFaces(settingsOf(p).tool)) {
        auto again = reknitted((*piece)->skin, {p.number("reknit"), 0}, context, false);
        if (!again)
            return again.error();
        (*piece)->skin = std::move(*again);
    }
    return putBack(before, std::move(*piece));
}

template <void (*Edit)(detail::Skin &)> Result<Creature> editMask(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    Edit((*piece)->skin);
    return putBack(before, std::move(*piece));
}

Result<Creature> blur(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    detail::blurMask((*piece)->skin, int(p.integer("passes")));
    return putBack(before, std::move(*piece));
}

Result<Creature> addLayer(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    Creature after = before;
    detail::Skin &skin = (*piece)->skin;
    detail::Layer layer;
    layer.id = after.nextId++;
    const std::string base = p.text("name");
    layer.name = base;
    for (int n = 2; std::any_of(skin.layers.begin(), skin.layers.end(), [&](const auto &l) { return l.name == layer.name; }); ++n)
        layer.name = base + " " + std::to_string(n);
    layer.strength = p.number("strength");
    layer.offsets = mesh::BlockArray<Vec3f>(skin.body.size());
    skin.layers.push_back(std::move(layer));
    after.put(std::move(*piece));
    return after;
}

Result<Creature> setLayer(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const auto id = findLayer(**piece, p.value("layer"));
    if (!id)
        return id.error();
    detail::Layer *layer = (*piece)->skin.layer(*id);
    if (!layer)
        return Error{ErrorCode::BadValue, "layer", "the body has no strength or switch"};
    const float shown = layer->shownStrength();
    if (p.has("name"))
        layer->name = p.text("name");
    if (p.has("strength"))
        layer->strength = p.number("strength");
    if (p.has("on"))
        layer->isOn = p.isOn("on");
    if (layer->shownStrength() != shown)
        detail::mixBlocks((*piece)->skin, detail::blocksWith(*layer));
    return putBack(before, std::move(*piece));
}

Result<Creature> removeLayer(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    detail::Skin &skin = (*piece)->skin;
    const auto id = findLayer(**piece, p.value("layer"));
    if (!id)
        return id.error();
    if (*id == 0)
        return Error{ErrorCode::BadValue, "layer", "the body cannot be removed"};
    const auto blocks = detail::blocksWith(*skin.layer(*id));
    std::erase_if(skin.layers, [&](const auto &l) { return l.id == *id; });
    detail::mixBlocks(skin, blocks);
    return putBack(before, std::move(*piece));
}

Result<Creature> mergeLayer(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const auto id = findLayer(**piece, p.value("layer"));
    if (!id)
        return id.error();
    if (const Status merged = detail::mergeDown((*piece)->skin, *id); !merged)
        return merged.error();
    return putBack(before, std::move(*piece));
}

template <typename Names> std::vector<std::string> words(const Names &names)
{
    return {names.begin(), names.end()};
}

std::vector<ParamSpec> strokeParams()
{
    std::vector<std::string> tools;
    for (std::size_t t = 0; t < sculpt::kToolCount; ++t)
        tools.emplace_back(nameOf(sculpt::Tool(t)));
    ParamSpec layer = plainParam(ParamKind::Reference, "layer", "", "layer the stroke goes to; 0 is the body", "0");
    ParamSpec seed = numberParam("seed", "", "of random turns", 0, 4294967295.0, "1");
    seed.kind = ParamKind::Integer;
    return {
        pieceParam(),
        layer,
        required(choiceParam("tool", "what the stroke does", tools)),
        required(plainParam(ParamKind::Samples, "samples", "mm", "pen readings; see the recipe format")),
        numberParam("size", "mm", "radius of the tool", 0.01, 10000, "10"),
        numberParam("strength", "", "0 to 1", 0, 1, "0.5"),
        choiceParam("falloff", "how it fades to its rim", words(sculpt::kFalloffNames), "\"dome\""),
        numberParam("spacing", "", "between prints, of the radius", 0.02, 4, "0.15"),
        numberParam("steadiness", "", "how much of the path before is kept", 0, 0.95, "0"),
        switchParam("reverse", "dig instead of build", "false"),
        switchParam("mirror", "both sides of the middle plane", "true"),
        switchParam("connected", "only skin that hangs together with the middle of the dab", "true"),
        switchParam("pressureToStrength", "pressure sets strength", "true"),
        switchParam("pressureToSize", "pressure sets size", "false"),
        choiceParam("stamp", "height picture of the stamp tool", words(image::builtInStamps()), "\"scales\""),
        numberParam("depth", "mm", "of a stamp, from its middle to its extremes", 0, 1000, "1"),
        switchParam("drag", "one print drawn out to size and angle", "false"),
        numberParam("randomTurn", "", "of each print, 1 for any angle", 0, 1, "0"),
        numberParam("turn", "deg", "of the picture", -360, 360, "0"),
        seed,
        numberParam("edge", "", "tools that change faces: length of the edges wanted, of the size", 0.01, 1, "0.12"),
        numberParam("reknit", "mm", "knits the piece again at this spacing when the stroke is done", 0, 1000),
    };
}

} // namespace

LiveStroke::LiveStroke(const detail::Skin &skin, sculpt::StrokeSettings settings, std::uint32_t layer)
    : m_surface(std::make_unique<mesh::Surface>(skin.shown)), m_mask(std::make_unique<mesh::BlockArray<std::uint8_t>>(skin.mask)),
      m_layer(layer), m_settings(settings),
      m_stroke(*m_surface, *m_mask, std::move(settings), [this](const sculpt::DabPair &pair) { return evenOut(pair); })
{
    if (changesFaces(m_settings.tool))
        m_skin = skin;
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

std::vector<std::uint32_t> LiveStroke::evenOut(const sculpt::DabPair &pair)
{
    if (m_folded)
        m_folded = fold();
    if (!m_folded)
        return {};
    std::vector<detail::Spot> spots;
    for (int k = 0; k < pair.count; ++k)
        spots.push_back({pair.dabs[k].centre, pair.dabs[k].normal, pair.dabs[k].radius});
    using detail::Evening;
    const Evening how = m_settings.tool == sculpt::Tool::Tendril                             ? Evening::Both
                        : (m_settings.tool == sculpt::Tool::Denser) != m_settings.isReversed ? Evening::Finer
                                                                                             : Evening::Coarser;
    const auto changed = detail::evenOut(m_skin, spots, pair.dabs[0].amount, how);
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
    }
    if (changesFaces(s.tool))
        c["edge"] = s.edge;
    return c;
}

std::vector<CommandSpec> sculptCommands()
{
    const ParamSpec layer = required(plainParam(ParamKind::Reference, "layer", "", "name or id"));
    ParamSpec passes = numberParam("passes", "", "how often each vertex takes the mean of its neighbours", 1, 100, "3");
    passes.kind = ParamKind::Integer;
    return {
        {"sculpt.stroke", "Stroke", "One stroke of a tool, from its pen readings.", strokeParams(), stroke},
        {"mask.invert", "Invert mask", "Masked becomes open and open masked.", {pieceParam()}, editMask<detail::invertMask>},
        {"mask.clear", "Clear mask", "Opens everything.", {pieceParam()}, editMask<detail::clearMask>},
        {"mask.blur", "Blur mask", "Softens the mask's border.", {pieceParam(), passes}, blur},
        {"layer.add",
         "Add layer",
         "A new detail layer on top.",
         {pieceParam(), textParam("name", "of the layer", "\"Layer\""), numberParam("strength", "", "-1 to 2", -1, 2, "1")},
         addLayer},
        {"layer.set",
         "Change layer",
         "Name, strength and switch of a layer.",
         {pieceParam(), layer, textParam("name", "new name"), numberParam("strength", "", "-1 to 2", -1, 2),
          switchParam("on", "shown or not")},
         setLayer},
        {"layer.remove", "Remove layer", "Throws a layer away.", {pieceParam(), layer}, removeLayer},
        {"layer.merge", "Merge down", "Adds a layer to the one below it, or to the body.", {pieceParam(), layer}, mergeLayer},
    };
}

} // namespace bonemoss::creature
