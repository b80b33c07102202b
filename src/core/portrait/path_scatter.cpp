// How light leaves what a path meets.
#include "portrait/detail/path.h"
#include "portrait/surface_light.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::portrait {

namespace {
constexpr int kMostSteps = 96; ///< of a walk inside
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
    std::fill_n(p.pick.begin(), n + 1, 0.0f);
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

bool PathTracer::Inside::walkInside(Path &p, const Meeting &m, const Spot &spot, Meeting &out) const
{
    // Colour and mean free path to what happens inside, as fitted in the paper.
    const auto albedo = [](float a) { return 1 - std::exp(-5.09406f * a + 2.61188f * a * a - 4.31805f * a * a * a); };
    const auto scale = [](float a) { return 1.9f - a + 3.5f * (a - 0.8f) * (a - 0.8f); };
    const Vec3f colour = min(max(spot.colour, Vec3f{0.002f, 0.002f, 0.002f}), Vec3f{0.98f, 0.98f, 0.98f});
    const Vec3f walk = max(spot.walk, Vec3f{1e-6f, 1e-6f, 1e-6f});
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
            if (!walkInside(p, m, spot, exit))
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

} // namespace bonemoss::portrait
