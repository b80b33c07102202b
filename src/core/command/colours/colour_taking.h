#pragma once

#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/finish_fields.h"
#include "command/named_items.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

// What the commands about colour layers share.

/// A colour layer of a piece, to be changed and put back.
struct TakenColour {
    std::shared_ptr<Piece> piece;
    std::uint32_t id = 0;
    skin::Skin &skin() { return piece->skin; }
    skin::ColourLayer &layer() { return *skin::colourLayer(piece->skin, id); }
};

inline TakenColour takeColourLayer(const Creature &before, const std::optional<ItemName> &pieceName, const ItemName &layer,
                                   Lock lock = Lock::Refuses)
{
    auto piece = need(takePiece(before, pieceName));
    const std::uint32_t id = need(findColourLayer(*piece, layer));
    if (const skin::ColourLayer *l = skin::colourLayer(piece->skin, id); l->isLocked && lock == Lock::Refuses)
        throw Failure{{ErrorCode::BadValue, l->name, "this colour layer is locked; unlock it first"}};
    return {std::move(piece), id};
}

/// A name that no colour layer of the skin has.
inline std::string freeLayerName(const skin::Skin &skin, const std::string &wanted)
{
    const auto isTaken = [&](const std::string &name) {
        return std::any_of(skin.colourLayers.begin(), skin.colourLayers.end(),
                           [&](const skin::ColourLayer &l) { return l.name == name; });
    };
    std::string name = wanted.empty() ? "Colour" : wanted;
    for (int k = 2; isTaken(name); ++k)
        name = fmt::format("{} {}", wanted.empty() ? "Colour" : wanted, k);
    return name;
}

std::vector<CommandSpec> colourPictureCommands(); ///< a part of colourCommands()

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
template <typename P> Field<P> entryField()
{
    return fieldOf<P>(&P::entry, "entry", "", "a colour of the palette, by name or id; it goes before colour");
}

} // namespace bonemoss::command
