#include "mesh/intrinsic.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::mesh {

namespace {

/// Triangles by their edge lengths. Half-edge 3 t + k runs from corner k of triangle t to the next; its mate runs along it in the
/// triangle beside.
class Intrinsic
{
public:
    Intrinsic(std::span<const Vec3f> points, std::span<const std::array<std::uint32_t, 3>> triangles)
        : m_from(triangles.size() * 3), m_length(m_from.size()), m_mate(m_from.size(), kNone)
    {
        struct Side {
            std::uint64_t key;
            std::uint32_t half;
        };
        std::vector<Side> sides;
        for (std::uint32_t t = 0; t < triangles.size(); ++t)
            for (std::uint32_t k = 0; k < 3; ++k) {
                const std::uint32_t a = triangles[t][k], b = triangles[t][(k + 1) % 3], h = 3 * t + k;
                m_from[h] = a;
                m_length[h] = std::max(double(length(points[a] - points[b])), 1e-9);
                sides.push_back({std::uint64_t(std::min(a, b)) << 32 | std::max(a, b), h});
            }
        for (std::uint32_t t = 0; t < triangles.size(); ++t) { // lengths that no triangle has, by rounding, are made to fit
            double *l = &m_length[3 * t];
            for (int k = 0; k < 3; ++k)
                if (const double others = l[(k + 1) % 3] + l[(k + 2) % 3]; l[k] >= others)
                    l[(k + 1) % 3] += (l[k] - others) / 2 + 1e-6 * l[k], l[(k + 2) % 3] += (l[k] - others) / 2 + 1e-6 * l[k];
        }
        std::sort(sides.begin(), sides.end(),
                  [](const Side &a, const Side &b) { return a.key < b.key || (a.key == b.key && a.half < b.half); });
        for (std::size_t i = 0; i < sides.size();) {
            std::size_t j = i;
            while (j < sides.size() && sides[j].key == sides[i].key)
                ++j;
            const bool isPair = j - i == 2 && m_from[sides[i].half] != m_from[sides[i + 1].half];
            if (isPair) {
                const std::uint32_t a = sides[i].half, b = sides[i + 1].half;
                m_mate[a] = b, m_mate[b] = a;
                m_length[a] = m_length[b] = std::max(m_length[a], m_length[b]);
            }
            i = j;
        }
    }

    void makeDelaunay()
    {
        std::vector<std::uint32_t> todo(m_from.size());
        std::vector<bool> isWaiting(m_from.size(), true);
        for (std::uint32_t h = 0; h < todo.size(); ++h)
            todo[h] = h;
        std::size_t left = 40 * m_from.size(); // it ends by itself; rounding shall not keep it
        while (!todo.empty() && left-- > 0) {
            const std::uint32_t h = todo.back(), m = m_mate[h];
            todo.pop_back();
            isWaiting[h] = false;
            if (m == kNone || h / 3 == m / 3 || cotangentAcross(h) + cotangentAcross(m) > -1e-9 || !flip(h))
                continue;
            for (const std::uint32_t t : {h / 3, m / 3})
                for (std::uint32_t k = 0; k < 3; ++k)
                    for (const std::uint32_t x : {3 * t + k, m_mate[3 * t + k]})
                        if (x != kNone && !isWaiting[x])
                            isWaiting[x] = true, todo.push_back(x);
        }
    }

    Laplacian take(std::size_t vertices) const
    {
        Laplacian out;
        out.area.assign(vertices, 0);
        for (std::uint32_t h = 0; h < m_from.size(); ++h) {
            const std::uint32_t m = m_mate[h];
            if (m != kNone && m < h)
                continue;
            const double w = 0.5 * (cotangentAcross(h) + (m == kNone ? 0 : cotangentAcross(m)));
            if (m_from[h] != m_from[next(h)])
                out.edges.push_back({m_from[h], m_from[next(h)], w});
        }
        for (std::uint32_t t = 0; t < m_from.size() / 3; ++t)
            for (std::uint32_t k = 0; k < 3; ++k)
                out.area[m_from[3 * t + k]] += areaOf(t) / 3;
        return out;
    }

private:
    static std::uint32_t next(std::uint32_t h) { return h % 3 == 2 ? h - 2 : h + 1; }

