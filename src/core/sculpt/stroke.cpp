#include "sculpt/stroke.h"

#include "base/parallel.h"
#include "base/random.h"
#include "image/picture.h"
#include "sculpt/dab.h"

#include <algorithm>
#include <array>
#include <numbers>

namespace bonemoss::sculpt {

namespace {

constexpr std::array<std::string_view, kToolCount> kTools{"raise", "swell", "crease",  "tug",    "smooth",
                                                          "stamp", "mask",  "tendril", "denser", "sparser"};
constexpr float kDabHeight = 0.07f; // of the radius, for Raise and Swell at full strength
constexpr float kCreaseDepth = 0.10f;
constexpr float kTendrilStep = 0.2f;  // of the radius, at most between two changes of faces
constexpr float kTendrilReach = 1.5f; // of the radius: the faces that the pull stretches

/// Unit axes of a picture lying on the surface: v away from the floor where that is defined.
void pictureAxes(Dab &dab, float turn)
{
    const Vec3f up = std::abs(dab.normal.y) < 0.95f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
    const Vec3f u = normalized(cross(up, dab.normal));
    const Vec3f v = cross(dab.normal, u);
    dab.u = u * std::cos(turn) + v * std::sin(turn);
    dab.v = v * std::cos(turn) - u * std::sin(turn);
}

} // namespace

std::string_view nameOf(Tool tool)
{
    return kTools[std::size_t(tool)];
}

std::optional<Tool> toolNamed(std::string_view name)
{
    for (std::size_t i = 0; i < kTools.size(); ++i)
        if (kTools[i] == name)
            return Tool(i);
    return {};
}

Stroke::Stroke(mesh::Surface &surface, mesh::BlockArray<std::uint8_t> &mask, StrokeSettings settings, EvenOut evenOut)
    : m_surface(surface), m_mask(mask), m_start(surface), m_settings(std::move(settings)),
      m_touched(surface.positions.blockCount(), false), m_dirty(surface.positions.blockCount(), false),
      m_work(new DabWork{surface, mask, m_settings, {}}), m_evenOut(std::move(evenOut))
{
    assert(!changesFaces(m_settings.tool) || m_evenOut);
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
    if (m_hasLast && m_settings.tool == Tool::Tug) {
        m_last.sample = s;
        return tugTo(s);
    }
    if (m_hasLast && m_settings.tool == Tool::Tendril) {
        m_last.sample = s;
        return drawOutTo(s);
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
    const Steady now{s, before ? before->point : hit->point};
    if (m_hasLast)
        return walkTo(now);
    m_hasLast = true;
    m_last = now;
    if (m_settings.tool == Tool::Tug || m_settings.tool == Tool::Tendril)
        startTug(s, *hit);
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
        m_lastDab.along = (next.start - from.start) * (1 / path);
        if (const auto hit = find(m_surface, s))
            dabAt(s, *hit);
    }
    m_leftOver = path - (at - step);
}

void Stroke::dabAt(const PenSample &s, const mesh::Hit &hit)
{
    Dab dab;
    dab.centre = hit.point;
    dab.normal = hit.normal;
    dab.along = m_lastDab.along;
    const float pressure = std::clamp(s.pressure, 0.0f, 1.0f);
    dab.radius = m_settings.size * (m_settings.pressureToSize ? 0.25f + 0.75f * pressure : 1.0f);
    const float strength = m_settings.strength * (m_settings.pressureToStrength ? pressure : 1.0f);
    const float sign = m_settings.isReversed ? -1.0f : 1.0f;
    switch (m_settings.tool) {
    case Tool::Raise:
    case Tool::Swell: dab.amount = sign * strength * kDabHeight * dab.radius; break;
    case Tool::Crease: dab.amount = sign * strength * kCreaseDepth * dab.radius; break;
    case Tool::Stamp: {
        dab.amount = sign * strength * m_settings.depth;
        const float random = randomSigned(m_settings.seed, m_dabs) * std::numbers::pi_v<float>;
        pictureAxes(dab, m_settings.turn + random * m_settings.randomTurn);
        break;
    }
    case Tool::Smooth: dab.amount = strength; break;
    case Tool::Mask: dab.amount = sign * strength; break;
    case Tool::Denser:
    case Tool::Sparser: dab.amount = m_settings.edge * dab.radius; break;
    case Tool::Tug:
    case Tool::Tendril: break;
    }
    print(dab);
}

void Stroke::print(Dab dab)
{
    ++m_dabs;
    std::vector<std::uint32_t> blocks = blocksOf(m_surface, withTwin(dab, m_settings.isMirrored));
    if (m_settings.tool == Tool::Raise || m_settings.tool == Tool::Crease || m_settings.tool == Tool::Stamp)
        dab.normal = areaNormal(m_surface, blocks, dab);
    const DabPair pair = withTwin(dab, m_settings.isMirrored);
    m_lastDab = dab;
    if (changesFaces(m_settings.tool))
        return changeFaces(pair);
    if (m_settings.tool == Tool::Smooth)
        applySmooth(*m_work, pair, blocks, 1 + int(dab.amount * 3));
    else if (m_settings.tool == Tool::Mask)
        applyMask(*m_work, pair, blocks);
    else
        applyDab(*m_work, pair, blocks, m_settings.tool == Tool::Stamp ? image::builtInStamp(m_settings.stamp) : nullptr);
    mark(blocks);
}

void Stroke::startTug(const PenSample &s, const mesh::Hit &hit)
{
    m_grab.centre = hit.point;
    m_grab.normal = hit.normal;
    m_grab.radius = m_settings.size * (m_settings.pressureToSize ? 0.25f + 0.75f * s.pressure : 1.0f);
    m_grabDepth = dot(hit.point - s.origin, s.direction);
    const mesh::Face f = m_surface.topology->faceOf(hit.block, hit.face);
    for (std::size_t k = 0, n = std::size_t(f.size()); k < n; ++k)
        m_grabEdge += length(m_surface.positions[f.v[k]] - m_surface.positions[f.v[(k + 1) % n]]) / float(n);
    const DabPair pair = withTwin(m_grab, m_settings.isMirrored);
    m_grabBlocks = blocksOf(m_start, pair);
    m_work->weigh(pair, m_grabBlocks, false);
    m_lastDab = m_grab;
}

Vec3f Stroke::targetOf(const PenSample &s) const
{
    // With a ray the pull stays in the plane of the start, square to the view; without, it follows.
    return s.direction == Vec3f{} ? s.origin : s.origin + s.direction * m_grabDepth;
}

/// Each vertex by the pair's drags in the share of its weights, from where it is in `from`.
void Stroke::moveAlong(const DabPair &pair, const mesh::Surface &start, const std::vector<std::uint32_t> &blocks)
{
    const Vec3f pull = pair.dabs[0].drag, twin = pair.dabs[1].drag;
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const float *first = m_work->weights[0].of(r.begin);
        const float *second = pair.count == 2 ? m_work->weights[1].of(r.begin) : nullptr;
        if (!first && !second)
            return;
        const std::uint32_t b = blocks[r.begin];
        const Vec3f *from = start.positions.data(b);
        const std::uint8_t *masked = m_mask.data(b);
        Vec3f *out = m_surface.positions.edit(b);
        for (std::size_t i = 0; i < start.positions.countIn(b); ++i) {
            const float w0 = first ? first[i] : 0, w1 = second ? second[i] : 0;
            if (w0 + w1 == 0)
                continue;
            const float open = masked ? 1 - float(masked[i]) * (1 / 255.0f) : 1;
            const float share = open * std::max(w0, w1) / (w0 + w1);
            out[i] = from[i] + (pull * w0 + twin * w1) * share;
        }
    });
    updateBlocks(m_surface, blocks);
    mark(blocks);
}

