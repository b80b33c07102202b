// B. Mirtich, "Fast and Accurate Computation of Polyhedral Mass Properties", J. Graphics Tools 1(2),
// 1996: volume integrals turned into sums over faces. Here as signed tetrahedra to a near point.
#include "mesh/measures.h"

#include "base/parallel.h"

#include <algorithm>
#include <numeric>

namespace bonemoss::mesh {

namespace {

struct Sums {
    double volume = 0, area = 0, c[3] = {0, 0, 0}, s[3] = {0, 0, 0};
    friend Sums operator+(Sums a, const Sums &b)
    {
        a.volume += b.volume, a.area += b.area;
        for (int k = 0; k < 3; ++k)
            a.c[k] += b.c[k], a.s[k] += b.s[k];
        return a;
    }
};

Sums integrate(const PolyMesh &mesh, Vec3f reference)
{
    constexpr std::size_t kFaces = 16384;
    return sumBlocks<Sums>(mesh.faces.size(), kFaces, [&](BlockRange r) {
        Sums sum;
        for (std::size_t f = r.begin; f < r.end; ++f) {
            const Face &face = mesh.faces[f];
            for (std::size_t half = 0; half + 2 < std::size_t(face.size()); ++half) {
                double p[3][3];
                const std::uint32_t v[3] = {face.v[0], face.v[half + 1], face.v[half + 2]};
                for (int i = 0; i < 3; ++i)
                    for (int k = 0; k < 3; ++k)
                        p[i][k] = double(at(mesh.positions[v[i]], k)) - double(at(reference, k));
                double u[3], w[3];
                for (int k = 0; k < 3; ++k)
                    u[k] = p[1][k] - p[0][k], w[k] = p[2][k] - p[0][k];
                const double n[3] = {u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]};
                const double area = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]) / 2;
                const double volume = (n[0] * p[0][0] + n[1] * p[0][1] + n[2] * p[0][2]) / 6;
                sum.area += area;
                sum.volume += volume;
                for (int k = 0; k < 3; ++k) {
                    const double corners = p[0][k] + p[1][k] + p[2][k];
                    sum.c[k] += volume * corners / 4;
                    sum.s[k] += area * corners / 3;
                }
            }
        }
        return sum;
    });
}

/// Half edges as (low vertex, high vertex, direction) sorted together.
void countEdges(const PolyMesh &mesh, Measures &m)
{
    std::vector<std::uint64_t> keys;
    keys.reserve(mesh.faces.size() * 4);
    for (const Face &f : mesh.faces)
        for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
            const std::uint64_t a = f.v[c], b = f.v[(c + 1) % n];
            keys.push_back(a < b ? (a << 32 | b << 1) : (b << 32 | a << 1 | 1));
        }
    std::sort(keys.begin(), keys.end());
    std::size_t edges = 0;
    for (std::size_t i = 0; i < keys.size();) {
        std::size_t j = i, forward = 0;
        for (; j < keys.size() && keys[j] >> 1 == keys[i] >> 1; ++j)
            forward += (keys[j] & 1) == 0;
        const std::size_t n = j - i;
        ++edges;
        const Vec3f at = mesh.positions[keys[i] >> 32];
        const auto count = [&](bool isMet, std::size_t &number, std::optional<Vec3f> &first) {
            number += isMet;
            if (isMet && !first)
                first = at;
        };
        count(n == 1, m.boundaryEdges, m.firstBoundary);
        count(n > 2, m.nonManifoldEdges, m.firstNonManifold);
        count(n == 2 && forward != 1, m.flippedEdges, m.firstFlipped);
        i = j;
    }
    m.closed = !mesh.faces.empty() && m.boundaryEdges + m.nonManifoldEdges + m.flippedEdges == 0;
    m.genus = std::ptrdiff_t(edges); // for the caller to finish
}

class Islands
{
public:
    explicit Islands(std::size_t n) : m_parent(n) { std::iota(m_parent.begin(), m_parent.end(), 0u); }
    std::uint32_t find(std::uint32_t v)
    {
        while (m_parent[v] != v)
            v = m_parent[v] = m_parent[m_parent[v]];
        return v;
    }
    void join(std::uint32_t a, std::uint32_t b) { m_parent[find(a)] = find(b); }

private:
    std::vector<std::uint32_t> m_parent;
};

} // namespace

Mass massOf(const PolyMesh &mesh)
{
    const Vec3f reference = boundsOf(mesh.positions).centre();
    const Sums s = integrate(mesh, reference);
    if (!(s.volume > 0))
        return {0, reference};
    return {s.volume, reference + Vec3f{float(s.c[0] / s.volume), float(s.c[1] / s.volume), float(s.c[2] / s.volume)}};
}

Measures measure(const PolyMesh &mesh)
{
    Measures m;
    m.vertices = mesh.positions.size();
    m.faces = mesh.faces.size();
    m.bounds = boundsOf(mesh.positions);
    for (const Face &f : mesh.faces)
        ++(f.size() == 3 ? m.triangles : m.quads);
    if (mesh.faces.empty())
        return m;
    countEdges(mesh, m);
    Islands islands(mesh.positions.size());
    std::vector<bool> used(mesh.positions.size(), false);
    for (const Face &f : mesh.faces)
        for (int c = 0; c < f.size(); ++c) {
            used[f.v[std::size_t(c)]] = true;
            islands.join(f.v[0], f.v[std::size_t(c)]);
        }
    std::ptrdiff_t vertices = 0;
    for (std::uint32_t v = 0; v < used.size(); ++v)
        if (used[v]) {
            ++vertices;
            m.components += islands.find(v) == v;
        }
    // Euler: V - E + F = 2 C - 2 G on a closed surface; open ones are reported for the surface as is.
    const std::ptrdiff_t euler = vertices - m.genus + std::ptrdiff_t(mesh.faces.size());
    m.genus = m.closed ? std::ptrdiff_t(m.components) - euler / 2 : 0;
    const Vec3f reference = m.bounds.centre();
    const Sums s = integrate(mesh, reference);
    m.volumeMm3 = s.volume;
    m.areaMm2 = s.area;
    for (int k = 0; k < 3; ++k) {
        const double offset = m.closed && s.volume != 0 ? s.c[k] / s.volume : s.area > 0 ? s.s[k] / s.area : 0;
        m.centreOfMassMm[k] = double(at(reference, k)) + offset;
    }
    return m;
}

} // namespace bonemoss::mesh
