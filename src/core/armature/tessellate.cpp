#include "armature/form.h"

#include <algorithm>
#include <numbers>

namespace bonemoss::armature {

namespace {

constexpr std::uint32_t kAround = 32;
constexpr int kCapRings = 8;
constexpr float kPi = std::numbers::pi_v<float>;

struct Ring {
    Vec3f centre, u, v; ///< points at centre + u cos + v sin
};

/// Joins rings into quads, with a point at either end.
mesh::PolyMesh loft(const std::vector<Ring> &rings, Vec3f first, Vec3f last)
{
    mesh::PolyMesh m;
    m.positions.push_back(first);
    for (const Ring &r : rings)
        for (std::uint32_t i = 0; i < kAround; ++i) {
            const float a = 2 * kPi * float(i) / float(kAround);
            m.positions.push_back(r.centre + r.u * std::cos(a) + r.v * std::sin(a));
        }
    m.positions.push_back(last);
    const auto at = [](std::size_t ring, std::uint32_t i) { return std::uint32_t(1 + ring * kAround + i % kAround); };
    for (std::uint32_t i = 0; i < kAround; ++i)
        m.faces.push_back({{0, at(0, i + 1), at(0, i), kNone}});
    for (std::size_t r = 0; r + 1 < rings.size(); ++r)
        for (std::uint32_t i = 0; i < kAround; ++i)
            m.faces.push_back({{at(r, i), at(r, i + 1), at(r + 1, i + 1), at(r + 1, i)}});
    const auto end = std::uint32_t(m.positions.size() - 1);
    for (std::uint32_t i = 0; i < kAround; ++i)
        m.faces.push_back({{end, at(rings.size() - 1, i), at(rings.size() - 1, i + 1), kNone}});
    return m;
}

/// Sweeps circles along a path with a frame that does not twist; round ends or flat ones.
mesh::PolyMesh sweep(const std::vector<PathPoint> &path, bool round)
{
    std::vector<Ring> rings;
    const std::size_t n = path.size();
    const auto tangent = [&](std::size_t i) {
        const Vec3f d = path[std::min(i + 1, n - 1)].at - path[i > 0 ? i - 1 : 0].at;
        return length(d) > 0 ? normalized(d) : Vec3f{0, 1, 0};
    };
    Vec3f t = tangent(0);
    Vec3f u = normalized(cross(std::abs(t.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, t));
    const auto ring = [&](Vec3f c, float r) { rings.push_back({c, u * r, cross(t, u) * r}); };
    const auto cap = [&](const PathPoint &p, bool start) {
        for (int k = 1; k < kCapRings; ++k) {
            const float a = kPi / 2 * float(start ? kCapRings - k : k) / kCapRings;
            ring(p.at + t * (p.radius * std::sin(a) * (start ? -1.0f : 1.0f)), p.radius * std::cos(a));
        }
    };
    if (round)
        cap(path.front(), true);
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3f next = tangent(i);
        u = rotate(turnFromTo(t, next), u);
        t = next;
        ring(path[i].at, path[i].radius);
    }
    if (round)
        cap(path.back(), false);
    const Vec3f t0 = tangent(0), t1 = tangent(n - 1);
    return loft(rings, path.front().at - t0 * (round ? path.front().radius : 0.0f),
                path.back().at + t1 * (round ? path.back().radius : 0.0f));
}

mesh::PolyMesh unitBall()
{
    std::vector<Ring> rings;
    constexpr int kRings = 20;
    for (int k = 1; k < kRings; ++k) {
        const float a = kPi * float(k) / kRings, s = std::sin(a);
        rings.push_back({{0, -std::cos(a), 0}, {0, 0, s}, {s, 0, 0}});
    }
    return loft(rings, {0, -1, 0}, {0, 1, 0});
}

/// A ball's points pushed apart by the block's flat extents.
mesh::PolyMesh block(Vec3f half, float rounding)
{
    const float r = std::clamp(rounding, 0.02f * std::min({half.x, half.y, half.z}), std::min({half.x, half.y, half.z}));
    mesh::PolyMesh m;
    constexpr int kSide = 10;
    for (int axis = 0; axis < 3; ++axis)
        for (int side = -1; side <= 1; side += 2) {
            const auto base = std::uint32_t(m.positions.size());
            for (int j = 0; j <= kSide; ++j)
                for (int i = 0; i <= kSide; ++i) {
                    float c[3];
                    c[axis] = float(side);
                    c[(axis + 1) % 3] = (i == kSide / 2 ? 0.0f : std::tan((float(i) / kSide - 0.5f) * kPi / 2));
                    c[(axis + 2) % 3] = (j == kSide / 2 ? 0.0f : std::tan((float(j) / kSide - 0.5f) * kPi / 2));
                    const Vec3f n = normalized(Vec3f{c[0], c[1], c[2]});
                    const auto push = [&](float d, float h, float raw) {
                        return d * r + std::clamp(raw * 4, -1.0f, 1.0f) * (h - r);
                    };
                    m.positions.push_back({push(n.x, half.x, c[0]), push(n.y, half.y, c[1]), push(n.z, half.z, c[2])});
                }
            const auto at = [&](int i, int j) { return base + std::uint32_t(j * (kSide + 1) + i); };
            for (int j = 0; j < kSide; ++j)
                for (int i = 0; i < kSide; ++i) {
                    mesh::Face f{{at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)}};
                    if (side < 0)
                        std::swap(f.v[1], f.v[3]);
                    m.faces.push_back(f);
                }
        }
    return m;
}

} // namespace

mesh::PolyMesh tessellate(const Form &form, const Transform &world)
{
    mesh::PolyMesh m;
    switch (form.kind) {
    case FormKind::Ball:
    case FormKind::Ellipsoid: {
        m = unitBall();
        const Vec3f r = form.kind == FormKind::Ball ? Vec3f{1, 1, 1} * form.radii.x : form.radii;
        for (Vec3f &p : m.positions)
            p = p * r;
        break;
    }
    case FormKind::Block: m = block(form.radii, form.rounding); break;
    case FormKind::Cone: m = sweep(form.path, false); break;
    case FormKind::Limb: m = sweep(form.path, true); break;
    case FormKind::Tube: m = sweep(smoothPath(form.path, 8), true); break;
    }
    for (Vec3f &p : m.positions)
        p = world.apply(p);
    return m;
}

} // namespace bonemoss::armature
