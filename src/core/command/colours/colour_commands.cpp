// Colour layers: their order, how they show, and what is laid on them evenly.
#include "base/point_grid.h"
#include "colour/finish.h"
#include "colour/rule_input.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/named_items.h"
#include "document/ops/colours.h"
#include "skin/marks.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using skin::ColourLayer;
using skin::Skin;

namespace {

struct Taken {
    std::shared_ptr<Piece> piece;
    std::uint32_t id = 0;
    Skin &skin() { return piece->skin; }
    ColourLayer &layer() { return *skin::colourLayer(piece->skin, id); }
};

Taken takeColourLayer(const Creature &before, const std::optional<ItemName> &pieceName, const ItemName &layer,
                      Lock lock = Lock::Refuses)
{
    auto piece = need(takePiece(before, pieceName));
    const std::uint32_t id = need(findColourLayer(*piece, layer));
    if (const ColourLayer *l = skin::colourLayer(piece->skin, id); l->isLocked && lock == Lock::Refuses)
        throw Failure{{ErrorCode::BadValue, l->name, "this colour layer is locked; unlock it first"}};
    return {std::move(piece), id};
}

std::string freeName(const Skin &skin, const std::string &wanted)
{
    const auto isTaken = [&](const std::string &name) {
        return std::any_of(skin.colourLayers.begin(), skin.colourLayers.end(),
                           [&](const ColourLayer &l) { return l.name == name; });
    };
    std::string name = wanted.empty() ? "Colour" : wanted;
    for (int k = 2; isTaken(name); ++k)
        name = fmt::format("{} {}", wanted.empty() ? "Colour" : wanted, k);
    return name;
}

Result<Creature> addColourLayer(const Creature &before, const AddColourLayer &p, CommandContext &)
{
    constexpr std::size_t kMost = 64;
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    if (piece->skin.colourLayers.size() >= kMost)
        return Error{ErrorCode::TooLarge, piece->name, fmt::format("has {} colour layers already; merge some", kMost)};
    const std::uint32_t id = skin::addColourLayer(piece->skin, freeName(piece->skin, p.name), after.nextId);
    ColourLayer &layer = *skin::colourLayer(piece->skin, id);
    layer.opacity = p.opacity, layer.blend = p.blend;
    return putBack(std::move(after), std::move(piece));
}

Result<Creature> setColourLayer(const Creature &before, const SetColourLayer &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer, Lock::Allows);
    ColourLayer &layer = taken.layer();
    if (layer.isLocked && !p.isLocked.has_value() && (p.name || p.opacity || p.blend))
        return Error{ErrorCode::BadValue, layer.name, "this colour layer is locked; unlock it first"};
    if (p.name && *p.name != layer.name)
        layer.name = freeName(taken.skin(), *p.name);
    setIfGiven(layer.opacity, p.opacity);
    setIfGiven(layer.blend, p.blend);
    setIfGiven(layer.isOn, p.isOn);
    setIfGiven(layer.isLocked, p.isLocked);
    if (p.opacity || p.blend || p.isOn)
        skin::composeColours(taken.skin(), skin::blocksOf(taken.skin(), taken.id));
    return putBack(before, std::move(taken.piece));
}

Result<Creature> removeColourLayer(const Creature &before, const RemoveColourLayer &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer);
    skin::removeColourLayer(taken.skin(), taken.id);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> orderColourLayer(const Creature &before, const OrderColourLayer &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer, Lock::Allows);
    skin::orderColourLayer(taken.skin(), taken.id, p.to);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> soloColourLayer(const Creature &before, const SoloColourLayer &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer, Lock::Allows);
    for (ColourLayer &l : taken.skin().colourLayers)
        l.isAside = p.isOn && l.id != taken.id;
    skin::composeColours(taken.skin());
    return putBack(before, std::move(taken.piece));
}

