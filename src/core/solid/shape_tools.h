#pragma once

#include "base/result.h"
#include "mesh/poly_mesh.h"

#include <optional>
#include <span>

namespace bonemoss::solid {

/// The solid that a line, curve or outline sweeps out along a direction, to cut with.
struct Sweep {
    std::vector<Vec3f> line; ///< at least two points (an outline: three), mm
    bool isClosed =
        false; ///< an outline (ends that overlap a little are cut off where they cross); else what lies to the left of the line, seen along `direction`
    Vec3f direction{0, 0, -1};
    std::optional<Vec3f> eye; ///< swept along rays from here, as a perspective view sees it; else evenly
    float depth = 0;          ///< mm from the nearest point of `around`; 0 for all the way through
    float edge = 1;           ///< mm; length of the edges of its walls, which become the faces of the cut
};
/// BadValue where the line crosses itself, has no length, or runs along the direction.
Result<mesh::PolyMesh> sweep(const Sweep &s, const Box3f &around);

/// How the border of a plate looks.
enum class Rim { Square, Round };
inline constexpr std::array<std::string_view, 2> kRimNames{"square", "round"};

/// A plate over an open sheet: the sheet lifted by `above` along its normals, its back at `below`, and a rim between.
/// normals  one per vertex of the sheet, unit
/// above, below  mm along the normals, above > below
mesh::PolyMesh plate(const mesh::PolyMesh &sheet, std::span<const Vec3f> normals, float above, float below, Rim rim);

} // namespace bonemoss::solid
