#include "field/sign_grid.h"

#include "mesh/poly_mesh.h"

#include <algorithm>

namespace bonemoss::field {

CornerWords cornerWords(const SignGrid &g, std::uint32_t slot)
{
    const auto c = g.coords[slot];
    constexpr std::uint64_t kNotLastY = 0x7f7f7f7f7f7f7f7full, kLastY = ~kNotLastY;
    constexpr std::uint64_t kFirstY = 0x0101010101010101ull;
    const auto state = [&](int dx, int dy, int dz) { return g.blockState(c.x + dx, c.y + dy, c.z + dz); };
    CornerWords w{};
    for (int dx = 0; dx < 2; ++dx) {
        const std::uint32_t s0 = state(dx, 0, 0), sy = state(dx, 1, 0), sz = state(dx, 0, 1), syz = state(dx, 1, 1);
        for (std::size_t x = dx ? 8 : 0; x < (dx ? 9u : 8u); ++x) {
            const std::size_t local = x & 7;
            const std::uint64_t a = g.word(s0, local), ny = g.word(sy, local), nz = g.word(sz, local), nyz = g.word(syz, local);
            const auto alongY = [&](std::uint64_t own, std::uint64_t next) {
                return ((own >> 1) & kNotLastY) | (((next & kFirstY) << 7) & kLastY);
            };
            const std::uint64_t oy = alongY(a, ny), zy = alongY(nz, nyz);
            w.a[x] = a;
            w.y[x] = oy;
            w.z[x] = (a >> 8) | (nz << 56);
            w.yz[x] = (oy >> 8) | (zy << 56);
        }
    }
    return w;
}

void sortAlongCurve(std::vector<SignGrid::Coord> &coords)
{
    std::vector<std::pair<std::uint64_t, SignGrid::Coord>> keyed(coords.size());
    for (std::size_t i = 0; i < coords.size(); ++i)
        keyed[i] = {mesh::hilbertCode(coords[i].x, coords[i].y, coords[i].z, 16), coords[i]};
    std::sort(keyed.begin(), keyed.end(), [](const auto &a, const auto &b) { return a.first < b.first; });
    for (std::size_t i = 0; i < coords.size(); ++i)
        coords[i] = keyed[i].second;
}

} // namespace bonemoss::field
