#include "proof/walls.h"

#include "base/parallel.h"
#include "portrait/frame.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::proof {

namespace {

constexpr int kMostFaces = 64; ///< that a ray is followed through

/// Calls use(meeting, isOut) for what a ray goes through until it says no.
template <typename Use> void through(const portrait::TracedScene &traced, mesh::Ray ray, float epsilon, const Use &use)
{
    float from = epsilon;
    for (int k = 0; k < kMostFaces; ++k) {
        const auto m = traced.meet(ray, 1e30f, from);
        if (!m || !use(*m, dot(m->face, ray.direction) > 0))
            return;
        from = m->distance + epsilon;
    }
}

/// From a place of the surface to where the solid ends. Bodies that begin on the way are part of it.
float thicknessAlong(const portrait::TracedScene &traced, Vec3f at, Vec3f way, float epsilon)
{
    int about = 1;
    float out = 1e30f;
    through(traced, {at, way}, epsilon, [&](const portrait::Meeting &m, bool isOut) {
        about += isOut ? -1 : 1;
        if (about <= 0)
            out = m.distance;
        return about > 0;
    });
    return out;
}

} // namespace

int bodiesAbout(const portrait::TracedScene &traced, Vec3f at, Vec3f way, float epsilon)
{
    int about = 0;
    through(traced, {at, way}, epsilon, [&](const portrait::Meeting &, bool isOut) {
        about += isOut ? 1 : -1;
        return true;
    });
    return about;
}

std::vector<WallPlace> wallsOf(const portrait::TracedScene &traced, std::span<const Triangle> triangles, std::size_t step,
                               float near, float far, const Progress &progress)
{
    step = std::max<std::size_t>(1, step);
    const std::size_t count = (triangles.size() + step - 1) / step;
    std::vector<WallPlace> all(count);
    const float epsilon = 1e-5f * std::max(traced.box().diagonal(), 1e-3f);
    constexpr float kTilt = 20 * kRadiansPerDegree;
    forEachBlock(count, 2048, progress.stop, [&](BlockRange r) {
        for (std::size_t k = r.begin; k < r.end; ++k) {
            WallPlace &w = all[k];
            w.triangle = std::uint32_t(k * step);
            const Triangle &t = triangles[w.triangle];
            w.normal = normalized(cross(t[1] - t[0], t[2] - t[0]));
            w.at = (t[0] + t[1] + t[2]) * (1.0f / 3);
            if (squaredLength(w.normal) < 0.5f || bodiesAbout(traced, w.at, w.normal, epsilon) != 0) {
                w.normal = {};
                continue;
            }
            w.thickness = thicknessAlong(traced, w.at, -w.normal, epsilon);
            if (w.thickness < near) {
                const portrait::Frame frame(-w.normal);
                std::array<float, 9> ways{w.thickness};
                for (std::size_t i = 0; i < 8; ++i) {
                    const float a = kPi / 4 * float(i);
                    ways[i + 1] = thicknessAlong(
                        traced, w.at,
                        frame.toWorld({std::sin(kTilt) * std::cos(a), std::sin(kTilt) * std::sin(a), std::cos(kTilt)}), epsilon);
                }
                std::nth_element(ways.begin(), ways.begin() + 6, ways.end()); // by a corner some come out beside it
                w.thickness = std::min(ways[6], w.thickness);                 // of a slab that of the straight ray
            }
            if (const auto m = traced.meet({w.at, w.normal}, far, epsilon); m && dot(m->face, w.normal) < -0.7f)
                w.gap = m->distance;
        }
    });
    std::erase_if(all, [](const WallPlace &w) { return w.normal == Vec3f{}; });
    return all;
}

} // namespace bonemoss::proof
