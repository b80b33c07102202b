// A. M. Andrew, "Another efficient algorithm for convex hulls in two dimensions", Information Processing
// Letters 9, 1979.
#include "armature/balance.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace bonemoss::armature {

namespace {

/// Twice the area of a-b-c, above 0 when it turns left seen from the crown (z to the right of x there).
double turnOf(Vec3f a, Vec3f b, Vec3f c)
{
    return (double(b.z) - double(a.z)) * (double(c.x) - double(a.x)) - (double(b.x) - double(a.x)) * (double(c.z) - double(a.z));
}

} // namespace

std::vector<Vec3f> floorHull(std::vector<Vec3f> points)
{
    const auto before = [](Vec3f a, Vec3f b) { return a.z != b.z ? a.z < b.z : a.x < b.x; };
    std::sort(points.begin(), points.end(), before);
    points.erase(std::unique(points.begin(), points.end(), [](Vec3f a, Vec3f b) { return a.z == b.z && a.x == b.x; }),
                 points.end());
    if (points.size() < 3)
        return points;
    std::vector<Vec3f> hull;
    const auto walk = [&](auto first, auto last) { // one side of the hull
        const std::size_t start = hull.size();
        for (auto p = first; p != last; ++p) {
            while (hull.size() >= start + 2 && turnOf(hull[hull.size() - 2], hull.back(), *p) <= 0)
                hull.pop_back();
            hull.push_back(*p);
        }
        hull.pop_back(); // the other side begins with it
    };
    walk(points.begin(), points.end());
    walk(points.rbegin(), points.rend());
    return hull;
}

Balance balanceOf(std::span<const Vec3f> points, Vec3f weightPoint, float tolerance)
{
    Balance b;
    b.weightPoint = weightPoint;
    if (points.empty())
        return b;
    b.floor = std::numeric_limits<float>::max();
    for (const Vec3f p : points)
        b.floor = std::min(b.floor, p.y);
    std::vector<Vec3f> touching;
    for (const Vec3f p : points)
        if (p.y <= b.floor + tolerance)
            touching.push_back({p.x, b.floor, p.z});
    b.contact = floorHull(std::move(touching));
    const Vec3f foot{weightPoint.x, b.floor, weightPoint.z};
    float nearest = std::numeric_limits<float>::max();
    bool isInside = b.contact.size() > 2;
    for (std::size_t i = 0; i < b.contact.size(); ++i) {
        const Vec3f p = b.contact[i], q = b.contact[(i + 1) % b.contact.size()];
        const Vec3f edge = q - p;
        const float t = std::clamp(dot(foot - p, edge) / std::max(squaredLength(edge), 1e-12f), 0.0f, 1.0f);
        const Vec3f on = p + edge * t;
        const float d = length(foot - on);
        isInside = isInside && turnOf(p, q, foot) >= 0;
        if (d < nearest) {
            nearest = d;
            b.tip = on - foot;
        }
    }
    b.margin = isInside ? nearest : -nearest;
    if (!isInside)
        b.tip = -b.tip; // away from what carries it
    if (length(b.tip) > 0)
        b.tip = normalized(b.tip);
    return b;
}

} // namespace bonemoss::armature
