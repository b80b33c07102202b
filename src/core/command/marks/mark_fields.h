#pragma once

#include "command/field_list.h"
#include "command/region.h"
#include "skin/marks.h"

#include <array>

namespace bonemoss::command {

using skin::MaskCombine;
inline constexpr std::array<std::string_view, 4> kMaskCombineNames{"replace", "add", "subtract", "common"};

enum class GroupOf { Mask, Islands };
inline constexpr std::array<std::string_view, 2> kGroupOfNames{"mask", "islands"};

enum class PaintWhere { All, Masked, Free, Group };
inline constexpr std::array<std::string_view, 4> kPaintWhereNames{"all", "masked", "free", "group"};

using skin::HideWhat;
inline constexpr std::array<std::string_view, 5> kHideWhatNames{"masked", "free", "group", "swap", "nothing"};

enum class MaskedShape { Hollows, Ridges, Slope, Thin, Colour, Stretched, Neglected, Uneven, Covered, Overlapping, Seen };
inline constexpr std::array<std::string_view, 11> kMaskedShapeNames{
    "hollows", "ridges", "slope", "thin", "colour", "stretched", "neglected", "uneven", "covered", "overlapping", "seen"};

struct KeepMask {
    static constexpr const char *kName = "mask.keep", *kTitle = "Keep mask",
                                *kText = "Puts the mask by under a name; the same name again replaces it.";
    std::optional<ItemName> piece;
    std::string name;
    static Fields<KeepMask> fields();
};

struct RecallMask {
    static constexpr const char *kName = "mask.recall", *kTitle = "Take a kept mask", *kText = "Puts a kept mask in hand.";
    std::optional<ItemName> piece;
    std::string name;
    MaskCombine how = MaskCombine::Replace;
    static Fields<RecallMask> fields();
};

struct ForgetMask {
    static constexpr const char *kName = "mask.forget", *kTitle = "Forget a kept mask", *kText = "Takes a kept mask away.";
    std::optional<ItemName> piece;
    std::string name;
    static Fields<ForgetMask> fields();
};

struct MaskGroup {
    static constexpr const char *kName = "mask.group", *kTitle = "Mask a group",
                                *kText = "Masks what is in a group, and nothing else.";
    std::optional<ItemName> piece;
    std::string name;
    static Fields<MaskGroup> fields();
};

struct MakeGroup {
    static constexpr const char *kName = "group.make", *kTitle = "Make group",
                                *kText = "Gives what is masked, or each island, to a group; a vertex is in one group at most.";
    std::optional<ItemName> piece;
    GroupOf of = GroupOf::Mask;
    std::string name = "Group";
    static Fields<MakeGroup> fields();
};

struct RemoveGroup {
    static constexpr const char *kName = "group.remove", *kTitle = "Delete group", *kText = "Deletes a group; its skin stays.";
    std::optional<ItemName> piece;
    std::string name;
    static Fields<RemoveGroup> fields();
};

struct PaintPiece {
    static constexpr const char *kName = "piece.paint", *kTitle = "Paint piece",
                                *kText = "Gives a skin, or a part of it, a colour and a finish.";
    std::optional<ItemName> piece;
    std::optional<Vec3f> colour;
    float cover = 1;
    std::optional<float> gloss, metal, wet, translucent, grain;
    PaintWhere where = PaintWhere::All;
    std::optional<std::string> group;
    static Fields<PaintPiece> fields();
};

struct HideParts {
    static constexpr const char
        *kName = "piece.hide",
        *kTitle = "Hide parts",
        *kText = "Hides a part of a skin: not drawn, not met by tools, still there. Nothing shows all of it again.";
    std::optional<ItemName> piece;
    HideWhat what{};
    std::optional<std::string> group;
    static Fields<HideParts> fields();
};

struct GrowMask {
    static constexpr const char *kName = "mask.grow", *kTitle = "Grow mask",
                                *kText = "Moves the mask's border outward, or inward, over rings of vertices.";
    std::optional<ItemName> piece;
    float rings = 3;
    static Fields<GrowMask> fields();
};

struct SharpenMask {
    static constexpr const char *kName = "mask.sharpen", *kTitle = "Sharpen mask",
                                *kText = "Makes the mask's soft border narrower.";
    std::optional<ItemName> piece;
    float amount = 0.5f;
    static Fields<SharpenMask> fields();
};

struct MaskShape {
    static constexpr const char
        *kName = "mask.shape",
        *kTitle = "Mask by shape",
        *kText = "Masks hollows, ridges, slopes (degrees from the crown side), thin parts (mm), light colour, stretched faces, "
                 "places no stroke has met, where left and right differ (mm), what other skin keeps the light from (0 to 1), "
                 "what lies inside another body, or what is seen from a place.";
    std::optional<ItemName> piece;
    MaskedShape what{};
    float width = 3;
    std::optional<float> from, to, soft;
    std::optional<std::string> camera;
    std::optional<Vec3f> eye, target;
    Vec3f up{0, 1, 0};
    float angle = 40, aspect = 1.6f;
    bool isParallel = false;
    MaskCombine how = MaskCombine::Replace;
    static Fields<MaskShape> fields();
};

struct MaskArea {
    static constexpr const char *kName = "mask.area", *kTitle = "Mask an area",
                                *kText = "Masks what lies inside an outline drawn in the view.";
    std::optional<ItemName> piece;
    std::vector<Vec3f> outline;
    Vec3f direction;
    std::optional<Vec3f> eye;
    bool isFrontOnly = false;
    MaskCombine how = MaskCombine::Replace;
    static Fields<MaskArea> fields();
};

struct MaskPicture {
    static constexpr const char *kName = "mask.picture", *kTitle = "Mask by picture",
                                *kText = "Masks what the bright parts of a picture cover that is held before the skin.";
    std::optional<ItemName> piece;
    bool isFrontOnly = true;
    MaskCombine how = MaskCombine::Replace;
    StencilParams stencil;
    static Fields<MaskPicture> fields();
};

struct InvertMask {
    static constexpr const char *kName = "mask.invert", *kTitle = "Invert mask", *kText = "Masked becomes open and open masked.";
    std::optional<ItemName> piece;
    static Fields<InvertMask> fields();
};

struct ClearMask {
    static constexpr const char *kName = "mask.clear", *kTitle = "Clear mask", *kText = "Opens everything.";
    std::optional<ItemName> piece;
    static Fields<ClearMask> fields();
};

struct BlurMask {
    static constexpr const char *kName = "mask.blur", *kTitle = "Blur mask", *kText = "Softens the mask's border.";
    std::optional<ItemName> piece;
    std::uint32_t passes = 3;
    static Fields<BlurMask> fields();
};

} // namespace bonemoss::command
