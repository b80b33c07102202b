#include "portrait/path_tracer.h"

#include "base/parallel.h"
#include "portrait/backdrop.h"
#include "portrait/grounds.h"
#include "portrait/lamps.h"
#include "portrait/picture_look.h"
#include "portrait/sampler.h"
#include "portrait/spot.h"
#include "portrait/surface_light.h"

#include <algorithm>
#include <atomic>
#include <cmath>

namespace bonemoss::portrait {

namespace {

constexpr std::size_t kMostLamps = 32;
constexpr int kMostBounces = 12, kMostClear = 10, kMostSteps = 96;
constexpr float kCornea = 1.376f; ///< refraction of what is clear: of an eye
constexpr float kBrightest = 12;  ///< that a sample may bring from more than one bounce: what is brighter would be a speck
constexpr float kFloorColour = 0.3f;

/// What of the creature or its ground a ray meets.
struct Met : Meeting {
    bool isGround = false;
};

/// What one sample of a pixel found.
struct Found {
    std::array<Vec3f, kMostLamps + 2> light;
    std::size_t lights = 0;
    Vec3f albedo, normal;
    float depth = 0, facing = 0, open = 0, cover = 0, shade = 0;
    std::uint32_t object = kNone;
    bool hasFirst = false;
};

} // namespace

struct PathTracer::Inside {
    std::shared_ptr<TracedScene> creature;     ///< several pictures share it
    std::shared_ptr<const TracedScene> ground; ///< null for none that is built
    const PictureLook *look = nullptr;
    Ground groundKind;
    Box3f box; ///< of the creature
    float size = 1, floorAt = -1e30f;
    std::vector<Lamp> lamps;
    std::vector<std::string> names;
    Environment surroundings;
    BackdropView backdrop;
    Fog fog;
    Shot shot;
    Vec3f walk;                                    ///< mean free path inside what is translucent, mm by colour
    float lensRadius = 0, focus = 0, clearAir = 0; ///< mm; clearAir: from the eye to where fog begins
    mutable std::atomic<std::uint64_t> rays{0};

    std::size_t surroundingsNumber() const { return lamps.size(); }
    std::size_t backdropNumber() const { return lamps.size() + 1; }
    void sample(float x, float y, Sampler &sampler, Found &out, std::uint64_t &cast) const;

