#pragma once

#include "command/field_list.h"
#include "command/marks/mark_fields.h"
#include "colour/palette.h"
#include "colour/rule.h"
#include "document/creature.h"
#include "skin/colour_layers.h"

#include <filesystem>
#include <nlohmann/json_fwd.hpp>

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

/// What a fill is laid on: all, what is masked or free, a group; and from a place on: what hangs together with it, what faces nearly
/// the same way, or what has nearly the same colour, up to a painted border.
enum class FillWhere { All, Masked, Free, Group, Island, Angle, Border };
inline constexpr std::array<std::string_view, 7> kFillWhereNames{"all", "masked", "free", "group", "island", "angle", "border"};

struct FillColour {
    static constexpr const char
        *kName = "colour.fill",
        *kTitle = "Fill with colour",
        *kText = "Lays colour and finish on a colour layer, evenly over a part of the skin, or takes them away. "
                 "What is not given stays.";
    std::optional<ItemName> piece, layer, entry;
    std::optional<Vec3f> colour;
    std::optional<float> gloss, metal, wet, translucent, grain;
    std::optional<std::uint32_t> ready; ///< a ready finish
    float amount = 1;
    FillWhere where = FillWhere::All;
    std::optional<std::string> group;
    std::optional<Vec3f> at;
    float limit = 25;
    bool isWiping = false;
    static Fields<FillColour> fields();
};

struct TilePicture {
    static constexpr const char *kName = "colour.picture", *kTitle = "Lay a picture over the skin",
                                *kText =
                                    "Lays a picture on a colour layer without layout or seam: patches of it, turned at random "
                                    "and blended, so that no repeat is seen. What is masked stays.";
    std::optional<ItemName> piece, layer;
    std::filesystem::path path;
    float size = 20, turn = 1, seam = 0.35f, amount = 1;
    std::uint32_t seed = 1;
    static Fields<TilePicture> fields();
};

struct ProjectPicture {
    static constexpr const char
        *kName = "colour.project",
        *kTitle = "Project a picture",
        *kText =
            "Throws a picture, a photograph for one, on what is seen of the skin through its four corners. What is masked stays.";
    std::optional<ItemName> piece, layer;
    std::filesystem::path path;
    std::vector<Vec3f> corners;
    std::optional<Vec3f> eye;
    float soft = 0.05f, amount = 1;
    static Fields<ProjectPicture> fields();
};

struct CopyColourLayer {
    static constexpr const char *kName = "colour.copy", *kTitle = "Copy colour layer",
                                *kText = "Lays a copy of a colour layer on another piece, by where it lies.";
    std::optional<ItemName> piece;
    ItemName layer, to;
    static Fields<CopyColourLayer> fields();
};

struct TakeColourLayer {
    static constexpr const char
        *kName = "colour.take",
        *kTitle = "Colour layer from file",
        *kText = "Lays a colour layer of another creature on a piece, by where it lies and as it shows there: its rule and its "
                 "palette stay behind.";
    std::optional<ItemName> piece;
    std::filesystem::path path;
    std::string layer;
    std::optional<std::string> from;
    static Fields<TakeColourLayer> fields();
};

struct DuplicateColourLayer {
    static constexpr const char *kName = "colour.duplicate", *kTitle = "Duplicate colour layer",
                                *kText = "A copy of a colour layer, above it.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<DuplicateColourLayer> fields();
};

/// rule.KIND: what is not given stays as it is, or as is usual for the kind.
struct ColourByRule {
    std::optional<ItemName> piece, layer;
    std::optional<std::string> name;
    std::optional<float> opacity;
    std::optional<ColourBlend> blend;
    std::optional<Vec3f> colour;
    std::optional<ItemName> entry;
    std::optional<std::vector<Vec3f>> colours;
    std::optional<std::vector<ItemName>> entries;
    std::optional<std::vector<float>> stops, covers;
    std::optional<float> gloss, metal, wet, translucent, grain;
    std::optional<std::uint32_t> ready;
    std::optional<bool> isFinishOnly;
    std::optional<std::string> source;
    std::optional<std::vector<Vec3f>> points;
    std::optional<bool> isReversed, isMirrored;
    std::optional<float> contrast;
    std::optional<std::uint32_t> blur, seed;
    std::optional<std::vector<float>> curve;
    std::vector<std::optional<float>> values = {}; ///< of the kind's settings; may be shorter
};
Fields<ColourByRule> ruleFields(const colour::RuleKind &kind);
/// The command that runs a rule on a piece: in a colour layer, or in a new one (0).
nlohmann::json ruleCommand(std::uint32_t piece, std::uint32_t layer, const colour::Rule &rule, const skin::ColourRamp &ramp);