Result<Creature> mergeColourLayer(const Creature &before, const MergeColourLayer &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer);
    const auto &all = taken.skin().colourLayers;
    const auto at = std::size_t(&taken.layer() - all.data());
    if (at == 0)
        return Error{ErrorCode::BadValue, all[0].name, "is the lowest colour layer; there is none below to merge it with"};
    if (all[at - 1].isLocked)
        return Error{ErrorCode::BadValue, all[at - 1].name, "the colour layer below is locked; unlock it first"};
    for (const ColourLayer *l : {&all[at - 1], &all[at]})
        if (!l->isShown())
            return Error{ErrorCode::BadValue, l->name, "this colour layer does not show; switch it on first, or delete it"};
    skin::mergeColourLayer(taken.skin(), taken.id);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> maskColourLayer(const Creature &before, const MaskColourLayer &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer);
    Skin &skin = taken.skin();
    const skin::KeptMask *kept = skin.keptMask(p.mask);
    if (!p.mask.empty() && p.mask != "hand" && !kept)
        return Error{ErrorCode::Unknown, "mask", fmt::format("there is no kept mask \"{}\"", p.mask)};
    const skin::Bytes source = p.mask.empty() ? skin::Bytes(skin.body.size()) : kept ? kept->values : skin.mask;
    skin::layerValuesOf(skin, taken.id, skin::LayerChannel::Mask) =
        p.isInverted ? skin::valuesBy<std::uint8_t>(source.size(), [&](std::size_t v) { return std::uint8_t(255 - source[v]); })
                     : source;
    skin::composeColours(skin, skin::blocksOf(skin, taken.id));
    return putBack(before, std::move(taken.piece));
}

/// What a fill from a place reaches, as a mask: what hangs together with the vertex nearest to it and goes on like it.
skin::Bytes reached(const Piece &piece, Vec3f at, FillWhere where, float limit)
{
    const Skin &skin = piece.skin;
    const growth::Surroundings none;
    const colour::RuleGround ground(skin, none);
    const std::vector<Vec3f> &p = ground.positions();
    std::uint32_t first = 0;
    for (std::uint32_t v = 0; v < p.size(); ++v)
        if (!ground.net().of(v).empty() && squaredLength(p[v] - at) < squaredLength(p[first] - at))
            first = v;
    const auto normal = [&](std::uint32_t v) { return skin.shown.normals[v].unpack(); };
    const auto seen = [&](std::uint32_t v) {
        std::array<int, 4> c{};
        for (std::size_t k = 0; k < 4; ++k)
            c[k] = skin.paint.channels[k][v];
        return c;
    };
    const float cosine = std::cos(limit * kRadiansPerDegree);
    const std::array<int, 4> own = seen(first);
    const auto goesOn = [&](std::uint32_t from, std::uint32_t to) {
        if (where == FillWhere::Angle)
            return dot(normal(from), normal(to)) >= cosine;
        if (where == FillWhere::Border) {
            int most = 0;
            const std::array<int, 4> c = seen(to);
            for (std::size_t k = 0; k < 4; ++k)
                most = std::max(most, std::abs(c[k] - own[k]));
            return float(most) <= limit;
        }
        return true;
    };
    std::vector<bool> isIn(p.size(), false);
    std::vector<std::uint32_t> next{first};
    isIn[first] = true;
    while (!next.empty()) {
        const std::uint32_t v = next.back();
        next.pop_back();
        for (const std::uint32_t o : ground.net().of(v))
            if (!isIn[o] && goesOn(v, o))
                isIn[o] = true, next.push_back(o);
    }
    return skin::valuesBy<std::uint8_t>(p.size(), [&](std::size_t v) { return std::uint8_t(isIn[v] ? 255 - skin.mask[v] : 0); });
}

std::array<std::optional<float>, 4> finishOf(const auto &p)
{
    std::array<std::optional<float>, 4> out;
    if (p.ready)
        for (std::size_t k = 0; k < out.size(); ++k)
            out[k] = colour::kReadyFinishes[*p.ready].values[k];
    const std::array<std::optional<float>, 4> given{p.gloss, p.metal, p.wet, p.translucent};
    for (std::size_t k = 0; k < out.size(); ++k)
        setIfGiven(out[k], given[k]);
    return out;
}

