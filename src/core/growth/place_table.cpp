#include "growth/place_table.h"

#include "base/wide.h"

namespace bonemoss::growth {

namespace {

constexpr std::size_t kEight = 8;

/// Where the coordinates are, for loops that are compiled twice.
struct Columns {
    const float *x, *y, *z, *size, *nx, *ny, *nz;
};

void runsAbout(const PointGrid &grid, Vec3f p, float reach, PlaceTable::Search &search)
{
    search.runs.clear();
    grid.rows(p, reach, [&](std::uint32_t first, std::uint32_t end) { search.runs.emplace_back(first, end); });
}

/// Writes the numbers of those that are near to `to`, which has room for all; how many.
BONEMOSS_WIDE std::size_t nearOf(const Columns &c, const std::pair<std::uint32_t, std::uint32_t> *runs, std::size_t runCount,
                                 const PlaceTable::Probe &probe, std::uint32_t *to)
{
    const PlaceTable::Probe o = probe;
    std::size_t n = 0;
    for (std::size_t r = 0; r < runCount; ++r)
        for (std::size_t k = runs[r].first; k < runs[r].second; k += kEight) {
            std::uint32_t isNear[kEight];
            for (std::size_t i = 0; i < kEight; ++i) {
                const float x = c.x[k + i] - o.at.x, y = c.y[k + i] - o.at.y, z = c.z[k + i] - o.at.z;
                const float along = x * o.along.x + y * o.along.y + z * o.along.z;
                const float across = x * o.across.x + y * o.across.y + z * o.across.z;
                const float up = x * o.normal.x + y * o.normal.y + z * o.normal.z;
                const float facing = c.nx[k + i] * o.normal.x + c.ny[k + i] * o.normal.y + c.nz[k + i] * o.normal.z;
                const float least = o.own + o.perSize * c.size[k + i];
                isNear[i] =
                    std::uint32_t(along * along + across * across + up * up < least * least) & std::uint32_t(facing > o.facing);
            }
            const std::size_t count = std::min(kEight, runs[r].second - k);
            for (std::size_t i = 0; i < count; ++i) { // without a branch: which of them are near is hard to foresee
                to[n] = std::uint32_t(k + i);
                n += isNear[i];
            }
        }
    return n;
}

/// The nearest that faces along a normal, the first of those as near; off: how far at most, then how far it is, squared.
BONEMOSS_WIDE std::uint32_t nearestOf(const Columns &c, const std::pair<std::uint32_t, std::uint32_t> *runs, std::size_t runCount,
                                      Vec3f p, Vec3f normal, float *off)
{
    float least[kEight];
    std::uint32_t which[kEight];
    std::fill_n(least, kEight, *off), std::fill_n(which, kEight, kNone);
    for (std::size_t r = 0; r < runCount; ++r)
        for (std::size_t k = runs[r].first; k < runs[r].second; k += kEight) {
            const std::size_t count = runs[r].second - k;
            for (std::size_t i = 0; i < kEight; ++i) {
                const float x = c.x[k + i] - p.x, y = c.y[k + i] - p.y, z = c.z[k + i] - p.z;
                const float facing = c.nx[k + i] * normal.x + c.ny[k + i] * normal.y + c.nz[k + i] * normal.z;
                const float d = x * x + y * y + z * z;
                const bool isIt = (d < least[i]) & (facing > 0) & (i < count);
                least[i] = isIt ? d : least[i];
                which[i] = isIt ? std::uint32_t(k + i) : which[i];
            }
        }
    std::uint32_t best = kNone;
    for (std::size_t i = 0; i < kEight; ++i)
        if (which[i] != kNone && (best == kNone || least[i] < *off || (least[i] == *off && which[i] < best)))
            best = which[i], *off = least[i];
    return best;
}

} // namespace

PlaceTable::PlaceTable(std::size_t n)
{
    for (auto &v : m_values) {
        v.resize(n + kEight);
        std::fill(v.begin() + std::ptrdiff_t(n), v.end(), 0.0f);
    }
}

std::span<const std::uint32_t> PlaceTable::near(const PointGrid &grid, const Probe &probe, float reach, Search &search) const
{
    runsAbout(grid, probe.at, reach, search);
    std::size_t most = 0;
    for (const auto &[first, end] : search.runs)
        most += end - first;
    search.found.resize(std::max(search.found.size(), most + 1));
    const auto &v = m_values;
    const Columns c{v[0].data(), v[1].data(), v[2].data(), v[3].data(), v[4].data(), v[5].data(), v[6].data()};
    return {search.found.data(), nearOf(c, search.runs.data(), search.runs.size(), probe, search.found.data())};
}

std::uint32_t PlaceTable::nearest(const PointGrid &grid, Vec3f p, Vec3f normal, float reach, Search &search, float &off) const
{
    runsAbout(grid, p, reach, search);
    off = reach * reach;
    const auto &v = m_values;
    const Columns c{v[0].data(), v[1].data(), v[2].data(), v[3].data(), v[4].data(), v[5].data(), v[6].data()};
    return nearestOf(c, search.runs.data(), search.runs.size(), p, normal, &off);
}

} // namespace bonemoss::growth
