// Distances in closed form, in loops without branches. The ball, block, torus, disc and frustum by their
// definitions as offsets of simpler sets (Hart 1996, "Sphere tracing", appendix A); the round cone as the
// envelope of balls along a segment (two tangent circles in the plane of the point and the axis); the
// ellipsoid by Newton's method on the secular equation of its nearest point.
#include "armature/detail/solids.h"

#include "base/wide.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::armature::solids {

namespace {

inline float square(float a)
{
    return a * a;
}
inline float norm(float a, float b)
{
    return std::sqrt(a * a + b * b);
}
/// Signed distance to a rectangle about the origin.
inline float rectangle(float x, float y, float halfX, float halfY)
{
    const float dx = std::abs(x) - halfX, dy = std::abs(y) - halfY;
    return norm(std::max(dx, 0.0f), std::max(dy, 0.0f)) + std::min(std::max(dx, dy), 0.0f);
}
/// Squared distance from a point to a segment a-b in the plane.
inline float toSegment(float x, float y, float ax, float ay, float bx, float by)
{
    const float dx = bx - ax, dy = by - ay;
    const float t = std::clamp(((x - ax) * dx + (y - ay) * dy) / std::max(dx * dx + dy * dy, 1e-20f), 0.0f, 1.0f);
    return square(x - ax - dx * t) + square(y - ay - dy * t);
}
/// Flips `inside` where a horizontal ray from the point meets the edge a-b once.
inline bool crosses(float x, float y, float ax, float ay, float bx, float by)
{
    return (ay > y) != (by > y) && x < ax + (bx - ax) * (y - ay) / (by - ay);
}
/// Position along a segment and distance from its axis.
struct Cylindric {
    float along, away;
};
inline Cylindric about(const Segment &s, float x, float y, float z)
{
    const float dx = x - s.a.x, dy = y - s.a.y, dz = z - s.a.z;
    const float along = dx * s.axis.x + dy * s.axis.y + dz * s.axis.z;
    return {along, std::sqrt(std::max(0.0f, dx * dx + dy * dy + dz * dz - along * along))};
}

} // namespace

std::vector<Segment> segmentsOf(const std::vector<PathPoint> &path)
{
    std::vector<Segment> out;
    Vec3f u, axis;
    for (std::size_t i = 0; i + 1 < path.size(); ++i) {
        const PathPoint &p = path[i], &q = path[i + 1];
        Segment s;
        const float size = length(q.at - p.at);
        if (!(size > 1e-6f))
            continue;
        s.a = p.at, s.axis = (q.at - p.at) * (1 / size), s.length = size, s.ra = p.radius, s.rb = q.radius;
        if (out.empty()) // the section of a path that lies flat stands upright
            u = normalized(cross(std::abs(s.axis.y) < 0.95f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1}, s.axis));
        else
            u = rotate(rotationFromTo(axis, s.axis), u);
        axis = s.axis;
        const float turn = (p.rotation + q.rotation) / 2;
        const Vec3f v = cross(s.axis, u);
        s.u = u * std::cos(turn) + v * std::sin(turn);
        s.v = cross(s.axis, s.u);
        s.squashA = p.squash, s.squashB = q.squash, s.squareA = p.square, s.squareB = q.square;
        s.isPlain = p.squash == 1 && q.squash == 1 && p.square == 0 && q.square == 0;
        out.push_back(s);
    }
    return out;
}

BONEMOSS_WIDE void ball(const Batch &p, float radius, Distances &out)
{
    for (std::size_t i = 0; i < p.n; ++i)
        out[i] = std::sqrt(p.x[i] * p.x[i] + p.y[i] * p.y[i] + p.z[i] * p.z[i]) - radius;
}

BONEMOSS_WIDE void ellipsoid(const Batch &p, Vec3f r, Distances &out)
{
    // D. Eberly, "Distance from a Point to an Ellipse, an Ellipsoid, or a Hyperellipsoid", 2013: the nearest
    // point is r_i^2 p_i / (r_i^2 + t) for the root t of sum (r_i p_i / (r_i^2 + t))^2 = 1. The function falls
    // and is convex right of -min r_i^2, so that Newton's steps from its left never pass the root.
    constexpr int kSteps = 6;
    const float least = std::min({r.x, r.y, r.z});
    const Vec3f r2 = r * r;
    for (std::size_t i = 0; i < p.n; ++i) {
        // A hair off the middle planes of the form, where the equation has no root of this kind.
        const float x = std::max(std::abs(p.x[i]), 1e-3f * least), y = std::max(std::abs(p.y[i]), 1e-3f * least),
                    z = std::max(std::abs(p.z[i]), 1e-3f * least);
        float t = std::max({r.x * x - r2.x, r.y * y - r2.y, r.z * z - r2.z});
        for (int k = 0; k < kSteps; ++k) {
            const float ax = 1 / (r2.x + t), ay = 1 / (r2.y + t), az = 1 / (r2.z + t);
            const float gx = square(r.x * x * ax), gy = square(r.y * y * ay), gz = square(r.z * z * az);
            t += (gx + gy + gz - 1) / (2 * (gx * ax + gy * ay + gz * az));
        }
        const float ex = x * t / (r2.x + t), ey = y * t / (r2.y + t), ez = z * t / (r2.z + t);
        const float d = std::sqrt(ex * ex + ey * ey + ez * ez);
        const float sum = square(p.x[i] / r.x) + square(p.y[i] / r.y) + square(p.z[i] / r.z); // exact in sign
        out[i] = sum < 1 ? -d : d;
    }
}

