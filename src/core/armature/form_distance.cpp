// Distances in closed form: a ball and block by their definition; the round cone as the envelope of
// balls along a segment (two tangent circles in the plane of the point and the axis); unions and cuts
// with a soft border after A. Ricci, "A Constructive Geometry for Computer Graphics", 1973, here with a
// quadratic blend that acts only within the melting distance.
#include "armature/form.h"

#include <algorithm>

namespace bonemoss::armature {

namespace {

constexpr int kTubeSteps = 6; // round cones to a span of a tube
constexpr float kFar = 1e30f;

struct Segment {   // round cone, or flat-ended cone, in the form's own scaled frame
    Vec3f a, axis; // axis is unit
    float length = 0, ra = 0, rb = 0;
    Box3f box; // creature space
};

struct Solid {
    const Form *form = nullptr;
    Transform world;
    bool isTwin = false;
    std::vector<Segment> segments;
    Box3f box; // creature space
};

/// Distance to the envelope of balls whose radius runs from ra to rb along a segment.
float roundCone(const Segment &s, Vec3f p)
{
    const Vec3f d = p - s.a;
    const float y = dot(d, s.axis);
    const float x = std::sqrt(std::max(0.0f, squaredLength(d) - y * y));
    const float slope = (s.ra - s.rb) / s.length; // sine of the half angle
    if (s.length <= std::abs(s.ra - s.rb))        // one ball holds the other
        return s.ra > s.rb ? length(d) - s.ra : length(d - s.axis * s.length) - s.rb;
    const float c = std::sqrt(1 - slope * slope);
    const float along = y * c - x * slope; // position on the slanted side
    if (along < 0)
        return std::sqrt(x * x + y * y) - s.ra;
    if (along > s.length * c)
        return std::sqrt(x * x + (y - s.length) * (y - s.length)) - s.rb;
    return x * c + y * slope - s.ra;
}

/// Distance to a cone frustum with flat ends.
float flatCone(const Segment &s, Vec3f p)
{
    const Vec3f d = p - s.a;
    const float y = dot(d, s.axis);
    const float x = std::sqrt(std::max(0.0f, squaredLength(d) - y * y));
    const float dr = s.rb - s.ra, side = std::sqrt(dr * dr + s.length * s.length);
    const float toSide = ((x - s.ra) * s.length - y * dr) / side; // signed, to the slanted line
    const float toEnds = std::max(-y, y - s.length);
    if (toEnds <= 0 && toSide <= 0)
        return std::max(toEnds, toSide);
    const float t = std::clamp(((x - s.ra) * dr + y * s.length) / (side * side), 0.0f, 1.0f);
    const float onSide = std::hypot(x - (s.ra + dr * t), y - s.length * t);
    const float onA = std::hypot(std::max(0.0f, x - s.ra), y), onB = std::hypot(std::max(0.0f, x - s.rb), y - s.length);
    return std::min({onSide, onA, onB});
}

/// First-order distance to an ellipsoid: value over gradient length (Taubin 1994); exact for a ball.
float ellipsoid(Vec3f p, Vec3f r)
{
    const Vec3f q{p.x / r.x, p.y / r.y, p.z / r.z}, g{q.x / r.x, q.y / r.y, q.z / r.z};
    const float k = length(q), slope = length(g);
    if (slope < 1e-9f)
        return -std::min({r.x, r.y, r.z});
    return k * (k - 1) / slope;
}

float roundedBlock(Vec3f p, Vec3f half, float rounding)
{
    const float r = std::min(rounding, std::min({half.x, half.y, half.z}));
    const Vec3f q{std::abs(p.x) - half.x + r, std::abs(p.y) - half.y + r, std::abs(p.z) - half.z + r};
    return length(max(q, {})) + std::min(0.0f, std::max({q.x, q.y, q.z})) - r;
}

Box3f transformed(const Transform &t, const Box3f &box, bool twin)
{
    Box3f out;
    for (int k = 0; k < 8; ++k) {
        const Vec3f p = t.apply({k & 1 ? box.hi.x : box.lo.x, k & 2 ? box.hi.y : box.lo.y, k & 4 ? box.hi.z : box.lo.z});
        out.add(twin ? mirrored(p) : p);
    }
    return out;
}

Solid solidOf(const Form &f, const Transform &world, bool twin)
{
    Solid s{&f, world, twin, {}, {}};
    Box3f own;
    switch (f.kind) {
    case FormKind::Ball: own = {{-f.radii.x, -f.radii.x, -f.radii.x}, {f.radii.x, f.radii.x, f.radii.x}}; break;
    case FormKind::Ellipsoid:
    case FormKind::Block: own = {-f.radii, f.radii}; break;
    default: {
        const auto points = f.kind == FormKind::Tube ? smoothPath(f.path, kTubeSteps) : f.path;
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
            const Vec3f d = points[i + 1].at - points[i].at;
            Segment seg{points[i].at, normalized(d), std::max(length(d), 1e-6f), points[i].radius, points[i + 1].radius, {}};
            Box3f box;
            for (const PathPoint &p : {points[i], points[i + 1]}) {
                const Vec3f r{p.radius, p.radius, p.radius};
                box.add(p.at - r);
                box.add(p.at + r);
            }
            seg.box = transformed(world, box, twin);
            own.add(box);
            s.segments.push_back(seg);
        }
    }
    }
    s.box = transformed(world, own, twin);
    return s;
}

float distanceTo(const Solid &s, Vec3f p, const std::vector<const Segment *> &segments)
{
    const Transform &t = s.world;
    Vec3f q = rotate(t.turn.conjugate(), (s.isTwin ? mirrored(p) : p) - t.move);
    const Vec3f k = t.scale;
    const Form &f = *s.form;
    if (f.kind == FormKind::Ball)
        return k.x == k.y && k.y == k.z ? length(q) - f.radii.x * k.x : ellipsoid(q, k * f.radii.x);
    if (f.kind == FormKind::Ellipsoid)
        return ellipsoid(q, f.radii * k);
    if (f.kind == FormKind::Block)
        return roundedBlock(q, f.radii * k, f.rounding * std::min({k.x, k.y, k.z}));
    q = {q.x / k.x, q.y / k.y, q.z / k.z};
    float d = kFar;
    for (const Segment *seg : segments)
        d = std::min(d, f.kind == FormKind::Cone ? flatCone(*seg, q) : roundCone(*seg, q));
    return d * std::min({k.x, k.y, k.z});
}

float softMin(float a, float b, float k)
{
    const float h = std::max(0.0f, k - std::abs(a - b));
    return k > 0 ? std::min(a, b) - h * h / (4 * k) : std::min(a, b);
}

class ArmatureDistance final : public field::DistanceSource
{
public:
    ArmatureDistance(const Armature &armature, std::span<const std::uint32_t> only) : m_armature(armature)
    {
        for (const Form &f : m_armature.forms) {
            const bool asked =
                only.empty() ? f.role != FormRole::Apart && !f.isHidden : std::find(only.begin(), only.end(), f.id) != only.end();
            if (!asked)
                continue;
            const Transform world = m_armature.worldPlace(f);
            for (int twin = 0; twin < (f.isMirrored ? 2 : 1); ++twin) {
                m_solids.push_back(solidOf(f, world, twin == 1));
                if (f.role != FormRole::Cut)
                    m_bounds.add(m_solids.back().box);
                m_widest = std::max(m_widest, f.melt);
            }
        }
        std::stable_partition(m_solids.begin(), m_solids.end(), [](const Solid &s) { return s.form->role != FormRole::Cut; });
        if (!m_bounds.isEmpty())
            m_bounds.grow(m_widest * 0.25f); // the quadratic blend bulges by a quarter of its width at most
    }

