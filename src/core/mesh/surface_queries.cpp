#include "mesh/surface.h"

#include "mesh/detail/triangle.h"

#include <algorithm>

namespace bonemoss::mesh {

namespace {

struct Corners {
    Vec3f p[4];
    int count;
};

/// own: positions of the block's own vertices.
Corners cornersOf(const Surface &s, const BlockFaces &block, const Vec3f *own, std::size_t i)
{
    const LocalFace &f = block.faces[i];
    Corners c{{}, f.size()};
    for (int k = 0; k < c.count; ++k) {
        const std::uint16_t l = f.v[std::size_t(k)];
        c.p[k] = l < block.own ? own[l] : s.positions[block.borrowed[l - block.own]];
    }
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

typedef float Lanes __attribute__((vector_size(16))); // GCC's vector extension: four lanes on any machine

/// A ray as the slab test of boxes wants it.
struct Slabs {
    Lanes origin, inverse;

    explicit Slabs(const Ray &r)
    {
        const auto inv = [](float d) { return 1 / (std::abs(d) > 1e-12f ? d : d < 0 ? -1e-12f : 1e-12f); };
        origin = Lanes{r.origin.x, r.origin.y, r.origin.z, 0};
        inverse = Lanes{inv(r.direction.x), inv(r.direction.y), inv(r.direction.z), 0};
    }
    /// The entry distance, or one past the limit when the box is missed or lies farther.
    float enter(const Box3f &b, float limit) const
    {
        const Lanes t0 = (Lanes{b.lo.x, b.lo.y, b.lo.z, 0} - origin) * inverse;
        const Lanes t1 = (Lanes{b.hi.x, b.hi.y, b.hi.z, 0} - origin) * inverse;
        const Lanes lo = t0 < t1 ? t0 : t1, hi = t0 < t1 ? t1 : t0;
        const float in = std::max(std::max(lo[0], lo[1]), std::max(lo[2], 0.0f));
        const float out = std::min(std::min(hi[0], hi[1]), std::min(hi[2], limit));
        return in <= out * (1 + 1e-6f) ? in : std::numeric_limits<float>::infinity();
    }
    bool meets(const Box3f &b, float limit) const { return enter(b, limit) <= limit; }
};

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
    const Slabs slabs(ray);
    constexpr float kFar = std::numeric_limits<float>::max();
    thread_local std::vector<std::pair<float, std::uint32_t>> entered; // scratch
    entered.clear();
    for (std::size_t run = 0; run < s.runs.size(); ++run)
        if (slabs.meets(s.runs[run].box, kFar))
            for (std::size_t k = 0; k < std::min(BlockRun::kBlocks, s.bounds.size() - run * BlockRun::kBlocks); ++k)
                if (const float t = slabs.enter(s.runs[run].blocks[k], kFar); t <= kFar)
                    entered.push_back({t, std::uint32_t(run * BlockRun::kBlocks + k)});
    std::sort(entered.begin(), entered.end());
    Hit best;
    best.distance = kFar;
    for (const auto &[t, b] : entered) {
        if (t > best.distance)
            break;
        const BlockFaces &block = s.topology->block(b);
        const Vec3f *own = s.positions.data(b);
        const auto isAhead = [&](const Box3f &box) { return slabs.meets(box, best.distance); };
        s.bounds[b]->eachCluster(isAhead, [&, b = b](std::size_t c) {
            const std::size_t step = BlockBounds::kClusterFaces;
            for (std::size_t i = c * step; i < std::min<std::size_t>(block.drawnFaces, (c + 1) * step); ++i) {
                const Corners k = cornersOf(s, block, own, i);
                auto d = hitTriangle(ray, k.p[0], k.p[1], k.p[2]);
                if (k.count == 4)
                    if (const auto e = hitTriangle(ray, k.p[0], k.p[2], k.p[3]); e && (!d || *e < *d))
                        d = e;
                if (d && *d < best.distance && !isHidden(s, s.topology->faceOf(b, i)))
                    best = {*d, b, std::uint32_t(i), ray.origin + ray.direction * *d, {}};
            }
        });
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
        const BlockFaces &block = s.topology->block(b);
        const Vec3f *own = s.positions.data(b);
        const auto isNearer = [&](const Box3f &box) { return squaredDistance(box, p) < best; };
        s.bounds[b]->eachCluster(isNearer, [&, b = b](std::size_t c) {
            const std::size_t step = BlockBounds::kClusterFaces;
            for (std::size_t i = c * step; i < std::min<std::size_t>(block.drawnFaces, (c + 1) * step); ++i) {
                if (!isWhole && isHidden(s, s.topology->faceOf(b, i)))
                    continue;
                const Corners k = cornersOf(s, block, own, i);
                for (int half = 0; half < k.count - 2; ++half) {
                    const Vec3f v = k.p[half + 1], w = k.p[half + 2];
                    const Vec3f q = detail::blend(detail::nearestWeights(p, k.p[0], v, w), k.p[0], v, w);
                    if (const float d2 = squaredLength(q - p); d2 < best) {
                        best = d2;
                        hit = {std::sqrt(d2), b, std::uint32_t(i), q, {}};
                    }
                }
            }
        });
    }
    if (best == std::numeric_limits<float>::max())
        return {};
    finish(s, hit);
    return hit;
}

} // namespace bonemoss::mesh
