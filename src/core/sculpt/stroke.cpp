#include "sculpt/stroke.h"

#include "base/parallel.h"
#include "base/random.h"
#include "image/picture.h"
#include "sculpt/dab.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bonemoss::sculpt {

namespace {

/// Unit axes of a picture lying on the surface: v away from the floor where that is defined.
void pictureAxes(Dab &dab, float turn)
{
    const Vec3f up = std::abs(dab.normal.y) < 0.95f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
    const Vec3f u = normalized(cross(up, dab.normal));
    const Vec3f v = cross(dab.normal, u);
    dab.u = u * std::cos(turn) + v * std::sin(turn);
    dab.v = v * std::cos(turn) - u * std::sin(turn);
}

/// By how much a picture turns so that its top lies where the pen leans to; 0 for an upright one.
float leanTurn(Dab dab, float tilt)
{
    if (tilt <= 0 || dab.lean == Vec3f{})
        return 0;
    pictureAxes(dab, 0);
    const float x = dot(dab.lean, dab.u), y = dot(dab.lean, dab.v);
    return x * x + y * y < 1e-4f ? 0 : -std::atan2(x, y);
}

} // namespace

Stroke::Stroke(mesh::Surface &surface, mesh::BlockArray<std::uint8_t> &mask, StrokeSettings settings, StrokeNeeds needs)
    : m_surface(surface), m_mask(mask), m_start(surface), m_settings(std::move(settings)), m_needs(std::move(needs)),
      m_places(m_settings.isMirrored ? m_settings.symmetry.places() : std::vector<Isometry>(1)),
      m_touched(surface.positions.blockCount(), false), m_dirty(surface.positions.blockCount(), false),
      m_work(new DabWork{surface, mask, m_settings, m_start, m_needs, m_places})
{
    assert(!changesFaces(m_settings.tool) || m_needs.evenOut);
    assert(!mixes(m_settings.tool) || m_needs.mix);
    if (m_settings.tool == Tool::Stamp)
        m_picture = m_settings.picture ? m_settings.picture.get() : image::builtInStamp(m_settings.stamp);
    if (m_settings.planeFrom == PlaneFrom::Locked)
        m_plane = {m_settings.planePoint, m_settings.planeNormal};
}

Stroke::~Stroke() = default;

std::optional<mesh::Hit> Stroke::find(const mesh::Surface &surface, const PenSample &s) const
{
    if (s.direction == Vec3f{})
        return mesh::nearestPoint(surface, s.origin);
    return mesh::castRay(surface, {s.origin, s.direction});
}

void Stroke::add(const PenSample &given)
{
    PenSample s = given;
    if (m_hasLast && m_settings.steadiness > 0) {
        const float keep = std::min(m_settings.steadiness, 0.95f);
        s.origin = lerp(s.origin, m_last.sample.origin, keep);
        if (!(s.direction == Vec3f{}))
            s.direction = normalized(lerp(s.direction, m_last.sample.direction, keep));
        s.pressure += (m_last.sample.pressure - s.pressure) * keep;
    }
    if (m_hasLast && takesHold(m_settings.tool)) {
        m_last.sample = s;
        return follow(s);
    }
    if (m_hasLast && m_settings.tool == Tool::Stamp && m_settings.isDragged) {
        m_last.sample = s;
        return stampTo(s);
    }
    const auto hit = find(m_surface, s);
    if (!hit)
        return;
    // The way is measured on the skin as it was, so that what the stroke builds up does not lengthen it.
    const auto before = m_hasLast ? find(m_start, s) : hit;
    Steady now{s, before ? before->point : hit->point};
    if (m_hasLast && m_settings.rope > 0 && !followRope(now))
        return;
    if (m_hasLast)
        return walkTo(now);
    m_hasLast = true;
    findIslands(*hit);
    m_last = now;
    if (takesHold(m_settings.tool))
        takeHold(s, *hit);
    else if (m_settings.tool == Tool::Stamp && m_settings.isDragged)
        m_grab.centre = hit->point, m_grab.normal = hit->normal;
    else
        dabAt(s, *hit);
}

