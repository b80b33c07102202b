// Unions and cuts with a soft border after A. Ricci, "A Constructive Geometry for Computer Graphics", 1973,
// here with a quadratic blend that acts only within the melting distance.
#include "armature/form.h"

#include "armature/detail/solids.h"

#include <algorithm>

namespace bonemoss::armature {

namespace {

using solids::Batch;
using solids::Distances;

constexpr int kTubeSteps = 6;    // round cones to a span of a tube
constexpr int kProfileSteps = 8; // straight pieces to a span of a turned profile
constexpr int kBodySteps = 40;   // round cones along a body
constexpr float kFar = 1e30f;

struct Solid {
    const Form *form = nullptr;
    Transform world;
    bool isTwin = false;
    std::vector<solids::Segment> segments; // of a path, in the form's own frame
    std::vector<Box3f> segmentBoxes;       // creature space
    std::vector<PathPoint> profile;        // of a turned form
    Box3f box;                             // creature space
};

Box3f transformed(const Transform &t, const Box3f &box, bool twin)
{
    Box3f out;
    for (int k = 0; k < 8; ++k) {
        const Vec3f p = t.apply({k & 1 ? box.hi.x : box.lo.x, k & 2 ? box.hi.y : box.lo.y, k & 4 ? box.hi.z : box.lo.z});
        out.add(twin ? mirrored(p) : p);
    }
    return out;
}

void addSegments(Solid &s, const std::vector<PathPoint> &path)
{
    s.segments = solids::segmentsOf(path);
    for (const solids::Segment &seg : s.segments) {
        Box3f box;
        const auto add = [&](Vec3f at, float radius, float squash) {
            // A square section reaches into its corners.
            const float r = radius * std::max(1.0f, squash) * (seg.isPlain ? 1.0f : 1.42f);
            box.add(at - Vec3f{r, r, r});
            box.add(at + Vec3f{r, r, r});
        };
        add(seg.a, seg.ra, seg.squashA);
        add(seg.a + seg.axis * seg.length, seg.rb, seg.squashB);
        s.segmentBoxes.push_back(transformed(s.world, box, s.isTwin));
        s.box.add(s.segmentBoxes.back());
    }
}

/// Balls on the axis whose envelope passes through the sections of a path that runs along z: the normal of a
/// profile r(z) meets the axis at z + r r', at a distance of r sqrt(1 + r'^2) (canal surfaces: Monge 1807).
/// Where the profile is rounder than its ball the balls run backwards; those are left out.
std::vector<PathPoint> ballsThrough(const std::vector<PathPoint> &sections)
{
    std::vector<PathPoint> balls;
    const std::size_t n = sections.size();
    const auto square = [&](std::size_t i) { return sections[i].radius * sections[i].radius; };
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t a = i > 0 ? i - 1 : 0, b = std::min(i + 1, n - 1);
        const float shift = (square(b) - square(a)) / (2 * (sections[b].at.z - sections[a].at.z)); // r r'
        PathPoint ball = sections[i];
        ball.at.z += shift;
        ball.radius = std::sqrt(square(i) + shift * shift);
        if (balls.empty() || ball.at.z > balls.back().at.z)
            balls.push_back(ball);
    }
    return balls;
}

Solid solidOf(const Form &f, const Transform &world, bool twin)
{
    Solid s{&f, world, twin, {}, {}, {}, {}};
    const auto fill = [&](Vec3f half) { s.box = transformed(world, {-half, half}, twin); };
    switch (f.kind) {
    case FormKind::Ball:
    case FormKind::Blob: fill(Vec3f{1, 1, 1} * f.radii.x); break;
    case FormKind::Ellipsoid:
    case FormKind::Block:
    case FormKind::Wedge: fill(f.radii); break;
    case FormKind::Torus: fill({f.radii.x + f.radii.y, f.radii.y, f.radii.x + f.radii.y}); break;
    case FormKind::Disc: fill({f.radii.x, f.radii.y, f.radii.x}); break;
    case FormKind::Limb:
    case FormKind::Cone:
    case FormKind::Cylinder: addSegments(s, f.path); break;
    case FormKind::Tube: addSegments(s, smoothPath(f.path, kTubeSteps)); break;
    case FormKind::Body: addSegments(s, ballsThrough(bodyPath(f, kBodySteps))); break;
    case FormKind::Turned: {
        s.profile = smoothPath(f.path, kProfileSteps);
        Box3f own;
        for (const PathPoint &p : s.profile) {
            own.add(Vec3f{p.radius, p.at.y, p.radius});
            own.add(Vec3f{-p.radius, p.at.y, -p.radius});
        }
        s.box = transformed(world, own, twin);
        break;
    }
    case FormKind::Group: break; // its box stays empty
    }
    return s;
}

/// The part of a solid that matters for a batch.
struct Candidate {
    const Solid *solid;
    std::vector<const solids::Segment *> segments;
};

/// Points in the own frame of a solid: turned back, and for forms whose shape the scale cannot be put
/// into, scaled back. Returns what distances there are to be multiplied by.
float toOwnFrame(const Solid &s, std::span<const Vec3f> points, Batch &own)
{
    const Quat back = s.world.rotation.conjugate();
    const Vec3f cx = rotate(back, {1, 0, 0}), cy = rotate(back, {0, 1, 0}), cz = rotate(back, {0, 0, 1});
    const FormKind kind = s.form->kind;
    const bool keepsScale = kind == FormKind::Ball || kind == FormKind::Blob || kind == FormKind::Ellipsoid
                            || kind == FormKind::Block || kind == FormKind::Wedge;
    const Vec3f k = s.world.scale;
    const Vec3f inverse = keepsScale ? Vec3f{1, 1, 1} : Vec3f{1 / k.x, 1 / k.y, 1 / k.z};
    const float side = s.isTwin ? -1.0f : 1.0f;
    own.n = points.size();
    for (std::size_t i = 0; i < own.n; ++i) {
        const float x = points[i].x * side - s.world.translation.x, y = points[i].y - s.world.translation.y,
                    z = points[i].z - s.world.translation.z;
        own.x[i] = (x * cx.x + y * cy.x + z * cz.x) * inverse.x;
        own.y[i] = (x * cx.y + y * cy.y + z * cz.y) * inverse.y;
        own.z[i] = (x * cx.z + y * cy.z + z * cz.z) * inverse.z;
    }
    return keepsScale ? 1 : std::min({k.x, k.y, k.z});
}

void distancesTo(const Candidate &c, std::span<const Vec3f> points, Batch &own, Distances &out)
{
    const Form &f = *c.solid->form;
    const float shrink = toOwnFrame(*c.solid, points, own);
    const Vec3f k = c.solid->world.scale;
    switch (f.kind) {
    case FormKind::Ball:
    case FormKind::Blob:
        if (k.x == k.y && k.y == k.z)
            solids::ball(own, f.radii.x * k.x, out);
        else
            solids::ellipsoid(own, k * f.radii.x, out);
        break;
    case FormKind::Ellipsoid: solids::ellipsoid(own, f.radii * k, out); break;
    case FormKind::Block: solids::block(own, f.radii * k, f.rounding * std::min({k.x, k.y, k.z}), out); break;
    case FormKind::Wedge: solids::wedge(own, f.radii * k, f.rounding * std::min({k.x, k.y, k.z}), out); break;
    case FormKind::Torus: solids::torus(own, f.radii.x, f.radii.y, out); break;
    case FormKind::Disc: solids::disc(own, f.radii.x, f.radii.y, f.rounding, out); break;
    case FormKind::Cone: solids::frustum(own, *c.segments.front(), 0, 0, out); break;
    case FormKind::Cylinder: solids::frustum(own, *c.segments.front(), f.rounding, f.bore, out); break;
    case FormKind::Turned: solids::turned(own, c.solid->profile, out); break;
    case FormKind::Group: std::fill_n(out.begin(), own.n, kFar); break;
    case FormKind::Limb:
    case FormKind::Tube:
    case FormKind::Body:
        std::fill_n(out.begin(), own.n, kFar);
        for (const solids::Segment *s : c.segments)
            solids::addRoundCone(own, *s, out);
        break;
    }
    if (shrink != 1)
        for (std::size_t i = 0; i < own.n; ++i)
            out[i] *= shrink;
}

/// Quadratic soft minimum within k mm. Its slope is a mean of the two slopes, so never steeper than they.
inline float softMin(float a, float b, float k, float inverse4k)
{
    const float h = std::max(0.0f, k - std::abs(a - b));
    return std::min(a, b) - h * h * inverse4k;
}

class ArmatureDistance final : public field::DistanceSource
{
public:
    ArmatureDistance(const Armature &armature, std::span<const std::uint32_t> only) : m_armature(armature)
    {
        for (const Form &f : m_armature.forms) {
            const bool asked = only.empty() ? f.role != FormRole::Apart && f.role != FormRole::Bone && !f.isHidden
                                            : std::find(only.begin(), only.end(), f.id) != only.end();
            if (!asked)
                continue;
            for (const Transform &world : placesOf(m_armature, f))
                for (int twin = 0; twin < (f.isMirrored ? 2 : 1); ++twin)
                    add(solidOf(f, world, twin == 1));
        }
        std::stable_partition(m_solids.begin(), m_solids.end(), [](const Solid &s) { return s.form->role != FormRole::Cut; });
        if (!m_bounds.isEmpty())
            m_bounds.grow(m_widest); // two that coincide bulge by a quarter of the blend's width, many by all of it
    }

