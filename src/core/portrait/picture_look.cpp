#include "portrait/picture_look.h"

#include "base/parallel.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace bonemoss::portrait {

namespace {

constexpr Vec3f kPaper{0.80f, 0.76f, 0.66f}, kInk{0.020f, 0.017f, 0.014f};

void asClay(Spot &s)
{
    s.colour = kClay, s.finish = {};
}

void asWax(Spot &s)
{
    s.colour = {0.62f, 0.34f, 0.14f}, s.finish = {0.42f, 0, 0, 0.75f, 0};
}

void asBronze(Spot &s)
{
    s.colour = {0.52f, 0.31f, 0.145f}, s.finish = {0.56f, 1, 0, 0, 0.12f};
}

/// From 0 to 1 between two values, without corners.
float smooth(float low, float high, float v)
{
    const float t = std::clamp((v - low) / (high - low), 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

/// Ink on paper by how much there is of it at a pixel.
template <typename Much> LinearPicture inInk(const Gathered &g, const Much &much)
{
    LinearPicture out{g.width, g.height, std::vector<Vec3f>(g.size()), std::vector<float>(g.size())};
    forEachBlock(std::size_t(g.height), 8, [&](BlockRange r) {
        for (std::size_t y = r.begin; y < r.end; ++y)
            for (int x = 0; x < g.width; ++x) {
                const std::size_t i = y * std::size_t(g.width) + std::size_t(x);
                const float ink = much(x, int(y));
                out.light[i] = lerp(kPaper, kInk, ink);
                out.cover[i] = std::max(ink, g.cover[i] / float(std::max(g.count[i], 1u)));
            }
    });
    return out;
}

LinearPicture silhouette(const Gathered &g)
{
    return inInk(g, [&](int x, int y) {
        const std::size_t i = std::size_t(y) * std::size_t(g.width) + std::size_t(x);
        return g.cover[i] / float(std::max(g.count[i], 1u));
    });
}

/// Lines where what is seen ends, where it lies behind other parts of itself, and where it is creased.
LinearPicture inkLines(const Gathered &g)
{
    const int reach = std::max(1, int(std::lround(float(std::max(g.wholeWidth, g.wholeHeight)) / 1400)));
    const float step = 0.006f * g.scale, far = g.reach;
    const auto at = [&](int x, int y) {
        return std::size_t(std::clamp(y, 0, g.height - 1)) * std::size_t(g.width) + std::size_t(std::clamp(x, 0, g.width - 1));
    };
    const auto cover = [&](std::size_t i) { return g.cover[i] / float(std::max(g.count[i], 1u)); };
    const auto depth = [&](std::size_t i) { return g.cover[i] > 0 ? g.depth[i] / g.cover[i] : far; };
    const auto normal = [&](std::size_t i) { return squaredLength(g.normal[i]) > 1e-12f ? normalized(g.normal[i]) : Vec3f{}; };
    return inInk(g, [&](int x, int y) {
        constexpr std::array<std::array<int, 2>, 4> kWays{{{1, 0}, {0, 1}, {1, 1}, {1, -1}}};
        const std::size_t here = at(x, y);
        float ink = 0;
        for (const auto [dx, dy] : kWays) {
            const std::size_t a = at(x - dx * reach, y - dy * reach), b = at(x + dx * reach, y + dy * reach);
            ink = std::max(ink, smooth(0.25f, 0.75f, std::abs(cover(a) - cover(b))));
            if (std::min({cover(a), cover(b), cover(here)}) < 0.9f)
                continue;
            // A step is no slope: it bends more than the surface leans away.
            const float bend = std::abs(depth(a) + depth(b) - 2 * depth(here)), lean = std::abs(depth(a) - depth(b));
            ink = std::max(ink, smooth(step, 3 * step, bend) * smooth(0.2f, 0.5f, bend / std::max(lean, 1e-6f)));
            ink = std::max(ink, 0.85f * smooth(0.22f, 0.7f, 1 - dot(normal(a), normal(b))));
        }
        return ink;
    });
}

} // namespace

std::span<const PictureLook> pictureLooks()
{
    static constexpr std::array<PictureLook, 6> kLooks{{
        {"painted", "Painted", "Its colours and finish, clay where it has none"},
        {"clay", "Clay", "All of one clay, so that form alone is judged", asClay, false},
        {"wax", "Wax", "Warm wax that light goes into", asWax, false},
        {"bronze", "Bronze", "Cast in metal", asBronze, false},
        {"silhouette", "Silhouette", "Its outline alone, filled with ink", nullptr, false, silhouette},
        {"ink", "Ink lines", "Outline, overlaps and creases drawn in ink", nullptr, false, inkLines},
    }};
    return kLooks;
}

const PictureLook &pictureLook(std::string_view id)
{
    const auto looks = pictureLooks();
    const auto at = std::find_if(looks.begin(), looks.end(), [&](const PictureLook &l) { return l.id == id; });
    return at == looks.end() ? looks.front() : *at;
}

LinearPicture linearPicture(const Gathered &gathered, std::span<const LightMix> mix, std::span<const Vec3f> filtered,
                            const Film &film)
{
    const PictureLook &look = pictureLook(film.look);
    if (look.draw)
        return look.draw(gathered);
    return filtered.empty() ? mixed(gathered, mix) : mixed(gathered, mix, filtered);
}

Film inkFilm(const Film &film)
{
    Film plain = film;
    plain.exposure = 0, plain.isMetered = false, plain.contrast = 0, plain.bloom = 0;
    return plain;
}

image::ColourPicture shownPicture(const Gathered &gathered, std::span<const LightMix> mix, std::span<const Vec3f> filtered,
                                  const Film &film, bool isClear)
{
    const LinearPicture picture = linearPicture(gathered, mix, filtered, film);
    return developed(picture, pictureLook(film.look).draw ? inkFilm(film) : film, isClear);
}

} // namespace bonemoss::portrait