Result<Creature> fillColour(const Creature &before, const FillColour &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    const std::uint32_t id = skin.colourLayers.empty() ? skin::addColourLayer(skin, "Colour", after.nextId)
                                                       : need(findColourLayer(*piece, p.layer.value_or(ItemName(0u))));
    if (const ColourLayer *l = skin::colourLayer(skin, id); l->isLocked)
        return Error{ErrorCode::BadValue, l->name, "this colour layer is locked; unlock it first"};
    const skin::Group *group = p.where == FillWhere::Group && p.group ? skin.group(*p.group) : nullptr;
    if (p.where == FillWhere::Group && !group)
        return Error{ErrorCode::BadValue, piece->name, "has no such group; name one of its groups"};
    if (p.where == FillWhere::Masked && !skin.hasMask())
        return Error{ErrorCode::BadValue, piece->name, "nothing is masked; mask what shall be filled"};
    const bool fromPlace = p.where >= FillWhere::Island;
    if (fromPlace && (!p.at || skin.isEmpty()))
        return Error{ErrorCode::BadValue, "at", "say from where on the skin it is filled"};
    skin::ColourCoat coat{{}, finishOf(p), p.isWiping};
    if (p.colour)
        need(checkColour(*p.colour, "colour"));
    if (p.colour || p.entry)
        coat.colour = inkOf(before, skin, p.entry, p.colour);
    if (!coat.colour && !coat.hasFinish() && !p.isWiping)
        return Error{ErrorCode::BadValue, "colour", "give a colour or a finish, or wipe"};
    skin::Bytes share = fromPlace ? reached(*piece, *p.at, p.where, p.limit) : skin::Bytes();
    share = skin::valuesBy<std::uint8_t>(skin.body.size(), [&](std::size_t v) {
        const float whole = fromPlace                      ? float(share[v])
                            : p.where == FillWhere::Masked ? float(skin.mask[v])
                            : p.where == FillWhere::Free   ? 255 - float(skin.mask[v])
                            : p.where == FillWhere::Group  ? 255 * float(skin.groupOf[v] == group->number)
                                                           : 255.0f;
        return std::uint8_t(std::lround(whole * p.amount));
    });
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < share.blockCount(); ++b)
        if (share.has(b))
            blocks.push_back(b);
    if (blocks.empty())
        context.notes.push_back(std::string("nothing was filled"));
    const Skin from = skin;
    skin::layCoat(skin, from, id, coat, share, blocks);
    return putBack(std::move(after), std::move(piece));
}

Result<Creature> duplicateColourLayer(const Creature &before, const DuplicateColourLayer &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer, Lock::Allows);
    Creature after = before;
    Skin &skin = taken.skin();
    skin::duplicateColourLayer(skin, taken.id, freeName(skin, taken.layer().name), after.nextId);
    return putBack(std::move(after), std::move(taken.piece));
}

Result<Creature> settleRule(const Creature &before, const SettleRule &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer);
    if (!taken.layer().ramp)
        return Error{ErrorCode::BadValue, taken.layer().name, "is painted already"};
    skin::settleColourLayer(taken.skin(), taken.id);
    return putBack(before, std::move(taken.piece));
}

