#pragma once

#include "base/types.h"

#include <algorithm>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

namespace bonemoss {

/// Points in cubic cells, for "who is near": Teschner et al. 2003, "Optimized Spatial Hashing for Collision Detection". Only
/// cubes of 4 x 4 x 4 cells are hashed; the cells of one lie side by side, with copies of their points. Cubes are in the order
/// in which the points come upon them: with points that follow a curve through space what is near is near in memory, too.
class PointGrid
{
public:
    struct Cell {
        std::int32_t x, y, z;
        friend bool operator==(const Cell &, const Cell &) = default;
    };
    /// 4 x 4 x 4 cells with points in them: which, counted in cubes, and where its points begin in the grid's own order.
    struct Cube {
        Cell at;
        std::uint32_t first = 0, end = 0;
    };

    PointGrid() = default;
    /// cell: mm, best a little above the usual reach. O(points), and 256 bytes for each cube with points.
    PointGrid(std::span<const Vec3f> points, float cell) : m_perMm(1 / std::max(cell, 1e-6f))
    {
        std::vector<std::uint32_t> bucket(points.size());
        std::uint32_t cube = kNone;
        for (std::size_t i = 0; i < points.size(); ++i) {
            const Cell c = cellOf(points[i]), at = cubeOf(c);
            if (cube == kNone || !(m_cubes[cube].at == at)) // most points follow one of the same cube
                cube = put(at);
            bucket[i] = cube * kCells + (std::uint32_t(c.z & 3) << 4 | std::uint32_t(c.y & 3) << 2 | std::uint32_t(c.x & 3));
        }
        m_starts.resize(m_cubes.size() * kCells + 1);
        for (const std::uint32_t b : bucket)
            ++m_starts[b];
        std::uint32_t sum = 0;
        for (std::uint32_t &s : m_starts)
            sum += std::exchange(s, sum);
        m_items.resize(points.size());
        for (std::size_t i = 0; i < points.size(); ++i)
            m_items[m_starts[bucket[i]]++] = {points[i], std::uint32_t(i)}; // a bucket's items in the order of the points
        for (std::size_t b = m_starts.size(); b-- > 1;)
            m_starts[b] = m_starts[b - 1];
        m_starts[0] = 0;
        for (std::size_t c = 0; c < m_cubes.size(); ++c)
            m_cubes[c].first = m_starts[c * kCells], m_cubes[c].end = m_starts[(c + 1) * kCells];
    }

    std::span<const Cube> cubes() const { return m_cubes; }

    /// Calls body(index) for every point within reach of p, in an order that depends on the points alone.
    template <typename Body> void around(Vec3f p, float reach, const Body &body) const
    {
        const float most = reach * reach;
        rows(p, reach, [&](std::uint32_t first, std::uint32_t end) {
            for (std::uint32_t k = first; k < end; ++k)
                if (squaredLength(m_items[k].at - p) <= most)
                    body(m_items[k].index);
        });
    }

    /// Calls body(first, end) for runs of points in the grid's own order, which hold all within reach of p, and others that are
    /// farther away; none twice.
    template <typename Body> void rows(Vec3f p, float reach, const Body &body) const
    {
        const Cell lo = cellOf(p - Vec3f{reach, reach, reach}), hi = cellOf(p + Vec3f{reach, reach, reach});
        const Cell from = cubeOf(lo), to = cubeOf(hi);
        std::uint32_t first = 0, end = 0; // runs that follow each other are one
        for (Cell c{0, 0, from.z}; c.z <= to.z; ++c.z)
            for (c.y = from.y; c.y <= to.y; ++c.y)
                for (c.x = from.x; c.x <= to.x; ++c.x) {
                    const std::uint32_t cube = m_slots[slotOf(c)];
                    if (cube == kNone)
                        continue;
                    const std::uint32_t *starts = m_starts.data() + std::size_t(cube) * kCells;
                    const int x0 = std::max(lo.x - 4 * c.x, 0), x1 = std::min(hi.x - 4 * c.x, 3);
                    const int y0 = std::max(lo.y - 4 * c.y, 0), y1 = std::min(hi.y - 4 * c.y, 3);
                    const int z0 = std::max(lo.z - 4 * c.z, 0), z1 = std::min(hi.z - 4 * c.z, 3);
                    for (int z = z0; z <= z1; ++z)
                        for (int y = y0; y <= y1; ++y) {
                            const int row = z << 4 | y << 2;
                            const std::uint32_t f = starts[row + x0], e = starts[row + x1 + 1];
                            if (f != end) {
                                if (first != end)
                                    body(first, end);
                                first = f;
                            }
                            end = e;
                        }
                }
        if (first != end)
            body(first, end);
    }

    /// Puts the points that the grid was made of into its own order, by which it tells them from then on.
    template <typename T> void putInOrder(std::vector<T> &points)
    {
        std::vector<T> ordered;
        ordered.reserve(points.size());
        for (std::uint32_t k = 0; k < m_items.size(); ++k)
            ordered.push_back(std::move(points[std::exchange(m_items[k].index, k)]));
        points = std::move(ordered);
    }

private:
    static constexpr std::uint32_t kCells = 64; ///< of a cube
    struct Item {
        Vec3f at;
        std::uint32_t index;
    };

    Cell cellOf(Vec3f p) const
    {
        return {std::int32_t(std::floor(p.x * m_perMm)), std::int32_t(std::floor(p.y * m_perMm)),
                std::int32_t(std::floor(p.z * m_perMm))};
    }
    static Cell cubeOf(Cell c) { return {c.x >> 2, c.y >> 2, c.z >> 2}; }

    /// Where a cube is among the slots, or where it would be.
    std::size_t slotOf(Cell c) const
    {
        const std::uint64_t mixed = std::uint64_t(std::uint32_t(c.x)) * 0x9e3779b97f4a7c15u
                                    ^ std::uint64_t(std::uint32_t(c.y)) * 0xc2b2ae3d27d4eb4fu
                                    ^ std::uint64_t(std::uint32_t(c.z)) * 0x165667b19e3779f9u;
        const std::size_t mask = m_slots.size() - 1;
        std::size_t s = std::size_t(mixed >> 24) & mask;
        while (m_slots[s] != kNone && !(m_cubes[m_slots[s]].at == c))
            s = (s + 1) & mask;
        return s;
    }
    std::uint32_t put(Cell c)
    {
        if (std::uint32_t &known = m_slots[slotOf(c)]; known != kNone)
            return known;
        if (2 * m_cubes.size() >= m_slots.size()) {
            m_slots.assign(2 * m_slots.size(), kNone);
            for (std::uint32_t i = 0; i < m_cubes.size(); ++i)
                m_slots[slotOf(m_cubes[i].at)] = i;
        }
        m_cubes.push_back({c});
        return m_slots[slotOf(c)] = std::uint32_t(m_cubes.size() - 1);
    }

    float m_perMm = 1;
    std::vector<Cube> m_cubes;
    std::vector<std::uint32_t> m_slots = std::vector<std::uint32_t>(16, kNone); ///< which cube; a power of two, half of them free
    std::vector<std::uint32_t> m_starts;
    std::vector<Item> m_items;
};

} // namespace bonemoss
