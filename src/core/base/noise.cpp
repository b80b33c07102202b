#include "base/noise.h"

#include <cmath>

namespace bonemoss {

float noiseAt(Vec3f p, float wavelength, std::uint64_t seed)
{
    static constexpr Vec3f kGradients[16] = {{1, 1, 0},  {-1, 1, 0},  {1, -1, 0}, {-1, -1, 0}, {1, 0, 1},  {-1, 0, 1},
                                             {1, 0, -1}, {-1, 0, -1}, {0, 1, 1},  {0, -1, 1},  {0, 1, -1}, {0, -1, -1},
                                             {1, 1, 0},  {-1, 1, 0},  {0, -1, 1}, {0, -1, -1}};
    p *= 1 / wavelength;
    const Vec3f whole{std::floor(p.x), std::floor(p.y), std::floor(p.z)}, t = p - whole;
    // Each axis mixed by itself, both of its lattice planes; a corner mixes the three.
    const auto axis = [&](float at, std::uint32_t by, int step) {
        return (std::uint32_t(std::int32_t(at) + step) * by) ^ std::uint32_t(seed >> (by & 15));
    };
    const std::uint32_t x[2] = {axis(whole.x, 0x9e3779b1u, 0), axis(whole.x, 0x9e3779b1u, 1)},
                        y[2] = {axis(whole.y, 0x85ebca77u, 0), axis(whole.y, 0x85ebca77u, 1)},
                        z[2] = {axis(whole.z, 0xc2b2ae3du, 0), axis(whole.z, 0xc2b2ae3du, 1)};
    const auto corner = [&](int i, int j, int k) {
        std::uint32_t h = x[i] ^ (y[j] << 7 | y[j] >> 25) ^ (z[k] << 15 | z[k] >> 17);
        h ^= h >> 15, h *= 0x2c1b3c6du, h ^= h >> 12;
        return dot(kGradients[h & 15], t - Vec3f{float(i), float(j), float(k)});
    };
    const auto fade = [](float v) { return v * v * v * (v * (v * 6 - 15) + 10); };
    const float fx = fade(t.x), fy = fade(t.y), fz = fade(t.z);
    const auto row = [&](int j, int k) {
        const float a = corner(0, j, k);
        return a + (corner(1, j, k) - a) * fx;
    };
    const auto layer = [&](int k) {
        const float a = row(0, k);
        return a + (row(1, k) - a) * fy;
    };
    const float near = layer(0);
    return fz == 0 ? near : near + (layer(1) - near) * fz; // on a layer of the lattice, as for what is flat, half is enough
}

} // namespace bonemoss
