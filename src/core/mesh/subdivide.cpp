#include "mesh/subdivide.h"

#include "base/parallel.h"

#include <algorithm>

namespace bonemoss::mesh {

namespace {

constexpr std::size_t kChunk = 8192;

/// body(i) for each i in [0, n), in parallel.
template <typename Body> void each(std::size_t n, const Body &body)
{
    forEachBlock(n, kChunk, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i)
            body(i);
    });
}

} // namespace

Subdivision::Subdivision(std::size_t vertexCount, std::vector<Face> faces) : m_vertices(vertexCount), m_oldFaces(std::move(faces))
{
    countCorners();
    findEdges();
    makeRings();
    order();
    makeFaces();
}

void Subdivision::countCorners()
{
    m_firstCorner.resize(m_oldFaces.size() + 1);
    std::uint32_t sum = 0;
    for (std::size_t f = 0; f < m_oldFaces.size(); ++f) {
        m_firstCorner[f] = sum;
        sum += std::uint32_t(m_oldFaces[f].size());
    }
    m_firstCorner.back() = sum;
}

/// Half edges are grouped by their lower vertex, then matched within the short list of that vertex.
void Subdivision::findEdges()
{
    const auto &faces = m_oldFaces;
    std::vector<std::uint32_t> start(m_vertices + 1, 0);
    m_firstFace.assign(m_vertices, kNone);
    const auto forHalfEdges = [&](const auto &visit) {
        for (std::uint32_t f = 0; f < faces.size(); ++f)
            for (std::size_t c = 0, n = std::size_t(faces[f].size()); c < n; ++c) {
                const std::uint32_t a = faces[f].v[c], b = faces[f].v[c + 1 < n ? c + 1 : 0];
                visit(std::min(a, b), std::max(a, b), f, c);
            }
    };
    forHalfEdges([&](std::uint32_t lo, std::uint32_t, std::uint32_t f, std::size_t c) {
        ++start[lo + 1];
        std::uint32_t &first = m_firstFace[faces[f].v[c]];
        first = std::min(first, f);
    });
    for (std::size_t v = 0; v < m_vertices; ++v)
        start[v + 1] += start[v];
    std::vector<std::uint32_t> bucket(start.back(), kNone); // edge numbers, filled from each start
    m_faceEdges.assign(faces.size(), {kNone, kNone, kNone, kNone});
    m_edges.reserve(start.back() / 2 + 16);
    forHalfEdges([&](std::uint32_t lo, std::uint32_t hi, std::uint32_t f, std::size_t c) {
        std::uint32_t i = start[lo];
        while (bucket[i] != kNone && m_edges[bucket[i]].b != hi)
            ++i;
        if (bucket[i] == kNone) {
            bucket[i] = std::uint32_t(m_edges.size());
            m_edges.push_back({lo, hi, kNone, kNone, 0, 0, false, false});
        }
        Edge &e = m_edges[bucket[i]];
        if (e.f == kNone)
            e.f = f, e.inF = std::uint8_t(c);
        else if (e.g == kNone)
            e.g = f, e.inG = std::uint8_t(c);
        else
            e.isBorder = e.isForked = true;
        m_faceEdges[f][c] = bucket[i];
    });
    for (Edge &e : m_edges)
        e.isBorder = e.isBorder || e.g == kNone;
}

