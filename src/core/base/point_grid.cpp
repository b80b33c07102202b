#include "base/point_grid.h"

#include <array>
#include <numeric>
#include <utility>

namespace bonemoss {

PointGrid::PointGrid(std::span<const Vec3f> points, float cell) : m_perMm(1 / std::max(cell, 1e-6f))
{
    // Stretches of points in one cube are found side by side, cubes numbered one after the other, and then each cube puts its
    // points in order by itself.
    constexpr std::size_t kAtOnce = 8192;
    std::vector<std::vector<Stretch>> found((points.size() + kAtOnce - 1) / kAtOnce);
    forEachBlock(points.size(), kAtOnce, [&](BlockRange r) {
        auto &here = found[r.begin / kAtOnce];
        for (std::size_t i = r.begin; i < r.end; ++i) {
            if (const Cell cube = cubeOf(cellOf(points[i])); here.empty() || !(here.back().cube == cube))
                here.push_back({cube, std::uint32_t(i), 0});
            here.back().end = std::uint32_t(i + 1);
        }
    });
    std::vector<std::pair<std::uint32_t, Stretch>> stretches; // and which cube by number
    for (const auto &here : found)
        for (const Stretch &s : here) {
            const std::uint32_t cube = put(s.cube);
            m_cubes[cube].end += s.end - s.first;
            stretches.emplace_back(cube, s);
        }
    std::vector<std::uint32_t> firstOf(m_cubes.size() + 1, 0), order(stretches.size()); // of its stretches
    std::uint32_t sum = 0;
    for (Cube &c : m_cubes) {
        c.first = sum;
        c.end = sum += c.end;
    }
    for (const auto &[cube, s] : stretches)
        ++firstOf[cube + 1];
    std::partial_sum(firstOf.begin(), firstOf.end(), firstOf.begin());
    std::vector<std::uint32_t> next(firstOf.begin(), firstOf.end() - 1);
    for (std::uint32_t k = 0; k < stretches.size(); ++k)
        order[next[stretches[k].first]++] = k;
    m_starts.resize(m_cubes.size() * kCells + 1);
    m_starts.back() = sum;
    m_items.resize(points.size());
    forEachBlock(m_cubes.size(), 64, [&](BlockRange r) {
        for (std::size_t c = r.begin; c < r.end; ++c) {
            const auto eachPoint = [&](const auto &body) {
                for (std::uint32_t k = firstOf[c]; k < firstOf[c + 1]; ++k)
                    for (std::uint32_t i = stretches[order[k]].second.first; i < stretches[order[k]].second.end; ++i)
                        body(i, insideOf(cellOf(points[i])));
            };
            std::array<std::uint32_t, kCells> at{};
            eachPoint([&](std::uint32_t, std::uint32_t in) { ++at[in]; });
            std::uint32_t begin = m_cubes[c].first;
            for (std::uint32_t in = 0; in < kCells; ++in) {
                m_starts[c * kCells + in] = begin;
                begin += std::exchange(at[in], begin);
            }
            eachPoint([&](std::uint32_t i, std::uint32_t in) { m_items[at[in]++] = {points[i], i}; });
        }
    });
}

std::uint32_t PointGrid::put(Cell c)
{
    if (const std::uint32_t known = m_slots[slotOf(c)]; known != kNone)
        return known;
    if (2 * m_cubes.size() >= m_slots.size()) {
        m_slots.assign(2 * m_slots.size(), kNone);
        for (std::uint32_t i = 0; i < m_cubes.size(); ++i)
            m_slots[slotOf(m_cubes[i].at)] = i;
    }
    m_cubes.push_back({c});
    return m_slots[slotOf(c)] = std::uint32_t(m_cubes.size() - 1);
}

} // namespace bonemoss
