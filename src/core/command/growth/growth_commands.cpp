// Growths: layers made by a rule, which can grow again; and the guides they follow.
#include "command/growing.h"
#include "command/params.h"
#include "document/ops/surroundings.h"
#include "growth/growth.h"
#include "growth/scatter.h"
#include "skin/skin_maps.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using growth::Growth;
using growth::GrowthKind;
using nlohmann::json;
using skin::Layer;
using skin::Skin;

namespace {

/// What a growth on a piece follows, with the stamp and the map of sizes that it names.
Result<growth::Surroundings> surroundingsFor(const Creature &c, const Piece &piece, const Growth &growth)
{
    growth::Surroundings about = surroundingsOf(c, piece);
    if (growth.kind->name == "prints" && !(about.stamp = stampNamed(c, growth.stamp)))
        return Error{ErrorCode::Unknown, "stamp", fmt::format("there is no stamp \"{}\"", growth.stamp)};
    if (!growth.sizes.empty()) {
        const skin::KeptMask *kept = piece.skin.keptMask(growth.sizes);
        if (!kept)
            return Error{ErrorCode::Unknown, "sizes", fmt::format("there is no kept mask \"{}\"", growth.sizes)};
        about.sizes = kept->values;
    }
    return about;
}

/// Grows one layer of a piece and says what is worth saying about it.
Status growOn(const Creature &c, Piece &piece, std::uint32_t layer, Growth growth, CommandContext &context)
{
    const auto about = surroundingsFor(c, piece, growth);
    if (!about)
        return about.error();
    if (const std::string why = coarseness(piece.skin, growth, piece.skin.layer(layer)); !why.empty())
        context.notes.push_back(why);
    growth.ground = groundMark(piece);
    return growth::grow(piece.skin, layer, std::move(growth), *about, context.progress);
}

/// The growth that a command names by "layer".
Result<const Layer *> growthNamedBy(const Piece &piece, const Params &p, Lock lock = Lock::Refuses)
{
    const auto id = findLayer(piece, p.value("layer"));
    if (!id)
        return id.error();
    const Layer *l = piece.skin.layer(*id);
    if (!l || !l->growth)
        return Error{ErrorCode::BadValue, l ? l->name : "body", "is no growth"};
    if (l->isLocked && lock == Lock::Refuses)
        return Error{ErrorCode::BadValue, l->name, "this layer is locked; unlock it first"};
    return l;
}

/// After a change of guides: the growth that was named grows again in the same step.
Result<Creature> withGuides(const Creature &before, std::shared_ptr<Piece> piece, const Params &p, CommandContext &context)
{
    if (p.has("layer")) {
        const auto l = growthNamedBy(*piece, p);
        if (!l)
            return l.error();
        if (const Status grown = growOn(before, *piece, (*l)->id, *(*l)->growth, context); !grown)
            return grown.error();
    }
    return putBack(before, std::move(piece));
}

Result<Creature> growKind(const GrowthKind &kind, const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    Creature after = before;
    Skin &skin = (*piece)->skin;
    if (skin.isEmpty())
        return Error{ErrorCode::Empty, (*piece)->name, "there is no skin to grow on"};
    Growth growth = growthOf(kind);
    std::uint32_t id = 0;
    if (p.has("layer")) {
        const auto l = growthNamedBy(**piece, p);
        if (!l)
            return l.error();
        id = (*l)->id;
        if ((*l)->growth->kind == &kind)
            growth = *(*l)->growth; // what is not said stays
        else
            growth.seed = (*l)->growth->seed, growth.isMirrored = (*l)->growth->isMirrored;
    }
    for (std::size_t k = 0; k < kind.settings.size(); ++k)
        if (const std::string name(kind.settings[k].name); p.has(name.c_str()))
            growth.values[k] = p.number(name.c_str());
    if (p.has("seed"))
        growth.seed = std::uint32_t(p.integer("seed"));
    if (p.has("sizes"))
        growth.sizes = p.text("sizes");
    if (p.has("stamp"))
        growth.stamp = p.text("stamp");
    if (p.has("mirror"))
        growth.isMirrored = p.isOn("mirror");
    if (id == 0) {
        auto area = maskNamed(skin, p.has("mask") ? p.text("mask") : "hand", p.has("inside") && p.isOn("inside"));
        if (!area)
            return area.error();
        Layer layer(skin.body.size());
        layer.id = id = after.nextId++;
        layer.name = layerName(skin, p.has("name") ? p.text("name") : std::string(kind.title));
        layer.mask = std::move(*area);
        skin.layers.push_back(std::move(layer));
    } else if (p.has("mask") || p.has("inside")) {
        auto area = maskNamed(skin, p.has("mask") ? p.text("mask") : "hand", p.has("inside") && p.isOn("inside"));
        if (!area)
            return area.error();
        skin.layer(id)->mask = std::move(*area);
    }
    if (p.has("strength"))
        skin.layer(id)->strength = p.number("strength");
    if (const Status grown = growOn(after, **piece, id, std::move(growth), context); !grown)
        return grown.error();
    after.put(std::move(*piece));
    return after;
}

CommandSpec commandOfKind(std::size_t k)
{
    const GrowthKind &kind = growth::growthKinds()[k];
    std::vector<ParamSpec> params{
        pieceParam(),
        plainParam(ParamKind::Reference, "layer", "", "a growth to grow anew, keeping what is not said; left out: a new layer"),
        textParam("name", "of a new layer"),
        textParam("mask", "where it does not grow: \"hand\" for the mask in hand, \"none\", or the name of a kept "
                          "one; left out: the mask in hand"),
        switchParam("inside", "grow where the mask lies instead"),
        numberParam("strength", "", "of the layer, -1 to 2", -1, 2),
        textParam("sizes", "name of a kept mask: where it lies, things are smaller, down to a third; empty for none"),
        switchParam("mirror", "both sides of the piece's plane alike; left out: yes")};
    ParamSpec seed = numberParam("seed", "", "another seed, another pattern; usually 1", 0, 4294967295.0);
    seed.kind = ParamKind::Integer;
    params.push_back(seed);
    if (kind.name == "prints")
        params.push_back(
            textParam("stamp", "one of the creature's own, or one that comes with the program; usually \"wrinkles\""));
    for (std::size_t i = 0; i < kind.settings.size(); ++i) {
        const growth::GrowthSetting &s = kind.settings[i];
        ParamSpec spec = numberParam(std::string(s.name), std::string(s.unit),
                                     fmt::format("{}: from {} to {}; usually {:g}", s.title, s.low, s.high, kind.usual[i]),
                                     double(s.least), double(s.most));
        if (s.isCount)
            spec.kind = ParamKind::Integer;
        params.push_back(std::move(spec));
    }
    return {
        fmt::format("grow.{}", kind.name), fmt::format("Grow {}", kind.title), std::string(kind.text), std::move(params),
        [&kind](const Creature &before, const Params &p, CommandContext &context) { return growKind(kind, before, p, context); }};
}

/// The growths that a command means: the one it names, or all that are stale.
Result<Creature> growAgain(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    std::vector<std::uint32_t> ids;
    if (p.has("layer")) {
        const auto l = growthNamedBy(**piece, p);
        if (!l)
            return l.error();
        ids.push_back((*l)->id);
    } else {
        for (const std::uint32_t id : staleGrowths(**piece))
            if (!(*piece)->skin.layer(id)->isLocked)
                ids.push_back(id);
    }
    for (const std::uint32_t id : ids) {
        const Growth growth = *(*piece)->skin.layer(id)->growth;
        if (const Status grown = growOn(before, **piece, id, growth, context); !grown)
            return grown.error();
    }
    context.notes.push_back(ids.empty() ? std::string("all growths fit the skin")
                                        : fmt::format("{} of {} layers grew again", ids.size(), (*piece)->skin.layers.size()));
    return putBack(before, std::move(*piece));
}

Result<Creature> editScale(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const auto found = growthNamedBy(**piece, p);
    if (!found)
        return found.error();
    const Layer &l = **found;
    const std::uint32_t id = l.id;
    Growth growth = *l.growth;
    const auto about = surroundingsFor(before, **piece, growth);
    if (!about)
        return about.error();
    const Vec3f at = p.point("at");
    bool isThere = false;
    for (const growth::Site &s : growth::sitesOf((*piece)->skin, growth, l.mask, *about))
        isThere = isThere || length(s.at - at) < s.size;
    if (!isThere)
        return Error{ErrorCode::Empty, l.name, "no scale or spot stands there"};
    growth.edits.push_back({at, p.number("turn"), p.number("size"), p.number("lift"), p.isOn("remove")});
    if (const Status grown = growOn(before, **piece, id, std::move(growth), context); !grown)
        return grown.error();
    return putBack(before, std::move(*piece));
}

/// A growth to look at, with what it grew in.
struct Grown {
    std::shared_ptr<Piece> piece; ///< to be changed and put back
    const Layer *layer;
    growth::Surroundings about;
};
Result<Grown> takeGrown(const Creature &before, const Params &p)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const auto found = growthNamedBy(**piece, p, Lock::Allows);
    if (!found)
        return found.error();
    auto about = surroundingsFor(before, **piece, *(*found)->growth);
    if (!about)
        return about.error();
    return Grown{*piece, *found, std::move(*about)};
}

