#include "mesh/surface.h"

#include "mesh/detail/triangle.h"

#include <algorithm>
#include <cstring>

namespace bonemoss::mesh {

namespace {

/// Local positions of a face's corners, the fourth of a triangle being its first again: a second half without any area.
std::array<Vec3f, 4> cornersOf(const Surface &s, const BlockFaces &block, const Vec3f *own, std::size_t i)
{
    const LocalFace &f = block.faces[i];
    std::array<Vec3f, 4> p;
    for (std::size_t k = 0; k < 4; ++k) {
        const std::uint16_t l = f.v[k] == kLocalNone ? f.v[0] : f.v[k];
        p[k] = l < block.own ? own[l] : s.positions[block.borrowed[l - block.own]];
    }
    return p;
}

/// Three coordinates of four points or directions, side by side.
struct Lanes3 {
    Lanes x, y, z;

    friend Lanes3 operator-(const Lanes3 &a, const Lanes3 &b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
};
Lanes dot(const Lanes3 &a, const Lanes3 &b)
{
    return a.x * b.x + a.y * b.y + a.z * b.z;
}
Lanes3 cross(const Lanes3 &a, const Lanes3 &b)
{
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

/// A corner's position in one register; what its last lane holds is left open.
inline Lanes cornerAt(const Surface &s, const BlockFaces &block, const Vec3f *own, std::uint16_t l)
{
    if (l + 1u < block.own) { // another follows in memory, so that four floats may be read
        Lanes p;
        std::memcpy(&p, own + l, sizeof p);
        return p;
    }
    const Vec3f p = l < block.own ? own[l] : s.positions[block.borrowed[l - block.own]];
    return Lanes{p.x, p.y, p.z, 0};
}

/// Coordinates of four points side by side.
inline Lanes3 sideBySide(const std::array<Lanes, 4> &p)
{
    const Lanes xy01 = __builtin_shufflevector(p[0], p[1], 0, 4, 1, 5), xy23 = __builtin_shufflevector(p[2], p[3], 0, 4, 1, 5);
    const Lanes z01 = __builtin_shufflevector(p[0], p[1], 2, 6, 2, 6), z23 = __builtin_shufflevector(p[2], p[3], 2, 6, 2, 6);
    return Lanes3{__builtin_shufflevector(xy01, xy23, 0, 1, 4, 5), __builtin_shufflevector(xy01, xy23, 2, 3, 6, 7),
                  __builtin_shufflevector(z01, z23, 0, 1, 4, 5)};
}

constexpr float kMiss = std::numeric_limits<float>::infinity();

/// Distances to four triangles at once, from both sides; infinity for a miss.
/// T. Moeller & B. Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997.
Lanes hitTriangles(const Lanes3 &origin, const Lanes3 &direction, const Lanes3 &a, const Lanes3 &b, const Lanes3 &c)
{
    const Lanes3 e1 = b - a, e2 = c - a, p = cross(direction, e2), s = origin - a, q = cross(s, e1);
    const Lanes det = dot(e1, p), size = det < 0 ? -det : det, inverse = 1 / det;
    const Lanes u = dot(s, p) * inverse, v = dot(direction, q) * inverse, t = dot(e2, q) * inverse;
    constexpr float kSlack = 1e-4f; // so that nothing slips between triangles, nor where many meet
    const auto isHit = (size >= 1e-20f) & (u >= -kSlack) & (v >= -kSlack) & (u + v <= 1 + kSlack) & (t >= 0);
    return isHit ? t : Lanes{kMiss, kMiss, kMiss, kMiss};
}

Face faceOf(const Surface &s, std::size_t b, const LocalFace &f)
{
    Face out;
    for (std::size_t k = 0; k < std::size_t(f.size()); ++k)
        out.v[k] = s.topology->vertexOf(b, f.v[k]);
    return out;
}

/// Where a face was met, and which way the skin turns there.
void finish(const Surface &s, const LocalFace &met, Hit &h)
{
    const Face f = faceOf(s, h.block, met);
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

const FaceTree &BlockBounds::faces(const Surface &s, std::size_t b) const
{
    return m_faces.get([&] {
        const BlockFaces &block = s.topology->block(b);
        const Vec3f *own = s.positions.data(b);
        std::vector<Box3f> boxes(block.drawnFaces);
        for (std::size_t i = 0; i < boxes.size(); ++i)
            for (const Vec3f p : cornersOf(s, block, own, i))
                boxes[i].add(p);
        FaceTree made{BoxTree::build(boxes), {}};
        made.faces.reserve(boxes.size());
        for (const std::uint32_t i : made.tree.order())
            made.faces.push_back(block.faces[i]);
        return made;
    });
}

std::optional<Hit> castRay(const Surface &s, const Ray &ray)
{
    const RaySlabs slabs(ray.origin, ray.direction);
    const auto four = [](Vec3f v) { return Lanes3{Lanes{} + v.x, Lanes{} + v.y, Lanes{} + v.z}; };
    const Lanes3 origin = four(ray.origin), direction = four(ray.direction);
    constexpr float kFar = std::numeric_limits<float>::max();
    Hit best;
    LocalFace met;
    best.distance = kFar;
    const auto fetch = [&](std::size_t place) {
        const std::uint32_t b = s.blocks.order()[place];
        s.positions.fetch(b), s.normals.fetch(b);
        __builtin_prefetch(&s.topology->block(b));
        const auto *at = reinterpret_cast<const char *>(s.bounds[b].get());
        __builtin_prefetch(at), __builtin_prefetch(at + 64), __builtin_prefetch(at + 128);
    };
    const auto look = [&](std::span<const std::uint32_t> ids) {
        const std::uint32_t b = ids[0];
        const BlockFaces &block = s.topology->block(b);
        const Vec3f *own = s.positions.data(b);
        const PackedNormal *normals = s.normals.data(b);
        const FaceTree &in = s.bounds[b]->faces(s, b);
        in.tree.visit(
            slabs, best.distance,
            [&](std::span<const std::uint32_t> faces) {
                const LocalFace *corners = in.faces.data() + in.tree.placeOf(faces);
                std::array<Lanes, 4> at[4]; // at[k][i]: corner k of face i, the last one again where there are fewer than four
                for (std::size_t i = 0; i < 4; ++i) {
                    const LocalFace &f = corners[std::min(i, faces.size() - 1)];
                    for (std::size_t k = 0; k < 4; ++k)
                        at[k][i] = cornerAt(s, block, own, f.v[k] == kLocalNone ? f.v[0] : f.v[k]);
                }
                Lanes3 corner[4];
                for (std::size_t k = 0; k < 4; ++k)
                    corner[k] = sideBySide(at[k]);
                const Lanes first = hitTriangles(origin, direction, corner[0], corner[1], corner[2]);
                const Lanes second = hitTriangles(origin, direction, corner[0], corner[2], corner[3]);
                const Lanes near = first < second ? first : second;
                for (std::size_t i = 0; i < faces.size(); ++i)
                    if (near[i] < best.distance && !isHidden(s, faceOf(s, b, corners[i]))) {
                        best = {near[i], b, faces[i], {}, {}};
                        met = corners[i];
                        for (const std::uint16_t l : corners[i].v)
                            if (l < block.own)
                                __builtin_prefetch(normals + l);
                    }
            },
            [&](std::size_t place) { __builtin_prefetch(in.faces.data() + place); });
    };
    s.blocks.visit(slabs, best.distance, look, fetch);
    if (best.distance == kFar)
        return {};
    best.point = ray.origin + ray.direction * best.distance;
    finish(s, met, best);
    return best;
}

std::optional<Hit> nearestPoint(const Surface &s, Vec3f p)
{
    const FromPoint from(p);
    float best = std::numeric_limits<float>::max();
    Hit hit;
    s.blocks.visit(from, best, [&](std::span<const std::uint32_t> ids) {
        const std::uint32_t b = ids[0];
        const BlockFaces &block = s.topology->block(b);
        const Vec3f *own = s.positions.data(b);
        s.bounds[b]->faces(s, b).tree.visit(from, best, [&](std::span<const std::uint32_t> faces) {
            for (const std::uint32_t i : faces) {
                const auto c = cornersOf(s, block, own, i);
                for (int half = 0; half < block.faces[i].size() - 2; ++half) {
                    const Vec3f v = c[std::size_t(half) + 1], w = c[std::size_t(half) + 2];
                    const Vec3f q = detail::blend(detail::nearestWeights(p, c[0], v, w), c[0], v, w);
                    if (const float d2 = squaredLength(q - p); d2 < best && !isHidden(s, s.topology->faceOf(b, i))) {
                        best = d2;
                        hit = {std::sqrt(d2), b, i, q, {}};
                    }
                }
            }
        });
    });
    if (best == std::numeric_limits<float>::max())
        return {};
    finish(s, s.topology->block(hit.block).faces[hit.face], hit);
    return hit;
}

} // namespace bonemoss::mesh
