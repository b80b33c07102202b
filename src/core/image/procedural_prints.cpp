// Single prints, each drawn from a few formulas of ours: knobs, wounds, folds, growths. u and v run from 0 to 1, v downwards.
#include "base/types.h"
#include "image/detail/stamp_entry.h"

#include "base/random.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace bonemoss::image {

namespace {

float ease(float from, float to, float v)
{
    const float t = std::clamp((v - from) / (to - from), 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

/// A place in the print: x to the right and y up from the middle, -1 to 1; r and turn about the middle.
struct At {
    float x, y, r, turn;
    At(float u, float v) : x(2 * u - 1), y(1 - 2 * v), r(std::hypot(x, y)), turn(std::atan2(y, x)) {}
};

/// Level outside: heights that fade before the rim.
float level(float height, float r)
{
    return std::clamp(0.5f + 0.5f * height * (1 - ease(0.82f, 0.98f, r)), 0.0f, 1.0f);
}
float dome(float r, float radius)
{
    const float t = r / radius;
    return t < 1 ? std::sqrt(1 - t * t) : 0;
}
/// A ridge (or, negative, a groove) along a curve at that distance.
float ridge(float off, float half)
{
    const float t = std::abs(off) / half;
    return t < 1 ? (1 - t * t) * (1 - t * t) : 0;
}
float fibre(float phase, float sharp)
{
    return std::pow(0.5f + 0.5f * std::cos(2 * kPi * phase), sharp);
}

float knob(float u, float v)
{
    const At p(u, v);
    return level(dome(p.r, 0.78f) - 0.25f * ridge(p.r - 0.84f, 0.1f), p.r);
}
float cone(float u, float v)
{
    const At p(u, v);
    return level(std::pow(std::max(0.0f, 1 - p.r / 0.85f), 1.4f), p.r);
}
float ring(float u, float v)
{
    const At p(u, v);
    return level(ridge(p.r - 0.58f, 0.26f), p.r);
}
float crater(float u, float v)
{
    const At p(u, v);
    const float rough = 0.06f * stampNoise(u, v, 6, 101);
    return level(0.7f * ridge(p.r - 0.62f + rough, 0.24f) - 0.8f * dome(p.r + rough, 0.5f), p.r);
}
float sucker(float u, float v)
{
    const At p(u, v);
    const float teeth = 0.12f * fibre(p.turn / (2 * kPi) * 22, 1) * ease(0.5f, 0.6f, p.r);
    return level(0.75f * ridge(p.r - 0.66f, 0.2f) + teeth * (1 - ease(0.66f, 0.8f, p.r)) + 0.35f * dome(p.r, 0.2f)
                     - 0.5f * dome(p.r, 0.55f),
                 p.r);
}
float barnacle(float u, float v)
{
    const At p(u, v);
    const float ribs = 0.14f * fibre(p.turn / (2 * kPi) * 9 + 0.25f * stampNoise(u, v, 5, 102), 1);
    const float wall = ease(0.9f, 0.42f, p.r) * ease(0.2f, 0.36f, p.r);
    return level(wall * (0.75f + ribs) - 0.45f * (1 - ease(0.16f, 0.3f, p.r)), p.r);
}
float eyelet(float u, float v)
{
    const At p(u, v);
    return level(0.55f * dome(std::hypot(p.x, p.y * 1.9f), 0.86f) - 0.95f * ridge(p.y, 0.14f) * ease(0.75f, 0.45f, std::abs(p.x)),
                 p.r);
}
float nostril(float u, float v)
{
    const At p(u, v);
    const float curl = std::hypot(p.x + 0.1f, (p.y - 0.1f) * 1.3f);
    return level(0.6f * ridge(curl - 0.5f, 0.3f) * ease(-0.9f, 0.3f, p.x + p.y)
                     - 0.95f * dome(std::hypot(p.x + 0.1f, p.y * 1.5f - 0.1f), 0.4f),
                 p.r);
}
float navel(float u, float v)
{
    const At p(u, v);
    const float folds = 0.25f * fibre(p.turn / (2 * kPi) * 7 + 0.4f * stampNoise(u, v, 4, 103), 2) * ease(0.1f, 0.3f, p.r)
                        * ease(0.8f, 0.5f, p.r);
    return level(0.35f * ridge(p.r - 0.5f, 0.36f) - 0.9f * dome(p.r, 0.3f) + folds, p.r);
}
float puckers(float u, float v)
{
    const At p(u, v);
    const float ray = fibre(p.turn / (2 * kPi) * 13 + 0.5f * stampNoise(u, v, 6, 104), 1.5f);
    return level((0.7f * ray - 0.45f) * ease(0.08f, 0.3f, p.r) * ease(0.85f, 0.45f, p.r) - 0.3f * dome(p.r, 0.14f), p.r);
}
float crowsFoot(float u, float v)
{
    const At p(u, v);
    float deep = 0;
    const float x = p.x + 0.8f;
    for (int k = -2; k <= 2; ++k) {
        const float turn = 0.28f * float(k), bend = 0.12f * std::sin(2.4f * x + float(k));
        deep = std::max(deep, ridge(p.y - std::tan(turn) * x - bend * x * 0.4f, 0.05f + 0.04f * x) * ease(0.05f, 0.3f, x)
                                  * ease(1.6f - 0.15f * std::abs(float(k)), 0.9f, x));
    }
    return level(-0.85f * deep + 0.2f * ease(0.0f, 0.3f, x) * ease(1.6f, 1, x) * dome(p.r, 0.9f), p.r);
}
float knuckle(float u, float v)
{
    const At p(u, v);
    float folds = 0;
    for (int k = -2; k <= 2; ++k) {
        const float y = 0.24f * float(k) * (1 - 0.25f * p.x * p.x);
        folds = std::max(folds, ridge(p.y - y - 0.03f * stampNoise(u, v, 5, 105u + unsigned(k + 2)), 0.1f)
                                    * (1 - 0.2f * std::abs(float(k))));
    }
    return level((0.5f - 0.9f * folds) * dome(std::hypot(p.x * 0.9f, p.y), 0.88f), p.r);
}
float foldPrint(float u, float v)
{
    const At p(u, v);
    const float y = p.y + 0.18f * p.x * p.x - 0.05f;
    return level((0.75f * ridge(y - 0.2f, 0.4f) - 0.9f * ridge(y + 0.12f, 0.13f)) * ease(0.95f, 0.4f, std::abs(p.x)), p.r);
}
float claw(float u, float v)
{
    const At p(u, v);
    float deep = 0, lip = 0;
    for (int k = -1; k <= 1; ++k) {
        const float x = p.x - 0.34f * float(k) - 0.08f * p.y * p.y,
                    end = ease(0.86f - 0.12f * std::abs(float(k)), 0.35f, std::abs(p.y));
        deep = std::max(deep, ridge(x, 0.1f) * end), lip = std::max(lip, ridge(std::abs(x) - 0.14f, 0.09f) * end);
    }
    return level(-0.95f * deep + 0.4f * lip * (1 - deep), p.r);
}
float bite(float u, float v)
{
    const At p(u, v);
    float deep = 0;
    for (int k = 0; k < 14; ++k) {
        const float turn = 2 * kPi * (float(k) + 0.25f * randomSigned(106, std::uint64_t(k))) / 14;
        const float cx = 0.66f * std::cos(turn), cy = 0.5f * std::sin(turn),
                    turnedX = (p.x - cx) * std::cos(turn) + (p.y - cy) * std::sin(turn),
                    turnedY = -(p.x - cx) * std::sin(turn) + (p.y - cy) * std::cos(turn);
        deep = std::max(deep, dome(std::hypot(turnedX / 1.5f, turnedY), 0.085f));
    }
    return level(-0.95f * deep + 0.25f * ridge(std::hypot(p.x, p.y * 1.3f) - 0.66f, 0.3f) * (1 - deep), p.r);
}
float stitches(float u, float v)
{
    const At p(u, v);
    const float wave = 0.06f * std::sin(5 * p.x), along = p.x * 4.5f, which = along - std::floor(along) - 0.5f;
    const float thread = ridge(which / 4.5f + 0.05f * (p.y - wave), 0.035f) * ease(0.34f, 0.26f, std::abs(p.y - wave));
    return level((-0.7f * ridge(p.y - wave, 0.07f) + 0.35f * ridge(std::abs(p.y - wave) - 0.13f, 0.12f) + 0.8f * thread)
                     * ease(0.92f, 0.75f, std::abs(p.x)),
                 p.r);
}
float burst(float u, float v)
{
    const At p(u, v);
    const float arm = fibre(p.turn / (2 * kPi) * 6 + 0.15f * stampNoise(u, v, 4, 107), 6) * ease(0.95f, 0.2f, p.r);
    return level(std::max(0.9f * arm, 0.9f * dome(p.r, 0.26f)), p.r);
}
float leaf(float u, float v)
{
    const At p(u, v);
    const float half = 0.52f * std::sqrt(std::max(0.0f, 1 - p.x * p.x / 0.81f)) * (1 - 0.25f * p.x), in = half - std::abs(p.y);
    const float veins = 0.2f * ridge(std::fmod(std::abs((p.x + 2 - std::abs(p.y) * 0.7f) * 5), 1.0f) - 0.5f, 0.28f);
    return level(
        in > 0 ? ease(0, 0.12f, in) * (0.55f + 0.35f * ridge(p.y, 0.07f) + veins * ease(0.02f, 0.15f, std::abs(p.y))) : 0, p.r);
}
float shell(float u, float v)
{
    const At p(u, v);
    const float y = p.y + 0.75f, r = std::hypot(p.x, y), turn = std::atan2(p.x, y);
    const float in = ease(1.5f, 1.38f, r) * ease(1.05f, 0.92f, std::abs(turn));
    return level(in
                     * (0.35f + 0.35f * ease(0.1f, 1.2f, r) + 0.25f * fibre(turn * 3.4f, 1) * ease(0.2f, 0.6f, r)
                        - 0.08f * fibre(r * 6, 3)),
                 p.r);
}
float spiral(float u, float v)
{
    const At p(u, v);
    const float coil = std::log(std::max(p.r, 0.02f)) * 1.9f - p.turn / (2 * kPi), f = coil - std::floor(coil);
    return level((0.9f * std::sqrt(std::max(0.0f, 1 - std::pow(2 * f - 1, 2.0f))) - 0.15f) * ease(0.86f, 0.74f, p.r), p.r);
}
float gills(float u, float v)
{
    const At p(u, v);
    const float phase = p.x * 3.2f + 0.35f * p.y * p.y, f = phase - std::floor(phase);
    return level((0.75f * ease(0, 0.7f, f) * ease(1, 0.86f, f) - 0.5f * ridge(f - 0.97f, 0.12f)) * ease(0.8f, 0.6f, std::abs(p.y))
                     * ease(0.9f, 0.75f, std::abs(p.x)),
                 p.r);
}
float fork(float u, float v)
{
    const At p(u, v);
    const float x = p.x + 0.06f * std::sin(4 * p.y);
    float high = ridge(x, 0.12f) * ease(-0.95f, -0.6f, p.y) * ease(0.2f, 0.0f, p.y);
    for (const float side : {-1.0f, 1.0f}) {
        const float t = std::max(0.0f, p.y + 0.05f);
        high = std::max(high, ridge(p.x - side * (0.45f * std::pow(t, 0.8f)) + 0.04f * std::sin(6 * p.y), 0.09f)
                                  * ease(-0.1f, 0.05f, p.y) * ease(0.92f, 0.5f, p.y));
    }
    return level(0.8f * high, p.r);
}
float blister(float u, float v)
{
    const At p(u, v);
    float high = 0;
    for (int k = 0; k < 6; ++k) {
        const float cx = 0.42f * randomSigned(108, std::uint64_t(k) * 2),
                    cy = 0.42f * randomSigned(108, std::uint64_t(k) * 2 + 1),
                    size = 0.18f + 0.2f * randomUnit(109, std::uint64_t(k));
        high = std::max(high, size * 2.4f * dome(std::hypot(p.x - cx, p.y - cy), size));
    }
    return level(std::min(1.0f, high), p.r);
}
float tuft(float u, float v)
{
    const At p(u, v);
    const float spread = p.x / (0.35f + 0.5f * ease(-0.9f, 0.8f, -p.y)),
                strand = 0.5f + 0.5f * std::sin(24 * spread + 5 * stampNoise(u, v, 4, 110));
    const float tip = 0.75f + 0.2f * stampNoise(u, 0.3f, 9, 111);
    return level(
        (0.35f + 0.55f * strand) * ease(1, 0.7f, std::abs(spread)) * ease(tip, tip - 0.4f, -p.y) * ease(0.95f, 0.5f, p.y), p.r);
}
float chip(float u, float v)
{
    const At p(u, v);
    const float edge = 0.62f + 0.22f * stampNoise(u, v, 3, 112) + 0.08f * stampNoise(u, v, 9, 113);
    const float facet = std::max({0.5f * p.x + 0.2f * p.y, -0.45f * p.x + 0.35f * p.y, -0.55f * p.y});
    return level(p.r < edge ? -0.9f * ease(edge, edge - 0.1f, p.r) * (0.9f - facet) : 0, p.r);
}

constexpr std::array<StampEntry, 25> kPrints{{
    {"knob", "Growths", knob},        {"cone", "Growths", cone},           {"ring", "Growths", ring},
    {"crater", "Wounds", crater},     {"sucker", "Growths", sucker},       {"barnacle", "Growths", barnacle},
    {"eyelet", "Openings", eyelet},   {"nostril", "Openings", nostril},    {"navel", "Openings", navel},
    {"puckers", "Folds", puckers},    {"crow's foot", "Folds", crowsFoot}, {"knuckle", "Folds", knuckle},
    {"fold", "Folds", foldPrint},     {"claw marks", "Wounds", claw},      {"bite", "Wounds", bite},
    {"stitches", "Wounds", stitches}, {"burst", "Growths", burst},         {"leaf", "Growths", leaf},
    {"shell", "Growths", shell},      {"spiral", "Growths", spiral},       {"gills", "Openings", gills},
    {"vein fork", "Folds", fork},     {"blisters", "Wounds", blister},     {"tuft", "Growths", tuft},
    {"chip", "Wounds", chip},
}};

} // namespace

std::span<const StampEntry> printStamps()
{
    return kPrints;
}

} // namespace bonemoss::image
