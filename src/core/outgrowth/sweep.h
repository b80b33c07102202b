#pragma once

#include "mesh/poly_mesh.h"

#include <cmath>
#include <span>
#include <vector>

namespace bonemoss::outgrowth {

/// A cross-section on a centre line: side x (the way of the line) = up, so that rings that run from side to up face outwards.
struct Station {
    Vec3f at;
    Vec3f side, up;              ///< unit, square to each other and to the line
    float width = 0, height = 0; ///< mm, half extents along side and up
    Vec3f along() const { return cross(up, side); }
};

/// Stations on a line with frames that do not turn about it (Wang, Juettler, Zheng & Liu 2008, "Computation of rotation minimizing
/// frames": double reflection). line: two or more points that differ; firstSide: about square to its beginning. O(points).
std::vector<Station> framed(std::span<const Vec3f> line, Vec3f firstSide);

/// A line through the points (Catmull-Rom, centripetal) at n places that are even by arc length. O(points + n).
std::vector<Vec3f> evenLine(std::span<const Vec3f> points, std::size_t n);

/// Narrows the sections so that none reaches into another: half the extent towards a bend stays under 0.62 of its radius, and
/// stations that are far from each other along the line keep apart. margin: how far out of its half extents a section reaches, at
/// most. The surface is then free of self-crossings where all points of a ring lie in their section and rings are star-shaped.
/// Returns the least factor that was needed, 1 for none. O(stations^2).
float keepApart(std::vector<Station> &stations, float margin = 1);

/// Corner j of a ring on a section, in half extents.
struct Corner {
    float x = 1, y = 0;
};

/// A closed solid of quads: rings of so many corners (even, 4 or more) along the stations, ends closed by a strip of quads. ring(i, j)
/// gives the corner j of section i; the first and last rings are to be convex. The points come station by station. O(points).
template <typename Ring> mesh::PolyMesh swept(std::span<const Station> stations, std::uint32_t around, const Ring &ring)
{
    mesh::PolyMesh out;
    out.positions.reserve(stations.size() * around);
    for (std::size_t i = 0; i < stations.size(); ++i) {
        const Station &s = stations[i];
        for (std::uint32_t j = 0; j < around; ++j) {
            const Corner c = ring(i, j);
            out.positions.push_back(s.at + s.side * (c.x * s.width) + s.up * (c.y * s.height));
        }
    }
    const auto last = std::uint32_t(stations.size() - 1) * around;
    out.faces.reserve(stations.size() * around);
    for (std::uint32_t i = 0; i < last; i += around)
        for (std::uint32_t j = 0; j < around; ++j) {
            const std::uint32_t next = (j + 1) % around;
            out.faces.push_back({{i + j, i + around + j, i + around + next, i + next}});
        }
    for (std::uint32_t k = 0; k + 1 < around / 2; ++k) {
        const std::uint32_t a = k, b = k + 1, c = around - 2 - k, d = around - 1 - k;
        out.faces.push_back({{a, b, c, d}});
        out.faces.push_back({{last + d, last + c, last + b, last + a}});
    }
    return out;
}

/// The middles of the rings of a solid that swept() made, from first to last; empty for any other. O(points).
std::vector<Vec3f> middleLine(const mesh::PolyMesh &mesh);

/// Stations past the last one that round the tip off over so many mm; the last of them has 0.3 of its extents.
void roundTip(std::vector<Station> &stations, float reach, int rings = 3);

/// Faces of a closed sheet: its points are the front, row by row, then the back. isFlipped: front and back face the other way. O(points).
void closeSheet(mesh::PolyMesh &sheet, std::uint32_t columns, std::uint32_t rows, bool isFlipped);

/// Even in [-1, 1], smooth over one unit of x; another for each seed.
float waver(std::uint64_t seed, float x);

/// 0 below from, 1 above to, smooth between.
inline float smooth(float from, float to, float x)
{
    const float t = std::fmin(std::fmax((x - from) / (to - from), 0.0f), 1.0f);
    return t * t * (3 - 2 * t);
}

} // namespace bonemoss::outgrowth