/// The colours of a rule: those given, evenly along its value or at the stops given.
Result<skin::ColourRamp> rampOf(const Creature &before, Skin &skin, const ColourByRule &p, const skin::ColourRamp *was)
{
    skin::ColourRamp ramp = was ? *was : colour::rampOf({{0.36f, 0.30f, 0.22f}, 0});
    std::vector<skin::Ink> inks;
    if (p.colour || p.entry) {
        if (p.colour)
            if (const Status fine = checkColour(*p.colour, "colour"); !fine)
                return fine.error();
        ramp.stops = colour::rampOf(inkOf(before, skin, p.entry, p.colour)).stops;
    }
    for (const Vec3f c : p.colours.value_or(std::vector<Vec3f>{})) {
        if (const Status fine = checkColour(c, "colours"); !fine)
            return fine.error();
        inks.push_back({c, 0});
    }
    if (p.entries) {
        inks.clear();
        for (const ItemName &e : *p.entries)
            inks.push_back(inkOf(before, skin, e, {}));
    }
    if (!inks.empty()) {
        ramp.stops.clear();
        for (std::size_t k = 0; k < inks.size(); ++k)
            ramp.stops.push_back({inks.size() > 1 ? float(k) / float(inks.size() - 1) : 0.0f, inks[k], 1});
    }
    for (const auto &[given, what] : {std::pair{&p.stops, "stops"}, std::pair{&p.covers, "covers"}}) {
        if (!*given)
            continue;
        if ((*given)->size() != ramp.stops.size())
            return Error{ErrorCode::BadValue, what, fmt::format("there are {} colours; give as many numbers", ramp.stops.size())};
        for (std::size_t k = 0; k < ramp.stops.size(); ++k) {
            const float v = (**given)[k];
            if (!(v >= 0 && v <= 1))
                return Error{ErrorCode::BadValue, what, "must be from 0 to 1"};
            (given == &p.stops ? ramp.stops[k].at : ramp.stops[k].cover) = v;
        }
    }
    std::stable_sort(ramp.stops.begin(), ramp.stops.end(), [](const auto &a, const auto &b) { return a.at < b.at; });
    const auto finish = finishOf(p);
    for (std::size_t k = 0; k < finish.size(); ++k)
        setIfGiven(ramp.finish[k], finish[k]);
    if (p.isFinishOnly.value_or(false))
        ramp.stops.clear();
    return ramp;
}

Result<Creature> colourByRule(const colour::RuleKind &kind, const Creature &before, const ColourByRule &p,
                              CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    std::uint32_t id = 0;
    colour::Rule rule = colour::ruleOf(kind);
    std::shared_ptr<const skin::ColourRamp> was;
    if (p.layer) {
        id = need(findColourLayer(*piece, *p.layer));
        const ColourLayer &l = *skin::colourLayer(skin, id);
        if (l.isLocked)
            return Error{ErrorCode::BadValue, l.name, "this colour layer is locked; unlock it first"};
        was = l.ramp;
        if (l.rule && l.rule->kind == &kind)
            rule = *l.rule; // what is not said stays
        else if (l.rule)
            rule.seed = l.rule->seed, rule.isMirrored = l.rule->isMirrored;
    } else {
        id = skin::addColourLayer(skin, freeName(skin, p.name.value_or(std::string(kind.title))), after.nextId);
    }
    for (std::size_t k = 0; k < p.values.size(); ++k)
        setIfGiven(rule.settings[k], p.values[k]);
    setIfGiven(rule.source, p.source), setIfGiven(rule.points, p.points), setIfGiven(rule.isReversed, p.isReversed);
    setIfGiven(rule.isMirrored, p.isMirrored), setIfGiven(rule.contrast, p.contrast), setIfGiven(rule.blur, p.blur);
    setIfGiven(rule.seed, p.seed);
    if (p.curve && p.curve->empty())
        rule.curve = std::nullopt;
    else if (p.curve && p.curve->size() != sculpt::DrawnFalloff{}.size())
        return Error{ErrorCode::BadValue, "curve", "must be seven heights from 0 to 1, or none for a straight line"};
    else if (p.curve)
        std::copy(p.curve->begin(), p.curve->end(), rule.curve.emplace().begin());
    ColourLayer &layer = *skin::colourLayer(skin, id);
    layer.ramp = std::make_shared<const skin::ColourRamp>(need(rampOf(before, skin, p, was.get())));
    setIfGiven(layer.opacity, p.opacity), setIfGiven(layer.blend, p.blend);
    need(document::runRule(after, *piece, id, std::move(rule), context));
    return putBack(std::move(after), std::move(piece));
}

