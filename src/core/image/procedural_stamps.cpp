// Cells after S. Worley, "A Cellular Texture Basis Function", 1996; gradient noise after K. Perlin,
// "Improving Noise", 2002. All wrap at the borders.
#include "base/types.h"
#include "image/picture.h"

#include "image/detail/stamp_entry.h"

#include "base/parallel.h"
#include "base/random.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <mutex>

namespace bonemoss::image {

namespace {

constexpr int kSize = 256;
float smooth(float lo, float hi, float x)
{
    const float t = std::clamp((x - lo) / (hi - lo), 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

float wrapCell(int i, int n)
{
    return float((i % n + n) % n);
}

/// Perlin noise with period cells in both directions; about -0.7 to 0.7.
float noise(float u, float v, int period, std::uint64_t seed)
{
    const float x = u * float(period), y = v * float(period);
    const int ix = int(std::floor(x)), iy = int(std::floor(y));
    const float fx = x - float(ix), fy = y - float(iy);
    const auto corner = [&](int dx, int dy) {
        const auto key = std::uint64_t(wrapCell(ix + dx, period)) * 7919u + std::uint64_t(wrapCell(iy + dy, period));
        const float a = randomUnit(seed, key) * 2 * kPi;
        return std::cos(a) * (fx - float(dx)) + std::sin(a) * (fy - float(dy));
    };
    const auto fade = [](float t) { return t * t * t * (t * (t * 6 - 15) + 10); };
    return std::lerp(std::lerp(corner(0, 0), corner(1, 0), fade(fx)), std::lerp(corner(0, 1), corner(1, 1), fade(fx)), fade(fy));
}

float layered(float u, float v, int period, int octaves, std::uint64_t seed)
{
    float sum = 0, scale = 1;
    for (int o = 0; o < octaves; ++o, scale *= 0.5f, period *= 2)
        sum += noise(u, v, period, seed + std::uint64_t(o)) * scale;
    return sum;
}

struct Cell {
    float first, second; ///< distances to the nearest two sites, in cells
    std::uint64_t key;   ///< of the nearest
};

Cell cells(float u, float v, int period, std::uint64_t seed)
{
    const float x = u * float(period), y = v * float(period);
    const int ix = int(std::floor(x)), iy = int(std::floor(y));
    Cell c{9, 9, 0};
    for (int dy = -2; dy <= 2; ++dy)
        for (int dx = -2; dx <= 2; ++dx) {
            const auto key = std::uint64_t(wrapCell(ix + dx, period)) * 7919u + std::uint64_t(wrapCell(iy + dy, period));
            const float sx = float(ix + dx) + 0.15f + 0.7f * randomUnit(seed, key * 2);
            const float sy = float(iy + dy) + 0.15f + 0.7f * randomUnit(seed, key * 2 + 1);
            const float d = std::hypot(x - sx, y - sy);
            if (d < c.first)
                c = {d, c.first, key};
            else
                c.second = std::min(c.second, d);
        }
    return c;
}

/// Rows of round tongues, each lying over the row before it.
float overlappingScales(float u, float v)
{
    constexpr int kAcross = 5, kRows = 8;
    float best = 0;
    const float y = v * kRows;
    const int row0 = int(std::floor(y));
    for (int r = row0 + 1; r >= row0 - 1; --r) { // the row above covers the root of the one below
        const float shift = (r & 1) ? 0.5f : 0.0f;
        const float x = u * kAcross + shift;
        const int column = int(std::floor(x));
        const auto key = std::uint64_t(wrapCell(r, kRows) * 31 + wrapCell(column, kAcross));
        const float along = (y - float(r)) / 1.75f;             // 0 at the root, 1 at the free edge
        const float across = (x - float(column) - 0.5f) * 2.0f; // -1 to 1
        if (along < 0 || along > 1)
            continue;
        const float edge = 1 - 0.30f * across * across - along; // round free edge
        if (edge <= 0 || std::abs(across) > 0.98f)
            continue;
        const float lift = 0.25f + 0.75f * along + 0.08f * randomSigned(7, key);
        const float keel = 0.10f * std::exp(-across * across * 18) * smooth(0.1f, 0.7f, along);
        const float body = (1 - 0.35f * across * across) * lift + keel;
        best = std::max(best, body * smooth(0, 0.10f, edge) * smooth(1.0f, 0.86f, std::abs(across)));
    }
    return std::clamp(0.5f + 0.5f * best, 0.0f, 1.0f);
}

float pebbles(float u, float v)
{
    const Cell c = cells(u, v, 10, 11);
    const float gap = smooth(0.02f, 0.30f, c.second - c.first);
    const float dome = std::sqrt(std::max(0.0f, 1 - 0.9f * c.first * c.first));
    return 0.5f + 0.5f * gap * dome * (0.7f + 0.3f * randomUnit(3, c.key));
}

float wrinkles(float u, float v)
{
    const float bend = 0.10f * layered(u, v, 3, 3, 21);
    const float strength = 0.6f + 0.6f * noise(u, v, 4, 22);
    const float phase = (v + bend) * 9 + 0.5f * noise(u, v, 5, 23);
    const float valley = std::pow(0.5f + 0.5f * std::cos(2 * kPi * phase), 4.0f);
    return std::clamp(0.5f + 0.12f * noise(u, v, 7, 24) - 0.5f * valley * strength, 0.0f, 1.0f);
}

float pores(float u, float v)
{
    const Cell c = cells(u, v, 16, 31);
    const float size = 0.16f + 0.14f * randomUnit(5, c.key);
    const float pit = smooth(size, size * 0.25f, c.first), rim = smooth(size * 2, size, c.first) * (1 - pit);
    return std::clamp(0.5f + 0.10f * rim - 0.5f * pit + 0.04f * noise(u, v, 24, 32), 0.0f, 1.0f);
}

float cracks(float u, float v)
{
    const float du = 0.03f * layered(u, v, 6, 3, 41), dv = 0.03f * layered(u, v, 6, 3, 42);
    const Cell c = cells(u + du, v + dv, 5, 43);
    const float wide = 0.05f + 0.05f * (0.5f + noise(u, v, 4, 44));
    const float groove = smooth(wide, 0.0f, c.second - c.first);
    return std::clamp(0.5f - 0.5f * groove + 0.08f * smooth(0.25f, 0.08f, c.second - c.first) * (1 - groove), 0.0f, 1.0f);
}

float ridges(float u, float v)
{
    const float phase = u * 8 + 0.35f * noise(u, v, 3, 51);
    const float saw = phase - std::floor(phase); // slow rise, short drop: growth rings
    const float ring = saw < 0.8f ? smooth(0, 0.8f, saw) : smooth(1.0f, 0.8f, saw);
    return std::clamp(0.5f + 0.45f * ring + 0.06f * layered(u, v, 8, 3, 52), 0.0f, 1.0f);
}

float bark(float u, float v)
{
    const float x = u + 0.06f * layered(u, v, 4, 4, 61), y = v;
    const Cell c = cells(x * 1.0f, y * 0.5f + 0.5f * std::floor(y), 7, 62);
    const float fibre =
        1 - std::abs(2 * (x * 14 + 0.6f * noise(u, v, 6, 63) - std::floor(x * 14 + 0.6f * noise(u, v, 6, 63))) - 1);
    const float plate = smooth(0.03f, 0.25f, c.second - c.first);
    return std::clamp(0.28f + 0.45f * plate + 0.18f * fibre * plate + 0.15f * layered(u, v, 10, 3, 64), 0.0f, 1.0f);
}

/// One healed cut across the middle with a puckered border.
float scar(float u, float v)
{
    const float x = u - 0.5f, y = v - 0.5f - 0.05f * std::sin(u * 7) - 0.02f * noise(u, v, 8, 71);
    const float ends = smooth(0.46f, 0.30f, std::abs(x));
    const float across = std::abs(y);
    const float groove = smooth(0.045f, 0.0f, across), lips = smooth(0.16f, 0.06f, across) * (1 - groove);
    const float pucker = 0.5f + 0.5f * std::cos(u * 62 + 3 * noise(u, v, 6, 72));
    return std::clamp(0.5f + ends * (0.30f * lips * (0.6f + 0.4f * pucker) - 0.45f * groove), 0.0f, 1.0f);
}

constexpr std::array<StampEntry, 8> kSkins{{{"scales", "Skins", overlappingScales},
                                            {"pebbles", "Skins", pebbles},
                                            {"wrinkles", "Skins", wrinkles},
                                            {"pores", "Skins", pores},
                                            {"cracks", "Skins", cracks},
                                            {"ridges", "Skins", ridges},
                                            {"bark", "Skins", bark},
                                            {"scar", "Wounds", scar}}};

struct Made {
    std::once_flag once;
    HeightPicture picture;
};

const StampEntry *entryOf(std::string_view name, std::size_t &place)
{
    place = 0;
    for (const auto &list : {skinStamps(), printStamps()})
        for (const StampEntry &e : list) {
            if (e.name == name)
                return &e;
            ++place;
        }
    return nullptr;
}

} // namespace

std::span<const StampEntry> skinStamps()
{
    return kSkins;
}

float stampNoise(float u, float v, int period, unsigned seed)
{
    return noise(u, v, period, seed);
}

const std::vector<std::string_view> &builtInStamps()
{
    static const std::vector<std::string_view> names = [] {
        std::vector<std::string_view> n;
        for (const auto &list : {skinStamps(), printStamps()})
            for (const StampEntry &e : list)
                n.push_back(e.name);
        return n;
    }();
    return names;
}

std::string_view folderOfStamp(std::string_view name)
{
    std::size_t place;
    const StampEntry *e = entryOf(name, place);
    return e ? e->folder : std::string_view();
}

const HeightPicture *builtInStamp(std::string_view name)
{
    static std::vector<Made> made(builtInStamps().size());
    std::size_t place;
    const StampEntry *e = entryOf(name, place);
    if (!e)
        return nullptr;
    std::call_once(made[place].once, [&] { made[place].picture = drawStamp(name, kSize); });
    return &made[place].picture;
}

HeightPicture drawStamp(std::string_view name, int side)
{
    std::size_t place;
    const StampEntry *e = entryOf(name, place);
    HeightPicture p;
    if (!e)
        return p;
    p = {side, side, std::vector<float>(std::size_t(side) * std::size_t(side)), 0.5f};
    const auto share = [side](std::size_t i) { return (float(i) + 0.5f) / float(side); };
    forEachBlock(std::size_t(side), 8, [&](BlockRange r) {
        for (std::size_t y = r.begin; y < r.end; ++y)
            for (std::size_t x = 0; x < std::size_t(side); ++x)
                p.values[y * std::size_t(side) + x] = e->height(share(x), share(y));
    });
    return p;
}

} // namespace bonemoss::image
