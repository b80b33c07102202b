#pragma once

#include "base/types.h"

#include <vector>

namespace bonemoss::sculpt {

/// A mirroring, a turn or both: p -> rows * p + move.
struct Isometry {
    Vec3f rows[3] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    Vec3f move;
    float handed = 1; ///< -1 when left and right are exchanged

    Vec3f turn(Vec3f v) const { return {dot(rows[0], v), dot(rows[1], v), dot(rows[2], v)}; }
    Vec3f apply(Vec3f p) const { return turn(p) + move; }
    Isometry inverse() const
    {
        Isometry back{{{rows[0].x, rows[1].x, rows[2].x}, {rows[0].y, rows[1].y, rows[2].y}, {rows[0].z, rows[1].z, rows[2].z}},
                      {},
                      handed};
        back.move = -back.turn(move);
        return back;
    }
};

/// Where strokes on a piece are repeated: across a plane, around an axis, or both.
struct Symmetry {
    static constexpr int kMostAround = 32;
    bool hasPlane = true;
    Vec3f point, normal{1, 0, 0}; ///< of the plane, mm; unit
    int around = 1;               ///< times about the axis, itself counted
    Vec3f axisPoint, axis{0, 1, 0};

    /// Every place of a stroke, its own first: around * (1 or 2) of them. The middle plane x = 0 mirrors exactly.
    std::vector<Isometry> places() const;
    friend bool operator==(const Symmetry &, const Symmetry &) = default;
};

} // namespace bonemoss::sculpt