CommandSpec commandOfKind(const colour::RuleKind &kind)
{
    return {fmt::format("rule.{}", kind.name), fmt::format("Colour by rule: {}", kind.title), std::string(kind.text),
            specsOf(ruleFields(kind)),
            [&kind, fields = ruleFields(kind)](const Creature &before, const nlohmann::json &params, CommandContext &context) {
                return colourByRule(kind, before, readFields(fields, params), context);
            }};
}

Result<Creature> runRules(const Creature &before, const RunRules &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    std::vector<std::uint32_t> ids;
    if (p.layer) {
        const ColourLayer &l = *skin::colourLayer(piece->skin, need(findColourLayer(*piece, *p.layer)));
        if (!l.rule)
            return Error{ErrorCode::BadValue, l.name, "goes by no rule"};
        if (l.isLocked)
            return Error{ErrorCode::BadValue, l.name, "this colour layer is locked; unlock it first"};
        ids.push_back(l.id);
    } else {
        for (const std::uint32_t id : document::staleColours(before, *piece))
            if (!skin::colourLayer(piece->skin, id)->isLocked)
                ids.push_back(id);
    }
    for (const std::uint32_t id : ids) {
        const colour::Rule rule = *skin::colourLayer(piece->skin, id)->rule;
        need(document::runRule(before, *piece, id, rule, context));
    }
    context.notes.push_back(ids.empty() ? std::string("all rules fit the skin") : fmt::format("{} rules ran again", ids.size()));
    return putBack(before, std::move(piece));
}

template <typename P> Field<P> colourLayerField()
{
    return fieldOf<P>(&P::layer, "layer", "", "a colour layer by name or id").required();
}
template <typename P> Field<P> opacityField()
{
    return fieldOf<P>(&P::opacity, "opacity", "", "0 to 1", 0, 1);
}
template <typename P> Field<P> blendField()
{
    return choiceOf<P>(&P::blend, "blend", "how it mixes with what lies below", skin::kColourBlendNames);
}

} // namespace

Fields<AddColourLayer> AddColourLayer::fields()
{
    using P = AddColourLayer;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "made unique"), opacityField<P>(), blendField<P>()};
}

Fields<SetColourLayer> SetColourLayer::fields()
{
    using P = SetColourLayer;
    return {pieceField<P>(),
            colourLayerField<P>(),
            fieldOf<P>(&P::name, "name", "", "made unique"),
            opacityField<P>(),
            blendField<P>(),
            fieldOf<P>(&P::isOn, "on", "", "whether it shows"),
            fieldOf<P>(&P::isLocked, "locked", "", "kept from change")};
}

Fields<RemoveColourLayer> RemoveColourLayer::fields()
{
    return {pieceField<RemoveColourLayer>(), colourLayerField<RemoveColourLayer>()};
}

Fields<OrderColourLayer> OrderColourLayer::fields()
{
    using P = OrderColourLayer;
    return {pieceField<P>(), colourLayerField<P>(),
            fieldOf<P>(&P::to, "to", "", "place from below, counted from 0", 0, 1000).required()};
}

Fields<SoloColourLayer> SoloColourLayer::fields()
{
    using P = SoloColourLayer;
    return {pieceField<P>(), colourLayerField<P>(), fieldOf<P>(&P::isOn, "on", "", "false shows all again")};
}

Fields<MergeColourLayer> MergeColourLayer::fields()
{
    return {pieceField<MergeColourLayer>(), colourLayerField<MergeColourLayer>()};
}

Fields<MaskColourLayer> MaskColourLayer::fields()
{
    using P = MaskColourLayer;
    return {pieceField<P>(), colourLayerField<P>(),
            fieldOf<P>(&P::mask, "mask", "", "a kept mask, \"hand\" for the one in hand, empty for none"),
            fieldOf<P>(&P::isInverted, "invert", "", "shows where the mask lies, and not elsewhere")};
}

