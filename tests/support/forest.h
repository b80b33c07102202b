#pragma once

#include "mesh/topology.h"

#include <numeric>

namespace bonemoss::test {

/// What hangs together over the edges of a mesh that are joined: a forest of parents (B. Galler, M. Fischer, "An Improved
/// Equivalence Algorithm", 1964).
class Forest
{
public:
    /// joins(a, b): whether the edge between two vertices counts.
    template <typename Joins> Forest(const mesh::Topology &t, const Joins &joins) : m_parent(t.vertexCount())
    {
        std::iota(m_parent.begin(), m_parent.end(), 0u);
        for (const mesh::Face &f : t.faces())
            for (std::size_t k = 0, n = std::size_t(f.size()); k < n; ++k)
                if (const std::uint32_t a = f.v[k], b = f.v[(k + 1) % n]; joins(a, b))
                    m_parent[root(a)] = root(b);
    }
    std::uint32_t root(std::uint32_t v)
    {
        while (m_parent[v] != v)
            v = m_parent[v] = m_parent[m_parent[v]];
        return v;
    }

private:
    std::vector<std::uint32_t> m_parent;
};

} // namespace bonemoss::test
