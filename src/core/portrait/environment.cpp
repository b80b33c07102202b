#include "portrait/environment.h"

#include "image/picture_file.h"
#include "portrait/frame.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::portrait {

Vec3f directionOf(float azimuth, float elevation)
{
    const float a = azimuth * kRadiansPerDegree, e = elevation * kRadiansPerDegree;
    return {std::cos(e) * std::sin(a), std::sin(e), std::cos(e) * std::cos(a)};
}

Vec3f skyRadiance(Vec3f d, Vec3f toSun, float t)
{
    const float cosTheta = std::max(d.y, 0.01f), gamma = std::acos(std::clamp(dot(d, toSun), -1.0f, 1.0f));
    const float sun = std::acos(std::clamp(toSun.y, 0.0f, 1.0f)), sun2 = sun * sun, sun3 = sun2 * sun;
    // R. Perez, R. Seals & J. Michalsky 1993; coefficients of the 1999 paper, appendix A.2.
    const auto perez = [](float c, float g, const std::array<float, 5> &k) {
        return (1 + k[0] * std::exp(k[1] / c)) * (1 + k[2] * std::exp(k[3] * g) + k[4] * std::cos(g) * std::cos(g));
    };
    const std::array<float, 5> forY{0.1787f * t - 1.4630f, -0.3554f * t + 0.4275f, -0.0227f * t + 5.3251f, 0.1206f * t - 2.5771f,
                                    -0.0670f * t + 0.3703f};
    const std::array<float, 5> forx{-0.0193f * t - 0.2592f, -0.0665f * t + 0.0008f, -0.0004f * t + 0.2125f,
                                    -0.0641f * t - 0.8989f, -0.0033f * t + 0.0452f};
    const std::array<float, 5> fory{-0.0167f * t - 0.2608f, -0.0950f * t + 0.0092f, -0.0079f * t + 0.2102f,
                                    -0.0441f * t - 1.6537f, -0.0109f * t + 0.0529f};
    const float chi = (4.0f / 9 - t / 120) * (kPi - 2 * sun);
    const float zenithY = (4.0453f * t - 4.9710f) * std::tan(chi) - 0.2155f * t + 2.4192f;
    const auto zenith = [&](const std::array<float, 4> &a, const std::array<float, 4> &b, const std::array<float, 4> &c) {
        const auto row = [&](const std::array<float, 4> &r) { return r[0] * sun3 + r[1] * sun2 + r[2] * sun + r[3]; };
        return t * t * row(a) + t * row(b) + row(c);
    };
    const float zenithx = zenith({0.00166f, -0.00375f, 0.00209f, 0}, {-0.02903f, 0.06377f, -0.03202f, 0.00394f},
                                 {0.11693f, -0.21196f, 0.06052f, 0.25886f});
    const float zenithy = zenith({0.00275f, -0.00610f, 0.00317f, 0}, {-0.04214f, 0.08970f, -0.04153f, 0.00516f},
                                 {0.15346f, -0.26756f, 0.06670f, 0.26688f});
    const auto at = [&](float value, const std::array<float, 5> &k) {
        return value * perez(cosTheta, gamma, k) / perez(1, sun, k);
    };
    const float Y = std::max(0.0f, at(zenithY, forY)) / 10, x = at(zenithx, forx), y = std::max(at(zenithy, fory), 1e-3f);
    const float X = x / y * Y, Z = (1 - x - y) / y * Y;
    return max(Vec3f{3.2406f * X - 1.5372f * Y - 0.4986f * Z, -0.9689f * X + 1.8758f * Y + 0.0415f * Z,
                     0.0557f * X - 0.2040f * Y + 1.0570f * Z},
               Vec3f{});
}

namespace {

/// Direction of a place on the table: u round the vertical from the tail, v down from the zenith.
Vec3f directionAt(float u, float v)
{
    const float a = (u - 0.5f) * 2 * kPi, e = v * kPi;
    return {std::sin(e) * std::sin(a), std::cos(e), std::sin(e) * std::cos(a)};
}
std::array<float, 2> placeOf(Vec3f d)
{
    return {std::atan2(d.x, d.z) / (2 * kPi) + 0.5f, std::acos(std::clamp(d.y, -1.0f, 1.0f)) / kPi};
}

} // namespace

Environment::Environment(int width, int height, std::vector<Vec3f> texels)
    : m_width(width), m_height(height), m_texels(std::move(texels))
{
    const std::size_t w = std::size_t(width), h = std::size_t(height);
    m_rows.assign(h + 1, 0), m_columns.assign(h * (w + 1), 0);
    double around = 0;
    std::array<double, 3> sum{};
    for (std::size_t y = 0; y < h; ++y) {
        const float area = std::sin((float(y) + 0.5f) / float(h) * kPi); // of a texel on the sphere, up to a factor
        float *row = m_columns.data() + y * (w + 1);
        for (std::size_t x = 0; x < w; ++x) {
            const Vec3f c = m_texels[y * w + x];
            row[x + 1] = row[x] + luminance(c) * area;
            sum[0] += double(c.x * area), sum[1] += double(c.y * area), sum[2] += double(c.z * area), around += double(area);
        }
        m_rows[y + 1] = m_rows[y] + row[w];
    }
    m_total = m_rows[h];
    const auto guide = [](const float *sums, std::size_t n, std::uint16_t *to) {
        std::size_t k = 0;
        for (std::size_t b = 0; b < n; ++b) {
            while (k + 1 < n && sums[k + 1] <= sums[n] * (float(b) / float(n)))
                ++k;
            to[b] = std::uint16_t(k);
        }
    };
    m_rowGuide.resize(h), m_columnGuide.resize(w * h);
    guide(m_rows.data(), h, m_rowGuide.data());
    for (std::size_t y = 0; y < h; ++y)
        guide(m_columns.data() + y * (w + 1), w, m_columnGuide.data() + y * w);
    m_mean = {float(sum[0] / around), float(sum[1] / around), float(sum[2] / around)};
    if (m_total <= 0)
        m_width = m_height = 0; // black gives no light
}