    Box3f bounds() const override { return m_bounds; }

    void sample(const Box3f &around, std::span<const Vec3f> points, std::span<float> values) const override
    {
        thread_local std::vector<Candidate> candidates; // scratch
        findCandidates(around, points.size() >= 64, candidates);
        for (std::size_t first = 0; first < points.size(); first += Batch::kMost) {
            const std::size_t n = std::min(Batch::kMost, points.size() - first);
            sampleBatch(candidates, points.subspan(first, n), values.subspan(first, n));
        }
    }

private:
    void add(Solid s)
    {
        if (s.box.isEmpty())
            return; // curves that enclose nothing
        if (s.form->role != FormRole::Cut)
            m_bounds.add(s.box);
        m_widest = std::max(m_widest, s.form->melt);
        m_solids.push_back(std::move(s));
    }

    /// Only solids (and stretches of them) that come so near to `around` that they are, or melt into, its
    /// surface somewhere: by their boxes first, then by their distance from its middle.
    void findCandidates(const Box3f &around, bool isWorthASecondLook, std::vector<Candidate> &candidates) const
    {
        const Vec3f middle = around.centre();
        const float reach = around.diagonal() / 2 + 1.25f * m_widest; // two that coincide bulge by a quarter of it
        std::size_t n = 0;                                            // candidates keep their buffers from call to call
        for (const Solid &s : m_solids) {
            if (squaredDistance(s.box, middle) > reach * reach)
                continue;
            if (n == candidates.size())
                candidates.emplace_back();
            Candidate &c = candidates[n];
            c.solid = &s;
            c.segments.clear();
            for (std::size_t k = 0; k < s.segments.size(); ++k)
                if (squaredDistance(s.segmentBoxes[k], middle) <= reach * reach)
                    c.segments.push_back(&s.segments[k]);
            n += (s.segments.empty() || !c.segments.empty()) && !(isWorthASecondLook && isBeyond(c, middle, reach));
        }
        candidates.resize(n);
    }

