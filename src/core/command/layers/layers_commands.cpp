// Detail layers: their order, strength and masks, and what can be made of one.
#include "command/fields.h"
#include "command/layers/layer_fields.h"
#include "command/named_items.h"
#include "store/store.h"
#include "skin/carry.h"
#include "growth/growth.h"
#include "skin/level_values.h"
#include "skin/levels.h"
#include "growth/repeats.h"
#include "skin/skin_maps.h"

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
    std::vector<Layer>::iterator place()
    {
        return std::find_if(skin().layers.begin(), skin().layers.end(), [&](const Layer &l) { return l.id == id; });
    }
};

/// Brings what a state shows in line; a state that is only kept to tell changes by shows nothing.
void remix(Skin &state, const std::vector<std::uint32_t> &blocks)
{
    if (skin::hasSurface(state))
        skin::mixBlocks(state, blocks);
}

/// Mean edge length of the body, which every state has.
float bodyEdge(const Skin &state)
{
    return meanEdgeLength(mesh::makeSurface(state.shown.topology, state.body));
}

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
    setIfGiven(layer.isOn, p.isOn);
    setIfGiven(layer.isLocked, p.isLocked);
    if (layer.shownStrength() != shown)
        skin::mixBlocks(taken.skin(), skin::blocksWith(layer));
    return putBack(before, std::move(taken.piece));
}

Result<Creature> removeLayer(const Creature &before, const RemoveLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer);
    Skin &skin = taken.skin();
    const auto blocks = skin::blocksWith(taken.layer());
    std::erase_if(skin.layers, [&](const Layer &l) { return l.id == taken.id; });
    for (Layer &l : skin.layers)
        if (l.handOver == taken.id)
            l.handOver = 0; // an ordinary painted layer from now on
    skin::mixBlocks(skin, blocks);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> mergeLayer(const Creature &before, const MergeLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer);
    Skin &skin = taken.skin();
    if (const auto at = taken.place(); at != skin.layers.begin()) {
        Layer &below = *(at - 1);
        if (below.isLocked)
            return Error{ErrorCode::BadValue, below.name, "the layer below is locked; unlock it first"};
        below.growth = nullptr; // it is not what its rule makes any more
    }
    need(skin::mergeDown(skin, taken.id));
    return putBack(before, std::move(taken.piece));
}

Result<Creature> orderLayer(const Creature &before, const OrderLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    auto &layers = taken.skin().layers;
    const auto from = taken.place() - layers.begin();
    const auto to = std::ptrdiff_t(std::min<std::size_t>(p.to, layers.size() - 1));
    if (from < to)
        std::rotate(layers.begin() + from, layers.begin() + from + 1, layers.begin() + to + 1);
    else
        std::rotate(layers.begin() + to, layers.begin() + from, layers.begin() + from + 1);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> soloLayer(const Creature &before, const SoloLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    Skin &skin = taken.skin();
    std::vector<bool> changed(skin.body.blockCount(), false);
    for (Layer &l : skin.layers) {
        const float shown = l.shownStrength();
        l.isAside = p.isOn && l.id != taken.id && l.handOver != taken.id;
        if (l.shownStrength() != shown)
            for (const std::uint32_t b : skin::blocksWith(l))
                changed[b] = true;
    }
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < changed.size(); ++b)
        if (changed[b])
            blocks.push_back(b);
    skin::mixBlocks(skin, blocks);
    return putBack(before, std::move(taken.piece));
}

