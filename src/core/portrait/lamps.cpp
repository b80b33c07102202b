// Balls are sampled over the cone they fill, windows over their area (M. Pharr, W. Jakob & G. Humphreys 2016, section 14.2).
#include "portrait/lamps.h"

#include "portrait/environment.h"
#include "portrait/frame.h"

namespace bonemoss::portrait {

namespace {

constexpr float kFar = 1e7f;

/// What directions of a light are told from: azimuth 0 and the vertical.
Frame frameOf(const Light &light, const Camera &camera)
{
    Vec3f front{0, 0, 1};
    if (light.goesWithCamera) {
        const Vec3f back = -camera.forward(), level{back.x, 0, back.z};
        const Vec3f up = camera.up();
        front = squaredLength(level) > 1e-6f ? normalized(level) : normalized(Vec3f{up.x, 0, up.z} * (back.y > 0 ? -1.0f : 1.0f));
    }
    Frame f(front);
    f.y = {0, 1, 0}, f.x = cross(f.y, front);
    return f;
}

Vec3f coneDirection(Vec3f axis, float cosMost, std::array<float, 2> u)
{
    const float c = 1 - u[0] * (1 - cosMost), s = std::sqrt(std::max(0.0f, 1 - c * c)), phi = 2 * kPi * u[1];
    return Frame(axis).toWorld({s * std::cos(phi), s * std::sin(phi), c});
}

} // namespace

Vec3f directionTo(const Light &light, const Camera &camera)
{
    return frameOf(light, camera).toWorld(directionOf(light.azimuth, light.elevation));
}

void standIn(Light &light, Vec3f direction, const Camera &camera)
{
    const Vec3f d = frameOf(light, camera).toLocal(direction);
    light.elevation = std::asin(std::clamp(d.y, -1.0f, 1.0f)) / kRadiansPerDegree;
    light.azimuth = std::atan2(d.x, d.z) / kRadiansPerDegree;
}

Lamp lampOf(const Light &light, Vec3f middle, const Camera &camera)
{
    Lamp out;
    out.shape = light.shape;
    const Vec3f aim = light.aim.value_or(middle), to = directionTo(light, camera);
    const Vec3f colour = light.colour * (light.kelvin > 0 ? blackBody(light.kelvin) : Vec3f{1, 1, 1});
    const float half = light.size / 2, distance = std::max(light.distance, 1e-3f);
    float facing = 1; // irradiance at the aim, of a radiance of 1
    switch (light.shape) {
    case Light::Shape::Sun: {
        const float angle = std::clamp(half, 0.01f, 60.0f) * kRadiansPerDegree;
        out.centre = to, out.radius = std::cos(angle);
        facing = kPi * std::sin(angle) * std::sin(angle);
        break;
    }
    case Light::Shape::Ball: {
        out.centre = aim + to * distance;
        out.radius = std::min(std::max(half, 1e-3f), 0.95f * distance);
        facing = kPi * (out.radius / distance) * (out.radius / distance); // R. Siegel & J. Howell, view factor of a sphere
        break;
    }
    case Light::Shape::Window: {
        out.centre = aim + to * distance, out.out = -to;
        const Vec3f side = std::abs(to.y) > 0.999f ? Vec3f{1, 0, 0} : normalized(cross({0, 1, 0}, to));
        out.u = side * std::max(half, 1e-3f), out.v = cross(to, side) * std::max(half, 1e-3f);
        out.area = 4 * std::max(half, 1e-3f) * std::max(half, 1e-3f);
        // A square that faces a small surface: four rectangles, each with a corner on the axis (the same handbook).
        const float x = half / distance, root = std::sqrt(1 + x * x);
        facing = kPi * 4 / (2 * kPi) * (2 * x / root * std::atan(x / root));
        break;
    }
    }
    out.radiance = colour * (light.strength * kPi / std::max(facing, 1e-9f));
    return out;
}

Lamp::Sample Lamp::sample(Vec3f from, std::array<float, 2> r) const
{
    if (shape == Light::Shape::Sun)
        return {coneDirection(centre, radius, r), kFar, 1 / (2 * kPi * (1 - radius))};
    const Vec3f way = centre - from;
    const float far2 = squaredLength(way);
    if (shape == Light::Shape::Ball) {
        if (far2 <= radius * radius * 1.0001f)
            return {};
        const float sine2 = radius * radius / far2;
        const float cosMost = std::sqrt(1 - sine2), open = sine2 < 1e-4f ? sine2 / 2 : 1 - cosMost;
        const Vec3f d = coneDirection(way * (1 / std::sqrt(far2)), 1 - open, r);
        const float t = dot(way, d), inside = radius * radius - (far2 - t * t);
        return {d, t - std::sqrt(std::max(0.0f, inside)), 1 / (2 * kPi * open)};
    }
    const Vec3f to = way + u * (2 * r[0] - 1) + v * (2 * r[1] - 1);
    const float d2 = squaredLength(to), d = std::sqrt(d2);
    const Vec3f direction = to * (1 / d);
    const float cosine = -dot(direction, out);
    return cosine <= 1e-5f ? Sample{} : Sample{direction, d, d2 / (cosine * area)};
}

std::optional<Lamp::Meeting> Lamp::meet(Vec3f from, Vec3f direction) const
{
    if (shape == Light::Shape::Sun) {
        if (dot(direction, centre) < radius)
            return {};
        return Meeting{kFar, 1 / (2 * kPi * (1 - radius))};
    }
    const Vec3f way = centre - from;
    if (shape == Light::Shape::Ball) {
        const float t = dot(way, direction), far2 = squaredLength(way),
                    inside = radius * radius - squaredLength(way - direction * t);
        if (t <= 0 || inside < 0 || far2 <= radius * radius * 1.0001f)
            return {};
        const float sine2 = radius * radius / far2, open = sine2 < 1e-4f ? sine2 / 2 : 1 - std::sqrt(1 - sine2);
        return Meeting{t - std::sqrt(inside), 1 / (2 * kPi * open)};
    }
    const float cosine = -dot(direction, out);
    if (cosine <= 1e-5f)
        return {};
    const float t = -dot(way, out) / cosine;
    if (t <= 0)
        return {};
    const Vec3f p = direction * t - way;
    if (std::abs(dot(p, u)) > squaredLength(u) || std::abs(dot(p, v)) > squaredLength(v))
        return {};
    return Meeting{t, t * t / (cosine * area)};
}

float Lamp::reach(Vec3f at) const
{
    const float bright = luminance(radiance);
    if (shape == Light::Shape::Sun)
        return bright * kPi * (1 - radius * radius);
    const Vec3f way = centre - at;
    const float far2 = std::max(squaredLength(way), 1e-6f);
    if (shape == Light::Shape::Ball)
        return bright * kPi * std::min(1.0f, radius * radius / far2);
    const float cosine = std::max(0.02f, -dot(way, out) / std::sqrt(far2));
    return bright * std::min(kPi, area * cosine / far2);
}

} // namespace bonemoss::portrait
