#pragma once

#include "command/field_list.h"
#include "growth/growth.h"

#include <nlohmann/json_fwd.hpp>

#include <array>

namespace bonemoss::command {

enum class GrowthPart { Scales, Gaps };
inline constexpr std::array<std::string_view, 2> kGrowthPartNames{"scales", "gaps"};

/// grow.KIND: what is not given stays as it is, or as is usual for the kind.
struct Grow {
    std::optional<ItemName> piece, layer;
    std::optional<std::string> name, mask;
    std::optional<bool> isInside;
    std::optional<float> strength;
    std::optional<std::string> sizes;
    std::optional<bool> isMirrored;
    std::optional<std::uint32_t> seed;
    std::optional<std::string> stamp;
    std::vector<std::optional<float>> values = {}; ///< of the kind's settings; may be shorter
};
Fields<Grow> growFields(const growth::GrowthKind &kind);

/// The command that grows this on a piece: in a layer that is a growth, or in a new one (0), which may be where the mask lies.
nlohmann::json growCommand(std::uint32_t piece, std::uint32_t layer, const growth::Growth &growth, bool isInside = false);

struct GrowAgain {
    static constexpr const char
        *kName = "grow.again",
        *kTitle = "Grow again",
        *kText = "Grows a growth anew on the skin as it is now, or all of them that no longer fit it. Work by hand stays.";
    std::optional<ItemName> piece, layer;
    static Fields<GrowAgain> fields();
};

struct EditScale {
    static constexpr const char
        *kName = "grow.edit",
        *kTitle = "Change one scale",
        *kText =
            "Turns, enlarges, lifts or removes the one scale or spot nearest to a place. It is kept when the growth grows again.";
    std::optional<ItemName> piece;
    ItemName layer;
    Vec3f at;
    float turn = 0, size = 1, lift = 1;
    bool isRemoved = false;
    static Fields<EditScale> fields();
};

struct MaskCells {
    static constexpr const char *kName = "grow.mask", *kTitle = "Mask scales",
                                *kText = "Masks the scales or spots of a growth, or what lies between them.";
    std::optional<ItemName> piece;
    ItemName layer;
    GrowthPart what = GrowthPart::Scales;
    static Fields<MaskCells> fields();
};

struct GroupCells {
    static constexpr const char *
        kName = "grow.groups",
       *kTitle = "Scales as groups",
       *kText =
           "Makes groups of the scales or spots of a growth, neighbours in different ones: to mask, hide or colour some of them.";
    std::optional<ItemName> piece;
    ItemName layer;
    std::uint32_t kinds = 5;
    static Fields<GroupCells> fields();
};

struct AddGuide {
    static constexpr const char *kName = "guide.add", *kTitle = "Add guide",
                                *kText = "A short stroke that says which way growths run there, and how large they are.";
    std::optional<ItemName> piece;
    std::vector<Vec3f> points;
    float size = 1;
    std::optional<ItemName> layer;
    static Fields<AddGuide> fields();
};

struct ChangeGuide {
    static constexpr const char *kName = "guide.set", *kTitle = "Change guide",
                                *kText = "Another size for a guide, or the other way round.";
    std::optional<ItemName> piece;
    std::uint32_t guide{};
    std::optional<float> size;
    std::optional<bool> isTurned;
    std::optional<ItemName> layer;
    static Fields<ChangeGuide> fields();
};

struct RemoveGuides {
    static constexpr const char *kName = "guide.remove", *kTitle = "Delete guides", *kText = "Deletes one guide, or all.";
    std::optional<ItemName> piece;
    std::optional<std::uint32_t> guide;
    std::optional<ItemName> layer;
    static Fields<RemoveGuides> fields();
};

} // namespace bonemoss::command
