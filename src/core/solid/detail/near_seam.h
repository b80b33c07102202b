#pragma once

#include "mesh/box_tree.h"
#include "mesh/poly_mesh.h"
#include "solid/detail/cgal_mesh.h"

#include <array>
#include <optional>
#include <span>

namespace bonemoss::solid::detail {

inline std::size_t next(const mesh::Face &f, std::size_t k)
{
    return k + 1 < std::size_t(f.size()) ? k + 1 : 0;
}

/// The faces about each vertex, by the edges that leave it.
class Ways
{
public:
    explicit Ways(const mesh::PolyMesh &m) : m_starts(m.positions.size() + 1, 0)
    {
        for (const mesh::Face &f : m.faces)
            for (std::size_t k = 0; k < std::size_t(f.size()); ++k)
                ++m_starts[f.v[k] + 1];
        for (std::size_t i = 1; i < m_starts.size(); ++i)
            m_starts[i] += m_starts[i - 1];
        m_ways.resize(m_starts.back());
        std::vector<std::uint32_t> to(m_starts.begin(), m_starts.end() - 1);
        for (std::uint32_t i = 0; i < m.faces.size(); ++i)
            for (std::size_t k = 0; k < std::size_t(m.faces[i].size()); ++k)
                m_ways[to[m.faces[i].v[k]]++] = {m.faces[i].v[next(m.faces[i], k)], i};
    }
    struct Way {
        std::uint32_t to, face;
    };
    std::span<const Way> from(std::uint32_t v) const { return {m_ways.data() + m_starts[v], m_ways.data() + m_starts[v + 1]}; }
    /// The one face with an edge from a to b; kNone where there is none, or more than one.
    std::uint32_t faceAlong(std::uint32_t a, std::uint32_t b) const
    {
        std::uint32_t found = kNone;
        for (const Way w : from(a))
            if (w.to == b) {
                if (found != kNone)
                    return kNone;
                found = w.face;
            }
        return found;
    }

private:
    std::vector<std::uint32_t> m_starts;
    std::vector<Way> m_ways;
};

/// Calls use(face, k, twin) for each edge of a mesh: the face across it, or kNone.
template <typename Use> void eachEdge(const mesh::PolyMesh &m, const Ways &ways, const Use &use)
{
    for (std::uint32_t i = 0; i < m.faces.size(); ++i)
        for (std::size_t k = 0; k < std::size_t(m.faces[i].size()); ++k)
            use(i, k, ways.faceAlong(m.faces[i].v[next(m.faces[i], k)], m.faces[i].v[k]));
}

/// A mesh with what is asked of all of it. Keeps a reference. O(n log n).
class Whole
{
public:
    explicit Whole(const mesh::PolyMesh &mesh);
    const mesh::PolyMesh &mesh() const { return m_mesh; }
    const Ways &ways() const { return m_ways; }
    const mesh::BoxTree &tree() const { return m_tree; } ///< over the faces; empty unless it is a solid
    bool isSolid() const { return m_isSolid; }           ///< one closed shell that faces outwards
    Box3f boxOf(std::uint32_t face) const;
    /// Whether a point lies inside a solid, by exact tests; nothing where that cannot be told along any axis.
    std::optional<bool> encloses(const Point &p) const;

private:
    const mesh::PolyMesh &m_mesh;
    Ways m_ways;
    mesh::BoxTree m_tree;
    bool m_isSolid = false;
};

/// A solid apart: the faces that another meets with a few rings about them, and what is far from those.
struct NearSeam {
    mesh::PolyMesh near;                ///< open where the far parts were
    std::vector<std::uint32_t> sources; ///< number in the whole mesh of each vertex of `near`
    std::vector<std::uint32_t> farPart; ///< of each face of the whole mesh: its far part, or kNone where it is near
    std::uint32_t farParts = 0;
};

/// Two solids, each apart near and far from where they meet, so that what joins or cuts them need not look at what it leaves
/// alone. Faces meet by exact tests. Nothing where one is no solid, they do not meet, or most of them is near.
/// O(n + k log n) for k faces near the seam.
std::optional<std::array<NearSeam, 2>> nearSeam(const Whole &first, const Whole &second);

} // namespace bonemoss::solid::detail
