// Direct light by ray casting: Lambert's cosine law, hemisphere occlusion by cosine-weighted rays
// (Malley's method, after Pharr, Jakob & Humphreys 2016, section 13.6.3). Rays through one pixel are spread by Halton's
// points (1960), shifted from pixel to pixel (Cranley & Patterson 1976). sRGB after IEC 61966-2-1.
#include "portrait/clay_picture.h"

#include "base/colour.h"
#include "base/parallel.h"
#include "base/random.h"
#include "portrait/spot.h"

#include <algorithm>
#include <atomic>

namespace bonemoss::portrait {

namespace {

struct Lit : Spot {
    Vec3f point;
    bool isFloor = false;
    Vec3f tangent; ///< along a hair; zero elsewhere
};

struct Light {
    Vec3f toKey, toRim;
};

/// Number i of van der Corput's sequence: the digits of i behind the point, turned round.
float digitsTurned(std::uint32_t i, std::uint32_t base)
{
    float sum = 0, place = 1;
    for (; i; i /= base)
        sum += float(i % base) * (place /= float(base));
    return sum;
}

/// Evenly spread points of the unit square for one pixel and one use.
struct Spread {
    std::array<float, 2> shift;

    Spread(std::uint64_t pixel, std::uint64_t use) : shift{randomUnit(pixel, use * 2), randomUnit(pixel, use * 2 + 1)} {}
    std::array<float, 2> operator[](int i) const
    {
        const float a = digitsTurned(std::uint32_t(i), 2) + shift[0], b = digitsTurned(std::uint32_t(i), 3) + shift[1];
        return {a - std::floor(a), b - std::floor(b)};
    }
};

Vec3f cosineDirection(Vec3f n, float a, float b)
{
    const float r = std::sqrt(a), angle = 2 * kPi * b;
    const Vec3f u = normalized(cross(std::abs(n.x) < 0.8f ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0}, n));
    return u * (r * std::cos(angle)) + cross(n, u) * (r * std::sin(angle)) + n * std::sqrt(std::max(0.0f, 1 - a));
}

constexpr Vec3f kKeyLight{1.26f, 1.13f, 0.95f};

/// The key on a hair, a cylinder too thin to see (Kajiya & Kay 1989): it shines along a cone about the hair.
Vec3f hairLight(const TracedScene &s, const Lit &p, Vec3f toEye, Vec3f toKey, float far)
{
    if (s.isBlocked(p.point + toKey * (far * 3e-4f), toKey, far * 4))
        return {};
    const float along = dot(p.tangent, toKey), across = std::sqrt(std::max(0.0f, 1 - along * along));
    const float seen = dot(p.tangent, toEye), beside = std::sqrt(std::max(0.0f, 1 - seen * seen));
    const float shine = std::max(0.0f, across * beside - along * seen);
    return kKeyLight * (p.colour * (0.7f * across) + Vec3f{1, 1, 1} * (0.12f * std::pow(shine, 40.0f)));
}

/// The colour of a spot that ray `sample` through a pixel meets.
Vec3f shade(const TracedScene &s, const Lit &p, Vec3f toEye, const Light &light, std::uint64_t pixel, int sample)
{
    constexpr int kRays = 6;
    const Spread opens(pixel, 1), keys(pixel, 2);
    const float far = s.box().diagonal();
    const Vec3f from = p.point + p.normal * (far * 2e-4f);
    float open = 0;
    Vec3f sky;
    for (int k = 0; k < kRays; ++k) {
        const auto [a, b] = opens[sample * kRays + k];
        const Vec3f d = cosineDirection(p.normal, a, b);
        if (s.isBlocked(from, d, far * 0.35f))
            continue;
        const float up = 0.5f + 0.5f * d.y;
        sky += lerp(Vec3f{0.13f, 0.11f, 0.09f}, Vec3f{0.27f, 0.31f, 0.37f}, up);
        open += 1;
    }
    sky = sky * (1.0f / float(kRays));
    // A soft key: its direction spreads a little from ray to ray.
    const auto [a, b] = keys[sample];
    const Vec3f key1 = cosineDirection(light.toKey, a * 0.012f, b);
    if (squaredLength(p.tangent) > 0)
        return p.colour * sky + hairLight(s, p, toEye, key1, far);
    const float lit = dot(p.normal, key1) > 0 && !s.isBlocked(from, key1, far * 4) ? dot(p.normal, key1) : 0;
    Vec3f c = p.colour * (sky + kKeyLight * lit);
    if (!p.isFloor) {
        const float edge = std::pow(std::clamp(1 - dot(p.normal, toEye), 0.0f, 1.0f), 3.0f);
        const float rim = edge * std::max(0.0f, dot(p.normal, light.toRim));
        const float shine = lit > 0 ? std::max(0.0f, dot(p.normal, normalized(key1 + toEye))) : 0;
        const auto [gloss, metal, wet, through, grain] = p.finish;
        const float hard = std::lerp(18.0f, 190.0f, gloss), smooth = std::max({gloss, 0.4f * metal, wet});
        Vec3f own = Vec3f{1, 1, 1} * std::pow(shine, 24.0f) * 0.06f;
        own += lerp(Vec3f{1, 1, 1}, p.colour * 2.2f, metal) * (0.7f * std::max(gloss, 0.4f * metal) * std::pow(shine, hard));
        if (smooth > 0.02f) { // the key as a spark, and the sky in it
            const Vec3f mirrored = p.normal * (2 * dot(p.normal, toEye)) - toEye;
            own += Vec3f{1, 1, 1} * (wet * std::pow(shine, 320.0f));
            if (!s.isBlocked(from, mirrored, far))
                own += lerp(Vec3f{1, 1, 1}, p.colour * 2.2f, metal)
                       * ((std::max(wet, 0.4f * smooth * smooth) * (0.10f + 0.6f * edge) + 0.5f * metal)
                          * std::max(0.0f, 0.2f + 0.8f * mirrored.y));
        }
        c = c * ((1 - 0.65f * metal) * (1 - 0.2f * wet));
        c += p.colour * Vec3f{0.42f, 0.20f, 0.13f} * (through * (0.35f + 0.65f * edge));
        c += Vec3f{0.55f, 0.58f, 0.60f} * (rim * open / float(kRays)) + own;
    }
    return c;
}

std::uint8_t toneByte(float v)
{
    return srgbByte(v / (1 + 0.18f * v)); // soft shoulder: nothing turns pure white
}

/// What a ray meets: the creature, the floor under it, or nothing.
std::optional<Lit> meet(const TracedScene &s, std::span<const io::Material> materials, const mesh::Ray &r, float floor)
{
    if (const auto m = s.meet(r))
        return Lit{spotOf(*m, materials, s.box().diagonal()), m->point, false, m->tangent};
    if (r.direction.y < -1e-4f && r.origin.y > floor) {
        const float t = (floor - r.origin.y) / r.direction.y;
        return Lit{{{0, 1, 0}, {0.33f, 0.32f, 0.28f}}, r.origin + r.direction * t, true};
    }
    return {};
}

} // namespace

