#include "colour/palette.h"

#include "base/colour.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <numeric>

namespace bonemoss::colour {

namespace {

Vec3f linearOf(Vec3f s)
{
    return {fromSrgb(s.x), fromSrgb(s.y), fromSrgb(s.z)};
}
Vec3f srgbOf(Vec3f l)
{
    return {toSrgb(l.x), toSrgb(l.y), toSrgb(l.z)};
}
Oklab labOfLinear(Vec3f c)
{
    const float l = std::cbrt(0.4122214708f * c.x + 0.5363325363f * c.y + 0.0514459929f * c.z),
                m = std::cbrt(0.2119034982f * c.x + 0.6806995451f * c.y + 0.1073969566f * c.z),
                s = std::cbrt(0.0883024619f * c.x + 0.2817188376f * c.y + 0.6299787005f * c.z);
    return {0.2104542553f * l + 0.7936177850f * m - 0.0040720468f * s, 1.9779984951f * l - 2.4285922050f * m + 0.4505937099f * s,
            0.0259040371f * l + 0.7827717662f * m - 0.8086757660f * s};
}
float squared(Oklab a, Oklab b)
{
    return (a.l - b.l) * (a.l - b.l) + (a.a - b.a) * (a.a - b.a) + (a.b - b.b) * (a.b - b.b);
}
bool isWithin(Vec3f s)
{
    constexpr float kSlack = 1e-4f;
    return std::min({s.x, s.y, s.z}) >= -kSlack && std::max({s.x, s.y, s.z}) <= 1 + kSlack;
}
Vec3f clamped(Vec3f s)
{
    return {std::clamp(s.x, 0.0f, 1.0f), std::clamp(s.y, 0.0f, 1.0f), std::clamp(s.z, 0.0f, 1.0f)};
}

} // namespace

Oklab toOklab(Vec3f srgb)
{
    return labOfLinear(linearOf(srgb));
}

Vec3f fromOklab(Oklab lab)
{
    const auto cube = [](float v) { return v * v * v; };
    const float l = cube(lab.l + 0.3963377774f * lab.a + 0.2158037573f * lab.b),
                m = cube(lab.l - 0.1055613458f * lab.a - 0.0638541728f * lab.b),
                s = cube(lab.l - 0.0894841775f * lab.a - 1.2914855480f * lab.b);
    return srgbOf({4.0767416621f * l - 3.3077115913f * m + 0.2309699292f * s,
                   -1.2684380046f * l + 2.6097574011f * m - 0.3413193965f * s,
                   -0.0041960863f * l - 0.7034186147f * m + 1.7076147010f * s});
}

Oklch toOklch(Vec3f srgb)
{
    const Oklab lab = toOklab(srgb);
    const float h = std::atan2(lab.b, lab.a) / kRadiansPerDegree;
    return {lab.l, std::hypot(lab.a, lab.b), h < 0 ? h + 360 : h};
}

Vec3f fromOklch(Oklch lch)
{
    const float x = std::cos(lch.h * kRadiansPerDegree), y = std::sin(lch.h * kRadiansPerDegree);
    const auto at = [&](float c) { return fromOklab({lch.l, c * x, c * y}); };
    if (const Vec3f whole = at(lch.c); isWithin(whole))
        return clamped(whole);
    float lo = 0, hi = lch.c;
    for (int k = 0; k < 20; ++k) {
        const float mid = (lo + hi) / 2;
        (isWithin(at(mid)) ? lo : hi) = mid;
    }
    return clamped(at(lo));
}

float difference(Vec3f a, Vec3f b)
{
    return std::sqrt(squared(toOklab(a), toOklab(b)));
}

std::string hexOf(Vec3f c)
{
    const auto byte = [](float v) { return int(std::lround(std::clamp(v, 0.0f, 1.0f) * 255)); };
    return fmt::format("#{:02x}{:02x}{:02x}", byte(c.x), byte(c.y), byte(c.z));
}

std::optional<Vec3f> colourOfHex(std::string_view text)
{
    if (text.starts_with('#'))
        text.remove_prefix(1);
    std::uint32_t v = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), v, 16);
    if (text.size() != 6 || read.ptr != text.data() + text.size() || read.ec != std::errc())
        return {};
    return Vec3f{float(v >> 16) / 255, float(v >> 8 & 255) / 255, float(v & 255) / 255};
}

