#include "portrait/path_tracer.h"

#include "base/parallel.h"
#include "portrait/detail/path.h"
#include "portrait/digest.h"
#include "portrait/surface_light.h"

#include <cmath>

namespace bonemoss::portrait {

namespace {

constexpr int kMostBounces = 12, kMostClear = 10;
constexpr float kCornea = 1.376f; ///< refraction of what is clear: of an eye
constexpr float kBrightest = 12;  ///< that a sample may bring from more than one bounce: what is brighter would be a speck
constexpr float kFloorColour = 0.3f;

} // namespace

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
        const Environment::Sample s = surroundings.ahead(p.ray.direction);
        add(p, surroundingsNumber(), s.radiance * (p.density > 0 ? heuristic(p.density, p.pick[lamps.size()] * s.density) : 1));
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
    const Vec3f straight = n;
    const float alpha = clearAlpha(creature->scene().materials[m->material].finish);
    if (alpha > 0) { // by one of the facets that are seen
        const Frame frame(n);
        Vec3f out = frame.toLocal(-p.ray.direction);
        out.z = std::max(out.z, 1e-3f);
        n = frame.toWorld(seenFacet(out, alpha, p.sampler.pair()));
    }
    const float eta = goesIn ? kCornea : 1 / kCornea, cosine = std::clamp(-dot(n, p.ray.direction), 0.0f, 1.0f);
    const float mirrored = fresnel(cosine, eta), pick = mirrored >= 1 ? 1 : std::clamp(mirrored, 0.25f, 0.75f);
    p.ray.origin = m->point;
    p.near = 4 * epsilon();
    const bool isMirrored = p.sampler.one() < pick;
    if (isMirrored) {
        p.share = p.share * (mirrored / pick);
        p.ray.direction = normalized(p.ray.direction + n * (2 * cosine));
        p.isSeen = false, p.density = 0; // its highlight is the lamp itself
    } else {                             // W. Snell: sines go as the speeds
        p.share = p.share * ((1 - mirrored) / (1 - pick));
        const float ratio = 1 / eta, far2 = std::sqrt(std::max(0.0f, 1 - ratio * ratio * (1 - cosine * cosine)));
        p.ray.direction = normalized(p.ray.direction * ratio + n * (ratio * cosine - far2));
    }
    if (alpha > 0) { // what other facets hide where it goes
        const float leaves = dot(p.ray.direction, straight) * (isMirrored ? 1.0f : -1.0f);
        p.share = p.share * (leaves > 0 ? seenShare(leaves, alpha) : 0);
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

void PathTracer::Inside::note(Path &p, const Meeting &m, const Spot &spot) const
{
    Found &o = p.out;
    if (o.hasFirst)
        return;
    o.hasFirst = true;
    o.albedo = spot.colour, o.normal = spot.normal;
    o.depth = dot(m.point - shot.camera.eye(), shot.camera.forward());
    o.facing = std::abs(dot(spot.normal, p.ray.direction)), o.cover = 1;
    o.object = m.object < itemOf.size() ? itemOf[m.object] : kNone;
    const Vec3f d = Frame(spot.normal).toWorld(cosineDirection(p.sampler.pair()));
    ++p.cast;
    const float reach = 0.2f * size;
    const bool isHidden = isBlocked(m.point, d, reach, 4 * epsilon() + 3 * m.radius) || floorAhead({m.point, d}, reach);
    o.open = isHidden ? 0 : 1;
}

/// As the camera's, which works out the same for each.
mesh::Ray PathTracer::Inside::rayThrough(float x, float y) const
{
    const Vec3f off = across * x + up * y;
    const float distance = shot.camera.distance;
    if (shot.camera.isParallel)
        return {ahead.origin + off * distance - ahead.direction * (distance * 4), ahead.direction};
    return {ahead.origin, normalized(ahead.direction + off)};
}

void PathTracer::Inside::sample(float x, float y, Sampler &sampler, Found &out, std::uint64_t &cast) const
{
    Path p{sampler, out, cast};
    p.ray = rayThrough(x, y);
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
            if (largest(p.share) <= 0)
                return;
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
    const std::uint32_t under = stage.ground.standsOn();
    in->box = under != 0 ? in->creature->scene().box(under) : in->creature->box();
    if (in->box.isEmpty())
        in->box = in->creature->box();
    in->size = std::max(in->box.diagonal(), 1e-3f);
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
    for (const TracedScene *part : {static_cast<const TracedScene *>(in->creature.get()), in->ground.get()})
        for (std::size_t k = 0; part && k < part->scene().objects.size(); ++k) {
            const std::string &name = part->scene().objects[k].name;
            const auto at = std::find(in->items.begin(), in->items.end(), name);
            in->itemOf.push_back(std::uint32_t(at - in->items.begin()));
            if (at == in->items.end())
                in->items.push_back(name);
        }
    in->stage = stage, in->shot = shot, in->fog = stage.fog;
    in->ahead = {shot.camera.eye(), shot.camera.forward()};
    const float half = std::tan(shot.camera.fieldOfView / 2);
    in->across = shot.camera.right() * (half * shot.aspect), in->up = shot.camera.up() * half;
    in->clearAir = std::max(0.0f, shot.camera.distance - in->size / 2);
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

/// Adds samples to one pixel, which is x, y in the whole picture. Sums stay at hand until they are done.
void PathTracer::Inside::addSamples(Gathered &g, std::size_t i, std::uint32_t x, std::uint32_t y, const Gathering &how,
                                    std::uint64_t &cast) const
{
    std::array<Vec3f, kMostLamps + 2> light;
    const std::size_t lights = g.light.size();
    for (std::size_t k = 0; k < lights; ++k)
        light[k] = g.light[k][i];
    Vec3f odd = g.odd[i], albedo = g.albedo[i], normal = g.normal[i];
    float depth = g.depth[i], facing = g.facing[i], open = g.open[i], cover = g.cover[i], shade = g.shade[i],
          squares = g.squares[i];
    std::uint32_t count = g.count[i];
    const auto isDone = [&] {
        if (how.error <= 0 || int(count) < how.fewest)
            return false;
        Vec3f all;
        for (std::size_t k = 0; k < lights; ++k)
            all += light[k];
        return relativeError(luminance(all), squares, count) <= how.error;
    };
    Found f;
    f.lights = lights;
    for (; int(count) < how.samples && !isDone(); ++count) {
        // Each half of the samples is even by itself, so that they tell of each other's noise.
        Sampler sampler(x, y, count / 2, 2 * how.seed + (count & 1));
        const auto [dx, dy] = sampler.pair();
        f.begin();
        sample((float(x) + dx) / float(g.wholeWidth) * 2 - 1, 1 - (float(y) + dy) / float(g.wholeHeight) * 2, sampler, f, cast);
        Vec3f all;
        for (std::size_t k = 0; k < lights; ++k)
            light[k] += f.light[k], all += f.light[k];
        if (count & 1)
            odd += all;
        if (count == 0)
            g.object[i] = f.object;
        albedo += f.albedo, normal += f.normal, depth += f.depth;
        facing += f.facing, open += f.open, cover += f.cover, shade += f.shade;
        squares += luminance(all) * luminance(all);
    }
    for (std::size_t k = 0; k < lights; ++k)
        g.light[k][i] = light[k];
    g.odd[i] = odd, g.albedo[i] = albedo, g.normal[i] = normal, g.depth[i] = depth, g.facing[i] = facing, g.open[i] = open;
    g.cover[i] = cover, g.shade[i] = shade, g.squares[i] = squares, g.count[i] = count;
}

bool PathTracer::gather(Gathered &g, const Gathering &how, const Progress &progress) const
{
    constexpr int kTile = 16; // pixels that lie together are asked for together
    const int across = (g.width + kTile - 1) / kTile, down = (g.height + kTile - 1) / kTile;
    std::atomic<int> done{0};
    const bool isDone = forEachBlock(std::size_t(across) * std::size_t(down), 1, progress.stop, [&](BlockRange range) {
        std::uint64_t cast = 0;
        for (std::size_t t = range.begin; t < range.end; ++t) {
            const int x0 = int(t) % across * kTile, y0 = int(t) / across * kTile;
            for (int y = y0; y < std::min(y0 + kTile, g.height); ++y)
                for (int x = x0; x < std::min(x0 + kTile, g.width) && !progress.isCancelled(); ++x) {
                    const std::size_t i = std::size_t(y) * std::size_t(g.width) + std::size_t(x);
                    m_inside->addSamples(g, i, std::uint32_t(g.left + x), std::uint32_t(g.top + y), how, cast);
                }
        }
        m_inside->rays += cast;
        progress.say(float(done += int(range.end - range.begin)) / float(across * down), "picture");
    });
    return isDone && !progress.isCancelled();
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
std::uint64_t PathTracer::digest() const
{
    return digestOf(m_inside->creature->scene(), m_inside->stage, m_inside->shot);
}
TracedScene &PathTracer::traced() const
{
    return *m_inside->creature;
}
const std::vector<std::string> &PathTracer::items() const
{
    return m_inside->items;
}

} // namespace bonemoss::portrait