Result<Environment> Environment::from(const Surroundings &s)
{
    if (s.kind == Surroundings::Kind::None || s.strength <= 0)
        return Environment();
    int w = 256, h = 128;
    std::vector<Vec3f> texels;
    if (s.kind == Surroundings::Kind::Picture) {
        if (!s.picture)
            return Error{ErrorCode::Empty, "surroundings", "have no picture; choose one, or another kind"};
        auto light = image::decodeLight(s.picture->bytes, 2048);
        if (!light)
            return light.error();
        w = light->width, h = light->height;
        texels.resize(std::size_t(w) * std::size_t(h));
        const int shift = int(std::lround(s.rotation / 360 * float(w)));
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) // pictures run to the right, azimuths to the left flank
                texels[std::size_t(y) * std::size_t(w) + std::size_t(x)] =
                    max(light->at((((w - 1 - x + shift) % w) + w) % w, y), Vec3f{}) * s.strength;
        return Environment(w, h, std::move(texels));
    }
    const Vec3f toSun = directionOf(s.rotation, std::clamp(s.sunHeight, 0.0f, 90.0f));
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const Vec3f d = directionAt((float(x) + 0.5f) / float(w), (float(y) + 0.5f) / float(h));
            if (s.kind == Surroundings::Kind::Even) {
                const float t = std::clamp(0.5f + 2 * d.y, 0.0f, 1.0f);
                texels.push_back(lerp(s.below, s.above, t) * s.strength);
            } else if (d.y >= 0) {
                texels.push_back(skyRadiance(d, toSun, std::clamp(s.haze, 2.0f, 10.0f)) * s.strength);
            } else { // the land gives back a little of it
                const Vec3f level = normalized(Vec3f{d.x, 0.02f, d.z});
                texels.push_back(skyRadiance(level, toSun, std::clamp(s.haze, 2.0f, 10.0f)) * Vec3f{0.22f, 0.2f, 0.16f}
                                 * s.strength);
            }
        }
    return Environment(w, h, std::move(texels));
}

/// u round the vertical, v from the zenith down, 0 to 1 each.
Environment::Sample Environment::at(float u, float v, Vec3f direction) const
{
    const float fx = u * float(m_width) - 0.5f, fy = std::clamp(v * float(m_height) - 0.5f, 0.0f, float(m_height - 1));
    const int x = int(std::floor(fx)), y = int(fy);
    const float a = fx - float(x), b = fy - float(y);
    const int x0 = x < 0 ? m_width - 1 : x, x1 = x + 1 < m_width ? x + 1 : 0, y1 = std::min(y + 1, m_height - 1);
    Sample out{direction, lerp(lerp(texel(x0, y), texel(x1, y), a), lerp(texel(x0, y1), texel(x1, y1), a), b)};
    const int column = std::clamp(int(u * float(m_width)), 0, m_width - 1),
              line = std::clamp(int(v * float(m_height)), 0, m_height - 1);
    const float *row = m_columns.data() + std::size_t(line) * std::size_t(m_width + 1);
    const float sine = std::sqrt(std::max(1e-8f, 1 - direction.y * direction.y));
    out.density = (row[column + 1] - row[column]) / m_total * float(m_width) * float(m_height) / (2 * kPi * kPi * sine);
    return out;
}

Environment::Sample Environment::ahead(Vec3f direction) const
{
    if (isNone())
        return {direction, {}, 0};
    const auto [u, v] = placeOf(direction);
    return at(u, v, direction);
}

Environment::Sample Environment::sample(std::array<float, 2> u) const
{
    if (isNone())
        return {};
    const auto pick = [](const float *sums, const std::uint16_t *guide, int n, float share, float &within) {
        const float value = share * sums[n];
        int k = guide[std::min(int(share * float(n)), n - 1)];
        while (k > 0 && sums[k] > value) // rounding
            --k;
        while (k + 1 < n && sums[k + 1] <= value)
            ++k;
        const float width = sums[k + 1] - sums[k];
        within = width > 0 ? std::clamp((value - sums[k]) / width, 0.0f, 0.999999f) : 0.5f;
        return k;
    };
    float fx = 0, fy = 0;
    const int y = pick(m_rows.data(), m_rowGuide.data(), m_height, u[1], fy);
    const std::size_t row = std::size_t(y) * std::size_t(m_width);
    const int x = pick(m_columns.data() + row + std::size_t(y), m_columnGuide.data() + row, m_width, u[0], fx);
    const float a = (float(x) + fx) / float(m_width), b = (float(y) + fy) / float(m_height);
    return at(a, b, directionAt(a, b));
}

} // namespace bonemoss::portrait
