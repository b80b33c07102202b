#pragma once

#include "command/field_list.h"

#include <array>

namespace bonemoss::command {

enum class CageKind { Box, Sheet, Strip };
inline constexpr std::array<std::string_view, 3> kCageKindNames{"box", "sheet", "strip"};

enum class FacesEdit { Extrude, Inset, Bevel, Delete };
inline constexpr std::array<std::string_view, 4> kFacesEditNames{"extrude", "inset", "bevel", "delete"};

enum class EdgesEdit { Extend, Ring };
inline constexpr std::array<std::string_view, 2> kEdgesEditNames{"extend", "ring"};

struct AddCage {
    static constexpr const char *kName = "cage.add", *kTitle = "Add cage",
                                *kText = "Begins a hard-edged cage: a box, a sheet, or a strip along points.";
    CageKind kind{};
    std::string name = "cage";
    std::optional<Vec3f> at, size, normal;
    std::optional<std::vector<Vec3f>> points, normals;
    std::uint32_t smooth = 2;
    bool isMirrored = false;
    static Fields<AddCage> fields();
};

struct SetCage {
    static constexpr const char *kName = "cage.set", *kTitle = "Change cage",
                                *kText = "Name, smoothness, twin, visibility and lock of a cage.";
    ItemName cage;
    std::optional<std::string> name;
    std::optional<std::uint32_t> smooth;
    std::optional<bool> isMirrored, isHidden, isLocked;
    static Fields<SetCage> fields();
};

struct EditFaces {
    static constexpr const char *kName = "cage.faces", *kTitle = "Edit faces",
                                *kText = "Extrudes, insets, bevels or deletes faces of a cage.";
    ItemName cage;
    FacesEdit edit{};
    std::vector<float> faces;
    std::optional<float> width;
    std::optional<Vec3f> by;
    static Fields<EditFaces> fields();
};

struct EditEdges {
    static constexpr const char *kName = "cage.edges", *kTitle = "Edit edges",
                                *kText = "Extends open edges by new quads, or sets a ring across the band of quads over an edge.";
    ItemName cage;
    EdgesEdit edit{};
    std::vector<float> edges;
    std::optional<float> width;
    std::optional<Vec3f> by;
    float share = 0.5f;
    static Fields<EditEdges> fields();
};

struct MovePoints {
    static constexpr const char *kName = "cage.move", *kTitle = "Move points",
                                *kText = "Moves points of a cage; others within reach follow softly.";
    ItemName cage;
    std::vector<float> points;
    Vec3f by;
    float reach = 0;
    static Fields<MovePoints> fields();
};

struct MakePiece {
    static constexpr const char *kName = "cage.piece", *kTitle = "Make cage a piece",
                                *kText = "Makes the smooth shape of a cage a piece to sculpt on.";
    ItemName cage;
    bool isKept = false;
    static Fields<MakePiece> fields();
};

struct RemoveCage {
    static constexpr const char *kName = "cage.remove", *kTitle = "Delete cage", *kText = "Deletes a cage.";
    ItemName cage;
    static Fields<RemoveCage> fields();
};

} // namespace bonemoss::command