void Subdivision::makeRings()
{
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

/// A vertex or edge belongs to the lowest face about it. Each chunk of faces counts what belongs to it, and then
/// numbers that, corner by corner; vertices without a face come last.
void Subdivision::order()
{
    m_place.resize(m_vertices + m_edges.size() + m_oldFaces.size());
    const auto walk = [&](BlockRange r, const auto &put) {
        for (std::size_t f = r.begin; f < r.end; ++f)
            for (std::size_t c = 0, n = std::size_t(m_oldFaces[f].size()); c < n; ++c) {
                const std::uint32_t v = m_oldFaces[f].v[c], e = m_faceEdges[f][c];
                if (m_firstFace[v] == f)
                    put(v);
                if (m_edges[e].f == f)
                    put(edgePlace(e));
                if (c == 0)
                    put(facePlace(f));
            }
    };
    std::vector<std::uint32_t> first((m_oldFaces.size() + kChunk - 1) / kChunk + 1, 0);
    forEachBlock(m_oldFaces.size(), kChunk, [&](BlockRange r) {
        std::uint32_t count = 0;
        walk(r, [&](std::size_t) { ++count; });
        first[r.begin / kChunk + 1] = count;
    });
    for (std::size_t k = 1; k < first.size(); ++k)
        first[k] += first[k - 1];
    forEachBlock(m_oldFaces.size(), kChunk, [&](BlockRange r) {
        std::uint32_t next = first[r.begin / kChunk];
        walk(r, [&](std::size_t i) { m_place[i] = next++; });
    });
    if (std::uint32_t next = first.back(); next < m_place.size())
        for (std::size_t v = 0; v < m_vertices; ++v)
            if (m_firstFace[v] == kNone)
                m_place[v] = next++;
}

void Subdivision::makeFaces()
{
    m_faces.resize(m_firstCorner.back());
    each(m_oldFaces.size(), [&](std::size_t f) {
        const Face &old = m_oldFaces[f];
        for (std::size_t c = 0, n = std::size_t(old.size()); c < n; ++c)
            m_faces[m_firstCorner[f] + c].v = {m_place[old.v[c]], m_place[edgePlace(m_faceEdges[f][c])], m_place[facePlace(f)],
                                               m_place[edgePlace(m_faceEdges[f][c ? c - 1 : n - 1])]};
    });
}

/// The edges about each vertex of the next step, whose edges are there.
void Subdivision::makeRings(Subdivision &s) const
{
    const std::size_t edges = m_edges.size(), faces = m_oldFaces.size();
    const auto inside = std::uint32_t(2 * edges);
    // Rings: as many edges about an old vertex as before, two halves and its faces' spokes about an edge point, all
    // spokes about a face point.
    s.m_ringStart.resize(s.m_vertices + 1);
    s.m_ringStart[0] = 0;
    each(m_vertices, [&](std::size_t v) { s.m_ringStart[m_place[v] + 1] = m_ringStart[v + 1] - m_ringStart[v]; });
    each(edges, [&](std::size_t e) { s.m_ringStart[m_place[edgePlace(e)] + 1] = m_edges[e].g == kNone ? 3 : 4; });
    each(faces, [&](std::size_t f) { s.m_ringStart[m_place[facePlace(f)] + 1] = std::uint32_t(m_oldFaces[f].size()); });
    for (std::size_t v = 0; v < s.m_vertices; ++v)
        s.m_ringStart[v + 1] += s.m_ringStart[v];
    s.m_ring.resize(s.m_ringStart.back());
    each(m_vertices, [&](std::size_t v) {
        std::uint32_t *to = &s.m_ring[s.m_ringStart[m_place[v]]];
        for (std::uint32_t i = m_ringStart[v]; i < m_ringStart[v + 1]; ++i)
            *to++ = halfAt(m_ring[i], std::uint32_t(v));
    });
    each(edges, [&](std::size_t i) {
        const Edge &e = m_edges[i];
        std::uint32_t *to = &s.m_ring[s.m_ringStart[m_place[edgePlace(i)]]];
        *to++ = std::uint32_t(2 * i), *to++ = std::uint32_t(2 * i + 1);
        *to++ = inside + m_firstCorner[e.f] + e.inF;
        if (e.g != kNone)
            *to = inside + m_firstCorner[e.g] + e.inG;
    });
    each(faces, [&](std::size_t f) {
        std::uint32_t *to = &s.m_ring[s.m_ringStart[m_place[facePlace(f)]]];
        for (std::uint32_t c = m_firstCorner[f]; c < m_firstCorner[f + 1]; ++c)
            *to++ = inside + c;
    });
}

Subdivision Subdivision::next() const
{
    Subdivision s;
    s.m_vertices = vertexCount();
    if (std::any_of(m_edges.begin(), m_edges.end(), [](const Edge &e) { return e.isForked; }))
        return Subdivision(s.m_vertices, m_faces);
    const std::size_t edges = m_edges.size(), faces = m_oldFaces.size();
    const std::uint32_t inside = std::uint32_t(2 * edges); // edges from edge points to face points follow the halves
    s.m_oldFaces = m_faces;
    s.m_firstCorner.resize(m_faces.size() + 1);
    each(s.m_firstCorner.size(), [&](std::size_t f) { s.m_firstCorner[f] = std::uint32_t(4 * f); });
    s.m_edges.resize(2 * edges + m_faces.size());
    s.m_faceEdges.resize(m_faces.size());
    s.m_firstFace.resize(s.m_vertices);
    each(edges, [&](std::size_t i) {
        const Edge &e = m_edges[i];
        const std::uint32_t middle = m_place[edgePlace(i)];
        std::uint32_t lowest = kNone;
        for (const std::uint32_t end : {e.a, e.b}) {
            Edge &half = s.m_edges[halfAt(std::uint32_t(i), end)];
            half = {m_place[end], middle, kNone, kNone, 0, 0, e.isBorder, false};
            // The new face at the corner before the edge has its half as first edge, that after it as last.
            const auto side = [&](std::uint32_t f, std::uint8_t c, std::uint32_t &face, std::uint8_t &in) {
                const bool isBefore = m_oldFaces[f].v[c] == end;
                const auto n = std::uint8_t(m_oldFaces[f].size());
                face = m_firstCorner[f] + (isBefore ? c : c + 1 < n ? c + 1 : 0);
                in = isBefore ? 0 : 3;
            };
            side(e.f, e.inF, half.f, half.inF);
            if (e.g != kNone)
                side(e.g, e.inG, half.g, half.inG);
            lowest = std::min(lowest, half.f);
        }
        s.m_firstFace[middle] = lowest;
    });
    each(faces, [&](std::size_t f) {
        const Face &old = m_oldFaces[f];
        const std::uint32_t first = m_firstCorner[f], n = std::uint32_t(old.size()), centre = m_place[facePlace(f)];
        for (std::uint32_t c = 0; c < n; ++c) {
            const std::uint32_t before = c ? c - 1 : n - 1, after = c + 1 < n ? c + 1 : 0;
            const std::uint32_t e = m_faceEdges[f][c], d = m_faceEdges[f][before];
            s.m_faceEdges[first + c] = {halfAt(e, old.v[c]), inside + first + c, inside + first + before, halfAt(d, old.v[c])};
            Edge &spoke = s.m_edges[inside + first + c]; // second edge of the face at c, third of the one after
            spoke = {m_place[edgePlace(e)], centre, first + c, first + after, 1, 2, false, false};
            if (after < c)
                std::swap(spoke.f, spoke.g), std::swap(spoke.inF, spoke.inG);
        }
        s.m_firstFace[centre] = first;
    });
    each(m_vertices, [&](std::size_t v) {
        std::uint32_t f = m_firstFace[v];
        if (f != kNone) {
            std::uint32_t c = 0;
            while (m_oldFaces[f].v[c] != v)
                ++c;
            f = m_firstCorner[f] + c;
        }
        s.m_firstFace[m_place[v]] = f;
    });
    makeRings(s);
    s.order();
    s.makeFaces();
    return s;
}

template <typename T> std::vector<T> Subdivision::applyTo(const std::vector<T> &values) const
{
    RawVector<T> facePoints(m_oldFaces.size());
    std::vector<T> out(m_place.size());
    each(m_oldFaces.size(), [&](std::size_t f) {
        T sum{};
        const int n = m_oldFaces[f].size();
        for (int c = 0; c < n; ++c)
            sum = sum + values[m_oldFaces[f].v[std::size_t(c)]];
        facePoints[f] = sum * (1.0f / float(n));
        out[m_place[facePlace(f)]] = facePoints[f];
    });
    each(m_edges.size(), [&](std::size_t i) {
        const Edge &e = m_edges[i];
        const T ends = values[e.a] + values[e.b];
        out[m_place[edgePlace(i)]] = e.isBorder ? ends * 0.5f : (ends + facePoints[e.f] + facePoints[e.g]) * 0.25f;
    });
    each(m_vertices, [&](std::size_t v) {
        const std::uint32_t begin = m_ringStart[v], end = m_ringStart[v + 1];
        T mids{}, rim{}, around{};
        int borders = 0;
        for (std::uint32_t i = begin; i < end; ++i) {
            const Edge &e = m_edges[m_ring[i]];
            const T other = values[e.a == v ? e.b : e.a];
            if (e.isBorder) {
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
    });
    return out;
}

std::vector<std::uint16_t> Subdivision::spread(const std::vector<std::uint16_t> &values) const
{
    std::vector<std::uint16_t> out(m_place.size());
    each(m_vertices, [&](std::size_t v) { out[m_place[v]] = values[v]; });
    each(m_edges.size(),
         [&](std::size_t e) { out[m_place[edgePlace(e)]] = std::min(values[m_edges[e].a], values[m_edges[e].b]); });
    each(m_oldFaces.size(), [&](std::size_t f) {
        std::uint16_t highest = 0;
        for (int c = 0; c < m_oldFaces[f].size(); ++c)
            highest = std::max(highest, values[m_oldFaces[f].v[std::size_t(c)]]);
        out[m_place[facePlace(f)]] = highest;
    });
    return out;
}

/// Rounds of x += G (b - S x), where G takes the mean about each old vertex with the weights that it has in the new
/// ones: 3/8 of an edge point, 1/4 of a face point.
template <typename T> std::vector<T> Subdivision::fitTo(const std::vector<T> &values) const
{
    constexpr int kRounds = 4;
    std::vector<T> x(m_vertices), left = values;
    for (int round = 0; round < kRounds; ++round) {
        each(m_vertices, [&](std::size_t v) {
            T sum = left[m_place[v]] * 0.5625f;
            float weight = 0.5625f;
            const bool isRim = std::any_of(m_ring.begin() + m_ringStart[v], m_ring.begin() + m_ringStart[v + 1],
                                           [&](std::uint32_t e) { return m_edges[e].isBorder; });
            for (std::uint32_t i = m_ringStart[v]; i < m_ringStart[v + 1]; ++i) {
                const Edge &e = m_edges[m_ring[i]];
                if (isRim && !e.isBorder) // the rim is a curve by itself
                    continue;
                sum = sum + left[m_place[edgePlace(m_ring[i])]] * 0.375f, weight += 0.375f;
                if (!isRim) // each face is met twice
                    sum = sum + (left[m_place[facePlace(e.f)]] + left[m_place[facePlace(e.g)]]) * 0.125f, weight += 0.25f;
            }
            x[v] = x[v] + sum * (1 / weight);
        });
        if (round + 1 < kRounds) {
            left = applyTo(x);
            each(left.size(), [&](std::size_t i) { left[i] = values[i] - left[i]; });
        }
    }
    return x;
}

std::vector<Vec3f> Subdivision::apply(const std::vector<Vec3f> &values) const
{
    return applyTo(values);
}
std::vector<float> Subdivision::apply(const std::vector<float> &values) const
{
    return applyTo(values);
}
std::vector<Vec3f> Subdivision::fit(const std::vector<Vec3f> &values) const
{
    return fitTo(values);
}
std::vector<float> Subdivision::fit(const std::vector<float> &values) const
{
    return fitTo(values);
}

std::size_t Subdivision::memoryBytes() const
{
    return (m_oldFaces.size() + m_faces.size()) * sizeof(Face) + m_edges.size() * sizeof(Edge)
           + m_faceEdges.size() * sizeof m_faceEdges[0]
           + (m_firstCorner.size() + m_firstFace.size() + m_place.size() + m_ringStart.size() + m_ring.size()) * 4;
}

PolyMesh subdivide(const PolyMesh &mesh, int levels)
{
    if (levels <= 0)
        return mesh;
    Subdivision step(mesh.positions.size(), mesh.faces);
    PolyMesh out{step.apply(mesh.positions), {}};
    for (int l = 1; l < levels; ++l) {
        step = step.next();
        out.positions = step.apply(out.positions);
    }
    out.faces = step.takeFaces();
    return out;
}

} // namespace bonemoss::mesh
