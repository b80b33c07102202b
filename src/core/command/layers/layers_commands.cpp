// Detail layers: their order, strength and masks, and what can be made of one.
#include "command/fields.h"
#include "command/layers/layer_fields.h"
#include "command/named_items.h"
#include "store/store.h"
#include "growth/growth.h"
#include "skin/layers.h"
#include "skin/levels.h"
#include "growth/repeats.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using nlohmann::json;
using skin::Layer;
using skin::Skin;

namespace {

/// The piece and layer that a command names, to be changed.
struct Taken {
    std::shared_ptr<Piece> piece;
    std::uint32_t id = 0;
    Skin &skin() { return piece->skin; }
    Layer &layer() { return *piece->skin.layer(id); }
};

Taken takeLayer(const Creature &before, const std::optional<ItemName> &pieceName, const ItemName &layer,
                Lock lock = Lock::Refuses)
{
    auto piece = need(takePiece(before, pieceName));
    const std::uint32_t id = need(findLayer(*piece, layer));
    if (id == 0)
        throw Failure{
            {ErrorCode::BadValue, "layer", "the body is no layer; it has no strength, switch, order or mask of its own"}};
    if (const Layer *l = piece->skin.layer(id); l->isLocked && lock == Lock::Refuses)
        throw Failure{{ErrorCode::BadValue, l->name, "this layer is locked; unlock it first"}};
    return {std::move(piece), id};
}

Result<Creature> addLayer(const Creature &before, const AddLayer &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    Layer layer(skin.body.size());
    layer.id = after.nextId++;
    layer.name = layerName(skin, p.name);
    layer.strength = p.strength;
    skin.layers.push_back(std::move(layer));
    after.put(std::move(piece));
    return after;
}

Result<Creature> setLayer(const Creature &before, const SetLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    Layer &layer = taken.layer();
    const float shown = layer.shownStrength();
    if (layer.isLocked && !p.isLocked.has_value() && (p.name || p.strength))
        return Error{ErrorCode::BadValue, layer.name, "this layer is locked; unlock it first"};
    setIfGiven(layer.name, p.name);
    setIfGiven(layer.strength, p.strength);
    setIfGiven(layer.rigid, p.rigid);
    setIfGiven(layer.isOn, p.isOn);
    setIfGiven(layer.isLocked, p.isLocked);
    if (layer.shownStrength() != shown)
        skin::mixBlocks(taken.skin(), skin::blocksWith(layer));
    return putBack(before, std::move(taken.piece));
}

Result<Creature> removeLayer(const Creature &before, const RemoveLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer);
    skin::removeLayer(taken.skin(), taken.id);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> mergeLayer(const Creature &before, const MergeLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer);
    Skin &skin = taken.skin();
    if (taken.layer().drive.by != skin::LayerDrive::By::None)
        return Error{ErrorCode::BadValue, taken.layer().name,
                     "comes and goes with the pose, which would be lost; take its drive off first"};
    if (const std::size_t at = std::size_t(&taken.layer() - skin.layers.data()); at > 0) {
        Layer &below = skin.layers[at - 1];
        if (below.isLocked)
            return Error{ErrorCode::BadValue, below.name, "the layer below is locked; unlock it first"};
        if (below.drive.by != skin::LayerDrive::By::None)
            return Error{ErrorCode::BadValue, below.name,
                         "the layer below comes and goes with the pose; take its drive off first"};
        below.growth = nullptr; // it is not what its rule makes any more
    }
    need(skin::mergeDown(skin, taken.id));
    return putBack(before, std::move(taken.piece));
}