namespace {

template <typename P> Fields<P> finishFields()
{
    return {fieldOf<P>(&P::gloss, "gloss", "", "0 matt, 1 mirror-like", 0, 1), fieldOf<P>(&P::metal, "metal", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::wet, "wet", "", "a clear coat, 0 to 1", 0, 1),
            fieldOf<P>(&P::translucent, "translucent", "", "0 to 1", 0, 1),
            choiceOf<P>(&P::ready, "finish", "a ready finish; single values given beside it go before it",
                        colour::kReadyFinishNames)};
}
template <typename P> Field<P> entryField()
{
    return fieldOf<P>(&P::entry, "entry", "", "a colour of the palette, by name or id; it goes before colour");
}

} // namespace

Fields<FillColour> FillColour::fields()
{
    using P = FillColour;
    return fieldList<P>(
        {pieceField<P>(), fieldOf<P>(&P::layer, "layer", "", "a colour layer by name or id; left out: the topmost, or a new one"),
         fieldOf<P>(&P::colour, "colour", "", "red, green and blue, 0 to 1 (sRGB)"), entryField<P>(), finishFields<P>(),
         fieldOf<P>(&P::amount, "amount", "", "how much of it, 0 to 1", 0, 1),
         choiceOf<P>(&P::where, "where", "which part of the skin; island, angle and border go from a place on", kFillWhereNames),
         fieldOf<P>(&P::group, "group", "", "its name, with where: group"),
         fieldOf<P>(&P::at, "at", "mm", "the place, with where: island, angle or border"),
         fieldOf<P>(&P::limit, "limit", "",
                    "with where: angle the degrees between faces beside each other, with border the difference of colour, of 255",
                    0, 255),
         fieldOf<P>(&P::isWiping, "wipe", "", "takes colour and finish away instead")});
}

Fields<DuplicateColourLayer> DuplicateColourLayer::fields()
{
    return {pieceField<DuplicateColourLayer>(), colourLayerField<DuplicateColourLayer>()};
}

Fields<SettleRule> SettleRule::fields()
{
    return {pieceField<SettleRule>(), colourLayerField<SettleRule>()};
}

Fields<RunRules> RunRules::fields()
{
    using P = RunRules;
    return {pieceField<P>(), fieldOf<P>(&P::layer, "layer", "", "name or id; left out: all that do not fit")};
}

