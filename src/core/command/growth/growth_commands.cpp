// Growths: layers made by a rule, which can grow again; and the guides they follow.
#include "command/fields.h"
#include "command/growth/growth_fields.h"
#include "command/named_items.h"
#include "document/ops/growths.h"
#include "growth/growth.h"
#include "growth/scatter.h"
#include "skin/marks.h"
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

/// The growth of that name.
const Layer &growthNamedBy(const Piece &piece, const ItemName &name, Lock lock = Lock::Refuses)
{
    const Layer *l = piece.skin.layer(need(findLayer(piece, name)));
    if (!l || !l->growth)
        throw Failure{{ErrorCode::BadValue, l ? l->name : "body", "is no growth"}};
    if (l->isLocked && lock == Lock::Refuses)
        throw Failure{{ErrorCode::BadValue, l->name, "this layer is locked; unlock it first"}};
    return *l;
}

/// After a change of guides: the growth that was named grows again in the same step.
Result<Creature> withGuides(const Creature &before, std::shared_ptr<Piece> piece, const std::optional<ItemName> &layer,
                            CommandContext &context)
{
    if (layer) {
        const Layer &l = growthNamedBy(*piece, *layer);
        need(growLayer(before, *piece, l.id, *l.growth, context));
    }
    return putBack(before, std::move(piece));
}

Result<Creature> growKind(const GrowthKind &kind, const Creature &before, const Grow &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    if (skin.isEmpty())
        return Error{ErrorCode::Empty, piece->name, "there is no skin to grow on"};
    Growth growth = growthOf(kind);
    std::uint32_t id = 0;
    if (p.layer) {
        const Layer &l = growthNamedBy(*piece, *p.layer);
        id = l.id;
        if (l.growth->kind == &kind)
            growth = *l.growth; // what is not said stays
        else
            growth.seed = l.growth->seed, growth.isMirrored = l.growth->isMirrored;
    }
    for (std::size_t k = 0; k < p.values.size(); ++k)
        setIfGiven(growth.values[k], p.values[k]);
    setIfGiven(growth.seed, p.seed);
    setIfGiven(growth.sizes, p.sizes);
    setIfGiven(growth.stamp, p.stamp);
    setIfGiven(growth.isMirrored, p.isMirrored);
    const auto area = [&] { return need(maskNamed(skin, p.mask.value_or("hand"), p.isInside.value_or(false))); };
    if (id == 0) {
        Layer layer(skin.body.size());
        layer.id = id = after.nextId++;
        layer.name = layerName(skin, p.name.value_or(std::string(kind.title)));
        layer.mask = area();
        skin.layers.push_back(std::move(layer));
    } else if (p.mask || p.isInside) {
        skin.layer(id)->mask = area();
    }
    setIfGiven(skin.layer(id)->strength, p.strength);
    need(growLayer(after, *piece, id, std::move(growth), context));
    after.put(std::move(piece));
    return after;
}

CommandSpec commandOfKind(const GrowthKind &kind)
{
    return {fmt::format("grow.{}", kind.name), fmt::format("Grow {}", kind.title), std::string(kind.text),
            specsOf(growFields(kind)),
            [&kind, fields = growFields(kind)](const Creature &before, const json &params, CommandContext &context) {
                return growKind(kind, before, readFields(fields, params), context);
            }};
}

/// The growths that a command means: the one it names, or all that are stale.
Result<Creature> growAgain(const Creature &before, const GrowAgain &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    std::vector<std::uint32_t> ids;
    if (p.layer) {
        ids.push_back(growthNamedBy(*piece, *p.layer).id);
    } else {
        for (const std::uint32_t id : staleGrowths(*piece))
            if (!piece->skin.layer(id)->isLocked)
                ids.push_back(id);
    }
    for (const std::uint32_t id : ids) {
        const Growth growth = *piece->skin.layer(id)->growth;
        need(growLayer(before, *piece, id, growth, context));
    }
    context.notes.push_back(ids.empty() ? std::string("all growths fit the skin")
                                        : fmt::format("{} of {} layers grew again", ids.size(), piece->skin.layers.size()));
    return putBack(before, std::move(piece));
}

Result<Creature> editScale(const Creature &before, const EditScale &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    const Layer &l = growthNamedBy(*piece, p.layer);
    const std::uint32_t id = l.id;
    Growth growth = *l.growth;
    const auto about = need(surroundingsOf(before, *piece, growth));
    const Vec3f at = p.at;
    const auto sites = growth::sitesOf(piece->skin, growth, l.mask, about);
    if (std::none_of(sites.begin(), sites.end(), [&](const growth::Site &s) { return length(s.at - at) < s.size; }))
        return Error{ErrorCode::Empty, l.name, "no scale or spot stands there"};
    growth.edits.push_back({at, p.turn, p.size, p.lift, p.isRemoved});
    need(growLayer(before, *piece, id, std::move(growth), context));
    return putBack(before, std::move(piece));
}