Result<Creature> orderLayer(const Creature &before, const OrderLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    skin::moveLayer(taken.skin(), taken.id, p.to);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> soloLayer(const Creature &before, const SoloLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    skin::showAlone(taken.skin(), taken.id, p.isOn);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> duplicateLayer(const Creature &before, const DuplicateLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    Creature after = before;
    const std::string name = layerName(taken.skin(), p.name.value_or(taken.layer().name));
    need(skin::duplicateLayer(taken.skin(), taken.id, after.nextId++, name));
    after.put(std::move(taken.piece));
    return after;
}

Result<Creature> maskLayer(const Creature &before, const MaskLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer);
    Skin &skin = taken.skin();
    auto mask = need(maskNamed(skin, p.mask, p.isInverted));
    taken.layer().mask = std::move(mask);
    skin::mixBlocks(skin, skin::blocksWith(taken.layer()));
    return putBack(before, std::move(taken.piece));
}

Result<Creature> maskFromLayer(const Creature &before, const MaskFromLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    taken.skin().mask = taken.layer().mask;
    return putBack(before, std::move(taken.piece));
}

Result<Creature> flipLayer(const Creature &before, const FlipLayer &p, CommandContext &context)
{
    auto taken = takeLayer(before, p.piece, p.layer);
    sculpt::Symmetry plane = taken.piece->symmetry;
    plane.hasPlane = true, plane.around = 1;
    double missed = 0;
    need(skin::mapLayer(taken.skin(), taken.id, plane.places().at(1), missed));
    if (missed > 0.005)
        context.notes.push_back(
            fmt::format("{:.1f} % of the skin has no mirror image, and nothing of the layer now", missed * 100));
    return putBack(before, std::move(taken.piece));
}

/// Puts a copy of a layer of another skin (its finest level) on top of a piece.
void lay(Creature &creature, const Skin &from, std::uint32_t layerId, std::shared_ptr<Piece> to, CommandContext &context)
{
    const Layer &layer = *from.layer(layerId);
    double missed = 0;
    need(skin::layOver(to->skin, from, layer, creature.nextId++, layerName(to->skin, layer.name), missed));
    context.notes.push_back(fmt::format("{:.0f} % of {} lies near enough to take the layer over", (1 - missed) * 100, to->name));
    creature.put(std::move(to));
}

Result<Creature> copyLayer(const Creature &before, const CopyLayer &p, CommandContext &context)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    const auto to = need(findPiece(before, p.to, "to"));
    if (before.piece(to)->isLocked)
        return Error{ErrorCode::BadValue, before.piece(to)->name, "is locked; unlock it first"};
    Creature after = before;
    lay(after, wholeSkin(*taken.piece), taken.id, std::make_shared<Piece>(*before.piece(to)), context);
    return after;
}

Result<Creature> takeFromFile(const Creature &before, const TakeFromFile &p, CommandContext &context)
{
    auto to = need(takePiece(before, p.piece));
    const auto other = need(store::loadStore(context.folder / p.path, context.progress));
    for (const auto &piece : other.creature.pieces)
        for (const Layer &l : piece->skin.layers)
            if (l.name == p.layer && (!p.from || *p.from == piece->name)) {
                Creature after = before;
                lay(after, wholeSkin(*piece), l.id, std::move(to), context);
                return after;
            }
    return Error{ErrorCode::Unknown, p.path.native(),
                 fmt::format("has no layer \"{}\"{}", p.layer, p.from ? " on a piece of that name" : "")};
}

Result<Creature> makeHandLayer(const Creature &before, const MakeHandLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    if (!taken.layer().growth)
        return Error{ErrorCode::BadValue, taken.layer().name, "is painted; only a growth has hand work of its own"};
    Creature after = before;
    handLayer(taken.skin(), taken.id, after.nextId);
    after.put(std::move(taken.piece));
    return after;
}

/// Where detail repeats itself: told, masked, or varied.
Result<Creature> lookForRepeats(const Creature &before, const LookForRepeats &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    Skin &skin = piece->skin;
    const growth::RepeatSettings settings{p.width, p.reach, p.likeness};
    const auto spots = growth::findRepeats(skin, settings, context.progress);
    if (context.progress.isCancelled())
        return Error{ErrorCode::Cancelled, piece->name, "nothing was looked for"};
    if (spots.empty()) {
        context.notes.push_back("no pattern repeats within the eye's reach");
        return before;
    }
    context.notes.push_back(fmt::format("{} places repeat another at the same turn and size", spots.size()));
    constexpr std::size_t kTold = 12;
    for (std::size_t k = 0; k < std::min(spots.size(), kTold); ++k)
        context.notes.push_back(
            {fmt::format("{:.0f} % like a place {:.1f} mm away", spots[k].likeness * 100, length(spots[k].at - spots[k].of)),
             spots[k].at});
    const RepeatsHow how = p.how;
    if (how == RepeatsHow::Tell)
        return before;
    if (how == RepeatsHow::Vary) {
        growth::varySpots(skin, spots, settings.width, p.seed);
        if (const auto left = growth::findRepeats(skin, settings, context.progress); !left.empty())
            context.notes.push_back(
                {fmt::format("{} still do; those of a growth differ when its variation or seed does", left.size()), left[0].at});
        return putBack(before, std::move(piece));
    }
    skin.mask = growth::maskOfSpots(skin, spots, settings.width);
    return putBack(before, std::move(piece));
}

} // namespace

