// Colour layers: their order, how they show, and what is laid on them evenly.
#include "base/files.h"
#include "colour/rule_input.h"
#include "command/colours/colour_taking.h"
#include "command/fields.h"
#include "command/named_items.h"
#include "document/ops/colours.h"
#include "skin/carry.h"
#include "skin/marks.h"
#include "store/store.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using skin::ColourLayer;
using skin::Skin;

namespace {

Result<Creature> addColourLayer(const Creature &before, const AddColourLayer &p, CommandContext &)
{
    constexpr std::size_t kMost = 64;
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    if (piece->skin.colourLayers.size() >= kMost)
        return Error{ErrorCode::TooLarge, piece->name, fmt::format("has {} colour layers already; merge some", kMost)};
    const std::uint32_t id = skin::addColourLayer(piece->skin, freeLayerName(piece->skin, p.name), after.nextId);
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
        layer.name = freeLayerName(taken.skin(), *p.name);
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
    skin::duplicateColourLayer(skin, taken.id, freeLayerName(skin, taken.layer().name), after.nextId);
    return putBack(std::move(after), std::move(taken.piece));
}

/// What came over, in words.
void tellShare(CommandContext &context, double missed, const std::string &to)
{
    context.notes.push_back(fmt::format("{:.0f} % of {} lies near enough to take the colours over", (1 - missed) * 100, to));
}

Result<Creature> copyColourLayer(const Creature &before, const CopyColourLayer &p, CommandContext &context)
{
    const auto from = takeColourLayer(before, p.piece, p.layer, Lock::Allows);
    auto to = need(takePiece(before, p.to));
    if (to->id == from.piece->id)
        return Error{ErrorCode::BadValue, "to", "is the piece itself; duplicate the layer instead"};
    Creature after = before;
    double missed = 0;
    const std::string name = freeLayerName(to->skin, skin::colourLayer(from.piece->skin, from.id)->name);
    skin::copyColoursOver(to->skin, from.piece->skin, from.id, name, after.nextId, missed);
    tellShare(context, missed, to->name);
    return putBack(std::move(after), std::move(to));
}

Result<Creature> takeColours(const Creature &before, const TakeColourLayer &p, CommandContext &context)
{
    auto to = need(takePiece(before, p.piece));
    const auto other = need(store::loadStore(context.folder / p.path, context.progress));
    for (const auto &piece : other.creature.pieces)
        for (const ColourLayer &l : piece->skin.colourLayers)
            if (l.name == p.layer && (!p.from || *p.from == piece->name)) {
                Creature after = before;
                Skin from = piece->skin;
                skin::settleColourLayer(from, l.id);
                double missed = 0;
                skin::copyColoursOver(to->skin, from, l.id, freeLayerName(to->skin, l.name), after.nextId, missed);
                tellShare(context, missed, to->name);
                return putBack(std::move(after), std::move(to));
            }
    return Error{ErrorCode::Unknown, shownPath(p.path),
                 fmt::format("has no colour layer \"{}\"{}", p.layer, p.from ? " on a piece of that name" : "")};
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

Fields<CopyColourLayer> CopyColourLayer::fields()
{
    using P = CopyColourLayer;
    return {pieceField<P>(), colourLayerField<P>(), fieldOf<P>(&P::to, "to", "", "a piece, by name or id").required()};
}

Fields<TakeColourLayer> TakeColourLayer::fields()
{
    using P = TakeColourLayer;
    return {pieceField<P>(), fieldOf<P>(&P::path, "path", "", "a .bonemoss file").required(),
            fieldOf<P>(&P::layer, "layer", "", "the colour layer's name").required(),
            fieldOf<P>(&P::from, "from", "", "the piece there that has it; left out: the first that does")};
}

Fields<DuplicateColourLayer> DuplicateColourLayer::fields()
{
    return {pieceField<DuplicateColourLayer>(), colourLayerField<DuplicateColourLayer>()};
}

std::vector<CommandSpec> colourCommands()
{
    std::vector<CommandSpec> rows{commandOf(addColourLayer),   commandOf(setColourLayer),   commandOf(removeColourLayer),
                                  commandOf(orderColourLayer), commandOf(soloColourLayer),  commandOf(mergeColourLayer),
                                  commandOf(maskColourLayer),  commandOf(fillColour),       commandOf(duplicateColourLayer),
                                  commandOf(copyColourLayer),  commandOf(takeColours, true)};
    for (CommandSpec &row : colourPictureCommands())
        rows.push_back(std::move(row));
    return rows;
}

} // namespace bonemoss::command
