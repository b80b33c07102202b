#include "portrait/stage.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace bonemoss::portrait {

float lensOf(const Camera &camera, float aspect)
{
    return kFilmWidth / (2 * aspect * std::tan(camera.fieldOfView / 2));
}

float fieldOfViewOf(float lensMm, float aspect)
{
    return 2 * std::atan(kFilmWidth / (2 * aspect * lensMm));
}

Light *Stage::light(std::uint32_t id)
{
    const auto at = std::find_if(lights.begin(), lights.end(), [&](const Light &l) { return l.id == id; });
    return at == lights.end() ? nullptr : &*at;
}

const Shot *Stage::shot(std::uint32_t id) const
{
    const auto at = std::find_if(shots.begin(), shots.end(), [&](const Shot &s) { return s.id == id; });
    return at == shots.end() ? nullptr : &*at;
}

Vec3f blackBody(float kelvin)
{
    const auto lobe = [](float nm, float at, float below, float above) {
        const float t = (nm - at) / (nm < at ? below : above);
        return std::exp(-0.5f * t * t);
    };
    kelvin = std::clamp(kelvin, 1000.0f, 40000.0f);
    Vec3f xyz;
    for (float nm = 380; nm <= 780; nm += 5) {
        const double m = double(nm) * 1e-9;
        const double planck = 1 / (m * m * m * m * m * std::expm1(0.014387769 / (m * double(kelvin))));
        xyz += Vec3f{1.056f * lobe(nm, 599.8f, 37.9f, 31.0f) + 0.362f * lobe(nm, 442.0f, 16.0f, 26.7f)
                         - 0.065f * lobe(nm, 501.1f, 20.4f, 26.2f),
                     0.821f * lobe(nm, 568.8f, 46.9f, 40.5f) + 0.286f * lobe(nm, 530.9f, 16.3f, 31.1f),
                     1.217f * lobe(nm, 437.0f, 11.8f, 36.0f) + 0.681f * lobe(nm, 459.0f, 26.0f, 13.8f)}
               * float(planck * 1e-30);
    }
    Vec3f rgb{3.2406f * xyz.x - 1.5372f * xyz.y - 0.4986f * xyz.z, -0.9689f * xyz.x + 1.8758f * xyz.y + 0.0415f * xyz.z,
              0.0557f * xyz.x - 0.2040f * xyz.y + 1.0570f * xyz.z}; // to the primaries of sRGB, IEC 61966-2-1
    rgb = max(rgb, Vec3f{});
    return rgb * (1 / std::max({rgb.x, rgb.y, rgb.z}));
}

std::span<const LightRole> lightRoles()
{
    using Shape = Light::Shape;
    static const std::array<LightRole, 6> roles{{
        {"key",
         "Key",
         "The main light, from the front and above",
         {.shape = Shape::Window,
          .azimuth = 42,
          .elevation = 40,
          .distance = 1.5f,
          .size = 0.7f,
          .strength = 1.3f,
          .kelvin = 4600}},
        {"fill",
         "Fill",
         "Opens the shadows that the key leaves",
         {.shape = Shape::Window,
          .azimuth = -48,
          .elevation = 12,
          .distance = 2,
          .size = 1.4f,
          .strength = 0.3f,
          .kelvin = 9000}},
        {"rim",
         "Rim",
         "From behind: draws the outline",
         {.shape = Shape::Window,
          .azimuth = 165,
          .elevation = 38,
          .distance = 1.5f,
          .size = 0.5f,
          .strength = 2.2f,
          .kelvin = 6800}},
        {"lamp",
         "Lamp",
         "A small ball that shines all round",
         {.shape = Shape::Ball, .azimuth = 15, .elevation = 20, .distance = 0.8f, .size = 0.08f, .strength = 1, .kelvin = 2700}},
        {"window",
         "Window",
         "A large square: soft light and a clear highlight",
         {.shape = Shape::Window, .azimuth = 80, .elevation = 25, .distance = 1.2f, .size = 1.1f, .strength = 1, .kelvin = 6500}},
        {"sun",
         "Sun",
         "The same direction everywhere, hard shadows",
         {.shape = Shape::Sun, .azimuth = 60, .elevation = 35, .distance = 0, .size = 0.53f, .strength = 1.6f, .kelvin = 5200}},
    }};
    return roles;
}

const LightRole *lightRole(std::string_view id)
{
    const auto roles = lightRoles();
    const auto at = std::find_if(roles.begin(), roles.end(), [&](const LightRole &r) { return r.id == id; });
    return at == roles.end() ? nullptr : &*at;
}

Light makeLight(const LightRole &role, float size)
{
    Light out = role.light;
    out.name = role.title;
    out.distance *= size;
    if (out.shape != Light::Shape::Sun)
        out.size *= size;
    return out;
}