    /// Drops stretches that are farther from a point than reach; true when nothing is left.
    static bool isBeyond(Candidate &c, Vec3f point, float reach)
    {
        thread_local Batch own; // scratch
        thread_local Distances distance;
        const bool isChain = c.segments.size() > 1;
        const auto isFar = [&] { return distancesTo(c, {&point, 1}, own, distance), distance[0] > reach; };
        if (!isChain)
            return isFar();
        const std::vector<const solids::Segment *> all = c.segments;
        std::vector<const solids::Segment *> kept;
        for (const solids::Segment *s : all) {
            c.segments.assign(1, s);
            if (!isFar())
                kept.push_back(s);
        }
        c.segments = std::move(kept);
        return c.segments.empty();
    }

    static void sampleBatch(const std::vector<Candidate> &candidates, std::span<const Vec3f> points, std::span<float> values)
    {
        thread_local Batch own; // scratch
        thread_local Distances distance;
        std::fill(values.begin(), values.end(), kFar);
        bool isFirst = true;
        for (const Candidate &c : candidates) {
            distancesTo(c, points, own, distance);
            const float k = c.solid->form->melt, inverse = k > 0 ? 1 / (4 * k) : 0;
            if (c.solid->form->role == FormRole::Cut)
                for (std::size_t i = 0; i < points.size(); ++i)
                    values[i] = -softMin(-values[i], distance[i], k, inverse);
            else if (isFirst)
                std::copy_n(distance.begin(), points.size(), values.begin());
            else
                for (std::size_t i = 0; i < points.size(); ++i)
                    values[i] = softMin(values[i], distance[i], k, inverse);
            isFirst = false;
        }
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