struct RunRules {
    static constexpr const char *kName = "colour.run", *kTitle = "Run rules again",
                                *kText =
                                    "Runs the rule of a colour layer on the skin as it is now, or all rules that no longer fit "
                                    "it. Work by hand over them stays.";
    std::optional<ItemName> piece, layer;
    static Fields<RunRules> fields();
};

struct SettleRule {
    static constexpr const char *kName = "colour.settle", *kTitle = "Rule to painted layer",
                                *kText = "What a rule has laid becomes painted colour, which no rule changes any more.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<SettleRule> fields();
};

struct AddPaletteColour {
    static constexpr const char *kName = "palette.add", *kTitle = "Add colour to palette",
                                *kText = "A colour of the palette. What is painted with it follows when it is changed.";
    std::string name = "Colour";
    Vec3f colour;
    static Fields<AddPaletteColour> fields();
};

struct SetPaletteColour {
    static constexpr const char *kName = "palette.set", *kTitle = "Change colour of palette",
                                *kText = "Another name or colour for an entry of the palette; what was painted with it follows.";
    ItemName entry;
    std::optional<std::string> name;
    std::optional<Vec3f> colour;
    static Fields<SetPaletteColour> fields();
};

struct RemovePaletteColour {
    static constexpr const char *kName = "palette.remove", *kTitle = "Delete colour of palette",
                                *kText = "Deletes an entry of the palette. What was painted with it keeps its colour.";
    ItemName entry;
    static Fields<RemovePaletteColour> fields();
};

struct HarmonizePalette {
    static constexpr const char *kName = "palette.harmony", *kTitle = "Colours that go with one",
                                *kText = "Adds to the palette what goes with one of its colours, by turning its hue.";
    ItemName entry;
    colour::Harmony harmony = colour::Harmony::Complement;
    static Fields<HarmonizePalette> fields();
};

struct ReadPalette {
    static constexpr const char *kName = "palette.read", *kTitle = "Palette from file",
                                *kText = "Adds the colours of a palette file, or the main colours of a picture, to the palette.";
    std::filesystem::path path;
    std::uint32_t count = 8;
    bool isReplacing = false;
    static Fields<ReadPalette> fields();
};

struct AddScheme {
    static constexpr const char *kName = "scheme.add", *kTitle = "Add colour scheme",
                                *kText = "Keeps the palette, and which colour layers show how much, as a scheme.";
    std::string name = "Scheme";
    static Fields<AddScheme> fields();
};

struct UseScheme {
    static constexpr const char *kName = "scheme.use", *kTitle = "Use colour scheme",
                                *kText = "Colours the creature by another scheme.";
    ItemName scheme;
    static Fields<UseScheme> fields();
};

struct SetScheme {
    static constexpr const char *kName = "scheme.set", *kTitle = "Change colour scheme",
                                *kText = "Another name for a scheme, or the creature's present colours for it.";
    ItemName scheme;
    std::optional<std::string> name;
    bool isUpdating = false;
    static Fields<SetScheme> fields();
};

struct RemoveScheme {
    static constexpr const char *kName = "scheme.remove", *kTitle = "Delete colour scheme",
                                *kText = "Deletes a scheme; the creature stays coloured as it is.";
    ItemName scheme;
    static Fields<RemoveScheme> fields();
};

/// The entry of the palette that is meant; 0 for none. Unknown for others.
Result<std::uint32_t> findPaletteColour(const Creature &creature, const std::optional<ItemName> &name);
/// A colour of the palette, made known to a skin, or one's own.
skin::Ink inkOf(const Creature &creature, skin::Skin &skin, const std::optional<ItemName> &entry, std::optional<Vec3f> colour);
/// Refuses what is no colour. parameter: what the message calls it.
Status checkColour(Vec3f colour, const char *parameter);

} // namespace bonemoss::command