BONEMOSS_WIDE void block(const Batch &p, Vec3f half, float rounding, Distances &out)
{
    const float r = std::min(rounding, std::min({half.x, half.y, half.z}));
    for (std::size_t i = 0; i < p.n; ++i) {
        const float x = std::abs(p.x[i]) - half.x + r, y = std::abs(p.y[i]) - half.y + r, z = std::abs(p.z[i]) - half.z + r;
        const float ox = std::max(x, 0.0f), oy = std::max(y, 0.0f), oz = std::max(z, 0.0f);
        out[i] = std::sqrt(ox * ox + oy * oy + oz * oz) + std::min(std::max(x, std::max(y, z)), 0.0f) - r;
    }
}

BONEMOSS_WIDE void torus(const Batch &p, float ring, float tube, Distances &out)
{
    for (std::size_t i = 0; i < p.n; ++i)
        out[i] = norm(norm(p.x[i], p.z[i]) - ring, p.y[i]) - tube;
}

BONEMOSS_WIDE void disc(const Batch &p, float radius, float half, float rounding, Distances &out)
{
    const float r = std::min({rounding, radius, half});
    for (std::size_t i = 0; i < p.n; ++i) {
        const float away = norm(p.x[i], p.z[i]) - radius + r, above = std::abs(p.y[i]) - half + r;
        out[i] = norm(std::max(away, 0.0f), std::max(above, 0.0f)) + std::min(std::max(away, above), 0.0f) - r;
    }
}

BONEMOSS_WIDE void wedge(const Batch &p, Vec3f half, float rounding, Distances &out)
{
    // Its side is a triangle, high at the back (-z) and sharp at the front; rounding shrinks it towards the
    // middle of its inscribed circle and grows it again.
    const float width = 2 * half.z, height = 2 * half.y, slope = norm(width, height);
    const float inner = width * height / (width + height + slope); // radius of the inscribed circle
    const float r = std::min({rounding, inner * 0.98f, half.x * 0.98f}), keep = 1 - r / inner;
    const float cz = -half.z + inner, cy = -half.y + inner;
    const auto z = [&](float at) { return cz + (at - cz) * keep; };
    const auto y = [&](float at) { return cy + (at - cy) * keep; };
    const float az = z(-half.z), ay = y(-half.y), bz = z(half.z), cyTop = y(half.y);
    for (std::size_t i = 0; i < p.n; ++i) {
        const float pz = p.z[i], py = p.y[i];
        const float d2 = std::min(
            {toSegment(pz, py, az, ay, bz, ay), toSegment(pz, py, bz, ay, az, cyTop), toSegment(pz, py, az, cyTop, az, ay)});
        const bool inside = pz > az && py > ay && (pz - az) / (bz - az) + (py - ay) / (cyTop - ay) < 1;
        const float side = inside ? -std::sqrt(d2) : std::sqrt(d2), across = std::abs(p.x[i]) - half.x + r;
        out[i] = norm(std::max(side, 0.0f), std::max(across, 0.0f)) + std::min(std::max(side, across), 0.0f) - r;
    }
}

BONEMOSS_WIDE void frustum(const Batch &p, const Segment &s, float rounding, float bore, Distances &out)
{
    const float dr = s.rb - s.ra, slant = norm(dr, s.length);
    const float r = std::min({rounding, s.length * 0.49f, std::max(s.ra, s.rb) * 0.98f});
    // The frustum whose offset by r has these sides and ends.
    const float shift = r * slant / s.length;
    const float y0 = r, y1 = s.length - r;
    const float r0 = std::max(s.ra + dr * y0 / s.length - shift, 0.0f), r1 = std::max(s.ra + dr * y1 / s.length - shift, 0.0f);
    const float reach = norm(r1 - r0, y1 - y0), wall = norm(dr * bore, s.length);
    for (std::size_t i = 0; i < p.n; ++i) {
        const auto [y, x] = about(s, p.x[i], p.y[i], p.z[i]);
        const float side = ((x - r0) * (y1 - y0) - (y - y0) * (r1 - r0)) / reach;
        const float ends = std::max(y0 - y, y - y1);
        const float within = std::max(side, ends);
        const float edges = std::sqrt(
            std::min({toSegment(x, y, r0, y0, r1, y1), toSegment(x, y, 0, y0, r0, y0), toSegment(x, y, 0, y1, r1, y1)}));
        float d = (within <= 0 ? within : edges) - r;
        if (bore > 0) {
            const float hollow = ((x - s.ra * bore) * s.length - y * dr * bore) / wall;
            d = std::max(d, -hollow);
        }
        out[i] = d;
    }
}