Result<Creature> maskCells(const Creature &before, const Params &p, CommandContext &context)
{
    const auto grown = takeGrown(before, p);
    if (!grown)
        return grown.error();
    const auto &[piece, layer, about] = *grown;
    auto cells = growth::cellsOf(piece->skin, *layer, about, context.progress);
    if (!cells)
        return cells.error();
    if (p.text("what") == "gaps")
        for (std::size_t b = 0; b < cells->blockCount(); ++b)
            for (std::size_t i = 0; i < cells->countIn(b); ++i)
                cells->edit(b)[i] = std::uint8_t(255 - cells->data(b)[i]);
    skin::dropBlank(*cells);
    piece->skin.mask = std::move(*cells);
    return putBack(before, piece);
}

Result<Creature> groupCells(const Creature &before, const Params &p, CommandContext &context)
{
    const auto grown = takeGrown(before, p);
    if (!grown)
        return grown.error();
    const auto &[piece, layer, about] = *grown;
    const auto kinds = growth::cellKinds(piece->skin, *layer, about, int(p.integer("kinds")), context.progress);
    if (!kinds)
        return kinds.error();
    if (context.progress.isCancelled())
        return Error{ErrorCode::Cancelled, piece->name, "no groups were made"};
    skin::Skin &skin = piece->skin;
    std::vector<std::uint16_t> numberOf(1, 0);
    for (std::size_t k = 1; k <= p.integer("kinds"); ++k) {
        const std::string name = fmt::format("{} {}", layer->name, k);
        const skin::Group *old = skin.group(name);
        numberOf.push_back(old ? old->number : skin.freeGroup());
        if (!old)
            skin.groups.push_back({numberOf.back(), name});
    }
    for (std::size_t b = 0; b < kinds->blockCount(); ++b) {
        std::uint16_t *to = skin.groupOf.edit(b);
        for (std::size_t i = 0; i < kinds->countIn(b); ++i) {
            const bool wasOne = std::find(numberOf.begin() + 1, numberOf.end(), to[i]) != numberOf.end();
            to[i] = kinds->data(b)[i] > 0 ? numberOf[kinds->data(b)[i]] : wasOne ? std::uint16_t(0) : to[i];
        }
    }
    return putBack(before, piece);
}

