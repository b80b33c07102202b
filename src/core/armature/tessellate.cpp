#include "armature/form.h"

#include "armature/detail/solids.h"

#include <algorithm>

namespace bonemoss::armature {

namespace {

constexpr std::uint32_t kAround = 32;
constexpr int kCapRings = 8;
/// Joins rings of kAround vertices into quads, with the first and the last vertex as a point at either end.
void joinRings(mesh::PolyMesh &m, const std::vector<std::uint32_t> &starts)
{
    const auto at = [&](std::size_t ring, std::uint32_t i) { return starts[ring] + i % kAround; };
    for (std::uint32_t i = 0; i < kAround; ++i)
        m.faces.push_back({{0, at(0, i + 1), at(0, i), kNone}});
    for (std::size_t r = 0; r + 1 < starts.size(); ++r)
        for (std::uint32_t i = 0; i < kAround; ++i)
            m.faces.push_back({{at(r, i), at(r, i + 1), at(r + 1, i + 1), at(r + 1, i)}});
    const auto end = std::uint32_t(m.positions.size() - 1);
    for (std::uint32_t i = 0; i < kAround; ++i)
        m.faces.push_back({{end, at(starts.size() - 1, i), at(starts.size() - 1, i + 1), kNone}});
}

/// Sweeps the sections of a path, with round ends or flat ones. Sections turn as they do when knitted.
mesh::PolyMesh sweep(const std::vector<PathPoint> &path, bool round)
{
    const std::vector<solids::Segment> segments = solids::segmentsOf(path);
    if (segments.empty())
        return {};
    mesh::PolyMesh m;
    std::vector<std::uint32_t> starts;
    const auto ring = [&](Vec3f c, Vec3f u, Vec3f v, const PathPoint &p, float size) {
        starts.push_back(std::uint32_t(m.positions.size()));
        const float r = p.radius * size, straight = r * 0.9f * p.square, corner = r - straight;
        for (std::uint32_t i = 0; i < kAround; ++i) {
            const float a = 2 * kPi * float(i) / float(kAround), cs = std::cos(a), sn = std::sin(a);
            // A circle whose quarters are pushed apart: a rounded square.
            const float x = cs * corner + std::clamp(cs * 4, -1.0f, 1.0f) * straight;
            const float y = sn * corner + std::clamp(sn * 4, -1.0f, 1.0f) * straight;
            m.positions.push_back(c + u * (x * p.squash) + v * y);
        }
    };
    const auto cap = [&](const PathPoint &p, const solids::Segment &s, bool start) {
        for (int k = 1; k < kCapRings; ++k) {
            const float a = kPi / 2 * float(start ? kCapRings - k : k) / kCapRings;
            ring(p.at + s.axis * (p.radius * std::sin(a) * (start ? -1.0f : 1.0f)), s.u, s.v, p, std::cos(a));
        }
    };
    const solids::Segment &front = segments.front(), &back = segments.back();
    m.positions.push_back(path.front().at - front.axis * (round ? path.front().radius : 0.0f));
    if (round)
        cap(path.front(), front, true);
    for (std::size_t i = 0; i < path.size(); ++i) {
        const solids::Segment &a = segments[std::min(i > 0 ? i - 1 : 0, segments.size() - 1)];
        const solids::Segment &b = segments[std::min(i, segments.size() - 1)];
        ring(path[i].at, normalized(a.u + b.u), normalized(a.v + b.v), path[i], 1);
    }
    if (round)
        cap(path.back(), back, false);
    m.positions.push_back(path.back().at + back.axis * (round ? path.back().radius : 0.0f));
    joinRings(m, starts);
    return m;
}

/// Turns a closed profile of (distance from the axis, height) about the y axis.
mesh::PolyMesh revolve(const std::vector<std::pair<float, float>> &profile)
{
    mesh::PolyMesh m;
    const auto n = std::uint32_t(profile.size());
    for (const auto &[r, y] : profile)
        for (std::uint32_t i = 0; i < kAround; ++i) {
            const float a = 2 * kPi * float(i) / float(kAround);
            m.positions.push_back({r * std::sin(a), y, r * std::cos(a)});
        }
    for (std::uint32_t k = 0; k < n; ++k)
        for (std::uint32_t i = 0; i < kAround; ++i) {
            const std::uint32_t l = (k + 1) % n, j = (i + 1) % kAround;
            m.faces.push_back({{k * kAround + i, k * kAround + j, l * kAround + j, l * kAround + i}});
        }
    return m;
}

/// A quarter of a circle from angle `from` (radians) about (x, y), as part of a profile.
void addArc(std::vector<std::pair<float, float>> &profile, float x, float y, float r, float from)
{
    constexpr int kSteps = 6;
    for (int k = 0; k <= kSteps; ++k) {
        const float a = from + kPi / 2 * float(k) / kSteps;
        profile.emplace_back(std::max(x + r * std::cos(a), 0.0f), y + r * std::sin(a));
    }
}

mesh::PolyMesh torus(float ring, float tube)
{
    std::vector<std::pair<float, float>> profile;
    for (int k = 0; k < 24; ++k)
        profile.emplace_back(ring + tube * std::cos(kPi / 12 * float(k)), tube * std::sin(kPi / 12 * float(k)));
    return revolve(profile);
}

mesh::PolyMesh disc(float radius, float half, float rounding)
{
    const float r = std::min({rounding, radius, half});
    std::vector<std::pair<float, float>> profile{{0, -half}};
    addArc(profile, radius - r, r - half, r, -kPi / 2);
    addArc(profile, radius - r, half - r, r, 0);
    profile.emplace_back(0, half);
    return revolve(profile);
}

/// Rounded frustum about +y from the origin, bored or not, then laid along its path.
mesh::PolyMesh cylinder(const Form &f)
{
    const solids::Segment s = solids::segmentsOf(f.path).front();
    const float r = std::min({f.rounding, s.length * 0.49f, std::min(s.ra, s.rb) * (1 - f.bore) * 0.49f});
    std::vector<std::pair<float, float>> profile{{s.ra * f.bore, 0}};
    addArc(profile, s.ra - r, r, r, -kPi / 2);
    addArc(profile, s.rb - r, s.length - r, r, 0);
    profile.emplace_back(s.rb * f.bore, s.length);
    mesh::PolyMesh m = revolve(profile);
    for (Vec3f &p : m.positions)
        p = s.a + s.axis * p.y + s.v * p.x + s.u * p.z;
    return m;
}

mesh::PolyMesh turnedForm(const std::vector<PathPoint> &path)
{
    std::vector<std::pair<float, float>> profile;
    const auto smooth = smoothPath(path, 8);
    const bool isRising = smooth.back().at.y >= smooth.front().at.y; // outwards is to the right of the way up
    profile.emplace_back(0, smooth.front().at.y);
    for (const PathPoint &p : smooth)
        profile.emplace_back(p.radius, p.at.y);
    profile.emplace_back(0, smooth.back().at.y);
    if (!isRising)
        std::reverse(profile.begin(), profile.end());
    return revolve(profile);
}

mesh::PolyMesh wedge(Vec3f h)
{
    // Corners have a vertex for each side, so that its edges are drawn sharp.
    const Vec3f b0{-h.x, -h.y, -h.z}, b1{h.x, -h.y, -h.z}, t0{-h.x, h.y, -h.z}, t1{h.x, h.y, -h.z};
    const Vec3f f0{-h.x, -h.y, h.z}, f1{h.x, -h.y, h.z};
    mesh::PolyMesh m;
    const auto side = [&](std::initializer_list<Vec3f> corners) {
        const auto base = std::uint32_t(m.positions.size());
        m.positions.insert(m.positions.end(), corners);
        m.faces.push_back({{base, base + 1, base + 2, corners.size() == 4 ? base + 3 : kNone}});
    };
    side({b0, b1, f1, f0}); // belly
    side({b1, b0, t0, t1}); // back
    side({t1, t0, f0, f1}); // ramp
    side({b1, t1, f1});
    side({b0, f0, t0});
    return m;
}

mesh::PolyMesh unitBall()
{
    mesh::PolyMesh m;
    std::vector<std::uint32_t> starts;
    constexpr int kRings = 20;
    m.positions.push_back({0, -1, 0});
    for (int k = 1; k < kRings; ++k) {
        const float a = kPi * float(k) / kRings;
        starts.push_back(std::uint32_t(m.positions.size()));
        for (std::uint32_t i = 0; i < kAround; ++i) {
            const float b = 2 * kPi * float(i) / float(kAround);
            m.positions.push_back({std::sin(a) * std::sin(b), -std::cos(a), std::sin(a) * std::cos(b)});
        }
    }
    m.positions.push_back({0, 1, 0});
    joinRings(m, starts);
    return m;
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
    case FormKind::Blob:
    case FormKind::Ellipsoid: {
        m = unitBall();
        const Vec3f r = form.kind != FormKind::Ellipsoid ? Vec3f{1, 1, 1} * form.radii.x : form.radii;
        for (Vec3f &p : m.positions)
            p = p * r;
        break;
    }
    case FormKind::Block: m = block(form.radii, form.rounding); break;
    case FormKind::Cone: m = sweep(form.path, false); break;
    case FormKind::Limb: m = sweep(form.path, true); break;
    case FormKind::Tube: m = sweep(smoothPath(form.path, 8), true); break;
    case FormKind::Body: m = sweep(bodyPath(form, 32), true); break;
    case FormKind::Cylinder: m = cylinder(form); break;
    case FormKind::Torus: m = torus(form.radii.x, form.radii.y); break;
    case FormKind::Disc: m = disc(form.radii.x, form.radii.y, form.rounding); break;
    case FormKind::Wedge: m = wedge(form.radii); break;
    case FormKind::Turned: m = turnedForm(form.path); break;
    case FormKind::Group: break;
    }
    for (Vec3f &p : m.positions)
        p = world.apply(p);
    return m;
}

} // namespace bonemoss::armature