std::vector<Vec3f> harmonyOf(Vec3f srgb, Harmony harmony)
{
    const Oklch own = toOklch(srgb);
    const auto turned = [&](std::initializer_list<float> by) {
        std::vector<Vec3f> out{srgb};
        for (const float b : by)
            out.push_back(fromOklch({own.l, own.c, own.h + b}));
        return out;
    };
    switch (harmony) {
    case Harmony::Complement: return turned({180});
    case Harmony::Split: return turned({150, 210});
    case Harmony::Triad: return turned({120, 240});
    case Harmony::Analogous: return turned({-30, 30});
    case Harmony::Shades: break;
    }
    std::vector<Vec3f> out{srgb};
    for (const float by : {-0.24f, -0.12f, 0.12f, 0.24f})
        out.push_back(fromOklch({std::clamp(own.l + by, 0.05f, 0.97f), own.c, own.h}));
    return out;
}

namespace {

struct Point {
    Oklab at;
    float weight;
};
float axis(const Point &p, int k)
{
    return k == 0 ? p.at.l : k == 1 ? p.at.a : p.at.b;
}

/// A weighted mean as it is added up.
struct Mean {
    double l = 0, a = 0, b = 0, weight = 0;
    void add(const Point &p)
    {
        const double w = double(p.weight);
        l += w * double(p.at.l), a += w * double(p.at.a), b += w * double(p.at.b), weight += w;
    }
    Oklab at() const { return {float(l / weight), float(a / weight), float(b / weight)}; }
};

/// Where the points first to end, in order along an axis, are cut so that half their weight lies on each side; equal ones stay together.
std::size_t cutOf(const std::vector<Point> &points, std::size_t first, std::size_t end, int side)
{
    double half = 0;
    for (std::size_t i = first; i < end; ++i)
        half += double(points[i].weight) / 2;
    std::size_t cut = first;
    for (double sum = 0; cut < end && sum < half; ++cut)
        sum += double(points[cut].weight);
    cut = std::clamp(cut, first + 1, end - 1);
    const auto isEqual = [&] { return axis(points[cut], side) == axis(points[cut - 1], side); };
    while (cut < end - 1 && isEqual())
        ++cut;
    while (cut > first + 1 && isEqual())
        --cut;
    return cut;
}

/// Means of the boxes of a median cut: the box with the widest side times its weight is cut first.
std::vector<Oklab> medianCut(std::vector<Point> &points, int count)
{
    std::vector<std::pair<std::size_t, std::size_t>> boxes{{0, points.size()}};
    while (int(boxes.size()) < count) {
        double most = 0;
        std::size_t best = boxes.size();
        int side = 0;
        for (std::size_t k = 0; k < boxes.size(); ++k)
            for (int d = 0; d < 3; ++d) {
                float lo = 1e9f, hi = -1e9f;
                double weight = 0;
                for (std::size_t i = boxes[k].first; i < boxes[k].second; ++i)
                    lo = std::min(lo, axis(points[i], d)), hi = std::max(hi, axis(points[i], d)),
                    weight += double(points[i].weight);
                if (const double value = double(hi - lo) * std::sqrt(weight); hi - lo > 1e-4f && value > most)
                    most = value, best = k, side = d;
            }
        if (best == boxes.size())
            break; // all are of one colour
        const auto [first, end] = boxes[best];
        std::sort(points.begin() + std::ptrdiff_t(first), points.begin() + std::ptrdiff_t(end),
                  [side](const Point &a, const Point &b) { return axis(a, side) < axis(b, side); });
        const std::size_t cut = cutOf(points, first, end, side);
        boxes[best] = {first, cut};
        boxes.emplace_back(cut, end);
    }
    std::vector<Oklab> out;
    for (const auto &[first, end] : boxes) {
        Mean mean;
        for (std::size_t i = first; i < end; ++i)
            mean.add(points[i]);
        out.push_back(mean.at());
    }
    return out;
}

} // namespace