    Box3f bounds() const override { return m_bounds; }

    void sample(const Box3f &around, std::span<const Vec3f> points, std::span<float> values) const override
    {
        // Only solids (and round cones) whose box may be nearest, or may melt in, somewhere in `around`.
        const Vec3f middle = around.centre();
        const float radius = around.isEmpty() ? 0 : around.diagonal() / 2;
        float nearest = kFar;
        for (const Solid &s : m_solids)
            if (s.form->role != FormRole::Cut)
                nearest = std::min(nearest, farthestBound(s, middle));
        const float reach = nearest + 2 * radius + m_widest;
        thread_local std::vector<Candidate> candidates; // scratch
        candidates.clear();
        for (const Solid &s : m_solids) {
            if (squaredDistance(s.box, middle) > reach * reach)
                continue;
            Candidate c{&s, {}};
            for (const Segment &seg : s.segments)
                if (squaredDistance(seg.box, middle) <= reach * reach)
                    c.segments.push_back(&seg);
            candidates.push_back(std::move(c));
        }
        for (std::size_t i = 0; i < points.size(); ++i) {
            float d = kFar;
            for (const Candidate &c : candidates) {
                const float own =
                    c.segments.empty() && !c.solid->segments.empty() ? kFar : distanceTo(*c.solid, points[i], c.segments);
                if (c.solid->form->role == FormRole::Cut)
                    d = -softMin(-d, own, c.solid->form->melt);
                else
                    d = d == kFar ? own : softMin(d, own, c.solid->form->melt);
            }
            values[i] = d;
        }
    }

private:
    struct Candidate {
        const Solid *solid;
        std::vector<const Segment *> segments;
    };

    /// The solid's surface is not farther from p than this.
    static float farthestBound(const Solid &s, Vec3f p)
    {
        float best = length(s.box.centre() - p) + s.box.diagonal() / 2;
        for (const Segment &seg : s.segments)
            best = std::min(best, length(seg.box.centre() - p) + seg.box.diagonal() / 2);
        return best;
    }

    Armature m_armature;
    std::vector<Solid> m_solids;
    Box3f m_bounds;
    float m_widest = 0;
};

} // namespace

std::unique_ptr<field::DistanceSource> makeDistance(const Armature &armature, std::span<const std::uint32_t> only)
{
    return std::make_unique<ArmatureDistance>(armature, only);
}

} // namespace bonemoss::armature