Result<Creature> addGuide(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    growth::Guide guide;
    for (const auto &q : p.path("points"))
        if (guide.points.empty() || !(q.at == guide.points.back()))
            guide.points.push_back(q.at);
    guide.size = p.number("size");
    if (guide.points.size() < 2)
        return Error{ErrorCode::BadValue, "guide.add", "a guide needs two points that differ"};
    (*piece)->guides.push_back(std::move(guide));
    return withGuides(before, std::move(*piece), p, context);
}

Result<Creature> changeGuide(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const std::size_t k = p.integer("guide");
    if (k >= (*piece)->guides.size())
        return Error{ErrorCode::Unknown, "guide",
                     fmt::format("{} has {} guides, numbered from 0", (*piece)->name, (*piece)->guides.size())};
    growth::Guide &guide = (*piece)->guides[k];
    if (p.has("size"))
        guide.size = p.number("size");
    if (p.has("turn") && p.isOn("turn"))
        std::reverse(guide.points.begin(), guide.points.end());
    return withGuides(before, std::move(*piece), p, context);
}

Result<Creature> removeGuides(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    auto &guides = (*piece)->guides;
    if (!p.has("guide")) {
        guides.clear();
    } else {
        if (p.integer("guide") >= guides.size())
            return Error{ErrorCode::Unknown, "guide",
                         fmt::format("{} has {} guides, numbered from 0", (*piece)->name, guides.size())};
        guides.erase(guides.begin() + std::ptrdiff_t(p.integer("guide")));
    }
    return withGuides(before, std::move(*piece), p, context);
}

} // namespace

