// Tools that take hold of the skin where the pen comes down and follow it: Tug, Twist, Knead, Tendril.
#include "sculpt/stroke.h"

#include "sculpt/dab.h"
#include "sculpt/kelvinlet.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::sculpt {

namespace {
constexpr float kTendrilStep = 0.2f;   // of the radius, at most between two changes of faces
constexpr float kTendrilReach = 1.5f;  // of the radius: the faces that the pull stretches
constexpr float kTendrilSmooth = 0.3f; // share of one smoothing at each of them
constexpr float kKneadStep = 0.15f;    // of the radius: the solid's answer holds for small loads
constexpr float kLeastArm = 0.25f;     // of the radius: nearer the middle a turn would jump
} // namespace

void Stroke::takeHold(const PenSample &s, const mesh::Hit &hit)
{
    m_grab.centre = m_grab.base = hit.point;
    m_grab.normal = hit.normal;
    m_grab.radius = radiusOf(m_settings, s.pressure);
    m_grabDepth = dot(hit.point - s.origin, s.direction);
    const mesh::Face f = m_surface.topology->faceOf(hit.block, hit.face);
    for (std::size_t k = 0, n = std::size_t(f.size()); k < n; ++k)
        m_grabEdge += length(m_surface.positions[f.v[k]] - m_surface.positions[f.v[(k + 1) % n]]) / float(n);
    const DabSet dabs = everywhere(m_grab, m_places);
    m_grabBlocks = blocksOf(m_start, dabs);
    m_work->weigh(dabs, m_grabBlocks, false);
    m_lastDab = m_grab;
}

void Stroke::follow(const PenSample &s)
{
    // With a ray the pull stays in the plane of the start, square to the view; without, it follows.
    const Vec3f target = s.direction == Vec3f{} ? s.origin : s.origin + s.direction * m_grabDepth;
    switch (m_settings.tool) {
    case Tool::Twist: return twistTo(target);
    case Tool::Knead: return kneadTo(target);
    case Tool::Tendril: return drawOutTo(s, target);
    default: return tugTo(target);
    }
}

void Stroke::tugTo(Vec3f target)
{
    Dab dab = m_grab;
    dab.drag = (target - m_grab.centre) * m_settings.strength;
    applyHold(*m_work, everywhere(dab, m_places), m_grabBlocks, m_start);
    mark(m_grabBlocks);
    m_lastDab.centre = m_grab.centre + dab.drag;
}

/// How far the pen has gone round the middle since it was asked last, radians.
float Stroke::turnBy(Vec3f target)
{
    Vec3f arm = target - m_grab.centre;
    arm -= m_grab.normal * dot(arm, m_grab.normal);
    if (squaredLength(arm) < kLeastArm * kLeastArm * m_grab.radius * m_grab.radius)
        return 0;
    const float by = m_arm == Vec3f{} ? 0 : std::atan2(dot(cross(m_arm, arm), m_grab.normal), dot(m_arm, arm));
    m_arm = arm;
    return by;
}

void Stroke::twistTo(Vec3f target)
{
    m_turned += turnBy(target);
    Dab dab = m_grab;
    dab.spin = m_turned * m_settings.strength * (m_settings.isReversed ? -1.0f : 1.0f);
    applyHold(*m_work, everywhere(dab, m_places), m_grabBlocks, m_start);
    mark(m_grabBlocks);
}

void Stroke::kneadTo(Vec3f target)
{
    const Vec3f from = m_pen.value_or(m_grab.centre);
    const Vec3f way = target - from;
    const int steps = std::max(1, int(std::ceil(length(way) / (kKneadStep * m_grab.radius))));
    for (int k = 0; k < steps; ++k)
        kneadBy(from + way * (float(k) / float(steps)), from + way * (float(k + 1) / float(steps)));
    m_pen = target;
    m_lastDab = m_grab;
}

/// One small step of the pen.
void Stroke::kneadBy(Vec3f from, Vec3f to)
{
    const float strength = m_settings.strength, sign = m_settings.isReversed ? -1.0f : 1.0f;
    Dab dab = m_grab;
    switch (m_settings.knead) {
    case KneadKind::Drag: dab.drag = (to - from) * strength; break;
    case KneadKind::Turn: dab.spin = turnBy(to) * strength * sign; break;
    case KneadKind::Swell:
        dab.amount = (length(to - m_grab.centre) - length(from - m_grab.centre)) / m_grab.radius * strength * sign;
        break;
    case KneadKind::Squeeze:
        dab.drag = (to - from) * (strength / m_grab.radius);
        dab.amount = sign;
        break;
    }
    const DabSet dabs = everywhere(dab, m_places);
    const std::vector<std::uint32_t> blocks = blocksOf(m_surface, dabs, Kelvinlet::kReach);
    m_work->weigh(dabs, blocks, false, Kelvinlet::kReach);
    applyHold(*m_work, dabs, blocks, m_surface);
    mark(blocks);
    if (m_settings.knead == KneadKind::Drag)
        m_grab.centre += dab.drag;
}

/// Pulls what is under the ball along with it, step by step; what stays behind gets the faces it needs.
void Stroke::drawOutTo(const PenSample &s, Vec3f target)
{
    m_grab.radius = radiusOf(m_settings, s.pressure);
    const float step = kTendrilStep * m_grab.radius;
    // What is left of the way is taken with the next sample; a mask may hold the tip back, so steps are counted.
    for (int most = int(2 * length(target - m_grab.centre) / step); most > 0 && length(target - m_grab.centre) >= step; --most) {
        Dab dab = m_grab;
        dab.drag = normalized(target - m_grab.centre) * step;
        const DabSet dabs = everywhere(dab, m_places);
        const std::vector<std::uint32_t> blocks = blocksOf(m_surface, dabs);
        m_work->weigh(dabs, blocks, false);
        applyHold(*m_work, dabs, blocks, m_surface);
        mark(blocks);
        m_grab.centre += dab.drag;
        m_grab.normal = normalized(dab.drag);
        dab = m_grab;
        dab.amount = std::min(m_settings.edge * dab.radius, m_grabEdge);
        dab.radius *= kTendrilReach;
        // Where the way bends the pull would fold the skin on the inner side, and on a fold faces cannot be evened.
        DabSet wide = everywhere(dab, m_places);
        for (Dab &d : wide)
            d.amount = kTendrilSmooth;
        const std::vector<std::uint32_t> about = blocksOf(m_surface, wide);
        applySmooth(*m_work, wide, about, 1);
        mark(about);
        changeFaces(everywhere(dab, m_places));
        if (const auto tip = mesh::nearestPoint(m_surface, m_grab.centre)) // new faces wear it down a little
            m_grab.centre = tip->point;
    }
    m_lastDab = m_grab;
}

void Stroke::changeFaces(const DabSet &dabs)
{
    const std::vector<std::uint32_t> changed = m_needs.evenOut(dabs);
    m_touched.resize(m_surface.positions.blockCount(), false);
    m_dirty.resize(m_surface.positions.blockCount(), false);
    mark(changed);
}

} // namespace bonemoss::sculpt