Fields<AddLayer> AddLayer::fields()
{
    using P = AddLayer;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "of the layer"),
            fieldOf<P>(&P::strength, "strength", "", "-1 to 2", -1, 2)};
}

Fields<SetLayer> SetLayer::fields()
{
    using P = SetLayer;
    return {pieceField<P>(),
            layerField<P>(),
            fieldOf<P>(&P::name, "name", "", "new name"),
            fieldOf<P>(&P::strength, "strength", "", "-1 to 2", -1, 2),
            fieldOf<P>(&P::rigid, "rigid", "", "how far its scales and plates keep their shape in a pose", 0, 1),
            fieldOf<P>(&P::isOn, "on", "", "shown or not"),
            fieldOf<P>(&P::isLocked, "locked", "", "no stroke or command changes it")};
}

Fields<RemoveLayer> RemoveLayer::fields()
{
    using P = RemoveLayer;
    return {pieceField<P>(), layerField<P>()};
}

Fields<MergeLayer> MergeLayer::fields()
{
    using P = MergeLayer;
    return {pieceField<P>(), layerField<P>()};
}

Fields<OrderLayer> OrderLayer::fields()
{
    using P = OrderLayer;
    return {pieceField<P>(), layerField<P>(), fieldOf<P>(&P::to, "to", "", "its place from below, from 0", 0, 10000).required()};
}

Fields<SoloLayer> SoloLayer::fields()
{
    using P = SoloLayer;
    return {pieceField<P>(), layerField<P>(), fieldOf<P>(&P::isOn, "on", "", "alone, or all again")};
}

Fields<DuplicateLayer> DuplicateLayer::fields()
{
    using P = DuplicateLayer;
    return {pieceField<P>(), layerField<P>(), fieldOf<P>(&P::name, "name", "", "of the second")};
}

Fields<FlipLayer> FlipLayer::fields()
{
    using P = FlipLayer;
    return {pieceField<P>(), layerField<P>()};
}

Fields<MaskLayer> MaskLayer::fields()
{
    using P = MaskLayer;
    return {pieceField<P>(), layerField<P>(),
            fieldOf<P>(&P::mask, "mask", "", "\"hand\" for the mask in hand, \"none\", or the name of a kept one"),
            fieldOf<P>(&P::isInverted, "invert", "", "show it only where the mask lies")};
}

Fields<MaskFromLayer> MaskFromLayer::fields()
{
    using P = MaskFromLayer;
    return {pieceField<P>(), layerField<P>()};
}

Fields<CopyLayer> CopyLayer::fields()
{
    using P = CopyLayer;
    return {pieceField<P>(), layerField<P>(), fieldOf<P>(&P::to, "to", "", "the other piece").required()};
}

Fields<TakeFromFile> TakeFromFile::fields()
{
    using P = TakeFromFile;
    return {pieceField<P>(), fieldOf<P>(&P::path, "path", "", "the other creature's .bonemoss file").required(),
            fieldOf<P>(&P::layer, "layer", "", "its name there").required(),
            fieldOf<P>(&P::from, "from", "", "name of the piece there")};
}

Fields<LookForRepeats> LookForRepeats::fields()
{
    using P = LookForRepeats;
    return {pieceField<P>(),
            fieldOf<P>(&P::width, "width", "mm", "of the pattern", 0.2, 200),
            fieldOf<P>(&P::reach, "reach", "mm", "farther apart the eye does not compare", 1, 1000),
            fieldOf<P>(&P::likeness, "likeness", "", "correlation of two reliefs that counts, 0.5 to 1", 0.5, 1),
            choiceOf<P>(&P::how, "how", "what is done about them", kRepeatsHowNames),
            fieldOf<P>(&P::seed, "seed", "", "of vary", 0, 4294967295.0)};
}

Fields<MakeHandLayer> MakeHandLayer::fields()
{
    using P = MakeHandLayer;
    return {pieceField<P>(), layerField<P>()};
}

std::vector<CommandSpec> layerCommands()
{
    return {
        commandOf(addLayer),       commandOf(setLayer),      commandOf(removeLayer),    commandOf(mergeLayer),
        commandOf(orderLayer),     commandOf(soloLayer),     commandOf(duplicateLayer), commandOf(flipLayer),
        commandOf(maskLayer),      commandOf(maskFromLayer), commandOf(copyLayer),      commandOf(takeFromFile, true),
        commandOf(lookForRepeats), commandOf(makeHandLayer),
    };
}

} // namespace bonemoss::command
