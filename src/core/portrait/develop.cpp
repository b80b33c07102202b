#include "portrait/develop.h"

#include "base/colour.h"
#include "base/parallel.h"
#include "base/random.h"
#include "portrait/frame.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace bonemoss::portrait {

LinearPicture mixed(const Gathered &g, std::span<const LightMix> mix)
{
    LinearPicture out{g.width, g.height, std::vector<Vec3f>(g.size()), std::vector<float>(g.size())};
    std::vector<Vec3f> by;
    for (const std::string &name : g.lights) {
        const auto at = std::find_if(mix.begin(), mix.end(), [&](const LightMix &m) { return m.light == name; });
        by.push_back(at == mix.end() ? Vec3f{1, 1, 1} : at->colour * at->strength);
    }
    for (std::size_t k = 0; k < by.size(); ++k)
        for (std::size_t i = 0; i < g.size(); ++i)
            out.light[i] += g.light[k][i] * by[k];
    for (std::size_t i = 0; i < g.size(); ++i) {
        const float n = 1 / float(std::max(g.count[i], 1u));
        out.light[i] = out.light[i] * n;
        out.cover[i] = std::min(1.0f, (g.cover[i] + g.shade[i]) * n);
    }
    return out;
}

LinearPicture mixed(const Gathered &g, std::span<const LightMix> mix, std::span<const Vec3f> filtered)
{
    LinearPicture out = mixed(g, mix);
    if (mix.empty()) {
        out.light.assign(filtered.begin(), filtered.end());
        return out;
    }
    const LinearPicture whole = mixed(g);
    const auto share = [](float is, float was, float f) { return was > 1e-5f ? f * (is / was) : is; };
    for (std::size_t i = 0; i < out.light.size(); ++i) {
        const Vec3f is = out.light[i], was = whole.light[i], f = filtered[i];
        out.light[i] = {share(is.x, was.x, f.x), share(is.y, was.y, f.y), share(is.z, was.z, f.z)};
    }
    return out;
}

float meteredExposure(const LinearPicture &p)
{
    double sum = 0, n = 0;
    for (std::size_t i = 0; i < p.light.size(); ++i) {
        const double w = p.cover.empty() ? 1 : double(p.cover[i]);
        sum += w * std::log2(double(std::max(luminance(p.light[i]), 1e-4f))), n += w;
    }
    return n > 0 ? float(std::clamp(std::log2(0.16) - sum / n, -8.0, 8.0)) : 0;
}

Vec3f toned(Vec3f c, float exposure, float contrast)
{
    constexpr float kGrey = 0.18f, kWhite = 6;
    const float by = std::exp2(exposure);
    const auto curve = [&](float x) {
        x = std::max(0.0f, x * by);
        if (contrast <= 0)
            return std::min(x, 1.0f);
        const float z = kGrey * std::pow(x / kGrey, 1 + 0.3f * contrast);
        // E. Reinhard et al. 2002, equation 4, so that grey stays grey.
        const auto shoulder = [](float v) { return v * (1 + v / (kWhite * kWhite)) / (1 + v); };
        const float full = shoulder(z) * (kGrey / shoulder(kGrey));
        const float soft = std::min(1.0f, contrast * 2); // the shoulder comes in with the first half
        return std::clamp(std::lerp(x, full, soft), 0.0f, 1.0f);
    };
    return {curve(c.x), curve(c.y), curve(c.z)};
}

namespace {

/// Means over boxes, three times one after the other: nearly a Gaussian of that width (W. Wells 1986). In place; O(pixels).
void blur(std::vector<Vec3f> &p, int width, int height, int radius)
{
    std::vector<Vec3f> to(p.size());
    const auto pass = [&](std::size_t lines, std::size_t length, std::size_t along, std::size_t across) {
        forEachBlock(lines, 8, [&](BlockRange r) {
            for (std::size_t line = r.begin; line < r.end; ++line) {
                const auto at = [&](int k) { return line * across + std::size_t(std::clamp(k, 0, int(length) - 1)) * along; };
                Vec3f sum;
                for (int k = -radius; k <= radius; ++k)
                    sum += p[at(k)];
                for (int k = 0; k < int(length); ++k) {
                    to[at(k)] = sum * (1 / float(2 * radius + 1));
                    sum += p[at(k + radius + 1)] - p[at(k - radius)];
                }
            }
        });
        p.swap(to);
    };
    for (int k = 0; k < 3; ++k) {
        pass(std::size_t(height), std::size_t(width), 1, std::size_t(width));
        pass(std::size_t(width), std::size_t(height), std::size_t(width), 1);
    }
}

} // namespace

image::ColourPicture developed(const LinearPicture &p, const Film &film, bool isClear)
{
    image::ColourPicture out{p.width, p.height, std::vector<std::uint8_t>(p.light.size() * 4)};
    const float exposure = film.exposure + (film.isMetered ? meteredExposure(p) : 0);
    std::vector<Vec3f> glow;
    if (film.bloom > 0) { // near and far about what is bright
        glow = p.light;
        std::vector<Vec3f> far = p.light;
        blur(glow, p.width, p.height, std::max(1, p.height / 150)), blur(far, p.width, p.height, std::max(1, p.height / 30));
        for (std::size_t i = 0; i < glow.size(); ++i)
            glow[i] = (glow[i] + far[i]) * 0.5f;
    }
    forEachBlock(p.light.size(), 4096, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const float cover = isClear && !p.cover.empty() ? p.cover[i] : 1;
            Vec3f light = glow.empty() ? p.light[i] : lerp(p.light[i], glow[i], film.bloom);
            if (cover > 0 && cover < 1)
                light = light * (1 / cover); // alpha is not multiplied in
            Vec3f c = toned(light, exposure, film.contrast);
            std::uint8_t *to = &out.rgba[i * 4];
            const std::size_t wide = std::size_t(p.width), whole = p.wholeWidth > 0 ? std::size_t(p.wholeWidth) : wide;
            const std::uint64_t pixel = (std::size_t(p.top) + i / wide) * whole + std::size_t(p.left) + i % wide; // of the whole
            const float grain = film.grain > 0 ? film.grain * 0.08f * (randomUnit(11, pixel) + randomUnit(12, pixel) - 1) : 0;
            const std::array<float, 3> channels{c.x, c.y, c.z};
            for (std::size_t k = 0; k < 3; ++k) {
                const float s = toSrgb(channels[k]) + grain * (1 - std::abs(2 * toSrgb(channels[k]) - 1));
                // A little noise below what a byte tells keeps even slopes without steps.
                to[k] = std::uint8_t(std::clamp(s * 255 + 0.5f + 0.9f * (randomUnit(13 + k, pixel) - 0.5f), 0.0f, 255.0f));
            }
            to[3] = std::uint8_t(std::lround(cover * 255));
        }
    });
    return out;
}

} // namespace bonemoss::portrait