/// A growth to look at, with what it grew in.
struct Grown {
    std::shared_ptr<Piece> piece; ///< to be changed and put back
    const Layer *layer;
    growth::Surroundings about;
};
Grown takeGrown(const Creature &before, const std::optional<ItemName> &name, const ItemName &layer)
{
    auto piece = need(takePiece(before, name));
    const Layer &found = growthNamedBy(*piece, layer, Lock::Allows);
    return {piece, &found, need(surroundingsOf(before, *piece, *found.growth))};
}

Result<Creature> maskCells(const Creature &before, const MaskCells &p, CommandContext &context)
{
    const auto [piece, layer, about] = takeGrown(before, p.piece, p.layer);
    auto cells = need(growth::cellsOf(piece->skin, *layer, about, context.progress));
    piece->skin.mask = std::move(cells);
    if (p.what == GrowthPart::Gaps)
        skin::invertMask(piece->skin);
    skin::dropBlank(piece->skin.mask);
    return putBack(before, piece);
}

Result<Creature> groupCells(const Creature &before, const GroupCells &p, CommandContext &context)
{
    const auto [piece, layer, about] = takeGrown(before, p.piece, p.layer);
    const auto kinds = need(growth::cellKinds(piece->skin, *layer, about, int(p.kinds), context.progress));
    if (context.progress.isCancelled())
        return Error{ErrorCode::Cancelled, piece->name, "no groups were made"};
    skin::groupKinds(piece->skin, kinds, p.kinds, layer->name);
    return putBack(before, piece);
}

Result<Creature> addGuide(const Creature &before, const AddGuide &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    growth::Guide guide;
    for (const Vec3f q : p.points)
        if (guide.points.empty() || !(q == guide.points.back()))
            guide.points.push_back(q);
    guide.size = p.size;
    if (guide.points.size() < 2)
        return Error{ErrorCode::BadValue, "guide.add", "a guide needs two points that differ"};
    piece->guides.push_back(std::move(guide));
    return withGuides(before, std::move(piece), p.layer, context);
}

Result<Creature> changeGuide(const Creature &before, const ChangeGuide &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    const std::size_t k = p.guide;
    if (k >= piece->guides.size())
        return Error{ErrorCode::Unknown, "guide",
                     fmt::format("{} has {} guides, numbered from 0", piece->name, piece->guides.size())};
    growth::Guide &guide = piece->guides[k];
    setIfGiven(guide.size, p.size);
    if (p.isTurned.has_value() && *p.isTurned)
        std::reverse(guide.points.begin(), guide.points.end());
    return withGuides(before, std::move(piece), p.layer, context);
}

Result<Creature> removeGuides(const Creature &before, const RemoveGuides &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    auto &guides = piece->guides;
    if (!p.guide) {
        guides.clear();
    } else {
        if (*p.guide >= guides.size())
            return Error{ErrorCode::Unknown, "guide",
                         fmt::format("{} has {} guides, numbered from 0", piece->name, guides.size())};
        guides.erase(guides.begin() + std::ptrdiff_t(*p.guide));
    }
    return withGuides(before, std::move(piece), p.layer, context);
}

} // namespace

Fields<Grow> growFields(const GrowthKind &kind)
{
    using P = Grow;
    Fields<Grow> fields{
        pieceField<P>(),
        fieldOf<P>(&P::layer, "layer", "", "a growth to grow anew, keeping what is not said; left out: a new layer"),
        fieldOf<P>(&P::name, "name", "", "of a new layer"),
        fieldOf<P>(&P::mask, "mask", "",
                   "where it does not grow: \"hand\" for the mask in hand, \"none\", or the name of a kept "
                   "one; left out: the mask in hand"),
        fieldOf<P>(&P::isInside, "inside", "", "grow where the mask lies instead"),
        fieldOf<P>(&P::strength, "strength", "", "of the layer, -1 to 2", -1, 2),
        fieldOf<P>(&P::sizes, "sizes", "",
                   "name of a kept mask: where it lies, things are smaller, down to a third; empty for none"),
        fieldOf<P>(&P::isMirrored, "mirror", "", "both sides of the piece's plane alike; left out: yes"),
        fieldOf<P>(&P::seed, "seed", "", "another seed, another pattern; usually 1", 0, 4294967295.0)};
    if (kind.takesStamp)
        fields.push_back(fieldOf<P>(&P::stamp, "stamp", "",
                                    "one of the creature's own, or one that comes with the program; usually \"wrinkles\""));
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        const growth::GrowthSetting &s = kind.settings[k];
        Field<Grow> &f = fields.emplace_back();
        f.spec = {std::string(s.name), s.isCount ? ParamKind::Integer : ParamKind::Number, std::string(s.unit),
                  fmt::format("{}: from {} to {}; usually {:g}", s.title, s.low, s.high, kind.usual[k])};
        f.spec.min = double(s.min), f.spec.max = double(s.max);
        f.read = [k, count = kind.settings.size()](const json &j, Grow &to) {
            to.values.resize(count);
            to.values[k] = j.get<float>();
        };
        f.write = [k, isCount = s.isCount](const Grow &from) {
            if (k >= from.values.size() || !from.values[k])
                return json();
            return isCount ? json(std::lround(*from.values[k])) : json(*from.values[k]);
        };
    }
    return fields;
}

