// Colour layers: their order, how they show, and what is laid on them evenly.
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/named_items.h"
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

Result<Creature> fillColour(const Creature &before, const FillColour &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    const std::uint32_t id = skin.colourLayers.empty() ? skin::addColourLayer(skin, "Colour", after.nextId)
                                                       : need(findColourLayer(*piece, p.layer.value_or(ItemName(0u))));
    if (const ColourLayer *l = skin::colourLayer(skin, id); l->isLocked)
        return Error{ErrorCode::BadValue, l->name, "this colour layer is locked; unlock it first"};
    const skin::Group *group = p.where == PaintWhere::Group && p.group ? skin.group(*p.group) : nullptr;
    if (p.where == PaintWhere::Group && !group)
        return Error{ErrorCode::BadValue, piece->name, "has no such group; name one of its groups"};
    if (p.where == PaintWhere::Masked && !skin.hasMask())
        return Error{ErrorCode::BadValue, piece->name, "nothing is masked; mask what shall be filled"};
    skin::ColourCoat coat{p.colour, {p.gloss, p.metal, p.wet, p.translucent}, p.isWiping};
    if (p.colour
        && (std::min({p.colour->x, p.colour->y, p.colour->z}) < 0 || std::max({p.colour->x, p.colour->y, p.colour->z}) > 1))
        return Error{ErrorCode::BadValue, "colour", "must be three numbers from 0 to 1: red, green and blue"};
    if (!p.colour && !coat.hasFinish() && !p.isWiping)
        return Error{ErrorCode::BadValue, "colour", "give a colour or a finish, or wipe"};
    const skin::Bytes share = skin::valuesBy<std::uint8_t>(skin.body.size(), [&](std::size_t v) {
        const float whole = p.where == PaintWhere::Masked  ? float(skin.mask[v])
                            : p.where == PaintWhere::Free  ? 255 - float(skin.mask[v])
                            : p.where == PaintWhere::Group ? 255 * float(skin.groupOf[v] == group->number)
                                                           : 255.0f;
        return std::uint8_t(std::lround(whole * p.amount));
    });
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < share.blockCount(); ++b)
        if (share.has(b))
            blocks.push_back(b);
    const Skin from = skin;
    skin::layCoat(skin, from, id, coat, share, blocks);
    return putBack(std::move(after), std::move(piece));
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

Fields<FillColour> FillColour::fields()
{
    using P = FillColour;
    return {pieceField<P>(),
            fieldOf<P>(&P::layer, "layer", "", "a colour layer by name or id; left out: the topmost, or a new one"),
            fieldOf<P>(&P::colour, "colour", "", "red, green and blue, 0 to 1 (sRGB)"),
            fieldOf<P>(&P::gloss, "gloss", "", "0 matt, 1 mirror-like", 0, 1),
            fieldOf<P>(&P::metal, "metal", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::wet, "wet", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::translucent, "translucent", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::amount, "amount", "", "how much of it, 0 to 1", 0, 1),
            choiceOf<P>(&P::where, "where", "which part of the skin", kPaintWhereNames),
            fieldOf<P>(&P::group, "group", "", "its name, with where: group"),
            fieldOf<P>(&P::isWiping, "wipe", "", "takes colour and finish away instead")};
}

std::vector<CommandSpec> colourCommands()
{
    return {commandOf(addColourLayer),  commandOf(setColourLayer),   commandOf(removeColourLayer), commandOf(orderColourLayer),
            commandOf(soloColourLayer), commandOf(mergeColourLayer), commandOf(maskColourLayer),   commandOf(fillColour)};
}

} // namespace bonemoss::command