namespace {

/// A light of a role with another place, strength and colour.
Light lit(const char *role, float size, float azimuth, float elevation, float strength, float kelvin, float wider = 1)
{
    Light out = makeLight(*lightRole(role), size);
    out.azimuth = azimuth, out.elevation = elevation, out.strength = strength, out.kelvin = kelvin, out.size *= wider;
    return out;
}

Stage museum(float s)
{
    Stage out;
    out.lights = {lit("key", s, -52, 42, 1.15f, 4500), lit("fill", s, 58, 8, 0.10f, 11000), lit("rim", s, 150, 38, 1.5f, 6500)};
    for (Light &l : out.lights) // as one walks round the case, it is lit from the same side
        l.goesWithCamera = true;
    out.surroundings = {.kind = Surroundings::Kind::Even, .strength = 0.13f};
    out.backdrop = {.kind = Backdrop::Kind::Gradient, .high = {0.055f, 0.052f, 0.05f}, .low = {0.16f, 0.145f, 0.125f}};
    out.ground.kind = "floor";
    return out;
}

Stage moor(float s)
{
    Stage out;
    out.lights = {lit("window", s, 35, 62, 0.5f, 6600, 1.6f), lit("rim", s, 170, 30, 0.6f, 8500)};
    out.lights[0].name = "Cloud";
    out.surroundings = {
        .kind = Surroundings::Kind::Even, .above = {0.82f, 0.90f, 1}, .below = {0.20f, 0.19f, 0.13f}, .strength = 0.30f};
    out.backdrop = {.kind = Backdrop::Kind::Hills, .high = {0.55f, 0.60f, 0.66f}, .low = {0.20f, 0.22f, 0.19f}, .seed = 4};
    out.ground.kind = "turf";
    out.fog = {.distance = 7 * s, .colour = {0.50f, 0.55f, 0.60f}};
    return out;
}

Stage lowSun(float s)
{
    Stage out;
    out.lights = {lit("sun", s, 78, 16, 1.2f, 3000, 2), lit("fill", s, -60, 20, 0.10f, 12000, 1.5f),
                  lit("rim", s, -150, 25, 0.7f, 3600)};
    out.surroundings = {.kind = Surroundings::Kind::Sky, .sunHeight = 10, .haze = 4, .rotation = 78, .strength = 0.35f};
    out.backdrop = {.kind = Backdrop::Kind::Hills, .high = {0.80f, 0.55f, 0.34f}, .low = {0.22f, 0.15f, 0.13f}, .seed = 2};
    out.ground.kind = "turf";
    out.fog = {.distance = 9 * s, .colour = {0.62f, 0.44f, 0.32f}};
    return out;
}

Stage campfire(float s)
{
    Stage out;
    out.lights = {lit("lamp", s, 28, 2, 0.9f, 1900, 2), lit("rim", s, 172, 45, 0.5f, 12000),
                  lit("fill", s, -80, 30, 0.05f, 12000)};
    out.lights[0].name = "Fire", out.lights[1].name = "Moon";
    out.surroundings = {
        .kind = Surroundings::Kind::Even, .above = {0.35f, 0.5f, 1}, .below = {0.15f, 0.1f, 0.07f}, .strength = 0.06f};
    out.backdrop = {.kind = Backdrop::Kind::Gradient, .high = {0.008f, 0.012f, 0.025f}, .low = {0.03f, 0.028f, 0.035f}};
    out.ground.kind = "rock";
    return out;
}

Stage storm(float s)
{
    Stage out;
    out.lights = {lit("rim", s, 148, 30, 2.4f, 9000), lit("rim", s, -135, 20, 1.5f, 7500), lit("key", s, 50, 50, 0.14f, 8000, 2)};
    out.lights[1].name = "Rim right";
    out.surroundings = {
        .kind = Surroundings::Kind::Even, .above = {0.6f, 0.72f, 0.9f}, .below = {0.1f, 0.1f, 0.1f}, .strength = 0.12f};
    out.backdrop = {.kind = Backdrop::Kind::Hills, .high = {0.12f, 0.145f, 0.17f}, .low = {0.03f, 0.035f, 0.04f}, .seed = 7};
    out.ground.kind = "water";
    out.fog = {.distance = 6 * s, .colour = {0.13f, 0.15f, 0.17f}};
    return out;
}

Stage overhead(float s)
{
    Stage out;
    out.lights = {lit("window", s, 0, 86, 0.95f, 6200, 1.3f)};
    out.lights[0].name = "Skylight";
    out.surroundings = {
        .kind = Surroundings::Kind::Even, .above = {1, 0.97f, 0.92f}, .below = {0.5f, 0.45f, 0.4f}, .strength = 0.18f};
    out.backdrop = {.kind = Backdrop::Kind::Gradient, .high = {0.11f, 0.105f, 0.10f}, .low = {0.26f, 0.25f, 0.235f}};
    out.ground.kind = "pedestal";
    return out;
}

} // namespace

std::span<const LightSet> lightSets()
{
    static const std::array<LightSet, 6> sets{{
        {"museum", "Museum case", "Warm key, cool fill, strong rim before a dark wall", museum},
        {"moor", "Overcast moor", "Soft light from a cloudy sky, hills in haze", moor},
        {"low-sun", "Low sun", "Evening sun from the side, cool shadows", lowSun},
        {"campfire", "Campfire", "Fire from below, moonlight behind", campfire},
        {"storm-rim", "Storm rim", "Dark front, bright outline, wet ground", storm},
        {"overhead", "Overhead window", "One large light above: simple, calm", overhead},
    }};
    return sets;
}

const LightSet *lightSet(std::string_view id)
{
    const auto sets = lightSets();
    const auto at = std::find_if(sets.begin(), sets.end(), [&](const LightSet &s) { return s.id == id; });
    return at == sets.end() ? nullptr : &*at;
}

} // namespace bonemoss::portrait