std::vector<Found> coloursIn(std::span<const Vec3f> srgb, std::span<const float> weights, int count)
{
    std::vector<Point> points;
    double whole = 0;
    for (std::size_t i = 0; i < srgb.size(); ++i)
        if (weights[i] > 0)
            points.push_back({toOklab(srgb[i]), weights[i]}), whole += double(weights[i]);
    if (points.empty() || count < 1)
        return {};
    std::vector<Oklab> centres = medianCut(points, count);
    std::vector<Mean> means;
    for (int step = 0; step < 12; ++step) {
        means.assign(centres.size(), {});
        for (const Point &p : points) {
            const auto nearest = std::min_element(centres.begin(), centres.end(),
                                                  [&](Oklab a, Oklab b) { return squared(a, p.at) < squared(b, p.at); });
            means[std::size_t(nearest - centres.begin())].add(p);
        }
        for (std::size_t k = 0; k < centres.size(); ++k)
            if (means[k].weight > 0)
                centres[k] = means[k].at();
    }
    std::vector<Found> out;
    for (std::size_t k = 0; k < centres.size(); ++k)
        if (means[k].weight > 0)
            out.push_back({clamped(fromOklab(centres[k])), float(means[k].weight / whole)});
    std::stable_sort(out.begin(), out.end(), [](const Found &a, const Found &b) { return a.share > b.share; });
    return out;
}

std::vector<Found> coloursIn(const image::ColourPicture &picture, int count)
{
    constexpr std::size_t kMost = 200000;
    const std::size_t pixels = picture.rgba.size() / 4, step = std::max<std::size_t>(1, pixels / kMost);
    std::vector<Vec3f> colours;
    std::vector<float> weights;
    for (std::size_t i = 0; i < pixels; i += step) {
        const std::uint8_t *p = picture.rgba.data() + 4 * i;
        colours.push_back(Vec3f{float(p[0]), float(p[1]), float(p[2])} * (1.0f / 255));
        weights.push_back(float(p[3]) / 255);
    }
    return coloursIn(colours, weights, count);
}

std::string toText(std::span<const skin::PaletteColour> palette)
{
    std::string out;
    const auto byte = [](float v) { return int(std::lround(std::clamp(v, 0.0f, 1.0f) * 255)); };
    for (const skin::PaletteColour &c : palette)
        out += fmt::format("{:3} {:3} {:3} {}\n", byte(c.colour.x), byte(c.colour.y), byte(c.colour.z), c.name);
    return out;
}