void Stroke::walkTo(const Steady &next)
{
    const Steady from = m_last;
    const float path = length(next.start - from.start);
    const float step = std::max(m_settings.spacing, 0.02f) * m_settings.size;
    if (path <= 0 || !(step > 0))
        return;
    m_last = next;
    float at = step - m_leftOver;
    for (; at <= path; at += step) {
        const float t = at / path;
        PenSample s;
        s.origin = lerp(from.sample.origin, next.sample.origin, t);
        s.direction =
            from.sample.direction == Vec3f{} ? Vec3f{} : normalized(lerp(from.sample.direction, next.sample.direction, t));
        s.pressure = from.sample.pressure + (next.sample.pressure - from.sample.pressure) * t;
        s.lean = lerp(from.sample.lean, next.sample.lean, t);
        m_lastDab.along = (next.start - from.start) * (1 / path);
        if (const auto hit = find(m_surface, s))
            dabAt(s, *hit);
    }
    m_leftOver = path - (at - step);
}

/// The rope to the pen: false while it is slack; else what hangs on it comes along until it is as long as it is.
bool Stroke::followRope(Steady &next) const
{
    const float rope = m_settings.rope * m_settings.size;
    const float far = length(next.start - m_last.start);
    if (far <= rope)
        return false;
    const float share = 1 - rope / far;
    PenSample &s = next.sample;
    s.origin = lerp(m_last.sample.origin, s.origin, share);
    if (!(s.direction == Vec3f{}))
        s.direction = normalized(lerp(m_last.sample.direction, s.direction, share));
    const auto hit = find(m_start, s);
    next.start = hit ? hit->point : lerp(m_last.start, next.start, share);
    return true;
}

/// Once in a stroke: a stroke that is held to one island stays on the one that it began on.
void Stroke::findIslands(const mesh::Hit &hit)
{
    if (!m_settings.isIslandOnly || m_settings.isConnected || changesFaces(m_settings.tool))
        return;
    Dab dab;
    dab.centre = hit.point;
    m_work->island = islandUnder(m_surface, everywhere(dab, m_places), hit);
}

/// Radius of the largest dot that Spray lays, of the ring's.
constexpr float kDot = 0.22f;

void Stroke::dabAt(const PenSample &s, const mesh::Hit &way)
{
    Dab dab;
    mesh::Hit hit = way;
    const auto random = [&](std::uint64_t k) { return randomSigned(m_settings.seed, std::uint64_t(m_dabs) * 8 + k); };
    if (m_settings.scatter > 0) { // an even spot of the disc about the way
        dab.normal = way.normal;
        pictureAxes(dab, random(1) * std::numbers::pi_v<float>);
        const float far = m_settings.scatter * m_settings.size * std::sqrt(0.5f + 0.5f * random(2));
        if (const auto beside = mesh::nearestPoint(m_surface, way.point + dab.u * far))
            hit = *beside;
    }
    dab.centre = dab.base = hit.point;
    dab.normal = hit.normal;
    dab.along = m_lastDab.along;
    dab.lean = normalized(s.lean);
    const float pressure = std::clamp(s.pressure, 0.0f, 1.0f);
    dab.radius =
        radiusOf(m_settings, pressure) * (1 - 0.9f * std::clamp(m_settings.sizeScatter, 0.0f, 1.0f) * (0.5f + 0.5f * random(3)));
    if (m_settings.tool == Tool::Spray)
        dab.radius *= kDot;
    const float strength =
        m_settings.strength * (m_settings.pressureToStrength ? curved(pressure, m_settings.strengthCurve) : 1.0f);
    if (const ToolRow &row = rowOf(m_settings.tool); row.amount)
        dab.amount = row.amount(m_settings, row.isReversible && m_settings.isReversed ? -strength : strength, dab.radius);
    if (m_settings.tool == Tool::Gouge)
        dab.drag = s.direction == Vec3f{} ? -dab.normal : s.direction;
    if (m_settings.tool == Tool::Stamp) {
        const float any = randomSigned(m_settings.seed, m_dabs) * kPi;
        pictureAxes(dab, m_settings.rotation + any * m_settings.randomRotation + leanTurn(dab, m_settings.tilt));
        dab.amount *= 1 - m_settings.randomStrength * (0.5f + 0.5f * random(4));
        if (m_settings.randomFlip && random(5) > 0)
            dab.u = -dab.u;
    }
    print(dab);
}

