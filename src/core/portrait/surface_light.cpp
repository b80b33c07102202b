#include "portrait/surface_light.h"

#include <vector>

namespace bonemoss::portrait {

namespace {

constexpr float kLeastAlpha = 0.0016f, kDielectric = 0.04f;

/// Share of facets seen from a direction (Smith, GGX): 1 / (1 + lambda).
float lambda(float cosine, float alpha)
{
    const float c2 = cosine * cosine, t2 = std::max(0.0f, 1 - c2) / std::max(c2, 1e-9f);
    return 0.5f * (std::sqrt(1 + alpha * alpha * t2) - 1);
}
float facets(float cosine, float alpha)
{
    const float a2 = alpha * alpha, d = (a2 - 1) * cosine * cosine + 1;
    return a2 / (kPi * d * d);
}
} // namespace

Vec3f seenFacet(Vec3f out, float alpha, std::array<float, 2> u)
{
    const Vec3f v = normalized(Vec3f{alpha * out.x, alpha * out.y, out.z});
    const float flat = v.x * v.x + v.y * v.y;
    const Vec3f a = flat > 1e-12f ? Vec3f{-v.y, v.x, 0} * (1 / std::sqrt(flat)) : Vec3f{1, 0, 0}, b = cross(v, a);
    const float r = std::sqrt(u[0]), phi = 2 * kPi * u[1], s = 0.5f * (1 + v.z);
    const float x = r * std::cos(phi), y0 = r * std::sin(phi), y = (1 - s) * std::sqrt(std::max(0.0f, 1 - x * x)) + s * y0;
    const Vec3f n = a * x + b * y + v * std::sqrt(std::max(0.0f, 1 - x * x - y * y));
    return normalized(Vec3f{alpha * n.x, alpha * n.y, std::max(1e-6f, n.z)});
}

float seenShare(float cosine, float alpha)
{
    return 1 / (1 + lambda(cosine, alpha));
}

float clearAlpha(const Finish &finish)
{
    const float rough = 0.82f * (1 - std::clamp(finish[0].value_or(1.0f), 0.0f, 1.0f));
    return rough > 0.02f ? rough * rough : 0;
}

namespace {

float facetDensity(Vec3f out, Vec3f in, float alpha)
{
    const Vec3f h = normalized(out + in);
    return facets(h.z, alpha) / (4 * out.z * (1 + lambda(out.z, alpha)));
}
/// Of facets that give back all, times the cosine of `in`.
float facetValue(Vec3f out, Vec3f in, float alpha)
{
    const Vec3f h = normalized(out + in);
    return facets(h.z, alpha) / (4 * out.z * (1 + lambda(out.z, alpha) + lambda(in.z, alpha)));
}
/// The rise of reflection at grazing angles: C. Schlick 1994.
float grazing(float cosine)
{
    const float m = std::clamp(1 - cosine, 0.0f, 1.0f);
    return m * m * m * m * m;
}

constexpr int kReachSide = 32;

/// By cosine and by root of alpha, each 0 to 1.
const std::vector<std::array<float, 2>> &reachTable()
{
    static const std::vector<std::array<float, 2>> table = [] {
        std::vector<std::array<float, 2>> out;
        constexpr int kSide = 24; // quadrature by seen facets
        for (int a = 0; a < kReachSide; ++a)
            for (int c = 0; c < kReachSide; ++c) {
                const float root = float(a) / (kReachSide - 1), alpha = std::max(root * root, kLeastAlpha);
                const float cosine = std::max(float(c) / (kReachSide - 1), 0.004f);
                const Vec3f way{std::sqrt(1 - cosine * cosine), 0, cosine};
                double all = 0, rise = 0;
                for (int i = 0; i < kSide; ++i)
                    for (int j = 0; j < kSide; ++j) {
                        const Vec3f h = seenFacet(way, alpha, {(float(i) + 0.5f) / kSide, (float(j) + 0.5f) / kSide});
                        const float seen = dot(way, h);
                        const Vec3f in = h * (2 * seen) - way;
                        if (in.z <= 0)
                            continue;
                        const float w = (1 + lambda(cosine, alpha)) / (1 + lambda(cosine, alpha) + lambda(in.z, alpha));
                        all += double(w), rise += double(w * grazing(seen));
                    }
                out.push_back({float(all / (kSide * kSide)), float(rise / (kSide * kSide))});
            }
        return out;
    }();
    return table;
}

} // namespace

std::array<float, 2> facetReach(float cosine, float alpha)
{
    static const std::vector<std::array<float, 2>> &table = reachTable();
    const float x = std::clamp(cosine, 0.0f, 1.0f) * (kReachSide - 1),
                y = std::sqrt(std::clamp(alpha, 0.0f, 1.0f)) * (kReachSide - 1);
    const int c = std::min(int(x), kReachSide - 2), a = std::min(int(y), kReachSide - 2);
    const float s = x - float(c), t = y - float(a);
    std::array<float, 2> out{};
    for (std::size_t k = 0; k < 2; ++k) {
        const auto at = [&](int i, int j) { return table[std::size_t(j * kReachSide + i)][k]; };
        out[k] = std::lerp(std::lerp(at(c, a), at(c + 1, a), s), std::lerp(at(c, a + 1), at(c + 1, a + 1), s), t);
    }
    return out;
}

float fresnel(float cosine, float eta)
{
    const float sine2 = (1 - cosine * cosine) / (eta * eta);
    if (sine2 >= 1)
        return 1;
    const float far = std::sqrt(1 - sine2);
    const float p = (eta * cosine - far) / (eta * cosine + far), s = (cosine - eta * far) / (cosine + eta * far);
    return 0.5f * (p * p + s * s);
}

SurfaceLight::SurfaceLight(Vec3f colour, const FinishValues &f)
{
    const float gloss = std::clamp(f[0], 0.0f, 1.0f), metal = std::clamp(f[1], 0.0f, 1.0f);
    colour = min(max(colour, Vec3f{}), Vec3f{1, 1, 1});
    const float rough = 0.82f - 0.70f * gloss; // what is laid by hand goes evenly by eye
    m_alpha = std::max(rough * rough, kLeastAlpha);
    m_colour = colour, m_metal = metal;
    m_matt = colour * (1 - metal);
    m_coat = std::clamp(f[2], 0.0f, 1.0f);
    m_through = (1 - metal) * std::clamp(f[3], 0.0f, 1.0f);
}

namespace {

/// Reflection of facets with what bounces on between them, which keeps the colour of what reflects it.
float once(float f0, float rise, float all)
{
    return (f0 * (1 - rise) + rise) * (1 + f0 * (1 / std::max(all, 1e-3f) - 1));
}

} // namespace

Vec3f SurfaceLight::reflected(float rise, float all) const
{
    const auto of = [&](float c) {
        return std::lerp(once(kDielectric, rise, all), m_metal > 0 ? once(c, rise, all) : 0, m_metal);
    };
    return {of(m_colour.x), of(m_colour.y), of(m_colour.z)};
}

const SurfaceLight::Parts &SurfaceLight::partsOf(Vec3f out) const
{
    if (m_partsOf == out.z)
        return m_parts;
    m_partsOf = out.z;
    Parts &p = m_parts;
    const auto [all, rise] = facetReach(out.z, m_alpha);
    // What comes back of all directions: as of one in which the rise is its mean.
    const float mean = all > 0 ? rise / all : 0;
    p.all = all, p.mean = mean;
    p.gloss = reflected(mean, all) * all;
    p.matt = m_matt * ((1 - once(kDielectric, mean, all) * all) * (1 - m_through)); // metal has nothing below its gloss
    p.coat = 0;
    if (m_coat > 0) {
        const auto [coatAll, coatRise] = facetReach(out.z, kCoatAlpha);
        p.coat = m_coat * (kDielectric * (coatAll - coatRise) + coatRise);
    }
    const float below = 1 - p.coat;
    const float g = luminance(p.gloss) * below, d = luminance(p.matt) * below, sum = p.coat + g + d;
    p.pickCoat = sum > 0 ? p.coat / sum : 0, p.pickGloss = sum > 0 ? g / sum : 1;
    return p;
}

Vec3f SurfaceLight::below(Vec3f out) const
{
    out.z = std::max(out.z, 1e-3f);
    const Parts &p = partsOf(out);
    const float gloss = once(kDielectric, p.mean, p.all) * p.all;
    return Vec3f{1, 1, 1} * ((1 - gloss) * (1 - p.coat));
}

Vec3f SurfaceLight::value(Vec3f out, Vec3f in) const
{
    if (in.z <= 0)
        return {};
    out.z = std::max(out.z, 1e-3f);
    const Parts &p = partsOf(out);
    const float seen = dot(out, normalized(out + in)), rise = grazing(seen);
    const Vec3f gloss = reflected(rise, p.all) * facetValue(out, in, m_alpha);
    Vec3f sum = (gloss + p.matt * (in.z / kPi)) * (1 - p.coat);
    if (m_coat > 0)
        sum += Vec3f{1, 1, 1} * (m_coat * (kDielectric * (1 - rise) + rise) * facetValue(out, in, kCoatAlpha));
    return sum;
}

float SurfaceLight::density(Vec3f out, Vec3f in) const
{
    if (in.z <= 0)
        return 0;
    out.z = std::max(out.z, 1e-3f);
    const Parts &p = partsOf(out);
    float d = p.pickGloss * facetDensity(out, in, m_alpha) + std::max(0.0f, 1 - p.pickCoat - p.pickGloss) * in.z / kPi;
    if (p.pickCoat > 0)
        d += p.pickCoat * facetDensity(out, in, kCoatAlpha);
    return d;
}

SurfaceLight::Sample SurfaceLight::sample(Vec3f out, float which, std::array<float, 2> u) const
{
    out.z = std::max(out.z, 1e-3f);
    const Parts &p = partsOf(out);
    Sample s;
    if (which < p.pickCoat + p.pickGloss) {
        const Vec3f h = seenFacet(out, which < p.pickCoat ? kCoatAlpha : m_alpha, u);
        s.in = h * (2 * dot(out, h)) - out;
    } else {
        s.in = cosineDirection(u);
    }
    if (s.in.z <= 1e-5f)
        return {};
    s.density = density(out, s.in);
    if (s.density <= 1e-9f)
        return {};
    s.weight = value(out, s.in) * (1 / s.density);
    return s;
}

} // namespace bonemoss::portrait
