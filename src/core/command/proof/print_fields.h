#pragma once

#include "command/field_list.h"
#include "proof/parts.h"

#include <optional>
#include <string>
#include <vector>

namespace bonemoss::command {

struct SetPrint {
    static constexpr const char *kName = "print.set", *kTitle = "Printer and height",
                                *kText = "For which printer and at which height the creature is checked and sliced.";
    std::optional<std::string> printer;
    std::optional<float> height;
    static Fields<SetPrint> fields();
};

struct SealBody {
    static constexpr const char *kName = "print.seal", *kTitle = "Seal into one body",
                                *kText = "Makes everything that is shown one closed piece without anything inside it, in the "
                                         "pose it stands in. Exact: outside, "
                                         "no detail is lost. What it is made of is hidden.";
    std::vector<ItemName> pieces;
    std::string name = "Print body";
    bool keepsShown = false, keepsPockets = false;
    float drop = 0;
    static Fields<SealBody> fields();
};

struct HollowPiece {
    static constexpr const char *kName = "print.hollow", *kTitle = "Hollow",
                                *kText = "Takes out what lies deeper than the wall, and drills drain holes where resin collects.";
    std::optional<ItemName> piece;
    proof::HollowJob job;
    static Fields<HollowPiece> fields();
};

struct PartPiece {
    static constexpr const char *kName = "print.part", *kTitle = "Cut into parts",
                                *kText =
                                    "Cuts a solid piece by a plane into two, with a peg on one side and a socket in the other.";
    std::optional<ItemName> piece;
    proof::PartJob job;
    static Fields<PartPiece> fields();
};

struct AddBase {
    static constexpr const char *kName = "print.base", *kTitle = "Base",
                                *kText = "A base under what stands lowest, as a piece of its own or joined to it.";
    std::optional<ItemName> piece;
    proof::BaseJob job;
    bool isJoined = false;
    static Fields<AddBase> fields();
};

struct FlattenSoles {
    static constexpr const char *kName = "print.flatten", *kTitle = "Flatten the underside",
                                *kText = "Cuts off what is lowest, so that the piece stands on flat soles.";
    std::optional<ItemName> piece;
    float by = 0.5f;
    static Fields<FlattenSoles> fields();
};

struct ThickenPiece {
    static constexpr const char *kName = "print.thicken", *kTitle = "Thicken",
                                *kText = "Moves the surface outwards where the piece is thinner than the wall; all else stays.";
    std::optional<ItemName> piece;
    float wall = 1;
    static Fields<ThickenPiece> fields();
};

struct DrillHole {
    static constexpr const char *kName = "print.drill", *kTitle = "Drill",
                                *kText = "A hole in a solid piece: for a wire, a magnet, or to drain it.";
    std::optional<ItemName> piece;
    Vec3f at, direction;
    float diameter = 1, depth = 10;
    static Fields<DrillHole> fields();
};

struct OrientPiece {
    static constexpr const char *kName = "print.orient", *kTitle = "Turn to print",
                                *kText = "Turns a piece so that little of it needs support, and sets it down again.";
    std::optional<ItemName> piece;
    std::int32_t choice = 1;
    static Fields<OrientPiece> fields();
};

struct AddSupports {
    static constexpr const char *kName = "print.supports", *kTitle = "Supports",
                                *kText = "Light trees under overhangs and what begins in the air, as a piece of their own.";
    std::optional<ItemName> piece;
    float apart = 0;
    std::string name = "Supports";
    static Fields<AddSupports> fields();
};

} // namespace bonemoss::command
