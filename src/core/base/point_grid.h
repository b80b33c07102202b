#pragma once

#include "base/parallel.h"
#include "base/types.h"

#include <algorithm>
#include <cstdint>
#include <span>
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
    /// cell: mm, best a little above the usual reach. O(points), parallel, and 256 bytes for each cube with points.
    PointGrid(std::span<const Vec3f> points, float cell);

    std::span<const Cube> cubes() const { return m_cubes; }
    std::size_t size() const { return m_items.size(); }
    /// Which of the points is the k-th in the grid's own order.
    std::uint32_t which(std::size_t k) const { return m_items[k].index; }

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
        const auto inCube = [&](std::uint32_t cube, Cell c) __attribute__((always_inline))
        {
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
        };
        const std::int64_t wide = to.x - from.x + 1, tall = to.y - from.y + 1, deep = to.z - from.z + 1;
        const auto most = std::int64_t(m_cubes.size()) + 64;
        if (wide > most || tall > most || deep > most || wide * tall > most
            || wide * tall * deep > most) { // most places are empty
            for (std::uint32_t cube = 0; cube < m_cubes.size(); ++cube)
                if (const Cell c = m_cubes[cube].at;
                    c.x >= from.x && c.x <= to.x && c.y >= from.y && c.y <= to.y && c.z >= from.z && c.z <= to.z)
                    inCube(cube, c);
        } else {
            for (Cell c{0, 0, from.z}; c.z <= to.z; ++c.z)
                for (c.y = from.y; c.y <= to.y; ++c.y)
                    for (c.x = from.x; c.x <= to.x; ++c.x)
                        if (const std::uint32_t cube = m_slots[slotOf(c)]; cube != kNone)
                            inCube(cube, c);
        }
        if (first != end)
            body(first, end);
    }

private:
    static constexpr std::uint32_t kCells = 64; ///< of a cube
    struct Item {
        Vec3f at;
        std::uint32_t index;
    };
    /// Points that follow each other and lie in one cube.
    struct Stretch {
        Cell cube;
        std::uint32_t first, end;
    };

    Cell cellOf(Vec3f p) const
    {
        constexpr float kFarthest = 1 << 29;
        const auto along = [&](float v) { return std::int32_t(std::floor(std::clamp(v * m_perMm, -kFarthest, kFarthest))); };
        return {along(p.x), along(p.y), along(p.z)};
    }
    static Cell cubeOf(Cell c) { return {c.x >> 2, c.y >> 2, c.z >> 2}; }
    /// Which of a cube's cells it is.
    static std::uint32_t insideOf(Cell c)
    {
        return std::uint32_t(c.z & 3) << 4 | std::uint32_t(c.y & 3) << 2 | std::uint32_t(c.x & 3);
    }

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
    std::uint32_t put(Cell c);

    float m_perMm = 1;
    std::vector<Cube> m_cubes;
    std::vector<std::uint32_t> m_slots = std::vector<std::uint32_t>(16, kNone); ///< which cube; a power of two, half of them free
    RawVector<std::uint32_t> m_starts;
    RawVector<Item> m_items;
};

} // namespace bonemoss
