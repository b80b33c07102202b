#include "colour/mixing.h"

#include "base/colour.h"
#include "base/parallel.h"
#include "colour/palette.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace bonemoss::colour {

namespace {

using Bands = std::array<float, 3>;

/// Absorption over scattering; paint is never wholly black.
float absorption(float reflected)
{
    const float r = std::clamp(reflected, 0.004f, 0.996f);
    return (1 - r) * (1 - r) / (2 * r);
}
float reflection(float ks)
{
    return 1 + ks - std::sqrt(ks * ks + 2 * ks);
}
Bands bandsOf(Vec3f srgb)
{
    return {absorption(fromSrgb(srgb.x)), absorption(fromSrgb(srgb.y)), absorption(fromSrgb(srgb.z))};
}
Vec3f colourOf(const Bands &b)
{
    return {toSrgb(reflection(b[0])), toSrgb(reflection(b[1])), toSrgb(reflection(b[2]))};
}

} // namespace

std::vector<skin::PaletteColour> usualPaints()
{
    constexpr struct {
        const char *name;
        int r, g, b;
    } kPaints[] = {
        {"White", 244, 243, 238},    {"Black", 28, 27, 27},       {"Lemon yellow", 246, 222, 52}, {"Yellow ochre", 197, 146, 66},
        {"Orange", 226, 110, 36},    {"Vermilion", 205, 50, 36},  {"Carmine", 138, 24, 46},       {"Burnt sienna", 126, 62, 36},
        {"Burnt umber", 74, 50, 38}, {"Violet", 74, 46, 100},     {"Ultramarine", 38, 48, 132},   {"Sky blue", 66, 140, 190},
        {"Blue green", 22, 96, 92},  {"Leaf green", 74, 122, 48}, {"Olive", 92, 90, 44},          {"Pale bone", 222, 208, 176},
    };
    std::vector<skin::PaletteColour> out;
    for (const auto &p : kPaints)
        out.push_back({0, p.name, Vec3f{float(p.r), float(p.g), float(p.b)} * (1.0f / 255)});
    return out;
}

Vec3f mixed(std::span<const Vec3f> paints, std::span<const float> parts)
{
    Bands sum{};
    float whole = 0;
    for (std::size_t k = 0; k < paints.size(); ++k) {
        const Bands b = bandsOf(paints[k]);
        for (std::size_t c = 0; c < 3; ++c)
            sum[c] += parts[k] * b[c];
        whole += parts[k];
    }
    for (float &s : sum)
        s /= std::max(whole, 1e-9f);
    return colourOf(sum);
}

Mix bestMix(Vec3f wanted, std::span<const skin::PaletteColour> paints)
{
    constexpr std::array<int, 6> kParts{1, 2, 3, 4, 6, 9};
    constexpr float kPerPaint = 0.004f, kPerPart = 0.0004f; // what another paint or part has to be worth
    const std::size_t n = paints.size();
    const Oklab want = toOklab(wanted);
    std::vector<Bands> bands;
    for (const skin::PaletteColour &p : paints)
        bands.push_back(bandsOf(p.colour));
    struct Best {
        float cost = std::numeric_limits<float>::max();
        Mix mix;
    };
    std::vector<Best> bests(n);
    forEachBlock(n, 1, [&](BlockRange r) {
        const std::size_t a = r.begin;
        Best &best = bests[a];
        const auto tryOut = [&](std::initializer_list<Mix::Part> parts) {
            Bands sum{};
            int whole = 0;
            for (const Mix::Part &p : parts) {
                whole += p.parts;
                for (std::size_t c = 0; c < 3; ++c)
                    sum[c] += float(p.parts) * bands[p.paint][c];
            }
            for (float &s : sum)
                s /= float(whole);
            const Vec3f colour = colourOf(sum);
            const Oklab is = toOklab(colour);
            const float off = std::hypot(is.l - want.l, is.a - want.a, is.b - want.b),
                        cost = off + kPerPaint * float(parts.size() - 1) + kPerPart * float(whole);
            if (cost < best.cost)
                best = {cost, {parts, colour, off}};
        };
        tryOut({{a, 1}});
        for (std::size_t b = a + 1; b < n; ++b)
            for (const int i : kParts)
                for (const int j : kParts) {
                    tryOut({{a, i}, {b, j}});
                    for (std::size_t c = b + 1; c < n; ++c)
                        for (const int k : kParts)
                            tryOut({{a, i}, {b, j}, {c, k}});
                }
    });
    const auto at = std::min_element(bests.begin(), bests.end(), [](const Best &x, const Best &y) { return x.cost < y.cost; });
    if (at == bests.end())
        return {};
    Mix mix = at->mix;
    std::sort(mix.parts.begin(), mix.parts.end(), [](const auto &x, const auto &y) { return x.parts > y.parts; });
    int divisor = 0; // 2 and 4 parts are 1 and 2
    for (const Mix::Part &p : mix.parts)
        divisor = std::gcd(divisor, p.parts);
    for (Mix::Part &p : mix.parts)
        p.parts /= std::max(divisor, 1);
    return mix;
}

} // namespace bonemoss::colour
