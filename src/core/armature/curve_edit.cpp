#include "armature/curve_edit.h"

#include <algorithm>
#include <cassert>

namespace bonemoss::armature {

namespace {

/// Length along the points up to each of them, mm.
std::vector<float> lengths(const std::vector<PathPoint> &path)
{
    std::vector<float> s(path.size(), 0);
    for (std::size_t i = 1; i < path.size(); ++i)
        s[i] = s[i - 1] + length(path[i].at - path[i - 1].at);
    return s;
}

} // namespace

std::vector<PathPoint> softMoved(std::vector<PathPoint> path, std::size_t point, Vec3f by, float reach)
{
    assert(point < path.size());
    const std::vector<float> s = lengths(path);
    for (std::size_t i = 0; i < path.size(); ++i) {
        const float away = std::abs(s[i] - s[point]);
        if (i == point)
            path[i].at += by;
        else if (away < reach)
            path[i].at += by * (0.5f + 0.5f * std::cos(kPi * away / reach));
    }
    return path;
}

std::vector<PathPoint> rounded(std::vector<PathPoint> path, std::size_t first, std::size_t last, int times)
{
    for (int t = 0; t < times; ++t) {
        const std::vector<PathPoint> old = path;
        for (std::size_t i = first + 1; i < last && i + 1 < path.size(); ++i) {
            const PathPoint &a = old[i - 1], &b = old[i + 1];
            const auto ease = [](float x, float p, float q) { return x * 0.5f + (p + q) * 0.25f; };
            path[i].at = old[i].at * 0.5f + (a.at + b.at) * 0.25f;
            path[i].radius = ease(old[i].radius, a.radius, b.radius);
            path[i].squash = ease(old[i].squash, a.squash, b.squash);
            path[i].square = ease(old[i].square, a.square, b.square);
        }
    }
    return path;
}

std::vector<PathPoint> straightened(std::vector<PathPoint> path, std::size_t first, std::size_t last)
{
    const std::vector<float> s = lengths(path);
    const Vec3f from = path[first].at, to = path[last].at;
    const float whole = s[last] - s[first];
    for (std::size_t i = first + 1; i < last; ++i)
        path[i].at = lerp(from, to, whole > 0 ? (s[i] - s[first]) / whole : 0);
    return path;
}

std::vector<PathPoint> laidOnArc(std::vector<PathPoint> path, std::size_t first, std::size_t last)
{
    if (last < first + 2)
        return path;
    const std::vector<float> s = lengths(path);
    std::size_t top = first + 1;
    const float half = (s[first] + s[last]) / 2;
    for (std::size_t i = first + 1; i < last; ++i)
        if (std::abs(s[i] - half) < std::abs(s[top] - half))
            top = i;
    const Vec3f a = path[first].at, b = path[top].at, c = path[last].at;
    // Circle through three points: its centre from the sides' lengths and cross product (common practice, no source).
    const Vec3f u = b - a, v = c - a, n = cross(u, v);
    const float nn = dot(n, n);
    if (nn < 1e-8f * squaredLength(u) * squaredLength(v))
        return straightened(std::move(path), first, last);
    const Vec3f centre = a + (cross(n, u) * dot(v, v) + cross(v, n) * dot(u, u)) * (1 / (2 * nn));
    const Vec3f axis = normalized(n), x = normalized(a - centre), y = cross(axis, x);
    const float radius = length(a - centre);
    float angle = std::atan2(dot(c - centre, y), dot(c - centre, x));
    if (angle <= 0)
        angle += 2 * kPi; // from a over b to c, turning with the normal
    for (std::size_t i = first + 1; i < last; ++i) {
        const float t = angle * float(i - first) / float(last - first);
        path[i].at = centre + (x * std::cos(t) + y * std::sin(t)) * radius;
    }
    return path;
}

std::vector<PathPoint> inserted(std::vector<PathPoint> path, std::size_t point)
{
    assert(path.size() >= 2 && point < path.size());
    if (point + 1 == path.size()) {
        PathPoint next = path.back();
        next.at = path.back().at * 2.0f - path[path.size() - 2].at;
        path.push_back(next);
        return path;
    }
    if (path.size() == 2) {
        const PathPoint &a = path[0], &b = path[1];
        path.insert(path.begin() + 1, {lerp(a.at, b.at, 0.5f), (a.radius + b.radius) / 2, (a.squash + b.squash) / 2,
                                       (a.square + b.square) / 2, (a.rotation + b.rotation) / 2});
        return path;
    }
    const std::vector<PathPoint> fine = smoothPath(path, 2); // the curve's own point halfway along each span
    path.insert(path.begin() + std::ptrdiff_t(point) + 1, fine[2 * point + 1]);
    return path;
}

} // namespace bonemoss::armature
