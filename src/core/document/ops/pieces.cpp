#include "document/ops/pieces.h"

#include "skin/levels.h"
#include "skin/skin_maps.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::document {

skin::Skin wholeSkin(const Piece &piece)
{
    return skin::finest(piece.skin);
}

Result<mesh::BlockArray<std::uint8_t>> maskNamed(const skin::Skin &skin, const std::string &from, bool isInverted)
{
    mesh::BlockArray<std::uint8_t> mask(skin.body.size());
    if (from == "hand")
        mask = skin.mask;
    else if (const skin::KeptMask *kept = skin.keptMask(from))
        mask = kept->values;
    else if (from != "none")
        return Error{ErrorCode::Unknown, "mask",
                     fmt::format("there is no kept mask \"{}\"; \"hand\" is the one in hand, \"none\" is none", from)};
    if (isInverted && from != "none")
        for (std::size_t b = 0; b < mask.blockCount(); ++b) {
            std::uint8_t *m = mask.edit(b);
            for (std::size_t i = 0; i < mask.countIn(b); ++i)
                m[i] = std::uint8_t(255 - m[i]);
        }
    skin::dropBlank(mask);
    return mask;
}

std::string layerName(const skin::Skin &skin, const std::string &wanted)
{
    std::string name = wanted;
    for (int n = 2; std::any_of(skin.layers.begin(), skin.layers.end(), [&](const auto &l) { return l.name == name; }); ++n)
        name = fmt::format("{} {}", wanted, n);
    return name;
}

bool needsHandLayer(const skin::Skin &skin, std::uint32_t layer, sculpt::Tool tool)
{
    const skin::Layer *l = skin.layer(layer);
    return l && l->growth && tool != sculpt::Tool::Mask && tool != sculpt::Tool::Restore;
}

std::uint32_t handLayer(skin::Skin &skin, std::uint32_t growth, std::uint32_t &nextId)
{
    for (const skin::Layer &l : skin.layers)
        if (l.handOver == growth)
            return l.id;
    const auto at = std::find_if(skin.layers.begin(), skin.layers.end(), [&](const auto &l) { return l.id == growth; });
    skin::Layer hand(skin.body.size());
    hand.id = nextId++, hand.handOver = growth;
    hand.name = layerName(skin, at->name + " by hand");
    return skin.layers.insert(at + 1, std::move(hand))->id;
}

Creature withNewPiece(Creature creature, const std::string &name, skin::Skin skin)
{
    auto piece = std::make_shared<Piece>();
    piece->id = creature.nextId++;
    piece->name = creature.uniqueName(name);
    piece->skin = std::move(skin);
    creature.pieces.push_back(std::move(piece));
    return creature;
}

Creature putBack(Creature creature, std::shared_ptr<const Piece> piece)
{
    creature.put(std::move(piece));
    return creature;
}

} // namespace bonemoss::document