/// The plane of Plane and Daub and the normal of what builds along the area's.
void Stroke::findPlane(Dab &dab, const std::vector<std::uint32_t> &blocks)
{
    if (m_settings.tool == Tool::Plane && m_plane) {
        dab.base = m_plane->first, dab.normal = m_plane->second;
        return;
    }
    // A plane shall not lie between this skin and another close by, so that what the dab does not reach is left out; and it
    // lies in the skin as it was, or cutting tops would lower the plane that they are cut to, and passes would climb.
    const bool isFlat = m_settings.tool == Tool::Plane || m_settings.tool == Tool::Daub;
    if (isFlat)
        m_work->weigh({dab}, blocks, true);
    const Area area = isFlat ? areaUnder(m_start, blocks, dab, &m_work->weights[0]) : areaUnder(m_surface, blocks, dab, nullptr);
    dab.base = area.point, dab.normal = area.normal;
    // Past the skin's own horizon a pen cannot press, so one that leans farther counts as leaning to it.
    if (m_settings.tilt > 0 && m_settings.tool != Tool::Stamp && dot(dab.lean, dab.normal) > 0)
        dab.normal = normalized(lerp(dab.normal, dab.lean, std::min(m_settings.tilt, 1.0f)));
    if (m_settings.tool == Tool::Plane && m_settings.planeFrom == PlaneFrom::Start)
        m_plane = {area.point, area.normal};
}

void Stroke::print(Dab dab)
{
    ++m_dabs;
    const std::vector<std::uint32_t> blocks = blocksOf(m_surface, everywhere(dab, m_places));
    if (rowOf(m_settings.tool).plane == DabPlane::Area)
        findPlane(dab, blocks);
    const DabSet dabs = everywhere(dab, m_places);
    m_lastDab = dab;
    if (changesFaces(m_settings.tool))
        return changeFaces(dabs);
    const int passes = 1 + int(dab.amount * 3);
    if (m_settings.tool == Tool::Smooth && m_settings.reach > 0)
        applyBroadSmooth(*m_work, dabs, blocks, passes);
    else if (m_settings.tool == Tool::Smooth)
        applySmooth(*m_work, dabs, blocks, passes);
    else if (m_settings.tool == Tool::Relax)
        applyRelax(*m_work, dabs, blocks, passes);
    else if (mixes(m_settings.tool))
        m_needs.mix(dabs, blocks, sharesUnder(*m_work, dabs, blocks));
    else if (marks(m_settings.tool))
        applyMask(*m_work, dabs, blocks);
    else
        applyDab(*m_work, dabs, blocks, m_settings.tool == Tool::Stamp ? m_picture : nullptr);
    mark(blocks);
}

void Stroke::stampTo(const PenSample &s)
{
    // The print always starts again from the skin as it was, with the size and angle drawn so far.
    const std::vector<std::uint32_t> before = touched();
    for (const std::uint32_t b : before) {
        m_surface.positions.takeFrom(m_start.positions, b);
        m_surface.normals.takeFrom(m_start.normals, b);
        m_surface.bounds[b] = m_start.bounds[b];
    }
    updateTree(m_surface, before);
    mark(before);
    Vec3f target = s.origin;
    if (!(s.direction == Vec3f{})) { // where the pen's ray meets the plane of the print
        const float slope = dot(s.direction, m_grab.normal);
        if (std::abs(slope) < 0.05f)
            return;
        target = s.origin + s.direction * (dot(m_grab.centre - s.origin, m_grab.normal) / slope);
    }
    Vec3f arm = target - m_grab.centre;
    arm -= m_grab.normal * dot(arm, m_grab.normal);
    Dab dab = m_grab;
    dab.radius = length(arm);
    if (dab.radius < 1e-3f)
        return;
    pictureAxes(dab, 0);
    const float angle = std::atan2(dot(arm, dab.v), dot(arm, dab.u));
    pictureAxes(dab, angle + m_settings.rotation);
    dab.amount = (m_settings.isReversed ? -1.0f : 1.0f) * m_settings.strength * m_settings.depth;
    print(dab);
}

void Stroke::mark(const std::vector<std::uint32_t> &blocks)
{
    for (const std::uint32_t b : blocks)
        m_touched[b] = m_dirty[b] = true;
}

std::vector<std::uint32_t> Stroke::takeDirty()
{
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < m_dirty.size(); ++b)
        if (m_dirty[b])
            blocks.push_back(b);
    m_dirty.assign(m_dirty.size(), false);
    return blocks;
}

std::vector<std::uint32_t> Stroke::touched() const
{
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < m_touched.size(); ++b)
        if (m_touched[b])
            blocks.push_back(b);
    return blocks;
}

} // namespace bonemoss::sculpt