void Stroke::tugTo(const PenSample &s)
{
    Dab dab = m_grab;
    dab.drag = (targetOf(s) - m_grab.centre) * m_settings.strength;
    moveAlong(withTwin(dab, m_settings.isMirrored), m_start, m_grabBlocks);
    m_lastDab.centre = m_grab.centre + dab.drag;
}

/// Pulls what is under the ball along with it, step by step; what stays behind gets the faces it needs.
void Stroke::drawOutTo(const PenSample &s)
{
    const float pressure = std::clamp(s.pressure, 0.0f, 1.0f);
    m_grab.radius = m_settings.size * (m_settings.pressureToSize ? 0.25f + 0.75f * pressure : 1.0f);
    const Vec3f target = targetOf(s);
    const float step = kTendrilStep * m_grab.radius;
    // What is left of the way is taken with the next sample; a mask may hold the tip back, so steps are counted.
    for (int most = int(2 * length(target - m_grab.centre) / step); most > 0 && length(target - m_grab.centre) >= step; --most) {
        Dab dab = m_grab;
        dab.drag = normalized(target - m_grab.centre) * step;
        const DabPair pair = withTwin(dab, m_settings.isMirrored);
        const std::vector<std::uint32_t> blocks = blocksOf(m_surface, pair);
        m_work->weigh(pair, blocks, false);
        const mesh::Surface before = m_surface;
        moveAlong(pair, before, blocks);
        m_grab.centre += dab.drag;
        m_grab.normal = normalized(dab.drag);
        dab = m_grab;
        dab.amount = std::min(m_settings.edge * dab.radius, m_grabEdge);
        dab.radius *= kTendrilReach;
        changeFaces(withTwin(dab, m_settings.isMirrored));
        if (const auto tip = mesh::nearestPoint(m_surface, m_grab.centre)) // new faces wear it down a little
            m_grab.centre = tip->point;
    }
    m_lastDab = m_grab;
}

void Stroke::changeFaces(const DabPair &pair)
{
    const std::vector<std::uint32_t> changed = m_evenOut(pair);
    m_touched.resize(m_surface.positions.blockCount(), false);
    m_dirty.resize(m_surface.positions.blockCount(), false);
    mark(changed);
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
    pictureAxes(dab, angle + m_settings.turn);
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
