// Names of the terms follow the paper: Mp along the hair, Np about it, Ap what is not absorbed.
#include "portrait/surface_light.h"

namespace bonemoss::portrait {

namespace {

constexpr float kIndex = 1.55f, kScales = 2 * kRadiansPerDegree; ///< refraction; how far scales are lifted

float root(float x)
{
    return std::sqrt(std::max(0.0f, x));
}
/// Bessel function of the first kind, modified, of order 0: the first ten terms of its series.
float bessel(float x)
{
    float sum = 0, term = 1;
    for (int i = 1; i <= 10; ++i) {
        sum += term;
        term *= x * x / (4 * float(i) * float(i));
    }
    return sum;
}
float logBessel(float x)
{
    return x > 12 ? x + 0.5f * (-std::log(2 * kPi) + std::log(1 / x) + 1 / (8 * x)) : std::log(bessel(x));
}
float along(float cosIn, float cosOut, float sinIn, float sinOut, float v)
{
    const float a = cosIn * cosOut / v, b = sinIn * sinOut / v;
    return v <= 0.1f ? std::exp(logBessel(a) - b - 1 / v + 0.6931f + std::log(1 / (2 * v)))
                     : std::exp(-b) * bessel(a) / (std::sinh(1 / v) * 2 * v);
}
float logistic(float x, float s)
{
    const float e = std::exp(-std::abs(x) / s);
    return e / (s * (1 + e) * (1 + e));
}
float logisticSum(float x, float s)
{
    return 1 / (1 + std::exp(-x / s));
}
float about(float phi, std::size_t lobe, float s, float gammaO, float gammaT)
{
    float d = phi - (2 * float(lobe) * gammaT - 2 * gammaO + float(lobe) * kPi);
    d -= 2 * kPi * std::floor((d + kPi) / (2 * kPi));
    return logistic(d, s) / (logisticSum(kPi, s) - logisticSum(-kPi, s));
}

} // namespace

HairLight::HairLight(Vec3f colour, float across, float roughness)
    : m_across(std::clamp(across, -0.999f, 0.999f)), m_gammaO(std::asin(m_across))
{
    const float m = roughness, n = roughness;
    const auto power = [](float x, int k) { return std::pow(x, float(k)); };
    const float w = 0.726f * m + 0.812f * m * m + 3.7f * power(m, 20);
    m_width = {w * w, 0.25f * w * w, 4 * w * w, 4 * w * w};
    m_azimuthal = std::sqrt(kPi / 8) * (0.265f * n + 1.194f * n * n + 5.372f * power(n, 22));
    const float by = 5.969f - 0.215f * n + 2.532f * n * n - 10.73f * power(n, 3) + 5.574f * power(n, 4) + 0.245f * power(n, 5);
    const auto absorbed = [&](float c) {
        const float x = std::log(std::clamp(c, 0.003f, 0.995f)) / by;
        return x * x;
    };
    m_absorption = {absorbed(colour.x), absorbed(colour.y), absorbed(colour.z)};
}

HairLight::Way HairLight::wayOf(Vec3f out) const
{
    Way w;
    w.sine = std::clamp(out.x, -1.0f, 1.0f), w.cosine = std::max(root(1 - w.sine * w.sine), 1e-4f);
    w.phi = std::atan2(out.z, out.y);
    const float sinT = w.sine / kIndex, cosT = root(1 - sinT * sinT);
    const float etaP = root(kIndex * kIndex - w.sine * w.sine) / w.cosine, sinGammaT = std::clamp(m_across / etaP, -1.0f, 1.0f);
    w.gammaT = std::asin(sinGammaT);
    const float way = 2 * root(1 - sinGammaT * sinGammaT) / std::max(cosT, 1e-4f);
    const Vec3f t{std::exp(-m_absorption.x * way), std::exp(-m_absorption.y * way), std::exp(-m_absorption.z * way)};
    const float f = fresnel(w.cosine * root(1 - m_across * m_across), kIndex);
    w.share[0] = {f, f, f};
    w.share[1] = t * ((1 - f) * (1 - f));
    w.share[2] = w.share[1] * t * f;
    const auto rest = [&](float a, float x) { return a * f * x / (1 - x * f); };
    w.share[3] = {rest(w.share[2].x, t.x), rest(w.share[2].y, t.y), rest(w.share[2].z, t.z)};
    float sum = 0;
    for (std::size_t p = 0; p < kLobes; ++p)
        sum += w.pick[p] = luminance(w.share[p]);
    for (float &p : w.pick)
        p /= sum;
    return w;
}

/// The direction seen from scales, which are lifted to the tip: sine and cosine.
std::array<float, 2> HairLight::tilted(float sine, float cosine, std::size_t lobe) const
{
    const float angle = lobe == 0 ? -2 * kScales : lobe == 1 ? kScales : lobe == 2 ? 4 * kScales : 0;
    const float s = std::sin(angle), c = std::cos(angle);
    return {sine * c + cosine * s, std::abs(cosine * c - sine * s)};
}

Vec3f HairLight::value(Vec3f out, Vec3f in) const
{
    const Way w = wayOf(out);
    const float sinIn = std::clamp(in.x, -1.0f, 1.0f), cosIn = root(1 - sinIn * sinIn), phi = std::atan2(in.z, in.y) - w.phi;
    Vec3f sum;
    for (std::size_t p = 0; p < kLobes; ++p) {
        const auto [s, c] = tilted(w.sine, w.cosine, p);
        const float round = p + 1 == kLobes ? 1 / (2 * kPi) : about(phi, p, m_azimuthal, m_gammaO, w.gammaT);
        sum += w.share[p] * (along(cosIn, c, sinIn, s, m_width[p]) * round);
    }
    return sum;
}

float HairLight::density(Vec3f out, Vec3f in) const
{
    const Way w = wayOf(out);
    const float sinIn = std::clamp(in.x, -1.0f, 1.0f), cosIn = root(1 - sinIn * sinIn), phi = std::atan2(in.z, in.y) - w.phi;
    float sum = 0;
    for (std::size_t p = 0; p < kLobes; ++p) {
        const auto [s, c] = tilted(w.sine, w.cosine, p);
        const float round = p + 1 == kLobes ? 1 / (2 * kPi) : about(phi, p, m_azimuthal, m_gammaO, w.gammaT);
        sum += w.pick[p] * along(cosIn, c, sinIn, s, m_width[p]) * round;
    }
    return sum;
}

SurfaceLight::Sample HairLight::sample(Vec3f out, std::array<float, 2> u, std::array<float, 2> v) const
{
    const Way w = wayOf(out);
    std::size_t p = 0;
    float which = u[0];
    while (p + 1 < kLobes && which >= w.pick[p])
        which -= w.pick[p++];
    const auto [s, c] = tilted(w.sine, w.cosine, p);
    const float width = m_width[p], first = std::max(v[0], 1e-5f);
    const float cosTheta = 1 + width * std::log(first + (1 - first) * std::exp(-2 / width));
    const float sinTheta = root(1 - cosTheta * cosTheta), turn = std::cos(2 * kPi * v[1]);
    const float sinIn = std::clamp(-cosTheta * s + sinTheta * turn * c, -1.0f, 1.0f), cosIn = root(1 - sinIn * sinIn);
    float d = 2 * kPi * u[1];
    if (p + 1 < kLobes) {
        const float low = logisticSum(-kPi, m_azimuthal), high = logisticSum(kPi, m_azimuthal);
        const float x = std::clamp(-m_azimuthal * std::log(1 / std::lerp(low, high, u[1]) - 1), -kPi, kPi);
        d = 2 * float(p) * w.gammaT - 2 * m_gammaO + float(p) * kPi + x;
    }
    SurfaceLight::Sample out2;
    const float phi = w.phi + d;
    out2.in = {sinIn, cosIn * std::cos(phi), cosIn * std::sin(phi)};
    out2.density = density(out, out2.in);
    if (!(out2.density > 1e-9f))
        return {};
    out2.weight = value(out, out2.in) * (1 / out2.density);
    return out2;
}

} // namespace bonemoss::portrait
