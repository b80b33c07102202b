#pragma once

#include "command/field_list.h"
#include "solid/combine.h"
#include "solid/shape_tools.h"
#include "command/region.h"

#include <array>
#include <filesystem>

namespace bonemoss::command {

enum class ReknitWhere { Whole, Masked };
inline constexpr std::array<std::string_view, 2> kReknitWhereNames{"whole", "masked"};

enum class CombineWhere { Whole, Seam };
inline constexpr std::array<std::string_view, 2> kCombineWhereNames{"whole", "seam"};

enum class SplitBy { Islands, Mask, Groups };
inline constexpr std::array<std::string_view, 3> kSplitByNames{"islands", "mask", "groups"};

enum class TrimKeep { Rest, Part, Both };
inline constexpr std::array<std::string_view, 3> kTrimKeepNames{"rest", "part", "both"};

enum class PlateSide { Raised, Sunk, Centred };
inline constexpr std::array<std::string_view, 3> kPlateSideNames{"raised", "sunk", "centred"};

enum class DensityWhere { Masked, Free, All, Layer };
inline constexpr std::array<std::string_view, 4> kDensityWhereNames{"masked", "free", "all", "layer"};

enum class SymmetriseFrom { Left, Right, Average, Layer };
inline constexpr std::array<std::string_view, 4> kSymmetriseFromNames{"left", "right", "average", "layer"};

enum class LevelTo { Finer, Coarser, Finest, Coarsest };
inline constexpr std::array<std::string_view, 4> kLevelToNames{"finer", "coarser", "finest", "coarsest"};

enum class LevelsDropped { Lower, Higher };
inline constexpr std::array<std::string_view, 2> kLevelsDroppedNames{"lower", "higher"};

enum class LevelsFoundBy { Faces, Knit, Either };
inline constexpr std::array<std::string_view, 3> kLevelsFoundByNames{"faces", "knit", "either"};

struct Plate {
    float thickness{};
    PlateSide side = PlateSide::Raised;
    solid::Rim rim = solid::Rim::Square;
    static Fields<Plate> fields();
};

struct KnitDensity {
    std::optional<float> spacing;
    std::optional<std::uint32_t> faces;
    static Fields<KnitDensity> fields();
};

struct DeformPiece {
    static constexpr const char *kName = "piece.deform", *kTitle = "Deform piece",
                                *kText = "Bends, twists, tapers or stretches a piece along an axis; layers ride along.";
    std::optional<ItemName> piece;
    AxisMap map;
    Region region;
    static Fields<DeformPiece> fields();
};

struct KnitForms {
    static constexpr const char *kName = "knit.forms", *kTitle = "Knit forms",
                                *kText = "Melts the forms into one closed skin of quads; the armature stays.";
    std::string name = "skin";
    KnitDensity density;
    std::optional<std::vector<ItemName>> forms;
    static Fields<KnitForms> fields();
};

struct KnitPieces {
    static constexpr const char *kName = "knit.pieces", *kTitle = "Knit pieces",
                                *kText = "Fuses pieces into one closed skin by winding count.";
    std::string name = "skin";
    KnitDensity density;
    std::optional<std::vector<ItemName>> pieces;
    bool keepsOthers = false;
    static Fields<KnitPieces> fields();
};

struct Reknit {
    static constexpr const char
        *kName = "piece.reknit",
        *kTitle = "Re-knit",
        *kText = "Rebuilds a skin, or what of it is masked, at another spacing; layers and masks are carried over.";
    std::optional<ItemName> piece;
    KnitDensity density;
    ReknitWhere where = ReknitWhere::Whole;
    static Fields<Reknit> fields();
};

struct ImportPiece {
    static constexpr const char *kName = "piece.import", *kTitle = "Import",
                                *kText = "Reads a mesh file (OBJ, STL, PLY, glTF, OFF) as a piece, with repairs told.";
    std::filesystem::path path;
    std::optional<std::string> name;
    float scale = 1;
    static Fields<ImportPiece> fields();
};

struct SetPiece {
    static constexpr const char *kName = "piece.set", *kTitle = "Change piece",
                                *kText = "Name, visibility, lock and live re-knit of a piece, and how far light goes inside it.";
    std::optional<ItemName> piece;
    std::optional<std::string> name;
    std::optional<bool> isHidden, isLocked;
    std::optional<float> live, lightDepth;
    std::optional<Vec3f> lightTint;
    static Fields<SetPiece> fields();
};

struct RemovePiece {
    static constexpr const char *kName = "piece.remove", *kTitle = "Delete piece", *kText = "Deletes a piece.";
    std::optional<ItemName> piece;
    static Fields<RemovePiece> fields();
};

struct CombinePieces {
    static constexpr const char *kName = "pieces.combine", *kTitle = "Combine pieces",
                                *kText = "Join, cut or common part of pieces; the first one takes the result. Exact with a sharp "
                                         "seam, or (melt) knitted anew with a soft one.";
    std::vector<ItemName> pieces;
    solid::Boolean how{};
    bool keepsOthers = false;
    std::optional<float> melt, spacing;
    CombineWhere where = CombineWhere::Whole;
    static Fields<CombinePieces> fields();
};

struct SplitPiece {
    static constexpr const char
        *kName = "piece.split",
        *kTitle = "Split piece",
        *kText = "Makes pieces of its islands, of its groups, or of what is masked and what is not, closed on both sides.";
    std::optional<ItemName> piece;
    SplitBy by{};
    bool closes = true;
    std::optional<std::string> name;
    static Fields<SplitPiece> fields();
};

struct TrimPiece {
    static constexpr const char *kName = "piece.trim", *kTitle = "Trim piece",
                                *kText = "Cuts along a line, curve or outline swept in a direction; the cut is closed. A line "
                                         "takes away what lies to its left.";
    std::optional<ItemName> piece;
    std::vector<Vec3f> line;
    bool isClosed = false;
    Vec3f direction;
    std::optional<Vec3f> eye;
    float depth = 0;
    TrimKeep keep = TrimKeep::Rest;
    std::optional<std::string> name;
    static Fields<TrimPiece> fields();
};

struct CloseHoles {
    static constexpr const char *kName = "piece.close", *kTitle = "Close holes",
                                *kText = "Closes open borders: flat, or going on with the curvature around them.";
    std::optional<ItemName> piece;
    bool isSmooth = true;
    std::optional<Vec3f> near;
    static Fields<CloseHoles> fields();
};

struct OpenAtMask {
    static constexpr const char *kName = "piece.open", *kTitle = "Make a hole",
                                *kText = "Takes away what is masked and leaves the border open.";
    std::optional<ItemName> piece;
    static Fields<OpenAtMask> fields();
};

struct MakeShell {
    static constexpr const char *kName = "piece.shell", *kTitle = "Plate from mask",
                                *kText = "Makes a closed plate of even thickness over what is masked, as a piece of its own.";
    std::optional<ItemName> piece;
    Plate plate;
    std::optional<std::string> name;
    static Fields<MakeShell> fields();
};

struct OffsetCopy {
    static constexpr const char *kName = "piece.offset", *kTitle = "Offset copy",
                                *kText = "Knits a closed copy at an even distance outside or inside, as a piece of its own.";
    std::optional<ItemName> piece;
    float by{};
    std::optional<float> spacing;
    std::optional<std::string> name;
    static Fields<OffsetCopy> fields();
};

struct Solidify {
    static constexpr const char *kName = "piece.solidify", *kTitle = "Give thickness",
                                *kText = "Makes a closed plate of an open sheet.";
    std::optional<ItemName> piece;
    Plate plate;
    static Fields<Solidify> fields();
};

struct SimplifyPiece {
    static constexpr const char *kName = "piece.simplify", *kTitle = "Simplify",
                                *kText = "Fewer triangles of the same shape, as fine as before along open borders and between "
                                         "groups; layers and mask are carried over.";
    std::optional<ItemName> piece;
    std::uint32_t faces{};
    bool followsMask = true;
    static Fields<SimplifyPiece> fields();
};

struct ChangeDensity {
    static constexpr const char *kName = "piece.density", *kTitle = "Density",
                                *kText = "Even triangles of a given edge length where it is masked, where it is not, where a "
                                         "layer may show, or everywhere; the rest stays.";
    std::optional<ItemName> piece;
    float edge{};
    DensityWhere where = DensityWhere::Masked;
    std::optional<ItemName> layer;
    static Fields<ChangeDensity> fields();
};

struct RepairPiece {
    static constexpr const char
        *kName = "piece.repair",
        *kTitle = "Repair",
        *kText = "Mends doubled faces, edges of more than two faces, inside-out shells and holes, each told; nothing is reduced.";
    std::optional<ItemName> piece;
    bool isSmooth = true;
    static Fields<RepairPiece> fields();
};

struct ProjectPiece {
    static constexpr const char *kName = "piece.project", *kTitle = "Project",
                                *kText =
                                    "Lays the faces of a piece on the shape of another, whose layers and mask it takes over.";
    std::optional<ItemName> piece;
    ItemName onto;
    float reach = 2;
    static Fields<ProjectPiece> fields();
};

struct SymmetrisePiece {
    static constexpr const char
        *kName = "piece.symmetrise",
        *kTitle = "Make symmetric",
        *kText = "Makes both halves alike: from one of them, as their mean, or as the mean with the difference in a layer.";
    std::optional<ItemName> piece;
    SymmetriseFrom from{};
    static Fields<SymmetrisePiece> fields();
};

struct RefinePiece {
    static constexpr const char
        *kName = "piece.refine",
        *kTitle = "Refine",
        *kText = "Adds a finer level by one Catmull-Clark step: four times the faces; all that lies on the skin comes along.";
    std::optional<ItemName> piece;
    static Fields<RefinePiece> fields();
};

struct StepLevel {
    static constexpr const char
        *kName = "piece.level",
        *kTitle = "Change level",
        *kText = "Takes another level of a piece in hand. Finer detail rides along when the large form was changed.";
    std::optional<ItemName> piece;
    std::optional<std::uint32_t> number;
    std::optional<LevelTo> to;
    static Fields<StepLevel> fields();
};

struct DropLevels {
    static constexpr const char *kName = "piece.levels.drop", *kTitle = "Delete levels",
                                *kText = "Takes away the levels below or above the one in hand.";
    std::optional<ItemName> piece;
    LevelsDropped which{};
    static Fields<DropLevels> fields();
};

struct FindLevels {
    static constexpr const char *kName = "piece.levels.find", *kTitle = "Rebuild lower levels",
                                *kText = "Finds the coarse faces of which a fine mesh was subdivided; where there are none, "
                                         "knits coarse ones and lays their refinement on the skin.";
    std::optional<ItemName> piece;
    std::uint32_t count = 3;
    LevelsFoundBy how = LevelsFoundBy::Either;
    static Fields<FindLevels> fields();
};

struct MovePiece {
    static constexpr const char
        *kName = "piece.move",
        *kTitle = "Move piece",
        *kText =
            "Moves, turns and sizes a piece, or a part of it: what is not masked, an island, a group, or softly along a line.";
    std::optional<ItemName> piece;
    Vec3f by, turn, scale{1, 1, 1};
    std::optional<Vec3f> about;
    bool isMirrored = false;
    Region region;
    static Fields<MovePiece> fields();
};

} // namespace bonemoss::command
