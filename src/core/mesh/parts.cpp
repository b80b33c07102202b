#include "mesh/parts.h"

#include <array>
#include <cmath>
#include <numeric>
#include <unordered_map>

namespace bonemoss::mesh {

std::vector<std::uint32_t> islandsOf(const PolyMesh &m, std::uint32_t &count)
{
    std::vector<std::uint32_t> parent(m.positions.size());
    std::iota(parent.begin(), parent.end(), 0u);
    const auto find = [&](std::uint32_t v) {
        while (parent[v] != v)
            v = parent[v] = parent[parent[v]];
        return v;
    };
    for (const Face &f : m.faces)
        for (int c = 1; c < f.size(); ++c)
            if (const std::uint32_t a = find(f.v[0]), b = find(f.v[std::size_t(c)]); a != b)
                parent[std::max(a, b)] = std::min(a, b);
    std::vector<std::uint32_t> island(m.positions.size(), kNone);
    count = 0;
    for (std::uint32_t v = 0; v < island.size(); ++v) // a root stands before its others
        island[v] = find(v) == v ? count++ : island[find(v)];
    return island;
}

PolyMesh extract(const PolyMesh &mesh, const std::vector<bool> &faces, std::vector<std::uint32_t> *sources)
{
    std::vector<std::uint32_t> place(mesh.positions.size(), kNone);
    for (std::size_t f = 0; f < mesh.faces.size(); ++f)
        if (faces[f])
            for (int k = 0; k < mesh.faces[f].size(); ++k)
                place[mesh.faces[f].v[std::size_t(k)]] = 0;
    PolyMesh out;
    if (sources)
        sources->clear();
    for (std::uint32_t v = 0; v < place.size(); ++v)
        if (place[v] == 0) {
            place[v] = std::uint32_t(out.positions.size());
            out.positions.push_back(mesh.positions[v]);
            if (sources)
                sources->push_back(v);
        }
    for (std::size_t f = 0; f < mesh.faces.size(); ++f)
        if (faces[f]) {
            Face face = mesh.faces[f];
            for (std::uint32_t &v : face.v)
                v = v == kNone ? kNone : place[v];
            out.faces.push_back(face);
        }
    return out;
}

namespace {

constexpr float kNearVertex = 1.0f / 12;

/// Values so near 0 beside a neighbour of the other sign that the line shall go through their vertex.
void snapToVertices(const PolyMesh &mesh, std::vector<float> &values)
{
    const std::vector<float> before = values;
    for (const Face &f : mesh.faces)
        for (int k = 0; k < f.size(); ++k) {
            const std::uint32_t a = f.v[std::size_t(k)], b = f.v[std::size_t((k + 1) % f.size())];
            if (before[a] * before[b] >= 0)
                continue;
            const float t = before[a] / (before[a] - before[b]);
            if (t < kNearVertex)
                values[a] = 0;
            else if (t > 1 - kNearVertex)
                values[b] = 0;
        }
}

class Cutter
{
public:
    Cutter(const PolyMesh &mesh, std::vector<float> values) : m_values(std::move(values))
    {
        m_out.mesh.positions = mesh.positions;
    }

    void add(const Face &f)
    {
        bool above = false, below = false;
        for (int k = 0; k < f.size(); ++k) {
            above = above || m_values[f.v[std::size_t(k)]] > 0;
            below = below || m_values[f.v[std::size_t(k)]] < 0;
        }
        if (!(above && below))
            return put(f, above);
        if (f.size() == 3)
            return cut({f.v[0], f.v[1], f.v[2]});
        PolyMesh one;
        for (const std::uint32_t v : f.v)
            one.positions.push_back(m_out.mesh.positions[v]);
        one.faces = {{{0, 1, 2, 3}}};
        for (const auto &t : triangulate(one))
            cut({f.v[t[0]], f.v[t[1]], f.v[t[2]]});
    }
    CutMesh take() { return std::move(m_out); }

private:
    void put(const Face &f, bool isIn)
    {
        m_out.mesh.faces.push_back(f);
        m_out.isIn.push_back(isIn);
    }
    /// Each side of a triangle is one of three or four corners.
    void cut(const std::array<std::uint32_t, 3> &t)
    {
        for (const bool isIn : {true, false}) {
            std::vector<std::uint32_t> polygon;
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t a = t[k], b = t[(k + 1) % 3];
                const float va = isIn ? m_values[a] : -m_values[a], vb = isIn ? m_values[b] : -m_values[b];
                if (va >= 0)
                    polygon.push_back(a);
                if (va * vb < 0)
                    polygon.push_back(crossing(a, b));
            }
            if (polygon.size() == 3)
                put({{polygon[0], polygon[1], polygon[2], kNone}}, isIn);
            else if (polygon.size() == 4)
                put({{polygon[0], polygon[1], polygon[2], polygon[3]}}, isIn);
        }
    }
    std::uint32_t crossing(std::uint32_t a, std::uint32_t b)
    {
        if (a > b)
            std::swap(a, b);
        const auto [it, isNew] = m_crossings.insert({std::uint64_t(a) << 32 | b, std::uint32_t(m_out.mesh.positions.size())});
        if (isNew) {
            const float t = m_values[a] / (m_values[a] - m_values[b]);
            m_out.mesh.positions.push_back(lerp(m_out.mesh.positions[a], m_out.mesh.positions[b], t));
        }
        return it->second;
    }

    std::vector<float> m_values;
    CutMesh m_out;
    std::unordered_map<std::uint64_t, std::uint32_t> m_crossings;
};

} // namespace

CutMesh cutAlong(const PolyMesh &mesh, std::vector<float> values)
{
    snapToVertices(mesh, values);
    Cutter cutter(mesh, std::move(values));
    for (const Face &f : mesh.faces)
        cutter.add(f);
    return cutter.take();
}

} // namespace bonemoss::mesh