    struct Path {
        Sampler &sampler;
        Found &out;
        std::uint64_t &cast;
        mesh::Ray ray{};
        Vec3f share{1, 1, 1};
        float near = 0;
        int bounce = 0;
        bool isSeen = true;   ///< straight from the eye, or through what is clear: lamps are not seen
        bool isMirror = true; ///< nothing scattered it so far
        float density = 0;    ///< of the last direction, where lights were asked for as well; 0: they were not
        std::array<float, kMostLamps + 1> pick{}; ///< how likely each light was asked for there
    };
    void add(Path &path, std::size_t light, Vec3f radiance) const;
    void lampsAhead(Path &path, float far) const;
    void nothing(Path &path, float x, float y) const;
    bool throughClear(Path &path, float far) const;
    std::optional<Meeting> floorAhead(const mesh::Ray &ray, float far) const;
    std::optional<Met> meet(const mesh::Ray &ray, float far, float near) const;
    bool isBlocked(Vec3f from, Vec3f direction, float far, float near) const;
    template <typename Value, typename Density>
    void askLights(Path &path, Vec3f from, float near, const Value &value, const Density &density) const;
    void catchShadow(Path &path, const Meeting &m) const;
    bool scatterHair(Path &path, const Meeting &m, const Spot &spot) const;
    bool scatterSurface(Path &path, const Meeting &m, const Spot &spot) const;
    bool walkInside(Path &path, const Meeting &m, Vec3f colour, Meeting &out) const;
    void note(Path &path, const Meeting &m, const Spot &spot) const;
    float epsilon() const { return 2e-5f * size; }
};

std::optional<Met> PathTracer::Inside::meet(const mesh::Ray &ray, float far, float near) const
{
    std::optional<Met> out;
    if (auto m = creature->meet(ray, far, near))
        out = Met{*m}, far = m->distance;
    if (ground)
        if (auto m = ground->meet(ray, far, near)) {
            out = Met{*m, true};
            out->object += creature->scene().objects.size();
        }
    return out;
}

bool PathTracer::Inside::isBlocked(Vec3f from, Vec3f direction, float far, float near) const
{
    return creature->isBlocked(from, direction, far, near) || (ground && ground->isBlocked(from, direction, far, near));
}

void PathTracer::Inside::add(Path &p, std::size_t light, Vec3f radiance) const
{
    Vec3f c = p.share * radiance;
    if (p.bounce > 1)
        if (const float most = largest(c); most > kBrightest)
            c = c * (kBrightest / most);
    if (isFinite(c))
        p.out.light[light] += c;
}

/// Light of lamps that a scattered ray meets before anything else.
void PathTracer::Inside::lampsAhead(Path &p, float far) const
{
    if (p.isSeen)
        return;
    for (std::size_t k = 0; k < lamps.size(); ++k)
        if (const auto hit = lamps[k].meet(p.ray.origin, p.ray.direction); hit && hit->distance < far)
            add(p, k, lamps[k].radiance * (p.density > 0 ? heuristic(p.density, p.pick[k] * hit->density) : 1));
}

void PathTracer::Inside::nothing(Path &p, float x, float y) const
{
    lampsAhead(p, 1e30f);
    if (p.isSeen)
        return add(p, backdropNumber(), backdrop.at(x, y, p.ray.direction, surroundings));
    if (!surroundings.isNone()) {
        const float other = p.pick[lamps.size()] * surroundings.density(p.ray.direction);
        add(p, surroundingsNumber(), surroundings.radiance(p.ray.direction) * (p.density > 0 ? heuristic(p.density, other) : 1));
    }
}

/// The surface of what is clear: light is mirrored there or goes on, bent. After it was scattered it goes straight on, so that lights can
/// be asked for through it.
bool PathTracer::Inside::throughClear(Path &p, float far) const
{
    if (!p.isMirror || !creature->hasClear() || !look->isClear)
        return false;
    const auto m = creature->meetClear(p.ray, far, p.near);
    ++p.cast;
    if (!m)
        return false;
    const bool goesIn = dot(m->face, p.ray.direction) < 0;
    Vec3f n = goesIn ? m->normal : -m->normal;
    if (dot(n, p.ray.direction) > 0)
        n = goesIn ? m->face : -m->face;
    const float eta = goesIn ? kCornea : 1 / kCornea, cosine = std::min(1.0f, -dot(n, p.ray.direction));
    const float mirrored = fresnel(cosine, eta), pick = mirrored >= 1 ? 1 : std::clamp(mirrored, 0.25f, 0.75f);
    p.ray.origin = m->point;
    p.near = 4 * epsilon();
    if (p.sampler.one() < pick) {
        p.share = p.share * (mirrored / pick);
        p.ray.direction = normalized(p.ray.direction + n * (2 * cosine));
        p.isSeen = false, p.density = 0; // its highlight is the lamp itself
    } else {                             // W. Snell: sines go as the speeds
        p.share = p.share * ((1 - mirrored) / (1 - pick));
        const float ratio = 1 / eta, far2 = std::sqrt(std::max(0.0f, 1 - ratio * ratio * (1 - cosine * cosine)));
        p.ray.direction = normalized(p.ray.direction * ratio + n * (ratio * cosine - far2));
    }
    return true;
}

std::optional<Meeting> PathTracer::Inside::floorAhead(const mesh::Ray &ray, float far) const
{
    if (floorAt < -1e29f || ray.direction.y > -1e-5f || ray.origin.y <= floorAt + epsilon())
        return {};
    const float t = (floorAt - ray.origin.y) / ray.direction.y;
    if (t >= far)
        return {};
    Meeting m;
    m.point = ray.origin + ray.direction * t, m.normal = m.face = {0, 1, 0}, m.distance = t, m.object = std::size_t(kNone);
    return m;
}

/// Asks lights whether they shine on a place: all of them at what is seen first, one of them, as it may matter, farther on.
template <typename Value, typename Density>
void PathTracer::Inside::askLights(Path &p, Vec3f from, float near, const Value &value, const Density &density) const
{
    const std::size_t n = lamps.size();
    std::array<float, kMostLamps + 1> reach;
    float sum = 0;
    for (std::size_t k = 0; k < n; ++k)
        sum += reach[k] = lamps[k].reach(from);
    reach[n] = surroundings.isNone() ? 0 : kPi * luminance(surroundings.meanRadiance());
    sum += reach[n];
    p.pick.fill(0);
    if (sum <= 0)
        return;
    const bool asksAll = p.bounce == 0;
    for (std::size_t k = 0; k <= n; ++k)
        p.pick[k] = reach[k] <= 0 ? 0 : asksAll ? 1 : reach[k] / sum;
    std::size_t first = 0, last = n;
    if (!asksAll) {
        float at = p.sampler.one() * sum;
        while (first < n && (at -= reach[first]) >= 0)
            ++first;
        if (reach[first] <= 0)
            return;
        last = first;
    }
    for (std::size_t k = first; k <= last; ++k) {
        if (p.pick[k] <= 0)
            continue;
        const auto u = p.sampler.pair();
        Vec3f direction, radiance;
        float own = 0, far = 1e30f;
        if (k < n) {
            const Lamp::Sample s = lamps[k].sample(from, u);
            direction = s.direction, radiance = lamps[k].radiance, own = s.density, far = s.distance * 0.9999f;
        } else {
            const Environment::Sample s = surroundings.sample(u);
            direction = s.direction, radiance = s.radiance, own = s.density;
        }
        if (own <= 0)
            continue;
        const Vec3f v = value(direction);
        if (largest(v) <= 0)
            continue;
        ++p.cast;
        const mesh::Ray shadow{from, direction};
        if (isBlocked(from, direction, far, near) || floorAhead(shadow, far))
            continue;
        add(p, k, v * radiance * (heuristic(p.pick[k] * own, density(direction)) / (p.pick[k] * own)));
    }
}

/// The floor shows the backdrop, darker by the light that something keeps from it.
void PathTracer::Inside::catchShadow(Path &p, const Meeting &m) const
{
    float lit = 0, all = 0;
    const auto ask = [&](Vec3f direction, float far, float much) {
        ++p.cast;
        all += much;
        if (!isBlocked(m.point, direction, far, 2 * epsilon()))
            lit += much;
    };
    for (const Lamp &lamp : lamps) {
        const Lamp::Sample s = lamp.sample(m.point, p.sampler.pair());
        if (s.density > 0 && s.direction.y > 0)
            ask(s.direction, s.distance * 0.9999f, s.direction.y * luminance(lamp.radiance) / s.density);
    }
    if (!surroundings.isNone()) {
        const Environment::Sample s = surroundings.sample(p.sampler.pair());
        if (s.density > 0 && s.direction.y > 0)
            ask(s.direction, 1e30f, s.direction.y * luminance(s.radiance) / s.density);
    }
    // Some light always comes back from all around.
    p.out.shade = all > 0 ? 0.85f * (1 - lit / all) : 0;
}

void PathTracer::Inside::note(Path &p, const Meeting &m, const Spot &spot) const
{
    Found &o = p.out;
    if (o.hasFirst)
        return;
    o.hasFirst = true;
    o.albedo = spot.colour, o.normal = spot.normal;
    o.depth = dot(m.point - shot.camera.eye(), shot.camera.forward());
    o.facing = std::abs(dot(spot.normal, p.ray.direction)), o.cover = 1;
    o.object = std::uint32_t(m.object);
    const Vec3f d = Frame(spot.normal).toWorld(cosineDirection(p.sampler.pair()));
    ++p.cast;
    const float reach = 0.2f * size;
    const bool isHidden = isBlocked(m.point, d, reach, 4 * epsilon() + 3 * m.radius) || floorAhead({m.point, d}, reach);
    o.open = isHidden ? 0 : 1;
}

bool PathTracer::Inside::scatterHair(Path &p, const Meeting &m, const Spot &spot) const
{
    Vec3f n = -p.ray.direction + m.tangent * dot(p.ray.direction, m.tangent);
    n = squaredLength(n) > 1e-8f ? normalized(n) : Frame(m.tangent).x;
    const Frame frame(m.tangent, n);
    const HairLight light(spot.colour, m.across);
    const Vec3f out = frame.toLocal(-p.ray.direction);
    const float near = 2.2f * m.radius + epsilon();
    askLights(
        p, m.point, near, [&](Vec3f d) { return light.value(out, frame.toLocal(d)); },
        [&](Vec3f d) { return light.density(out, frame.toLocal(d)); });
    const auto s = light.sample(out, p.sampler.pair(), p.sampler.pair());
    if (s.density <= 0)
        return false;
    p.share = p.share * s.weight;
    p.ray = {m.point, frame.toWorld(s.in)};
    p.near = near, p.density = s.density;
    return true;
}

bool PathTracer::Inside::walkInside(Path &p, const Meeting &m, Vec3f colour, Meeting &out) const
{
    // Colour and mean free path to what happens inside, as fitted in the paper.
    const auto albedo = [](float a) { return 1 - std::exp(-5.09406f * a + 2.61188f * a * a - 4.31805f * a * a * a); };
    const auto scale = [](float a) { return 1.9f - a + 3.5f * (a - 0.8f) * (a - 0.8f); };
    colour = min(max(colour, Vec3f{0.002f, 0.002f, 0.002f}), Vec3f{0.98f, 0.98f, 0.98f});
    const Vec3f scattered{albedo(colour.x), albedo(colour.y), albedo(colour.z)};
    const Vec3f dense{1 / (walk.x * scale(colour.x)), 1 / (walk.y * scale(colour.y)), 1 / (walk.z * scale(colour.z))};
    const std::array<float, 3> t3{dense.x, dense.y, dense.z};
    Vec3f way = Frame(-m.face).toWorld(cosineDirection(p.sampler.pair())), at = m.point, weight{1, 1, 1};
    for (int step = 0; step < kMostSteps; ++step) {
        const auto u = p.sampler.pair();
        const std::size_t channel = std::min(std::size_t(u[0] * 3), std::size_t(2));
        const float free = -std::log(std::max(1e-7f, 1 - u[1])) / t3[channel];
        ++p.cast;
        const auto hit = creature->meet({at, way}, free, 2 * epsilon());
        const float far = hit ? hit->distance : free;
        const Vec3f left{std::exp(-dense.x * far), std::exp(-dense.y * far), std::exp(-dense.z * far)};
        const Vec3f chance = hit ? left : left * dense;
        const float mean = (chance.x + chance.y + chance.z) / 3;
        if (mean <= 1e-12f)
            return false;
        weight = weight * (hit ? left : left * dense * scattered) * (1 / mean);
        if (hit) {
            out = *hit;
            out.face = dot(out.face, way) > 0 ? out.face : -out.face;
            out.normal = dot(out.normal, out.face) > 0 ? out.normal : -out.normal;
            p.share = p.share * weight;
            return isFinite(p.share);
        }
        if (const float most = largest(weight); most < 0.05f) {
            if (p.sampler.one() > most / 0.05f)
                return false;
            weight = weight * (0.05f / most);
        }
        at = at + way * free;
        const auto d = p.sampler.pair();
        const float z = 1 - 2 * d[0], r = std::sqrt(std::max(0.0f, 1 - z * z));
        way = {r * std::cos(2 * kPi * d[1]), r * std::sin(2 * kPi * d[1]), z};
    }
    return false;
}

bool PathTracer::Inside::scatterSurface(Path &p, const Meeting &m, const Spot &spot) const
{
    const Vec3f face = dot(m.face, p.ray.direction) < 0 ? m.face : -m.face;
    const Vec3f n = dot(spot.normal, p.ray.direction) < 0 ? spot.normal : face;
    const SurfaceLight light(spot.colour, spot.finish);
    const Frame frame(n);
    const Vec3f out = frame.toLocal(-p.ray.direction);
    const float near = 2 * epsilon(), through = light.through();
    if (through > 0 && p.bounce < 4) {
        const float pick = 0.6f * through;
        if (p.sampler.one() < pick) {
            Meeting exit;
            p.share = p.share * light.below(out) * (through / pick);
            if (!walkInside(p, m, spot.colour, exit))
                return false;
            const Frame about(exit.normal); // it leaves evenly
            const auto leaves = [&](Vec3f d) { return dot(d, exit.face) > 0 ? std::max(0.0f, dot(d, exit.normal)) / kPi : 0; };
            askLights(
                p, exit.point, near,
                [&](Vec3f d) {
                    return Vec3f{1, 1, 1} * leaves(d);
                },
                leaves);
            p.ray = {exit.point, about.toWorld(cosineDirection(p.sampler.pair()))};
            p.near = near, p.density = leaves(p.ray.direction);
            return p.density > 0;
        }
        p.share = p.share * (1 / (1 - pick));
    }
    const auto isOut = [&](Vec3f d) { return dot(d, face) > 0; };
    askLights(
        p, m.point, near, [&](Vec3f d) { return isOut(d) ? light.value(out, frame.toLocal(d)) : Vec3f{}; },
        [&](Vec3f d) { return light.density(out, frame.toLocal(d)); });
    const auto s = light.sample(out, p.sampler.one(), p.sampler.pair());
    if (s.density <= 0)
        return false;
    const Vec3f in = frame.toWorld(s.in);
    if (!isOut(in))
        return false;
    p.share = p.share * s.weight;
    p.ray = {m.point, in};
    p.near = near, p.density = s.density;
    return true;
}

void PathTracer::Inside::sample(float x, float y, Sampler &sampler, Found &out, std::uint64_t &cast) const
{
    Path p{sampler, out, cast};
    out.lights = lamps.size() + 2;
    p.ray = shot.camera.rayThrough(x, y, shot.aspect);
    if (lensRadius > 0) { // a thin lens: all its rays meet where it is in focus
        const auto [r, a] = sampler.pair();
        const float radius = lensRadius * std::sqrt(r);
        const Vec3f to = p.ray.origin + p.ray.direction * (focus / dot(p.ray.direction, shot.camera.forward()));
        p.ray.origin = p.ray.origin + shot.camera.right() * (radius * std::cos(2 * kPi * a))
                       + shot.camera.up() * (radius * std::sin(2 * kPi * a));
        p.ray.direction = normalized(to - p.ray.origin);
    }
    for (int clear = 0; p.bounce < kMostBounces;) {
        ++cast;
        auto m = meet(p.ray, 1e30f, p.near);
        const float far = m ? m->distance : 1e30f;
        if (clear < kMostClear && throughClear(p, far)) {
            ++clear;
            continue;
        }
        if (const auto floor = floorAhead(p.ray, far)) {
            lampsAhead(p, floor->distance);
            if (p.isSeen) { // lost in the backdrop
                catchShadow(p, *floor);
                const Vec3f seen = backdrop.at(x, y, p.ray.direction, surroundings);
                return add(p, backdropNumber(), seen * (1 - out.shade));
            }
            const Spot spot{{0, 1, 0}, groundKind.colour.value_or(Vec3f{1, 1, 1} * kFloorColour)};
            if (!scatterSurface(p, *floor, spot))
                return;
        } else if (!m) {
            return nothing(p, x, y);
        } else {
            lampsAhead(p, far);
            Spot spot = spotOf(*m, (m->isGround ? *ground : *creature).scene().materials, size);
            if (look->dress && !m->isGround)
                look->dress(spot);
            if (look->draw)
                return note(p, *m, spot);
            if (p.isSeen && fog.distance > 0) {
                const float clearer = std::exp(-std::max(0.0f, m->distance - clearAir) / fog.distance);
                add(p, backdropNumber(), fog.colour * (1 - clearer));
                p.share = p.share * clearer;
            }
            if (p.isSeen)
                note(p, *m, spot);
            if (!(m->isHair() ? scatterHair(p, *m, spot) : scatterSurface(p, *m, spot)))
                return;
        }
        p.isSeen = p.isMirror = false;
        ++p.bounce;
        if (p.bounce > 2) { // what brings little is followed seldom
            const float stay = std::min(0.95f, largest(p.share));
            if (sampler.one() >= stay)
                return;
            p.share = p.share * (1 / stay);
        }
    }
}

PathTracer::PathTracer(std::unique_ptr<Inside> inside) : m_inside(std::move(inside)) {}
PathTracer::~PathTracer() = default;

Result<std::unique_ptr<PathTracer>> PathTracer::make(io::Scene creature, const Stage &stage, const Shot &shot,
                                                     TracedScene::Upkeep upkeep, std::unique_ptr<PathTracer> before)
{
    if (creature.box().isEmpty())
        return Error{ErrorCode::Empty, "picture", "the creature shows nothing to make a picture of"};
    auto inside = std::make_unique<Inside>();
    if (before && before->m_inside->creature.use_count() == 1 && before->m_inside->creature->follow(creature))
        inside->creature = before->m_inside->creature;
    else
        inside->creature = std::make_shared<TracedScene>(std::move(creature), upkeep);
    if (before)
        inside->ground = before->m_inside->ground, inside->groundKind = before->m_inside->groundKind,
        inside->box = before->m_inside->box;
    const PathTracer first(std::move(inside));
    return first.with(stage, shot);
}

Result<std::unique_ptr<PathTracer>> PathTracer::with(const Stage &stage, const Shot &shot) const
{
    auto in = std::make_unique<Inside>();
    in->creature = m_inside->creature;
    in->box = in->creature->box(), in->size = std::max(in->box.diagonal(), 1e-3f);
    in->look = &pictureLook(stage.film.look);
    const bool isLit = !in->look->draw; // what is drawn needs neither light nor ground
    const GroundKind &kind = groundKind(isLit ? stage.ground.kind : "none");
    const float y = in->box.lo.y + stage.ground.sink;
    in->groundKind = stage.ground;
    if (kind.floor >= 0)
        in->floorAt = y - kind.floor * in->size;
    if (kind.build && stage.ground == m_inside->groundKind && m_inside->ground && in->box == m_inside->box) {
        in->ground = m_inside->ground;
    } else if (kind.build) {
        io::Scene scene;
        kind.build(scene, stage.ground, in->box, y);
        in->ground = std::make_shared<const TracedScene>(std::move(scene));
    }
    in->shot = shot, in->fog = stage.fog;
    in->clearAir = std::max(0.0f, shot.camera.distance - in->size / 2);
    in->walk = Vec3f{1, 0.55f, 0.38f} * (0.006f * in->size);
    auto surroundings = Environment::from(stage.surroundings);
    if (!surroundings)
        return surroundings.error();
    in->surroundings = std::move(*surroundings);
    auto backdrop = BackdropView::from(stage, shot.aspect);
    if (!backdrop)
        return backdrop.error();
    in->backdrop = std::move(*backdrop);
    for (const Light &l : stage.lights)
        if (isLit && l.isOn && l.strength > 0 && in->lamps.size() < kMostLamps) {
            in->lamps.push_back(lampOf(l, in->box.centre(), shot.camera));
            in->names.push_back(l.name);
        }
    in->names.push_back("surroundings"), in->names.push_back("backdrop");
    if (shot.aperture > 0 && !shot.camera.isParallel) {
        // As one photographs a figure of that size: millimetres of the lens are those of the creature.
        in->lensRadius = lensOf(shot.camera, shot.aspect) / shot.aperture / 2;
        in->focus = shot.focus > 0 ? shot.focus : shot.camera.distance;
    }
    return std::unique_ptr<PathTracer>(new PathTracer(std::move(in)));
}

Gathered PathTracer::blank(int width, int height, std::array<int, 4> tile) const
{
    Gathered out(width, height, tile, m_inside->names);
    out.scale = m_inside->size, out.reach = m_inside->shot.camera.distance + m_inside->size / 2;
    return out;
}

Status PathTracer::hasRoom(int width, int height) const
{
    constexpr std::size_t kMost = std::size_t(8) << 30;
    const std::size_t bytes = blank(1, 1).memoryBytes() * std::size_t(width) * std::size_t(height);
    if (bytes <= kMost)
        return Done{};
    return Error{ErrorCode::TooLarge, "picture",
                 "would take " + std::to_string(bytes >> 30)
                     + " GB at once; make it smaller, or in bands: bonemoss-cli render --part I/"
                     + std::to_string(bytes / kMost + 1)};
}

bool PathTracer::gather(Gathered &g, const Gathering &how, const Progress &progress) const
{
    constexpr int kTile = 16; // pixels that lie together are asked for together
    const int across = (g.width + kTile - 1) / kTile, down = (g.height + kTile - 1) / kTile;
    std::atomic<int> done{0};
    return forEachBlock(std::size_t(across) * std::size_t(down), 1, progress.stop, [&](BlockRange range) {
        std::uint64_t cast = 0;
        for (std::size_t t = range.begin; t < range.end; ++t) {
            const int x0 = int(t) % across * kTile, y0 = int(t) / across * kTile;
            for (int y = y0; y < std::min(y0 + kTile, g.height); ++y)
                for (int x = x0; x < std::min(x0 + kTile, g.width); ++x) {
                    const std::size_t i = std::size_t(y) * std::size_t(g.width) + std::size_t(x);
                    while (int(g.count[i]) < how.samples
                           && (how.error <= 0 || int(g.count[i]) < how.fewest || g.error(i) > how.error)) {
                        const auto px = std::uint32_t(g.left + x), py = std::uint32_t(g.top + y);
                        // Each half of the samples is even by itself, so that they tell of each other's noise.
                        Sampler sampler(px, py, g.count[i] / 2, 2 * how.seed + (g.count[i] & 1));
                        const auto [dx, dy] = sampler.pair();
                        Found f;
                        m_inside->sample((float(px) + dx) / float(g.wholeWidth) * 2 - 1,
                                         1 - (float(py) + dy) / float(g.wholeHeight) * 2, sampler, f, cast);
                        Vec3f all;
                        for (std::size_t k = 0; k < f.lights; ++k)
                            g.light[k][i] += f.light[k], all += f.light[k];
                        if (g.count[i] & 1)
                            g.odd[i] += all;
                        if (g.count[i] == 0)
                            g.object[i] = f.object;
                        g.albedo[i] += f.albedo, g.normal[i] += f.normal, g.depth[i] += f.depth;
                        g.facing[i] += f.facing, g.open[i] += f.open, g.cover[i] += f.cover, g.shade[i] += f.shade;
                        g.squares[i] += luminance(all) * luminance(all);
                        ++g.count[i];
                    }
                }
        }
        m_inside->rays += cast;
        progress.say(float(done += int(range.end - range.begin)) / float(across * down), "picture");
    });
}

const Box3f &PathTracer::box() const
{
    return m_inside->box;
}
std::size_t PathTracer::memoryBytes() const
{
    return m_inside->creature->memoryBytes() + (m_inside->ground ? m_inside->ground->memoryBytes() : 0);
}
std::uint64_t PathTracer::rays() const
{
    return m_inside->rays;
}
TracedScene &PathTracer::traced() const
{
    return *m_inside->creature;
}
const io::Scene &PathTracer::scene() const
{
    return m_inside->creature->scene();
}

} // namespace bonemoss::portrait
