#pragma once

#include "command/field_list.h"
#include "command/marks/mark_fields.h"
#include "skin/colour_layers.h"

namespace bonemoss::command {

using skin::ColourBlend;

struct AddColourLayer {
    static constexpr const char
        *kName = "colour.add",
        *kTitle = "Add colour layer",
        *kText = "A new colour layer on top. What was painted before there were layers becomes the lowest one.";
    std::optional<ItemName> piece;
    std::string name = "Colour";
    float opacity = 1;
    ColourBlend blend = ColourBlend::Mix;
    static Fields<AddColourLayer> fields();
};

struct SetColourLayer {
    static constexpr const char *kName = "colour.set", *kTitle = "Change colour layer",
                                *kText = "Name, opacity, blend, switch and lock of a colour layer.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::optional<std::string> name;
    std::optional<float> opacity;
    std::optional<ColourBlend> blend;
    std::optional<bool> isOn, isLocked;
    static Fields<SetColourLayer> fields();
};

struct RemoveColourLayer {
    static constexpr const char *kName = "colour.remove", *kTitle = "Delete colour layer", *kText = "Deletes a colour layer.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<RemoveColourLayer> fields();
};

struct OrderColourLayer {
    static constexpr const char *kName = "colour.order", *kTitle = "Move colour layer",
                                *kText = "Puts a colour layer at another place, counted from below.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::uint32_t to{};
    static Fields<OrderColourLayer> fields();
};

struct SoloColourLayer {
    static constexpr const char *kName = "colour.solo", *kTitle = "Colour layer alone",
                                *kText = "Shows one colour layer alone; the others keep their switches.";
    std::optional<ItemName> piece;
    ItemName layer;
    bool isOn = true;
    static Fields<SoloColourLayer> fields();
};

struct MergeColourLayer {
    static constexpr const char *kName = "colour.merge", *kTitle = "Merge colour layer down",
                                *kText = "Adds a colour layer, as it shows, to the one below it.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<MergeColourLayer> fields();
};

struct MaskColourLayer {
    static constexpr const char *kName = "colour.mask", *kTitle = "Mask colour layer",
                                *kText = "Keeps a colour layer from showing where a mask lies.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::string mask = "hand";
    bool isInverted = false;
    static Fields<MaskColourLayer> fields();
};

struct FillColour {
    static constexpr const char
        *kName = "colour.fill",
        *kTitle = "Fill with colour",
        *kText = "Lays colour and finish on a colour layer, evenly over a part of the skin, or takes them away. "
                 "What is not given stays.";
    std::optional<ItemName> piece, layer;
    std::optional<Vec3f> colour;
    std::optional<float> gloss, metal, wet, translucent;
    float amount = 1;
    PaintWhere where = PaintWhere::All;
    std::optional<std::string> group;
    bool isWiping = false;
    static Fields<FillColour> fields();
};

} // namespace bonemoss::command