Result<image::ColourPicture> clayPicture(const io::Scene &shown, const Camera &camera, int width, int height, int samples,
                                         const Progress &progress)
{
    const TracedScene scene(shown);
    image::ColourPicture picture{width, height, std::vector<std::uint8_t>(std::size_t(width) * std::size_t(height) * 4)};
    // Key over the viewer's left shoulder, kept above the horizon; rim from behind.
    Vec3f toKey = normalized(-camera.right() * 0.9f + Vec3f{0, 1, 0} * 0.85f - camera.forward() * 0.55f);
    const Light light{toKey, normalized(camera.right() * 0.6f + Vec3f{0, 0.7f, 0} + camera.forward() * 0.8f)};
    const float floor = scene.box().isEmpty() ? 0 : scene.box().lo.y;
    const float radius = scene.box().diagonal();
    std::atomic<int> rows{0};
    const bool done = forEachBlock(std::size_t(height), 2, progress.stop, [&](BlockRange r) {
        for (std::size_t y = r.begin; y < r.end; ++y)
            for (int x = 0; x < width; ++x) {
                Vec3f sum;
                const std::uint64_t pixel = std::uint64_t(y) * std::uint64_t(width) + std::uint64_t(x);
                const Spread within(pixel, 0);
                for (int k = 0; k < samples; ++k) {
                    const auto [dx, dy] = within[k];
                    const float px = (float(x) + dx) / float(width) * 2 - 1;
                    const float py = 1 - (float(y) + dy) / float(height) * 2;
                    const mesh::Ray ray = camera.rayThrough(px, py, float(width) / float(height));
                    const Vec3f backdrop = lerp(Vec3f{0.17f, 0.162f, 0.135f}, Vec3f{0.40f, 0.385f, 0.325f}, 0.5f + 0.5f * py);
                    const auto spot = meet(scene, shown.materials, ray, floor);
                    if (!spot) {
                        sum += backdrop;
                        continue;
                    }
                    Vec3f c = shade(scene, *spot, -ray.direction, light, pixel, k);
                    if (spot->isFloor) { // the floor fades into the backdrop
                        const float away =
                            length(spot->point - Vec3f{scene.box().centre().x, floor, scene.box().centre().z}) / radius;
                        c = lerp(c, backdrop, std::clamp((away - 0.35f) * 1.6f, 0.0f, 1.0f));
                    }
                    sum += c;
                }
                sum = sum * (1.0f / float(samples));
                std::uint8_t *out = &picture.rgba[(y * std::size_t(width) + std::size_t(x)) * 4];
                out[0] = toneByte(sum.x), out[1] = toneByte(sum.y), out[2] = toneByte(sum.z), out[3] = 255;
            }
        progress.say(float(rows += 2) / float(height), "light");
    });
    if (!done)
        return Error{ErrorCode::Cancelled, "picture", "stopped on request"};
    return picture;
}

} // namespace bonemoss::portrait