json growCommand(std::uint32_t piece, std::uint32_t layer, const Growth &growth, bool isInside)
{
    Grow grow{.piece = piece, .isMirrored = growth.isMirrored, .seed = growth.seed};
    grow.values.assign(growth.values.begin(), growth.values.begin() + std::ptrdiff_t(growth.kind->settings.size()));
    if (layer)
        grow.layer = layer;
    if (isInside)
        grow.isInside = true;
    if (layer || !growth.sizes.empty())
        grow.sizes = growth.sizes;
    if (growth.kind->takesStamp)
        grow.stamp = growth.stamp;
    json c{{"do", fmt::format("grow.{}", growth.kind->name)}};
    writeFields(growFields(*growth.kind), grow, c);
    return c;
}

Fields<GrowAgain> GrowAgain::fields()
{
    using P = GrowAgain;
    return {pieceField<P>(), fieldOf<P>(&P::layer, "layer", "", "name or id; left out: all that do not fit")};
}

Fields<EditScale> EditScale::fields()
{
    using P = EditScale;
    return {pieceField<P>(),
            fieldOf<P>(&P::layer, "layer", "", "name or id of a growth").required(),
            fieldOf<P>(&P::at, "at", "mm", "near its middle").required(),
            fieldOf<P>(&P::turn, "turn", "deg", "about its normal", -180, 180),
            fieldOf<P>(&P::size, "size", "", "times", 0.2, 4),
            fieldOf<P>(&P::lift, "lift", "", "times its height", 0, 4),
            fieldOf<P>(&P::isRemoved, "remove", "", "take it away")};
}

Fields<MaskCells> MaskCells::fields()
{
    using P = MaskCells;
    return {pieceField<P>(), fieldOf<P>(&P::layer, "layer", "", "name or id of a growth").required(),
            choiceOf<P>(&P::what, "what", "is masked", kGrowthPartNames)};
}

Fields<GroupCells> GroupCells::fields()
{
    using P = GroupCells;
    return {pieceField<P>(), fieldOf<P>(&P::layer, "layer", "", "name or id of a growth").required(),
            fieldOf<P>(&P::kinds, "kinds", "", "how many groups", 2, 64)};
}

Fields<AddGuide> AddGuide::fields()
{
    using P = AddGuide;
    return {pieceField<P>(), fieldOf<P>(&P::points, "points", "mm", "on the skin, from front to back").required(),
            fieldOf<P>(&P::size, "size", "", "times the size of what grows", 0.2, 5),
            fieldOf<P>(&P::layer, "layer", "", "a growth that grows again at once")};
}

Fields<ChangeGuide> ChangeGuide::fields()
{
    using P = ChangeGuide;
    return {pieceField<P>(), fieldOf<P>(&P::guide, "guide", "", "its number, from 0", 0, 100000).required(),
            fieldOf<P>(&P::size, "size", "", "times the size of what grows", 0.2, 5),
            fieldOf<P>(&P::isTurned, "turn", "", "the other way round"),
            fieldOf<P>(&P::layer, "layer", "", "a growth that grows again at once")};
}

Fields<RemoveGuides> RemoveGuides::fields()
{
    using P = RemoveGuides;
    return {pieceField<P>(), fieldOf<P>(&P::guide, "guide", "", "its number, from 0", 0, 100000),
            fieldOf<P>(&P::layer, "layer", "", "a growth that grows again at once")};
}

std::vector<CommandSpec> growthCommands()
{
    std::vector<CommandSpec> rows;
    for (const GrowthKind &kind : growth::growthKinds())
        rows.push_back(commandOfKind(kind));
    rows.insert(rows.end(), {commandOf(growAgain), commandOf(editScale), commandOf(maskCells), commandOf(groupCells),
                             commandOf(addGuide), commandOf(changeGuide), commandOf(removeGuides)});
    return rows;
}

} // namespace bonemoss::command
