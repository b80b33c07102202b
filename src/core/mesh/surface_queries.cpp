#include "mesh/surface.h"

#include "mesh/detail/triangle.h"

#include <algorithm>

namespace bonemoss::mesh {

namespace {

struct Corners {
    Vec3f p[4];
    int count;
};

Corners cornersOf(const Surface &s, std::size_t b, std::size_t i)
{
    const Face f = s.topology->faceOf(b, i);
    Corners c{{}, f.size()};
    for (int k = 0; k < c.count; ++k)
        c.p[k] = s.positions[f.v[std::size_t(k)]];
    return c;
}

/// T. Moeller & B. Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997. Both sides.
std::optional<float> hitTriangle(const Ray &r, Vec3f a, Vec3f b, Vec3f c)
{
    const Vec3f e1 = b - a, e2 = c - a, p = cross(r.direction, e2);
    const float det = dot(e1, p);
    if (std::abs(det) < 1e-20f)
        return {};
    const float inv = 1 / det;
    const Vec3f s = r.origin - a;
    const float u = dot(s, p) * inv;
    constexpr float kSlack = 1e-6f; // so that nothing slips between two triangles
    if (u < -kSlack || u > 1 + kSlack)
        return {};
    const Vec3f q = cross(s, e1);
    const float v = dot(r.direction, q) * inv;
    if (v < -kSlack || u + v > 1 + kSlack)
        return {};
    const float t = dot(e2, q) * inv;
    return t >= 0 ? std::optional<float>(t) : std::nullopt;
}

/// Slab test; the entry distance, or nothing when the box is missed or farther than limit.
std::optional<float> enterBox(const Ray &r, Vec3f inv, const Box3f &b, float limit)
{
    const Vec3f t0 = (b.lo - r.origin) * inv, t1 = (b.hi - r.origin) * inv;
    const Vec3f lo = min(t0, t1), hi = max(t0, t1);
    const float in = std::max({lo.x, lo.y, lo.z, 0.0f});
    const float out = std::min({hi.x, hi.y, hi.z, limit});
    return in <= out * (1 + 1e-6f) ? std::optional<float>(in) : std::nullopt;
}

void finish(const Surface &s, Hit &h)
{
    const Face f = s.topology->faceOf(h.block, h.face);
    Vec3f sum;
    float weights = 0;
    for (int k = 0; k < f.size(); ++k) { // inverse-distance blend of the corner normals
        const Vec3f p = s.positions[f.v[std::size_t(k)]];
        const float w = 1 / (squaredLength(p - h.point) + 1e-12f);
        sum += s.normals[f.v[std::size_t(k)]].unpack() * w;
        weights += w;
    }
    h.normal = normalized(sum * (1 / weights));
}

} // namespace

std::optional<Hit> castRay(const Surface &s, const Ray &ray)
{
    const auto inverse = [](float d) { return 1 / (std::abs(d) > 1e-12f ? d : 1e-12f); };
    const Vec3f inv{inverse(ray.direction.x), inverse(ray.direction.y), inverse(ray.direction.z)};
    constexpr float kFar = std::numeric_limits<float>::max();
    const bool isWhole = s.hidden.isBlank();
    std::vector<std::pair<float, std::uint32_t>> entered;
    for (std::size_t b = 0; b < s.bounds.size(); ++b)
        if (const auto t = enterBox(ray, inv, s.bounds[b]->box, kFar))
            entered.push_back({*t, std::uint32_t(b)});
    std::sort(entered.begin(), entered.end());
    Hit best;
    best.distance = kFar;
    for (const auto &[t, b] : entered) {
        if (t > best.distance)
            break;
        const auto &clusters = s.bounds[b]->clusters;
        const std::size_t drawn = s.topology->block(b).drawnFaces;
        for (std::size_t c = 0; c < clusters.size(); ++c) {
            if (!enterBox(ray, inv, clusters[c], best.distance))
                continue;
            const std::size_t step = BlockBounds::kClusterFaces;
            for (std::size_t i = c * step; i < std::min(drawn, (c + 1) * step); ++i) {
                const Corners k = cornersOf(s, b, i);
                auto d = hitTriangle(ray, k.p[0], k.p[1], k.p[2]);
                if (k.count == 4)
                    if (const auto e = hitTriangle(ray, k.p[0], k.p[2], k.p[3]); e && (!d || *e < *d))
                        d = e;
                if (d && *d < best.distance && (isWhole || !isHidden(s, s.topology->faceOf(b, i))))
                    best = {*d, b, std::uint32_t(i), ray.origin + ray.direction * *d, {}};
            }
        }
    }
    if (best.distance == kFar)
        return {};
    finish(s, best);
    return best;
}

std::optional<Hit> nearestPoint(const Surface &s, Vec3f p)
{
    std::vector<std::pair<float, std::uint32_t>> order;
    for (std::size_t b = 0; b < s.bounds.size(); ++b)
        order.push_back({squaredDistance(s.bounds[b]->box, p), std::uint32_t(b)});
    std::sort(order.begin(), order.end());
    float best = std::numeric_limits<float>::max();
    const bool isWhole = s.hidden.isBlank();
    Hit hit;
    for (const auto &[d, b] : order) {
        if (d >= best)
            break;
        const auto &clusters = s.bounds[b]->clusters;
        const std::size_t drawn = s.topology->block(b).drawnFaces;
        for (std::size_t c = 0; c < clusters.size(); ++c) {
            if (squaredDistance(clusters[c], p) >= best)
                continue;
            const std::size_t step = BlockBounds::kClusterFaces;
            for (std::size_t i = c * step; i < std::min(drawn, (c + 1) * step); ++i) {
                if (!isWhole && isHidden(s, s.topology->faceOf(b, i)))
                    continue;
                const Corners k = cornersOf(s, b, i);
                for (int half = 0; half < k.count - 2; ++half) {
                    const Vec3f v = k.p[half + 1], w = k.p[half + 2];
                    const Vec3f q = detail::blend(detail::nearestWeights(p, k.p[0], v, w), k.p[0], v, w);
                    if (const float d2 = squaredLength(q - p); d2 < best) {
                        best = d2;
                        hit = {std::sqrt(d2), b, std::uint32_t(i), q, {}};
                    }
                }
            }
        }
    }
    if (best == std::numeric_limits<float>::max())
        return {};
    finish(s, hit);
    return hit;
}

} // namespace bonemoss::mesh
