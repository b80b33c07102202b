#pragma once

#include "document/creature.h"
#include "skin/skin_maps.h"

#include <QString>

#include <array>
#include <memory>
#include <span>

namespace bonemoss::app {

/// How skins are shown, in the order of the menu.
enum class Look {
    Clay,
    Groups,
    Facets,
    Wire,
    Silhouette,
    Hollows,
    Covered,
    Thin,
    Through,
    Uneven,
    Seen,
    Stretched,
    Neglected,
    LayerOnly,
    ColourOnly,
    Values,
    Gloss,
    Metal,
    Wet,
    Translucency,
    Grain,
    ColourMask,
    BoneWeight,
};

/// sRGB, and how much of the clay stays.
using Tint = std::array<std::uint8_t, 4>;

/// A look as one row: menu, shading, the numbers it tints by and the words in the view follow from it.
struct LookRow {
    /// Where the numbers that it tints by come from: none, worked out for the whole skin beside the window, or found block by block
    /// as the skin is sent.
    enum class Numbers { None, BesideTheWindow, BlockByBlock };

    Look look;
    const char *id;    ///< of its action
    const char *title; ///< in the menu; translated by lookTitle()
    int shade = 0;     ///< branch of the skin's shader
    bool showsPaint = false;
    const char *legend = nullptr; ///< what the tint means; %1 is what `told` gives
    Numbers numbers = Numbers::None;
    skin::SkinMap map = skin::SkinMap::Work;
    Tint (*tint)(float) = nullptr;
    float (*told)(const document::Creature &) = nullptr; ///< mm: the number that is tinted in full; null: 1
    bool dependsOnOthers = false;                        ///< pieces beside it count
    bool dependsOnCamera = false;                        ///< the chosen one
    bool dependsOnLayer = false;                         ///< the chosen one of detail
    bool dependsOnBone = false;                          ///< the chosen one
    bool dependsOnColourLayer = false;                   ///< the chosen one of colour
    /// Of BlockByBlock: what a block's numbers hang on; as long as that is the same, so are they.
    std::shared_ptr<const void> (*source)(const skin::Skin &, std::uint32_t layer, std::size_t block) = nullptr;
};
std::span<const LookRow> looks();
const LookRow &rowOf(Look look);
QString lookTitle(const LookRow &row);
/// The words in the view's corner; empty where the look needs none.
QString lookLegend(const LookRow &row, const document::Creature &creature);

} // namespace bonemoss::app
