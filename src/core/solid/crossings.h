#pragma once

#include "base/progress.h"
#include "mesh/box_tree.h"
#include "mesh/poly_mesh.h"

#include <array>
#include <cstddef>
#include <span>
#include <utility>
#include <vector>

namespace bonemoss::solid {

/// Finds triangles that pass through each other, or touch where they have neither corner nor side in common. Exact: what rounding
/// leaves open is decided with exact arithmetic. Neighbours cross where they are folded flat onto each other.
class CrossingFinder
{
public:
    using Triangle = std::array<std::uint32_t, 3>;
    using Pair =
        std::pair<std::uint32_t, std::uint32_t>; ///< numbers of triangles, the smaller first; twice the same: it has no area

    /// Corners of triangles are numbers of points, mm. Triangles that share a corner are neighbours there. O(F log F).
    CrossingFinder(std::vector<Vec3f> points, std::vector<Triangle> triangles);

    /// All pairs, sorted. About half a microsecond a triangle beside pairs; parallel, the same on any number of threads.
    /// Beyond `most` it stops and gives some more than that.
    std::vector<Pair> all(const Progress &progress = {}, std::size_t most = std::size_t(-1)) const;
    /// Pairs of which one is among these. O(triangles * log F + pairs).
    std::vector<Pair> of(std::span<const std::uint32_t> triangles) const;
    /// Points that have moved, and the triangles about them. O(triangles * log F).
    void move(std::span<const std::uint32_t> points, std::span<const Vec3f> places, std::span<const std::uint32_t> triangles);

    const std::vector<Vec3f> &points() const { return m_points; }
    const std::vector<Triangle> &triangles() const { return m_triangles; }

private:
    Box3f boxOf(std::uint32_t triangle) const;
    std::array<Vec3f, 3> cornersOf(std::uint32_t triangle) const;
    void orderInSpace();
    Box3f putBoxes(std::uint32_t group);
    std::span<const std::uint32_t> group(std::uint32_t g) const;
    struct Asked;
    bool cross(const Asked &a, std::uint32_t b) const;

    std::vector<Vec3f> m_points;
    std::vector<Triangle> m_triangles;
    std::vector<std::uint32_t> m_order,
        m_groupOf;                             ///< triangles along a curve through space; groups of kGroup that follow each other
    std::vector<mesh::BoxTree::Boxes> m_boxes; ///< of each group, empty where it has none
    mesh::BoxTree m_tree;                      ///< of groups
};

/// How many pairs there are in a mesh; quads along their shorter diagonal.
std::size_t selfCrossings(const mesh::PolyMesh &mesh);

} // namespace bonemoss::solid
