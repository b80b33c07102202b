#include "mesh/subdivide.h"

#include "base/parallel.h"

#include <algorithm>

namespace bonemoss::mesh {

namespace {
constexpr std::size_t kChunk = 8192;
}

Subdivision::Subdivision(std::size_t vertexCount, const std::vector<Face> &faces)
    : m_vertices(vertexCount), m_old(&faces), m_oldFaces(faces)
{
    findEdges();
    order();
    makeFaces();
    m_old = nullptr;
}

/// Half edges are grouped by their lower vertex, then matched within the short list of that vertex.
void Subdivision::findEdges()
{
    const auto &faces = *m_old;
    std::vector<std::uint32_t> start(m_vertices + 1, 0);
    const auto forHalfEdges = [&](const auto &visit) {
        for (std::uint32_t f = 0; f < faces.size(); ++f)
            for (std::size_t c = 0, n = std::size_t(faces[f].size()); c < n; ++c) {
                const std::uint32_t a = faces[f].v[c], b = faces[f].v[c + 1 < n ? c + 1 : 0];
                visit(std::min(a, b), std::max(a, b), f, c);
            }
    };
    forHalfEdges([&](std::uint32_t lo, std::uint32_t, std::uint32_t, std::size_t) { ++start[lo + 1]; });
    for (std::size_t v = 0; v < m_vertices; ++v)
        start[v + 1] += start[v];
    constexpr std::uint32_t kEmpty = kNone;
    std::vector<std::uint32_t> bucket(start.back(), kEmpty); // edge numbers, filled from each start
    m_faceEdges.assign(faces.size(), {kNone, kNone, kNone, kNone});
    m_edges.reserve(start.back() / 2 + 16);
    forHalfEdges([&](std::uint32_t lo, std::uint32_t hi, std::uint32_t f, std::size_t c) {
        std::uint32_t i = start[lo];
        while (bucket[i] != kEmpty && m_edges[bucket[i]].b != hi)
            ++i;
        if (bucket[i] == kEmpty) {
            bucket[i] = std::uint32_t(m_edges.size());
            m_edges.push_back({lo, hi});
        }
        Edge &e = m_edges[bucket[i]];
        if (e.f == kNone)
            e.f = f;
        else if (e.g == kNone)
            e.g = f;
        else
            e.border = true; // a third face
        m_faceEdges[f][c] = bucket[i];
    });
    for (Edge &e : m_edges)
        e.border = e.border || e.g == kNone;
    m_ringStart.assign(m_vertices + 1, 0);
    for (const Edge &e : m_edges)
        ++m_ringStart[e.a + 1], ++m_ringStart[e.b + 1];
    for (std::size_t v = 0; v < m_vertices; ++v)
        m_ringStart[v + 1] += m_ringStart[v];
    m_ring.resize(m_ringStart.back());
    std::vector<std::uint32_t> cursor(m_ringStart.begin(), m_ringStart.end() - 1);
    for (std::uint32_t e = 0; e < m_edges.size(); ++e) {
        m_ring[cursor[m_edges[e].a]++] = e;
        m_ring[cursor[m_edges[e].b]++] = e;
    }
}

void Subdivision::order()
{
    const auto &faces = *m_old;
    const std::size_t edge0 = m_vertices, face0 = m_vertices + m_edges.size();
    m_place.assign(face0 + faces.size(), kNone);
    std::uint32_t next = 0;
    const auto put = [&](std::size_t i) {
        if (m_place[i] == kNone)
            m_place[i] = next++;
    };
    for (std::size_t f = 0; f < faces.size(); ++f)
        for (std::size_t c = 0, n = std::size_t(faces[f].size()); c < n; ++c) {
            put(faces[f].v[c]);
            put(edge0 + m_faceEdges[f][c]);
            if (c == 0)
                put(face0 + f);
        }
    for (std::size_t v = 0; v < m_vertices; ++v)
        put(v); // loose vertices keep a place
}

void Subdivision::makeFaces()
{
    const auto &faces = *m_old;
    const std::size_t edge0 = m_vertices, face0 = m_vertices + m_edges.size();
    std::vector<std::uint32_t> first(faces.size() + 1, 0);
    for (std::size_t f = 0; f < faces.size(); ++f)
        first[f + 1] = first[f] + std::uint32_t(faces[f].size());
    m_faces.resize(first.back());
    forEachBlock(faces.size(), kChunk, [&](BlockRange r) {
        for (std::size_t f = r.begin; f < r.end; ++f)
            for (std::size_t c = 0, n = std::size_t(faces[f].size()); c < n; ++c)
                m_faces[first[f] + c].v = {m_place[faces[f].v[c]], m_place[edge0 + m_faceEdges[f][c]], m_place[face0 + f],
                                           m_place[edge0 + m_faceEdges[f][(c + n - 1) % n]]};
    });
}

template <typename T> std::vector<T> Subdivision::applyTo(const std::vector<T> &values) const
{
    std::vector<T> facePoints(m_oldFaces.size()), out(m_place.size());
    const std::size_t edge0 = m_vertices, face0 = m_vertices + m_edges.size();
    forEachBlock(m_oldFaces.size(), kChunk, [&](BlockRange r) {
        for (std::size_t f = r.begin; f < r.end; ++f) {
            T sum{};
            const int n = m_oldFaces[f].size();
            for (int c = 0; c < n; ++c)
                sum = sum + values[m_oldFaces[f].v[std::size_t(c)]];
            facePoints[f] = sum * (1.0f / float(n));
            out[m_place[face0 + f]] = facePoints[f];
        }
    });
    forEachBlock(m_edges.size(), kChunk, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const Edge &e = m_edges[i];
            const T ends = values[e.a] + values[e.b];
            out[m_place[edge0 + i]] = e.border ? ends * 0.5f : (ends + facePoints[e.f] + facePoints[e.g]) * 0.25f;
        }
    });
    forEachBlock(m_vertices, kChunk, [&](BlockRange r) {
        for (std::size_t v = r.begin; v < r.end; ++v) {
            const std::uint32_t begin = m_ringStart[v], end = m_ringStart[v + 1];
            T mids{}, rim{}, around{};
            int borders = 0;
            for (std::uint32_t i = begin; i < end; ++i) {
                const Edge &e = m_edges[m_ring[i]];
                const T other = values[e.a == v ? e.b : e.a];
                if (e.border) {
                    rim = rim + other;
                    ++borders;
                } else {
                    around = around + (facePoints[e.f] + facePoints[e.g]); // each face is met twice
                }
                mids = mids + other;
            }
            const float n = float(end - begin);
            if (n == 0 || borders > 2 || borders == 1)
                out[m_place[v]] = values[v];
            else if (borders == 2) // (1, 6, 1) / 8
                out[m_place[v]] = end - begin == 2 ? values[v] : values[v] * 0.75f + rim * 0.125f;
            else // (F + 2 E + (n - 3) P) / n with F, E the means of face points and edge middles
                out[m_place[v]] = around * (0.5f / (n * n)) + (mids * (1 / n) + values[v]) * (1 / n) + values[v] * ((n - 3) / n);
        }
    });
    return out;
}

std::vector<Vec3f> Subdivision::apply(const std::vector<Vec3f> &values) const
{
    return applyTo(values);
}
std::vector<float> Subdivision::apply(const std::vector<float> &values) const
{
    return applyTo(values);
}

std::size_t Subdivision::memoryBytes() const
{
    return m_oldFaces.size() * sizeof(Face) + m_edges.size() * sizeof(Edge) + m_place.size() * 4 + m_ring.size() * 4
           + m_faces.size() * sizeof(Face);
}

PolyMesh subdivide(const PolyMesh &mesh, int levels)
{
    PolyMesh out = mesh;
    for (int l = 0; l < levels; ++l) {
        const Subdivision step(out.positions.size(), out.faces);
        out.positions = step.apply(out.positions);
        out.faces = step.faces();
    }
    return out;
}

} // namespace bonemoss::mesh