json growCommand(std::uint32_t piece, std::uint32_t layer, const Growth &growth)
{
    json c = {{"do", fmt::format("grow.{}", growth.kind->name)},
              {"piece", piece},
              {"seed", growth.seed},
              {"mirror", growth.isMirrored}};
    if (layer)
        c["layer"] = layer;
    if (layer || !growth.sizes.empty())
        c["sizes"] = growth.sizes;
    if (growth.kind->name == "prints")
        c["stamp"] = growth.stamp;
    for (std::size_t k = 0; k < growth.kind->settings.size(); ++k) {
        const growth::GrowthSetting &s = growth.kind->settings[k];
        c[std::string(s.name)] = s.isCount ? json(std::lround(growth.values[k])) : json(growth.values[k]);
    }
    return c;
}

std::vector<CommandSpec> growthCommands()
{
    ParamSpec kinds = numberParam("kinds", "", "how many groups", 2, 64, "5");
    kinds.kind = ParamKind::Integer;
    const ParamSpec layer = required(plainParam(ParamKind::Reference, "layer", "", "name or id of a growth"));
    const ParamSpec regrown = plainParam(ParamKind::Reference, "layer", "", "a growth that grows again at once");
    ParamSpec guide = numberParam("guide", "", "its number, from 0", 0, 100000);
    guide.kind = ParamKind::Integer;
    std::vector<CommandSpec> rows;
    for (std::size_t k = 0; k < growth::growthKinds().size(); ++k)
        rows.push_back(commandOfKind(k));
    const std::vector<CommandSpec> others{
        {"grow.again",
         "Grow again",
         "Grows a growth anew on the skin as it is now, or all of them that no longer fit it. Work by hand stays.",
         {pieceParam(), plainParam(ParamKind::Reference, "layer", "", "name or id; left out: all that do not fit")},
         growAgain},
        {"grow.edit",
         "Change one scale",
         "Turns, enlarges, lifts or removes the one scale or spot nearest to a place. It is kept when the growth grows again.",
         {pieceParam(), layer, required(plainParam(ParamKind::Point, "at", "mm", "near its middle")),
          numberParam("turn", "deg", "about its normal", -180, 180, "0"), numberParam("size", "", "times", 0.2, 4, "1"),
          numberParam("lift", "", "times its height", 0, 4, "1"), switchParam("remove", "take it away", "false")},
         editScale},
        {"grow.mask",
         "Mask scales",
         "Masks the scales or spots of a growth, or what lies between them.",
         {pieceParam(), layer, choiceParam("what", "is masked", {"scales", "gaps"}, "\"scales\"")},
         maskCells},
        {"grow.groups",
         "Scales as groups",
         "Makes groups of the scales or spots of a growth, neighbours in different ones: to mask, hide or colour some of them.",
         {pieceParam(), layer, kinds},
         groupCells},
        {"guide.add",
         "Add guide",
         "A short stroke that says which way growths run there, and how large they are.",
         {pieceParam(), required(plainParam(ParamKind::Points, "points", "mm", "on the skin, from front to back")),
          numberParam("size", "", "times the size of what grows", 0.2, 5, "1"), regrown},
         addGuide},
        {"guide.set",
         "Change guide",
         "Another size for a guide, or the other way round.",
         {pieceParam(), required(guide), numberParam("size", "", "times the size of what grows", 0.2, 5),
          switchParam("turn", "the other way round"), regrown},
         changeGuide},
        {"guide.remove", "Delete guides", "Deletes one guide, or all.", {pieceParam(), guide, regrown}, removeGuides},
    };
    rows.insert(rows.end(), others.begin(), others.end());
    return rows;
}

} // namespace bonemoss::command