    double areaOf(std::uint32_t t) const // Heron, as Kahan orders it
    {
        double l[3] = {m_length[3 * t], m_length[3 * t + 1], m_length[3 * t + 2]};
        std::sort(l, l + 3);
        const double s = (l[2] + (l[1] + l[0])) * (l[0] - (l[2] - l[1])) * (l[0] + (l[2] - l[1])) * (l[2] + (l[1] - l[0]));
        return std::max(0.25 * std::sqrt(std::max(s, 0.0)), 1e-14 * l[2] * l[2]);
    }
    /// Of the angle across from a half-edge in its own triangle.
    double cotangentAcross(std::uint32_t h) const
    {
        const double a = m_length[h], b = m_length[next(h)], c = m_length[next(next(h))];
        return (b * b + c * c - a * a) / (4 * areaOf(h / 3));
    }

    /// Turns the edge between two triangles; false where the quadrangle has no other diagonal.
    bool flip(std::uint32_t h)
    {
        const std::uint32_t m = m_mate[h], h1 = next(h), h2 = next(h1), m1 = next(m), m2 = next(m1);
        // Corners: h runs from a to b, with c across in its triangle and d in the other.
        const double ab = m_length[h], bc = m_length[h1], ca = m_length[h2], ad = m_length[m1], db = m_length[m2];
        const auto place = [&](double fromA, double fromB) { // over the line a b
            const double x = (ab * ab + fromA * fromA - fromB * fromB) / (2 * ab);
            return std::pair(x, std::sqrt(std::max(fromA * fromA - x * x, 0.0)));
        };
        const auto [cx, cy] = place(ca, bc);
        const auto [dx, dy] = place(ad, db);
        if (cy + dy < 1e-12 * ab)
            return false;
        const double cross = cx + (dx - cx) * cy / (cy + dy); // where c d crosses the line
        if (cross <= 1e-9 * ab || cross >= ab * (1 - 1e-9))
            return false;
        const double cd = std::sqrt((cx - dx) * (cx - dx) + (cy + dy) * (cy + dy));
        const std::uint32_t a = m_from[h], b = m_from[h1], c = m_from[h2], d = m_from[m2];
        const std::uint32_t mateBc = m_mate[h1], mateCa = m_mate[h2], mateAd = m_mate[m1], mateDb = m_mate[m2];
        // Triangles a d c and d b c, the new edge being d to c and c to d.
        const auto set = [&](std::uint32_t half, std::uint32_t from, double size, std::uint32_t mate) {
            m_from[half] = from, m_length[half] = size, m_mate[half] = mate;
            if (mate != kNone)
                m_mate[mate] = half;
        };
        const bool isGlued = mateBc == h2 || mateBc == m1 || mateBc == m2 || mateCa == m1 || mateCa == m2 || mateAd == m2;
        if (isGlued)
            return false; // a fan of two triangles folded onto itself: rare, and as good as it is
        const std::uint32_t t = h / 3 * 3, u = m / 3 * 3;
        set(t, a, ad, mateAd), set(t + 1, d, cd, kNone), set(t + 2, c, ca, mateCa);
        set(u, d, db, mateDb), set(u + 1, b, bc, mateBc), set(u + 2, c, cd, kNone);
        m_mate[t + 1] = u + 2, m_mate[u + 2] = t + 1;
        return true;
    }

    std::vector<std::uint32_t> m_from;
    std::vector<double> m_length;
    std::vector<std::uint32_t> m_mate;
};

} // namespace

Laplacian delaunayLaplacian(std::span<const Vec3f> points, std::span<const std::array<std::uint32_t, 3>> triangles)
{
    Intrinsic mesh(points, triangles);
    mesh.makeDelaunay();
    return mesh.take(points.size());
}

} // namespace bonemoss::mesh