Result<Creature> duplicateLayer(const Creature &before, const DuplicateLayer &p, CommandContext &)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    Creature after = before;
    const std::uint32_t id = after.nextId++;
    const std::string name = layerName(taken.skin(), p.name ? *p.name : taken.layer().name);
    const Status done = skin::onAllLevels(taken.skin(), taken.id, [&](Skin &state) -> Status {
        const auto at = std::find_if(state.layers.begin(), state.layers.end(), [&](const Layer &l) { return l.id == taken.id; });
        Layer twin = *at;
        twin.id = id, twin.isLocked = false, twin.handOver = 0, twin.name = name;
        const auto blocks = skin::blocksWith(twin);
        state.layers.insert(at + 1, std::move(twin));
        remix(state, blocks);
        return Done{};
    });
    if (!done)
        return done.error();
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
    Skin &skin = taken.skin();
    sculpt::Symmetry plane = taken.piece->symmetry;
    plane.hasPlane = true, plane.around = 1;
    double missed = -1; // of the level in hand, which comes first
    const Status done = skin::onAllLevels(skin, taken.id, [&](Skin &state) -> Status {
        Layer &layer = *state.layer(taken.id);
        std::vector<std::uint32_t> blocks = skin::blocksWith(layer);
        auto copy = skin::copiedLayer(state, layer, state, plane.places().at(1), 4 * bodyEdge(state));
        layer.offsets = std::move(copy.offsets), layer.mask = std::move(copy.mask), layer.growth = nullptr;
        missed = missed < 0 ? copy.missed : missed;
        for (const std::uint32_t b : skin::blocksWith(layer))
            blocks.push_back(b);
        std::sort(blocks.begin(), blocks.end());
        blocks.erase(std::unique(blocks.begin(), blocks.end()), blocks.end());
        remix(state, blocks);
        return Done{};
    });
    if (!done)
        return done.error();
    if (missed > 0.005)
        context.notes.push_back(
            fmt::format("{:.1f} % of the skin has no mirror image, and nothing of the layer now", missed * 100));
    return putBack(before, std::move(taken.piece));
}

/// Puts a copy of a layer on top of a piece, at all its levels. from: the finest level of where it lies.
Status lay(Creature &creature, const Skin &from, std::uint32_t layerId, std::shared_ptr<Piece> to, CommandContext &context)
{
    const Layer &layer = *from.layer(layerId);
    const std::uint32_t id = creature.nextId++;
    const std::string name = layerName(to->skin, layer.name);
    double missed = -1; // of the level in hand, which comes first
    const Status done = skin::onAllLevels(to->skin, 0, [&](Skin &state) -> Status {
        auto copy = skin::copiedLayer(from, layer, state, {}, 8 * meanEdgeLength(from.shown));
        Layer made(state.body.size());
        made.id = id, made.strength = layer.strength, made.isOn = layer.isOn, made.name = name;
        made.growth = layer.growth; // grows again by its rule when it is asked to
        made.offsets = std::move(copy.offsets), made.mask = std::move(copy.mask);
        missed = missed < 0 ? copy.missed : missed;
        const auto blocks = skin::blocksWith(made);
        state.layers.push_back(std::move(made));
        remix(state, blocks);
        return Done{};
    });
    if (!done)
        return done;
    context.notes.push_back(fmt::format("{:.0f} % of {} lies near enough to take the layer over", (1 - missed) * 100, to->name));
    creature.put(std::move(to));
    return Done{};
}

Result<Creature> copyLayer(const Creature &before, const CopyLayer &p, CommandContext &context)
{
    auto taken = takeLayer(before, p.piece, p.layer, Lock::Allows);
    const auto to = need(findPiece(before, p.to, "to"));
    if (before.piece(to)->isLocked)
        return Error{ErrorCode::BadValue, before.piece(to)->name, "is locked; unlock it first"};
    Creature after = before;
    need(lay(after, wholeSkin(*taken.piece), taken.id, std::make_shared<Piece>(*before.piece(to)), context));
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
                need(lay(after, wholeSkin(*piece), l.id, std::move(to), context));
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
    mesh::BlockArray<std::uint8_t> mask(skin.body.size());
    for (std::size_t b = 0; b < mask.blockCount(); ++b) {
        std::uint8_t *m = mask.edit(b);
        for (std::size_t i = 0; i < mask.countIn(b); ++i)
            for (const auto &s : spots)
                if (squaredLength(s.at - skin.shown.positions.data(b)[i]) < 0.25f * settings.width * settings.width)
                    m[i] = 255;
    }
    skin::dropBlank(mask);
    skin.mask = std::move(mask);
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
