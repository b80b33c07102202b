#pragma once

#include "base/types.h"

#include <array>

namespace bonemoss::mesh::detail {

/// Barycentric weights of the point of a triangle nearest to p.
/// C. Ericson, "Real-Time Collision Detection", 2005, section 5.1.5: regions of a triangle.
inline std::array<float, 3> nearestWeights(Vec3f p, Vec3f a, Vec3f b, Vec3f c)
{
    const Vec3f ab = b - a, ac = c - a, ap = p - a, bp = p - b, cp = p - c;
    const float d1 = dot(ab, ap), d2 = dot(ac, ap), d3 = dot(ab, bp), d4 = dot(ac, bp), d5 = dot(ab, cp), d6 = dot(ac, cp);
    if (d1 <= 0 && d2 <= 0)
        return {1, 0, 0};
    if (d3 >= 0 && d4 <= d3)
        return {0, 1, 0};
    if (d6 >= 0 && d5 <= d6)
        return {0, 0, 1};
    const float vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0)
        return {1 - d1 / (d1 - d3), d1 / (d1 - d3), 0};
    const float vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0)
        return {1 - d2 / (d2 - d6), 0, d2 / (d2 - d6)};
    const float va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const float t = (d4 - d3) / ((d4 - d3) + (d5 - d6));
        return {0, 1 - t, t};
    }
    const float sum = va + vb + vc;
    return sum != 0 ? std::array<float, 3>{va / sum, vb / sum, vc / sum} : std::array<float, 3>{1, 0, 0};
}

inline Vec3f blend(const std::array<float, 3> &w, Vec3f a, Vec3f b, Vec3f c)
{
    return a * w[0] + b * w[1] + c * w[2];
}

} // namespace bonemoss::mesh::detail
