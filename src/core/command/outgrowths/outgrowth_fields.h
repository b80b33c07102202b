#pragma once

#include "command/field_list.h"
#include "outgrowth/outgrowth.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::command {

/// outgrow.KIND: what is not given stays as it is, or as is usual for the kind.
struct Outgrow {
    std::optional<ItemName> piece, outgrowth;
    std::optional<std::string> name, mask;
    std::optional<Vec3f> at;
    std::optional<float> tips;
    std::optional<std::vector<Vec3f>> points, path, colours;
    std::optional<std::vector<float>> profile, starts, section;
    std::optional<float> skinColour, gloss, metal, wet, translucent, grain;
    std::optional<std::uint32_t> ready; ///< a ready finish
    std::optional<bool> isOfKind;       ///< its finish is that of its kind again
    std::optional<ItemName> jaw;
    std::optional<bool> isUpper;
    std::optional<std::vector<ItemName>> between;
    std::optional<Vec3f> look;
    std::optional<Vec3f> seenFrom;
    std::optional<std::string> seenBy;
    std::optional<bool> isLooking, isEverywhere;
    std::array<std::optional<std::string>, 4> maps = {};
    std::optional<bool> isMirrored;
    std::optional<std::uint32_t> seed;
    std::optional<ItemName> item;
    bool isPosed = false;                          ///< places are those of the creature as it stands
    std::vector<std::optional<float>> values = {}; ///< of the kind's settings; may be shorter
};
Fields<Outgrow> outgrowFields(const outgrowth::Kind &kind);

/// The command that makes this outgrowth on a piece, or (id above 0) that one anew with these settings.
nlohmann::json outgrowCommand(std::uint32_t piece, std::uint32_t id, const outgrowth::Outgrowth &rule);

/// The settings of an outgrowth as a recipe of one command that says no place, to be kept or taken to another creature; and back. None
/// where it is no such recipe or says what its kind does not know.
nlohmann::json copiedRule(const outgrowth::Outgrowth &rule);
std::optional<outgrowth::Outgrowth> pastedRule(const nlohmann::json &recipe);

struct CorrectMember {
    static constexpr const char *kName = "outgrowth.correct", *kTitle = "Correct a member",
                                *kText = "Moves, turns, sizes, bends, breaks off, swaps or leaves out one member of an "
                                         "outgrowth, by its number from 0. What is "
                                         "not given stays; corrections stay when the row's line or its settings change.";
    ItemName outgrowth;
    std::uint32_t member{};
    bool isTwin = false;
    std::optional<Vec3f> move, turn, pull;
    std::optional<float> size, bend, broken, thin;
    std::optional<ItemName> item;
    std::optional<bool> isMissing;
    bool isReset = false;
    static Fields<CorrectMember> fields();
};

struct RootOutgrowth {
    static constexpr const char
        *kName = "outgrowth.root",
        *kTitle = "Move outgrowth",
        *kText = "Roots an outgrowth at another place or line of the skin; its members keep their corrections.";
    ItemName outgrowth;
    std::optional<ItemName> piece;
    std::optional<Vec3f> at;
    std::optional<std::uint32_t> root;
    std::optional<std::vector<Vec3f>> points;
    std::optional<std::vector<float>> starts;
    static Fields<RootOutgrowth> fields();
};

struct RimOutgrowth {
    static constexpr const char *kName = "outgrowth.rim", *kTitle = "Raise a rim of skin",
                                *kText =
                                    "Raises the skin round each root of an outgrowth, as a detail layer that follows when the "
                                    "outgrowth changes.";
    ItemName outgrowth;
    std::optional<float> height, width;
    static Fields<RimOutgrowth> fields();
};

struct RemoveOutgrowth {
    static constexpr const char *kName = "outgrowth.remove", *kTitle = "Delete outgrowth",
                                *kText = "Deletes an outgrowth with all its members.";
    ItemName outgrowth;
    static Fields<RemoveOutgrowth> fields();
};

struct OutgrowthToPiece {
    static constexpr const char *kName = "outgrowth.piece", *kTitle = "Turn outgrowth into a piece",
                                *kText = "Makes a piece of all members, to be sculpted on; the rule is gone then.";
    ItemName outgrowth;
    bool isKept = false;
    static Fields<OutgrowthToPiece> fields();
};

struct CutOutgrowth {
    static constexpr const char *kName = "outgrowth.cut", *kTitle = "Cut along a line",
                                *kText =
                                    "Cuts a mass into members along a line on the skin; beyond its ends the cut goes straight "
                                    "on through the part it lies on. Members that are there keep their numbers.";
    ItemName outgrowth;
    std::optional<std::vector<Vec3f>> points;
    std::optional<std::uint32_t> remove;
    static Fields<CutOutgrowth> fields();
};

struct BrushOutgrowth {
    static constexpr const char *kName = "outgrowth.brush", *kTitle = "Brush length, lift, curl or density",
                                *kText =
                                    "Makes what grows over an area longer or shorter, lifts or lays it, curls or straightens "
                                    "it, or makes it denser or thinner under a stroke; kept as a mask of its own.";
    ItemName outgrowth;
    std::uint32_t what = 0;
    std::vector<Vec3f> points;
    float radius = 8, amount = 0.3f;
    static Fields<BrushOutgrowth> fields();
};

struct PartOutgrowth {
    static constexpr const char *kName = "outgrowth.part", *kTitle = "Part along a line",
                                *kText = "Lays what grows over an area to both sides of a line, by guides on the piece.";
    ItemName outgrowth;
    std::vector<Vec3f> points;
    float reach = 8;
    static Fields<PartOutgrowth> fields();
};

struct MeltOutgrowth {
    static constexpr const char *kName = "outgrowth.melt", *kTitle = "Melt outgrowth into the skin",
                                *kText = "Joins all members with the skin through the field, with a flare round each root. The "
                                         "outgrowth stays, hidden, so that it can be taken out again.";
    ItemName outgrowth;
    float flare = 2;
    bool isKept = true;
    std::optional<float> spacing;
    static Fields<MeltOutgrowth> fields();
};

struct UnmeltOutgrowth {
    static constexpr const char *kName = "outgrowth.unmelt", *kTitle = "Take outgrowth out of the skin",
                                *kText =
                                    "Takes the skin away where a melted outgrowth is part of it, closes the skin smoothly and "
                                    "shows the outgrowth again. What was sculpted on it there is lost.";
    ItemName outgrowth;
    float margin = 2;
    static Fields<UnmeltOutgrowth> fields();
};

} // namespace bonemoss::command
