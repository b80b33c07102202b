#include "creature/params.h"
#include "detail/levels.h"

#include <algorithm>

namespace bonemoss::creature {

using nlohmann::json;

namespace {

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

} // namespace

std::vector<CommandSpec> sculptCommands()
{
    const ParamSpec layer = required(plainParam(ParamKind::Reference, "layer", "", "name or id"));
    ParamSpec passes = numberParam("passes", "", "how often each vertex takes the mean of its neighbours", 1, 100, "3");
    passes.kind = ParamKind::Integer;
    return {
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
