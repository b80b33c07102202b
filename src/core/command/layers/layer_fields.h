#pragma once

#include "command/field_list.h"

#include <array>
#include <filesystem>

namespace bonemoss::command {

enum class RepeatsHow { Tell, Mask, Vary };
inline constexpr std::array<std::string_view, 3> kRepeatsHowNames{"tell", "mask", "vary"};

struct AddLayer {
    static constexpr const char *kName = "layer.add", *kTitle = "Add layer", *kText = "A new detail layer on top.";
    std::optional<ItemName> piece;
    std::string name = "Layer";
    float strength = 1;
    static Fields<AddLayer> fields();
};

struct SetLayer {
    static constexpr const char
        *kName = "layer.set",
        *kTitle = "Change layer",
        *kText = "Name, strength, switch and lock of a layer, and whether its scales keep their shape in poses.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::optional<std::string> name;
    std::optional<float> strength, rigid;
    std::optional<bool> isOn, isLocked;
    static Fields<SetLayer> fields();
};

struct RemoveLayer {
    static constexpr const char *kName = "layer.remove", *kTitle = "Delete layer", *kText = "Deletes a layer.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<RemoveLayer> fields();
};

struct MergeLayer {
    static constexpr const char *kName = "layer.merge", *kTitle = "Merge down",
                                *kText = "Adds a layer to the one below it, or to the body.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<MergeLayer> fields();
};

struct OrderLayer {
    static constexpr const char *kName = "layer.order", *kTitle = "Move layer",
                                *kText = "Puts a layer at another place among the layers.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::uint32_t to{};
    static Fields<OrderLayer> fields();
};

struct SoloLayer {
    static constexpr const char *kName = "layer.solo", *kTitle = "Layer alone",
                                *kText = "Shows one layer alone, with its hand work; the others keep their switches.";
    std::optional<ItemName> piece;
    ItemName layer;
    bool isOn = true;
    static Fields<SoloLayer> fields();
};

struct DuplicateLayer {
    static constexpr const char *kName = "layer.duplicate", *kTitle = "Duplicate layer",
                                *kText = "A second one of the same, above it.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::optional<std::string> name;
    static Fields<DuplicateLayer> fields();
};

struct FlipLayer {
    static constexpr const char *kName = "layer.flip", *kTitle = "Flip layer",
                                *kText = "Exchanges left and right of a layer, across the piece's plane of symmetry.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<FlipLayer> fields();
};

struct MaskLayer {
    static constexpr const char *kName = "layer.mask", *kTitle = "Mask layer",
                                *kText = "Keeps a layer from showing where a mask lies.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::string mask = "hand";
    bool isInverted = false;
    static Fields<MaskLayer> fields();
};

struct MaskFromLayer {
    static constexpr const char *kName = "layer.toMask", *kTitle = "Mask from layer",
                                *kText = "Takes a layer's mask into the hand.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<MaskFromLayer> fields();
};

struct CopyLayer {
    static constexpr const char *kName = "layer.copy", *kTitle = "Copy layer",
                                *kText = "Lays a copy of a layer on another piece, by where it lies.";
    std::optional<ItemName> piece;
    ItemName layer, to;
    static Fields<CopyLayer> fields();
};

struct TakeFromFile {
    static constexpr const char *kName = "layer.take", *kTitle = "Layer from file",
                                *kText = "Lays a layer of another creature on a piece, by where it lies.";
    std::optional<ItemName> piece;
    std::filesystem::path path;
    std::string layer;
    std::optional<std::string> from;
    static Fields<TakeFromFile> fields();
};

struct LookForRepeats {
    static constexpr const char *kName = "detail.repeats", *kTitle = "Look for repetition",
                                *kText = "Finds places where the relief of the layers repeats another within the eye's reach, at "
                                         "the same turn and size; masks them, or makes them differ.";
    std::optional<ItemName> piece;
    float width = 4, reach = 40, likeness = 0.95f;
    RepeatsHow how = RepeatsHow::Tell;
    std::uint32_t seed = 1;
    static Fields<LookForRepeats> fields();
};

struct MakeHandLayer {
    static constexpr const char
        *kName = "layer.hand",
        *kTitle = "Work by hand",
        *kText = "Makes the layer above a growth that strokes on the growth go to; it stays when the growth grows again.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<MakeHandLayer> fields();
};

} // namespace bonemoss::command
