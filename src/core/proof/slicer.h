#pragma once

#include "base/progress.h"
#include "mesh/poly_mesh.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace bonemoss::proof {

using Point2 = std::array<float, 2>; ///< x and z, mm, in a level plane

/// The lines in which a level plane cuts a mesh.
struct Slice {
    float y = 0;                       ///< mm
    std::vector<Point2> points;        ///< loop after loop; the first of each is not repeated
    std::vector<std::uint32_t> starts; ///< of each loop
    double area = 0;                   ///< mm^2: what runs about a hole counts as less
    std::uint32_t openLoops = 0;       ///< that an edge of the mesh broke; closed straight
    std::span<const Point2> loop(std::size_t k) const
    {
        return std::span(points).subspan(starts[k], (k + 1 < starts.size() ? starts[k + 1] : points.size()) - starts[k]);
    }
    double perimeter() const; ///< mm
};

/// Cuts a mesh at many heights: faces are listed for each height once, and lines followed from edge to edge.
class Slicer
{
public:
    /// Gives edges numbers. Where more than two faces meet at one, those that run opposite ways go together. O(F).
    explicit Slicer(const mesh::PolyMesh &mesh);
    /// heights: mm, going up. A corner at a height counts as above it, so that no line is lost or doubled. O(points of all lines + F),
    /// parallel over heights, the same on any number of threads. Cancelled gives none.
    std::vector<Slice> cut(std::span<const float> heights, const Progress &progress = {}) const;
    std::size_t triangleCount() const { return m_triangles.size(); }

private:
    struct Corner {
        std::uint32_t vertex, edge; ///< edge: from it to the next
    };
    const mesh::PolyMesh &m_mesh;
    std::vector<std::array<Corner, 3>> m_triangles;
    std::size_t m_edges = 0;
};

} // namespace bonemoss::proof