BONEMOSS_WIDE void turned(const Batch &p, const std::vector<PathPoint> &profile, Distances &out)
{
    std::array<float, Batch::kMost> nearest;
    std::array<bool, Batch::kMost> inside{};
    std::fill_n(nearest.begin(), p.n, 1e30f);
    std::array<float, Batch::kMost> away;
    for (std::size_t i = 0; i < p.n; ++i)
        away[i] = norm(p.x[i], p.z[i]);
    const std::size_t count = profile.size();
    for (std::size_t k = 0; k <= count; ++k) { // from the axis out, along, and back to the axis
        const float ax = k == 0 ? 0 : profile[k - 1].radius, ay = profile[k == 0 ? 0 : k - 1].at.y;
        const float bx = k == count ? 0 : profile[k].radius, by = profile[k == count ? count - 1 : k].at.y;
        for (std::size_t i = 0; i < p.n; ++i) {
            nearest[i] = std::min(nearest[i], toSegment(away[i], p.y[i], ax, ay, bx, by));
            inside[i] = inside[i] != crosses(away[i], p.y[i], ax, ay, bx, by);
        }
    }
    // The axis itself closes the profile but is no surface; a ray along +r from inside leaves once.
    for (std::size_t i = 0; i < p.n; ++i)
        out[i] = inside[i] ? -std::sqrt(nearest[i]) : std::sqrt(nearest[i]);
}

namespace {

/// Distance to the envelope of balls whose radius runs from ra to rb, for a point `along` the axis and
/// `away` from it: that to the ball whose normal through the point stands on the slanted side.
inline float roundCone(float size, float ra, float sine, float tangent, float along, float away)
{
    const float at = std::min(std::max(along - away * tangent, 0.0f), size);
    return norm(away, along - at) - (ra - sine * at);
}

} // namespace

BONEMOSS_WIDE void addRoundCone(const Batch &p, const Segment &segment, Distances &out)
{
    const Segment s = segment; // a copy of its own, so that writing the distances cannot change it
    const bool isBall = s.length <= std::abs(s.ra - s.rb) * 1.0001f; // one ball holds the other
    const float sine = isBall ? 0 : (s.ra - s.rb) / s.length, tangent = sine / std::sqrt(1 - sine * sine);
    if (isBall) {
        const Vec3f c = s.ra > s.rb ? s.a : s.a + s.axis * s.length;
        const float r = std::max(s.ra, s.rb);
        for (std::size_t i = 0; i < p.n; ++i)
            out[i] = std::min(out[i], std::sqrt(square(p.x[i] - c.x) + square(p.y[i] - c.y) + square(p.z[i] - c.z)) - r);
        return;
    }
    if (s.isPlain) {
        for (std::size_t i = 0; i < p.n; ++i) {
            const auto [along, away] = about(s, p.x[i], p.y[i], p.z[i]);
            out[i] = std::min(out[i], roundCone(s.length, s.ra, sine, tangent, along, away));
        }
        return;
    }
    // Squashed sections are measured where they are round, and the measure shrunk by the squash, which
    // never makes it longer than the way itself.
    for (std::size_t i = 0; i < p.n; ++i) {
        const float dx = p.x[i] - s.a.x, dy = p.y[i] - s.a.y, dz = p.z[i] - s.a.z;
        const float along = dx * s.axis.x + dy * s.axis.y + dz * s.axis.z;
        const float t = std::min(std::max(along / s.length, 0.0f), 1.0f);
        const float squash = s.squashA + (s.squashB - s.squashA) * t, square = s.squareA + (s.squareB - s.squareA) * t;
        const float u = (dx * s.u.x + dy * s.u.y + dz * s.u.z) / squash, v = dx * s.v.x + dy * s.v.y + dz * s.v.z;
        const float r = s.ra + (s.rb - s.ra) * t, corner = r * (1 - 0.9f * square);
        const float away = rectangle(u, v, r - corner, r - corner) - corner + r;
        out[i] = std::min(out[i], roundCone(s.length, s.ra, sine, tangent, along, std::max(away, 0.0f)) * std::min(squash, 1.0f));
    }
}

} // namespace bonemoss::armature::solids
