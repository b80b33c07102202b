#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "mesh/poly_mesh.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace bonemoss::solid::detail {

/// Triangles that pass through each other, cut along the lines in which they do. After Q. Zhou, E. Grinspun, D. Zorin & A. Jacobson,
/// "Mesh arrangements for solid geometry", 2016; what lies in one plane or at one place is moved apart first.
struct Arrangement {
    using Triangle = std::array<std::uint32_t, 3>;
    struct Part {
        std::uint32_t of = 0; ///< the triangle it is of, which runs the same way round
        Triangle v{};
    };
    /// A stretch of the line of two triangles. Seen from the front of `a`, what lies to its left is behind `b`; from the front of
    /// `b`, what lies to its right is behind `a`.
    struct Seam {
        std::uint32_t from = 0, to = 0, a = 0, b = 0;
    };
    std::vector<Vec3f> points;       ///< those given, moved where that was needed, then those of seams
    std::size_t given = 0;           ///< of the points
    std::vector<std::uint8_t> isCut; ///< of each triangle given
    std::vector<Part> parts;         ///< of those that are cut
    std::vector<Seam> seams;
    std::vector<std::uint32_t> corners; ///< given points at which triangles that share them cross
    std::size_t pairs = 0, moved = 0;   ///< of triangles that cross; points that were moved
    float most = 0;                     ///< mm, by which they were
};

/// bodyOf: of each point. Errors: BadValue where it cannot be done, Cancelled. O(F log F + what crosses), exact in between, parallel.
Result<Arrangement> arranged(std::vector<Vec3f> points, const std::vector<Arrangement::Triangle> &triangles,
                             std::span<const std::uint32_t> bodyOf, const Progress &progress);

} // namespace bonemoss::solid::detail
