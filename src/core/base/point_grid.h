#pragma once

#include "base/types.h"

#include <algorithm>
#include <span>
#include <utility>
#include <vector>

namespace bonemoss {

/// Points in cubic cells, for "who is near": Teschner et al. 2003, "Optimized Spatial Hashing for Collision Detection". Cells
/// of a cube of 4 x 4 x 4 lie side by side, with copies of their points, so that asking about a place touches little memory.
class PointGrid
{
public:
    PointGrid() = default;
    /// cell: mm, best a little above the usual reach. O(points).
    PointGrid(std::span<const Vec3f> points, float cell) : m_perMm(1 / std::max(cell, 1e-6f))
    {
        std::size_t buckets = 64;
        while (buckets < 2 * points.size())
            buckets *= 2;
        m_starts.resize(buckets + 1);
        std::vector<std::uint32_t> bucket(points.size());
        for (std::size_t i = 0; i < points.size(); ++i)
            ++m_starts[bucket[i] = bucketOf(cellOf(points[i]))];
        std::uint32_t sum = 0;
        for (std::uint32_t &s : m_starts)
            sum += std::exchange(s, sum);
        m_items.resize(points.size());
        for (std::size_t i = 0; i < points.size(); ++i)
            m_items[m_starts[bucket[i]]++] = {points[i], std::uint32_t(i)}; // a bucket's items in the order of the points
        for (std::size_t b = m_starts.size(); b-- > 1;)
            m_starts[b] = m_starts[b - 1];
        m_starts[0] = 0;
    }

    /// Calls body(index) for every point within reach of p, in an order that depends on the points alone.
    template <typename Body> void around(Vec3f p, float reach, const Body &body) const
    {
        const float most = reach * reach;
        rows(p, reach, [&](std::uint32_t first, std::uint32_t end, Cell from, Cell to) {
            for (std::uint32_t k = first; k < end; ++k) {
                const Item &item = m_items[k];
                if (!(squaredLength(item.at - p) <= most))
                    continue;
                if (isIn(item.at, from, to))
                    body(item.index);
            }
        });
    }

    struct Cell {
        std::int32_t x, y, z;
    };
    /// Calls body(first, end, from, to) for runs of points in the grid's own order that hold all within reach of p, and others:
    /// what is far away, and some more than once. from, to: the cells of a row they are looked for in.
    template <typename Body> void rows(Vec3f p, float reach, const Body &body) const
    {
        if (m_items.empty())
            return;
        const Cell lo = cellOf(p - Vec3f{reach, reach, reach}), hi = cellOf(p + Vec3f{reach, reach, reach});
        for (std::int32_t z = lo.z; z <= hi.z; ++z)
            for (std::int32_t y = lo.y; y <= hi.y; ++y)
                for (std::int32_t x = lo.x, last = 0; x <= hi.x; x = last + 1) { // cells of a row in one cube follow each other
                    last = std::min(hi.x, x | 3);
                    const std::uint32_t b = bucketOf({x, y, z});
                    body(m_starts[b], m_starts[b + std::uint32_t(last - x) + 1], Cell{x, y, z}, Cell{last, y, z});
                }
    }
    /// Whether a point lies in a row of cells, and not only in the same bucket.
    bool isIn(Vec3f p, Cell from, Cell to) const
    {
        const Cell c = cellOf(p);
        return c.y == from.y && c.z == from.z && c.x >= from.x && c.x <= to.x;
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
    Cell cellOf(Vec3f p) const
    {
        return {std::int32_t(std::floor(p.x * m_perMm)), std::int32_t(std::floor(p.y * m_perMm)),
                std::int32_t(std::floor(p.z * m_perMm))};
    }
    std::uint32_t bucketOf(Cell c) const
    {
        const std::uint32_t cube =
            std::uint32_t(c.x >> 2) * 73856093u ^ std::uint32_t(c.y >> 2) * 19349663u ^ std::uint32_t(c.z >> 2) * 83492791u;
        const std::uint32_t inside = std::uint32_t((c.z & 3) << 4 | (c.y & 3) << 2 | (c.x & 3));
        return (cube << 6 | inside) & std::uint32_t(m_starts.size() - 2);
    }

    struct Item {
        Vec3f at;
        std::uint32_t index;
    };
    float m_perMm = 1;
    std::vector<std::uint32_t> m_starts;
    std::vector<Item> m_items;
};

} // namespace bonemoss
