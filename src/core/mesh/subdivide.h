#pragma once

#include "mesh/poly_mesh.h"

namespace bonemoss::mesh {

/// One step of Catmull-Clark subdivision as a linear rule, made once and applied to any per-vertex
/// data: every new vertex is a weighted sum of old ones.
///
/// New vertices are ordered by the old face that first makes them, so blocks stay compact spots.
/// Edges with one face are borders and follow the cubic B-spline rule; an edge of more than two faces
/// is treated as a border too. O(V + F).
/// Source: Catmull & Clark 1978, "Recursively generated B-spline surfaces on arbitrary meshes".
class Subdivision
{
public:
    Subdivision(std::size_t vertexCount, const std::vector<Face> &faces);

    const std::vector<Face> &faces() const { return m_faces; }
    std::size_t vertexCount() const { return m_place.size(); }
    std::size_t memoryBytes() const;

    std::vector<Vec3f> apply(const std::vector<Vec3f> &values) const;
    std::vector<float> apply(const std::vector<float> &values) const;

private:
    template <typename T> std::vector<T> applyTo(const std::vector<T> &values) const;
    void findEdges();
    void order();
    void makeFaces();

    struct Edge {
        std::uint32_t a, b;
        std::uint32_t f = kNone, g = kNone; ///< its faces; g == kNone at a border
        bool border = false;
    };
    std::size_t m_vertices;
    const std::vector<Face> *m_old; ///< only while constructing
    std::vector<Face> m_oldFaces;
    std::vector<Edge> m_edges;
    std::vector<std::array<std::uint32_t, 4>> m_faceEdges;
    std::vector<std::uint32_t> m_place;             ///< place of old vertices, then edge points, then face points
    std::vector<std::uint32_t> m_ringStart, m_ring; ///< edges about each old vertex
    std::vector<Face> m_faces;
};

/// The mesh after `levels` steps.
PolyMesh subdivide(const PolyMesh &mesh, int levels);

} // namespace bonemoss::mesh
