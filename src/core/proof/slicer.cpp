#include "proof/slicer.h"

#include "base/parallel.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::proof {

double Slice::perimeter() const
{
    double sum = 0;
    for (std::size_t k = 0; k < starts.size(); ++k) {
        const auto l = loop(k);
        for (std::size_t i = 0; i < l.size(); ++i) {
            const Point2 a = l[i], b = l[i + 1 < l.size() ? i + 1 : 0];
            sum += std::hypot(double(b[0]) - double(a[0]), double(b[1]) - double(a[1]));
        }
    }
    return sum;
}

Slicer::Slicer(const mesh::PolyMesh &mesh) : m_mesh(mesh)
{
    const auto triangles = mesh::triangulate(mesh);
    m_triangles.resize(triangles.size());
    // Half-edges by the smaller of their vertices.
    struct Half {
        std::uint32_t other, edge; ///< edge kNone: already matched
        bool isUp;                 ///< from the smaller vertex to the larger
    };
    std::vector<std::uint32_t> first(mesh.positions.size() + 1);
    for (const auto &t : triangles)
        for (std::size_t k = 0; k < 3; ++k)
            ++first[std::min(t[k], t[(k + 1) % 3]) + 1];
    for (std::size_t v = 0; v + 1 < first.size(); ++v)
        first[v + 1] += first[v];
    std::vector<Half> halves(3 * triangles.size());
    std::vector<std::uint32_t> filled(first.begin(), first.end() - 1);
    for (std::size_t t = 0; t < triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t a = triangles[t][k], b = triangles[t][(k + 1) % 3], low = std::min(a, b), high = std::max(a, b);
            const bool isUp = a < b;
            std::uint32_t edge = kNone;
            for (std::uint32_t h = first[low]; h < filled[low]; ++h)
                if (Half &other = halves[h]; other.other == high && other.isUp != isUp && other.edge != kNone) {
                    edge = other.edge, other.edge = kNone;
                    break;
                }
            if (edge == kNone) {
                edge = std::uint32_t(m_edges++);
                halves[filled[low]++] = {high, edge, isUp};
            }
            m_triangles[t][k] = {a, edge};
        }
}

std::vector<Slice> Slicer::cut(std::span<const float> heights, const Progress &progress) const
{
    std::vector<Slice> out(heights.size());
    const auto rangeOf = [&](const std::array<Corner, 3> &t) {
        const auto [lo, hi] =
            std::minmax({m_mesh.positions[t[0].vertex].y, m_mesh.positions[t[1].vertex].y, m_mesh.positions[t[2].vertex].y});
        return std::pair(std::upper_bound(heights.begin(), heights.end(), lo) - heights.begin(),
                         std::upper_bound(heights.begin(), heights.end(), hi) - heights.begin());
    };
    std::vector<std::size_t> first(heights.size() + 1);
    for (const auto &t : m_triangles)
        for (auto [k, end] = rangeOf(t); k < end; ++k)
            ++first[std::size_t(k) + 1];
    for (std::size_t k = 0; k < heights.size(); ++k)
        first[k + 1] += first[k];
    std::vector<std::uint32_t> list(first.back());
    {
        std::vector<std::size_t> next(first.begin(), first.end() - 1);
        for (std::uint32_t t = 0; t < m_triangles.size(); ++t)
            for (auto [k, end] = rangeOf(m_triangles[t]); k < end; ++k)
                list[next[std::size_t(k)]++] = t;
    }
    constexpr std::size_t kTogether = 64; ///< heights that share a table
    const bool isDone = forEachBlock(heights.size(), kTogether, progress.stop, [&](BlockRange range) {
        std::vector<std::uint32_t> at(m_edges, kNone); ///< the piece of line that begins at an edge
        struct Piece {
            std::uint32_t from, to; ///< edges
            Point2 begin;
        };
        std::vector<Piece> pieces;
        for (std::size_t h = range.begin; h < range.end; ++h) {
            const float y = heights[h];
            Slice &s = out[h];
            s.y = y;
            pieces.clear();
            for (std::size_t e = first[h]; e < first[h + 1]; ++e) {
                const auto &t = m_triangles[list[e]];
                std::array<bool, 3> isAbove;
                for (std::size_t k = 0; k < 3; ++k)
                    isAbove[k] = m_mesh.positions[t[k].vertex].y >= y;
                Piece p{kNone, kNone, {}};
                for (std::size_t k = 0; k < 3; ++k) {
                    const std::size_t n = k == 2 ? 0 : k + 1;
                    if (isAbove[k] == isAbove[n])
                        continue;
                    if (isAbove[n]) {
                        p.to = t[k].edge;
                        continue;
                    }
                    p.from = t[k].edge;
                    Vec3f a = m_mesh.positions[t[k].vertex], b = m_mesh.positions[t[n].vertex]; // from above to below
                    const double w = (double(y) - double(b.y)) / (double(a.y) - double(b.y));
                    p.begin = {float(double(b.x) + (double(a.x) - double(b.x)) * w),
                               float(double(b.z) + (double(a.z) - double(b.z)) * w)};
                }
                at[p.from] = std::uint32_t(pieces.size());
                pieces.push_back(p);
            }
            s.points.reserve(pieces.size());
            std::vector<std::uint8_t> isDrawn(pieces.size());
            const auto follow = [&](std::uint32_t k) {
                s.starts.push_back(std::uint32_t(s.points.size()));
                while (k != kNone && !isDrawn[k]) {
                    isDrawn[k] = 1;
                    s.points.push_back(pieces[k].begin);
                    k = at[pieces[k].to];
                }
                return k;
            };
            // Lines that an edge of the mesh breaks begin where nothing leads to.
            std::vector<std::uint8_t> isReached(pieces.size());
            for (const Piece &p : pieces)
                if (at[p.to] != kNone)
                    isReached[at[p.to]] = 1;
            for (std::uint32_t k = 0; k < pieces.size(); ++k)
                if (!isReached[k] && !isDrawn[k])
                    follow(k), ++s.openLoops;
            for (std::uint32_t k = 0; k < pieces.size(); ++k)
                if (!isDrawn[k])
                    follow(k);
            for (const Piece &p : pieces)
                at[p.from] = kNone;
            double twice = 0;
            for (std::size_t l = 0; l < s.starts.size(); ++l) {
                const auto line = s.loop(l);
                const Point2 o = line[0];
                for (std::size_t i = 1; i + 1 < line.size(); ++i)
                    twice += (double(line[i][0]) - double(o[0])) * (double(line[i + 1][1]) - double(o[1]))
                             - (double(line[i + 1][0]) - double(o[0])) * (double(line[i][1]) - double(o[1]));
            }
            s.area = -twice / 2; // z comes toward the viewer who looks down with x to the right
        }
        progress.say(float(range.end) / float(heights.size()), "slices");
    });
    if (!isDone || progress.isCancelled())
        return {};
    return out;
}

} // namespace bonemoss::proof
