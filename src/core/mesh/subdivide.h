#pragma once

#include "base/parallel.h"
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
    Subdivision(std::size_t vertexCount, std::vector<Face> faces);
    /// The step that follows this one. Its edges are halves of this one's or lie inside its faces, so they are written
    /// down and not searched: some three times as fast as making it from faces().
    Subdivision next() const;

    const std::vector<Face> &faces() const { return m_faces; }
    std::vector<Face> takeFaces() { return std::move(m_faces); }
    std::size_t oldVertexCount() const { return m_vertices; }
    std::size_t vertexCount() const { return m_place.size(); }
    /// Which new vertex an old one becomes.
    std::uint32_t placeOf(std::uint32_t oldVertex) const { return m_place[oldVertex]; }
    std::size_t memoryBytes() const;

    std::vector<Vec3f> apply(const std::vector<Vec3f> &values) const;
    std::vector<float> apply(const std::vector<float> &values) const;

    /// Numbers that do not blend: an edge point takes the lower of its ends' values, a face point the highest of its corners'.
    /// So a flag of hidden faces (those with a flagged corner) hides just the faces made of them.
    std::vector<std::uint16_t> spread(const std::vector<std::uint16_t> &values) const;

    /// Old values whose subdivision comes near the given new ones (least squares, approached in a few rounds): what a
    /// coarse level becomes when the fine one was changed. Exact for what subdivision itself made only in the limit.
    std::vector<Vec3f> fit(const std::vector<Vec3f> &values) const;
    std::vector<float> fit(const std::vector<float> &values) const;

private:
    struct Edge {
        std::uint32_t a, b;
        std::uint32_t f, g;      ///< its faces; g == kNone at a border
        std::uint8_t inF, inG;   ///< which of their edges it is
        bool isBorder, isForked; ///< forked: more than two faces
    };
    Subdivision() = default;
    template <typename T> std::vector<T> applyTo(const std::vector<T> &values) const;
    template <typename T> std::vector<T> fitTo(const std::vector<T> &values) const;
    void countCorners();
    void findEdges();
    void makeRings();
    void order();
    void makeFaces();
    void makeRings(Subdivision &next) const;
    std::size_t edgePlace(std::size_t e) const { return m_vertices + e; }
    std::size_t facePlace(std::size_t f) const { return m_vertices + m_edges.size() + f; }
    /// The half of an edge, as an edge of the next step, that keeps the given old vertex.
    std::uint32_t halfAt(std::uint32_t e, std::uint32_t vertex) const { return 2 * e + (m_edges[e].a == vertex ? 0 : 1); }

    std::size_t m_vertices = 0;
    std::vector<Face> m_oldFaces;
    RawVector<std::uint32_t> m_firstCorner; ///< of each old face, which is also its first new face
    RawVector<Edge> m_edges;
    RawVector<std::array<std::uint32_t, 4>> m_faceEdges;
    RawVector<std::uint32_t> m_firstFace;         ///< lowest face about each old vertex, or kNone
    RawVector<std::uint32_t> m_ringStart, m_ring; ///< edges about each old vertex
    RawVector<std::uint32_t> m_place;             ///< place of old vertices, then edge points, then face points
    std::vector<Face> m_faces;
};

/// The mesh after `levels` steps.
PolyMesh subdivide(const PolyMesh &mesh, int levels);

} // namespace bonemoss::mesh