Fields<ColourByRule> ruleFields(const colour::RuleKind &kind)
{
    using P = ColourByRule;
    Fields<P> fields = fieldList<P>(
        {pieceField<P>(),
         fieldOf<P>(&P::layer, "layer", "", "a colour layer to run it in, keeping what is not said; left out: a new one"),
         fieldOf<P>(&P::name, "name", "", "of a new layer"), opacityField<P>(), blendField<P>(),
         fieldOf<P>(&P::colour, "colour", "", "one colour, fuller the higher the value: red, green and blue, 0 to 1 (sRGB)"),
         entryField<P>(), fieldOf<P>(&P::colours, "colours", "", "several, from the lowest value to the highest, each full"),
         fieldOf<P>(&P::entries, "entries", "", "the same of the palette, by name or id"),
         fieldOf<P>(&P::stops, "stops", "", "the value of each colour, 0 to 1; left out: evenly"),
         fieldOf<P>(&P::covers, "covers", "", "how full each colour is, 0 to 1"), finishFields<P>(),
         fieldOf<P>(&P::isFinishOnly, "finishOnly", "", "lays no colour"),
         fieldOf<P>(&P::isReversed, "reverse", "", "where it did not lie before"),
         fieldOf<P>(&P::contrast, "contrast", "", "0 as it is, 1 a hard edge", 0, 1),
         fieldOf<P>(&P::blur, "blur", "", "passes over neighbours", 0, 200),
         fieldOf<P>(&P::curve, "curve", "", "seven heights, 0 to 1, that the value is turned into at even steps; empty for none"),
         fieldOf<P>(&P::isMirrored, "mirror", "", "both sides of the piece's plane alike; left out: yes"),
         fieldOf<P>(&P::seed, "seed", "", "another seed, another pattern; usually 1", 0, 4294967295.0)});
    constexpr std::array<const char *, 5> kSources{
        "", "name of a kept mask, a group, a form (its joint) or an outgrowth (its roots); left out: the mask in hand",
        "name of a growth of scales or spots; left out: the first there is",
        "name of a detail layer; left out: the first there is", ""};
    if (kind.source == colour::Source::Line)
        fields.push_back(fieldOf<P>(&P::points, "points", "mm", "of the line, two or more"));
    else if (kind.source != colour::Source::None)
        fields.push_back(fieldOf<P>(&P::source, "source", "", kSources[std::size_t(kind.source)]));
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        const colour::GrowthSetting &s = kind.settings[k];
        Field<P> &f = fields.emplace_back();
        f.spec = {std::string(s.name), ParamKind::Number, std::string(s.unit),
                  fmt::format("{}: from {} to {}; usually {:g}", s.title, s.low, s.high, kind.usual[k])};
        f.spec.min = double(s.min), f.spec.max = double(s.max);
        f.read = [k, count = kind.settings.size()](const nlohmann::json &j, P &to) {
            to.values.resize(count);
            to.values[k] = j.get<float>();
        };
        f.write = [k](const P &from) {
            return k < from.values.size() && from.values[k] ? nlohmann::json(*from.values[k]) : nlohmann::json();
        };
    }
    return fields;
}

nlohmann::json ruleCommand(std::uint32_t piece, std::uint32_t layer, const colour::Rule &rule, const skin::ColourRamp &ramp)
{
    ColourByRule p{.piece = piece};
    if (layer)
        p.layer = layer;
    std::vector<ItemName> entries;
    for (const skin::ColourRamp::Stop &s : ramp.stops) {
        if (!p.colours)
            p.colours.emplace(), p.stops.emplace(), p.covers.emplace();
        p.colours->push_back(s.ink.colour), p.stops->push_back(s.at), p.covers->push_back(s.cover);
        entries.emplace_back(s.ink.entry);
    }
    if (std::any_of(ramp.stops.begin(), ramp.stops.end(), [](const auto &s) { return s.ink.entry != 0; }))
        p.entries = entries;
    p.gloss = ramp.finish[0], p.metal = ramp.finish[1], p.wet = ramp.finish[2], p.translucent = ramp.finish[3];
    if (ramp.stops.empty())
        p.isFinishOnly = true;
    p.isReversed = rule.isReversed, p.isMirrored = rule.isMirrored, p.contrast = rule.contrast, p.blur = rule.blur;
    p.seed = rule.seed;
    p.curve.emplace();
    if (rule.curve)
        p.curve->assign(rule.curve->begin(), rule.curve->end());
    if (rule.kind->source == colour::Source::Line)
        p.points = rule.points;
    else if (rule.kind->source != colour::Source::None)
        p.source = rule.source;
    p.values.assign(rule.settings.begin(), rule.settings.end());
    nlohmann::json c{{"do", fmt::format("rule.{}", rule.kind->name)}};
    writeFields(ruleFields(*rule.kind), p, c);
    return c;
}

std::vector<CommandSpec> colourCommands()
{
    std::vector<CommandSpec> rows{commandOf(addColourLayer),   commandOf(setColourLayer),  commandOf(removeColourLayer),
                                  commandOf(orderColourLayer), commandOf(soloColourLayer), commandOf(mergeColourLayer),
                                  commandOf(maskColourLayer),  commandOf(fillColour),      commandOf(duplicateColourLayer),
                                  commandOf(settleRule),       commandOf(runRules)};
    for (const colour::RuleKind &kind : colour::ruleKinds())
        rows.push_back(commandOfKind(kind));
    return rows;
}

} // namespace bonemoss::command