Result<std::vector<skin::PaletteColour>> fromText(std::string_view text)
{
    constexpr std::size_t kMost = 256;
    std::vector<skin::PaletteColour> out;
    int number = 0;
    while (!text.empty()) {
        ++number;
        std::string_view row = text.substr(0, text.find('\n'));
        text.remove_prefix(std::min(text.size(), row.size() + 1));
        row = row.substr(0, row.find('#'));
        std::array<int, 3> v{};
        const auto skip = [&] { row.remove_prefix(std::min(row.size(), row.find_first_not_of(" \t\r"))); };
        skip();
        if (row.empty())
            continue;
        for (int &c : v) {
            skip();
            const auto read = std::from_chars(row.data(), row.data() + row.size(), c);
            if (read.ec != std::errc() || c < 0 || c > 255)
                return Error{ErrorCode::Malformed, fmt::format("row {}", number),
                             "a palette has rows of red, green and blue from 0 to 255 and a name"};
            row.remove_prefix(std::size_t(read.ptr - row.data()));
            if (!row.empty() && row[0] != ' ' && row[0] != '\t' && row[0] != '\r')
                return Error{ErrorCode::Malformed, fmt::format("row {}", number),
                             "a palette has rows of red, green and blue from 0 to 255 and a name"};
        }
        skip();
        while (!row.empty() && (row.back() == ' ' || row.back() == '\r' || row.back() == '\t'))
            row.remove_suffix(1);
        if (out.size() == kMost)
            return Error{ErrorCode::TooLarge, "palette", fmt::format("has more than {} colours", kMost)};
        const Vec3f colour = Vec3f{float(v[0]), float(v[1]), float(v[2])} * (1.0f / 255);
        out.push_back({0, row.empty() ? hexOf(colour) : std::string(row), colour});
    }
    if (out.empty())
        return Error{ErrorCode::Empty, "palette", "has no colours"};
    return out;
}

image::ColourPicture swatchesOf(std::span<const skin::PaletteColour> palette)
{
    constexpr int kSide = 48, kAcross = 8;
    const int rows = std::max(1, int((palette.size() + kAcross - 1) / kAcross)),
              across = std::min(kAcross, std::max(1, int(palette.size())));
    image::ColourPicture out{across * kSide, rows * kSide, {}};
    out.rgba.assign(std::size_t(out.width) * std::size_t(out.height) * 4, 0);
    for (std::size_t k = 0; k < palette.size(); ++k)
        for (int y = 0; y < kSide; ++y)
            for (int x = 0; x < kSide; ++x) {
                const auto at = std::size_t((int(k) / kAcross * kSide + y) * out.width + int(k) % kAcross * kSide + x) * 4;
                const Vec3f c = palette[k].colour;
                for (const auto &[i, v] : {std::pair{0, c.x}, std::pair{1, c.y}, std::pair{2, c.z}})
                    out.rgba[at + std::size_t(i)] = std::uint8_t(std::lround(std::clamp(v, 0.0f, 1.0f) * 255));
                out.rgba[at + 3] = 255;
            }
    return out;
}

Vec3f seenBy(Eyesight eyes, Vec3f c)
{
    static constexpr float kRows[3][9] = {
        {0.152286f, 1.052583f, -0.204868f, 0.114503f, 0.786281f, 0.099216f, -0.003882f, -0.048116f, 1.051998f},
        {0.367322f, 0.860646f, -0.227968f, 0.280085f, 0.672501f, 0.047413f, -0.011820f, 0.042940f, 0.968881f},
        {1.255528f, -0.076749f, -0.178779f, -0.078411f, 0.930809f, 0.147602f, 0.004733f, 0.691367f, 0.303900f}};
    if (eyes == Eyesight::Usual)
        return c;
    const float *m = kRows[std::size_t(eyes) - 1];
    return clamped(
        {m[0] * c.x + m[1] * c.y + m[2] * c.z, m[3] * c.x + m[4] * c.y + m[5] * c.z, m[6] * c.x + m[7] * c.y + m[8] * c.z});
}

std::vector<Close> closeOnes(std::span<const Vec3f> srgb, float least)
{
    std::vector<Close> out;
    for (std::size_t a = 0; a < srgb.size(); ++a)
        for (std::size_t b = a + 1; b < srgb.size(); ++b)
            for (std::size_t e = 0; e < kEyesightNames.size(); ++e) {
                const auto seen = [&](Vec3f c) { return labOfLinear(seenBy(Eyesight(e), linearOf(c))); };
                if (const float d = std::sqrt(squared(seen(srgb[a]), seen(srgb[b]))); d < least) {
                    out.push_back({a, b, Eyesight(e), d});
                    break; // those who see less see no more
                }
            }
    return out;
}

} // namespace bonemoss::colour
