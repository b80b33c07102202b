#pragma once

#include "base/types.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace bonemoss::portrait {

/// Three axes at right angles about a unit vector, z (T. Duff et al. 2017, "Building an orthonormal basis, revisited").
struct Frame {
    Vec3f x, y, z;

    explicit Frame(Vec3f n) : z(n)
    {
        const float sign = std::copysign(1.0f, n.z), a = -1 / (sign + n.z), b = n.x * n.y * a;
        x = {1 + sign * n.x * n.x * a, sign * b, -sign * n.x};
        y = {b, sign + n.y * n.y * a, -n.y};
    }
    Frame(Vec3f along, Vec3f n) : x(along), y(cross(n, along)), z(n) {}
    Vec3f toLocal(Vec3f v) const { return {dot(v, x), dot(v, y), dot(v, z)}; }
    Vec3f toWorld(Vec3f v) const { return x * v.x + y * v.y + z * v.z; }
};

inline float largest(Vec3f v)
{
    return std::max({v.x, v.y, v.z});
}
/// Luminance of linear light with the primaries of sRGB (IEC 61966-2-1).
inline float luminance(Vec3f v)
{
    return 0.2126f * v.x + 0.7152f * v.y + 0.0722f * v.z;
}
/// About +z, as likely as the cosine (Malley's method).
inline Vec3f cosineDirection(std::array<float, 2> u)
{
    const float r = std::sqrt(u[0]), angle = 2 * kPi * u[1];
    return {r * std::cos(angle), r * std::sin(angle), std::sqrt(std::max(0.0f, 1 - u[0]))};
}
/// Share of what one of two ways of sampling found, by the power heuristic (E. Veach 1997, exponent 2).
inline float heuristic(float own, float other)
{
    const float a = own * own, b = other * other;
    return a + b > 0 ? a / (a + b) : 0;
}

} // namespace bonemoss::portrait
