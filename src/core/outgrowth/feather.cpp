// Feathers and quills.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

std::vector<Vec3f> arc(float length, float degrees, std::size_t n)
{
    std::vector<Vec3f> line;
    const float turn = degrees * kRadiansPerDegree;
    for (std::size_t i = 0; i < n; ++i) {
        const float s = float(i) / float(n - 1), a = turn * s;
        line.push_back(std::abs(turn) < 0.01f ? Vec3f{0, length * s, 0}
                                              : Vec3f{0, length * std::sin(a) / turn, length * (1 - std::cos(a)) / turn});
    }
    return line;
}

namespace {

/// The two first sections stand below the skin.
void addBed(std::vector<Vec3f> &line, float deep)
{
    line.insert(line.begin(), {Vec3f{0, -deep, 0}, Vec3f{0, -deep / 2, 0}});
}

} // namespace

/// A bare quill or spine: straight sides, thickest a little above its root.
mesh::PolyMesh quillShape(const Input &in, const Variation &v)
{
    const float high = in.value("height"), half = std::max(in.value("width") * high / 2, 0.01f * high);
    constexpr std::size_t kAlong = 18;
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    std::vector<Vec3f> line = arc(high, in.value("curve") + 8 * in.value("variation") * randomSigned(seed, 3), kAlong - 2);
    addBed(line, std::max(2 * half, 0.06f * high));
    std::vector<Station> stations = framed(line, {1, 0, 0});
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float s = i < 2 ? 0 : float(i - 2) / float(kAlong - 3);
        const float belly = std::lerp(0.7f, 1.0f, smooth(0, 0.18f, s)), taper = 1 - std::pow(s, 1.6f) * 0.93f;
        stations[i].width = stations[i].height = half * belly * taper * in.profileAt(s);
    }
    keepApart(stations, 1.1f);
    if (v.broken > 0)
        stations.resize(std::max<std::size_t>(5, std::size_t(float(kAlong) * (1 - v.broken))));
    else
        roundTip(stations, stations.back().width, 2);
    const std::size_t last = stations.size();
    const float bands = in.value("grooves");
    return swept(stations, 12, [&](std::size_t i, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / 12;
        const float r = i < 2 || i + 3 >= last ? 1 : 1 - 0.16f * bands * float(j % 3 == 0);
        return Corner{std::cos(a) * r, std::sin(a) * r};
    });
}

namespace {

constexpr std::size_t kFeatherRows = 40;
constexpr std::uint32_t kAcross = 13; ///< points on each side of the blade

bool isThin(const Input &in)
{
    return in.count("body") == 1;
}

std::size_t featherRows(const Variation &v)
{
    return v.broken > 0 ? std::max<std::size_t>(6, std::size_t(float(kFeatherRows) * (1 - v.broken))) : kFeatherRows;
}

/// The middle between both sides of a blade, as an open sheet.
mesh::PolyMesh sheetOf(const mesh::PolyMesh &blade)
{
    constexpr std::uint32_t kAround = 2 * kAcross;
    mesh::PolyMesh sheet;
    for (std::size_t row = 0; row + kAround <= blade.positions.size(); row += kAround)
        for (std::uint32_t k = 0; k < kAcross; ++k)
            sheet.positions.push_back((blade.positions[row + k] + blade.positions[row + kAround - 1 - k]) * 0.5f);
    const auto last = std::uint32_t(sheet.positions.size()) - kAcross;
    for (std::uint32_t row = 0; row < last; row += kAcross)
        for (std::uint32_t k = row; k + 1 < row + kAcross; ++k)
            sheet.faces.push_back({{k, k + kAcross, k + kAcross + 1, k + 1}});
    return sheet;
}

/// How far out of the shaft a column of points lies, from 1 to -1.
float acrossOf(std::uint32_t column)
{
    return std::cos(kPi * (float(column) + 0.5f) / float(kAcross));
}

} // namespace

/// One layout for all feathers: the shaft along the middle of the picture, from the root below to the tip above.
std::vector<io::Attribute> featherTexture(const Input &in, const Variation &v)
{
    if (!isThin(in))
        return {};
    io::Attribute texture{std::string(io::kTexture), mesh::Domain::Vertex, 2, {}};
    for (std::size_t row = 0; row < featherRows(v); ++row)
        for (std::uint32_t k = 0; k < kAcross; ++k) {
            texture.values.push_back(0.5f + 0.5f * acrossOf(k) / acrossOf(0));
            texture.values.push_back(float(row) / float(kFeatherRows - 1));
        }
    return {std::move(texture)};
}

/// A shaft with a vane on each side: a thin curved blade whose edges have notches where barbs part, with grooves along the barbs. A
/// thin one has no back.
mesh::PolyMesh featherShape(const Input &in, const Variation &v)
{
    const float high = in.value("height"), half = in.value("width") * high / 2,
                thin = std::min({in.value("thickness") / 2, 0.05f * high, 0.25f * half}),
                shaft = std::max(0.022f * high, 1.5f * thin), notches = in.value("notches"), barbs = in.value("barbs"),
                uneven = in.value("outer"), down = in.value("down");
    constexpr std::size_t kAlong = kFeatherRows;
    constexpr std::uint32_t kAround = 2 * kAcross;
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    std::vector<Vec3f> line = arc(high, in.value("curve"), kAlong - 2);
    addBed(line, 0.05f * high + 2 * shaft);
    std::vector<Station> stations = framed(line, {1, 0, 0});
    const auto shareAt = [&](std::size_t i) { return i < 2 ? 0 : float(i - 2) / float(kAlong - 3); };
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float s = shareAt(i);
        // Bare below, then a vane that is broad until its rounded end.
        const float bare = smooth(0.07f, std::lerp(0.30f, 0.14f, down), s);
        const float end = std::sqrt(std::max(0.0f, 1 - std::pow(std::max(0.0f, (s - 0.5f) / 0.5f), 2.4f)));
        const float vane = bare * std::lerp(std::pow(1 - s, 0.8f), 1.0f, in.value("round")) * end;
        stations[i].width = std::max(half * vane * in.profileAt(s), shaft * (1 - 0.6f * s));
        stations[i].height = std::max(thin, shaft * (1 - 0.75f * s));
    }
    keepApart(stations, 1.05f);
    stations.resize(featherRows(v));
    // Where a vane has split: a notch on one side, slanted as the barbs are.
    struct Notch {
        float at, deep, wide;
        bool isLeft;
    };
    std::vector<Notch> cuts;
    for (int k = 0; k < int(std::lround(notches * 7)); ++k) {
        const auto q = std::uint64_t(k);
        cuts.push_back({0.3f + 0.6f * randomUnit(seed, 10 + q), 0.25f + 0.5f * randomUnit(seed, 30 + q),
                        0.018f + 0.02f * randomUnit(seed, 50 + q), randomUnit(seed, 70 + q) < 0.5f});
    }
    const std::size_t last = stations.size() - 1;
    mesh::PolyMesh out = swept(stations, kAround, [&](std::size_t i, std::uint32_t j) {
        const bool isTop = j < kAcross;
        const auto k = isTop ? j : kAround - 1 - j; // across, from +1 to -1
        const float a = kPi * (float(k) + 0.5f) / float(kAcross), x = acrossOf(k);
        const Station &st = stations[i];
        if (i == 0 || i == last)
            return Corner{x, (isTop ? 1.0f : -1.0f) * std::sin(a)};
        const float s = shareAt(i);
        float reach = 1;
        for (const Notch &c : cuts)
            if (c.isLeft == (x > 0)) {
                const float away = (s - c.at) / c.wide;
                reach -= c.deep * std::exp(-away * away);
            }
        // Loose barbs near the root, no two as long.
        const float loose = 0.5f + 0.5f * waver(seed + (x > 0 ? 90u : 91u), s * 60);
        reach -= 0.65f * down * loose * smooth(0.08f, 0.14f, s) * (1 - smooth(0.22f, 0.38f, s));
        reach = std::max(reach, 0.22f) * (1 - (x > 0 ? 0.45f * uneven : 0.0f) * smooth(0.1f, 0.3f, s));
        // From the shaft out: thick as the shaft, then as the vane, to a thin edge.
        const float mm = std::abs(x) * st.width, vane = thin * std::sqrt(std::max(0.0f, 1 - std::pow(std::abs(x), 6.0f)));
        const float rib = st.height * std::exp(-std::pow(mm / std::max(1.3f * st.height, 1e-4f), 2.0f));
        const float groove = 1 - 0.35f * barbs * (0.5f + 0.5f * std::cos(2 * kPi * (34 * s - 4.5f * std::abs(x))));
        const float y = std::max(rib, vane * groove + 0.15f * thin * std::sin(a)) / st.height;
        const float ends = smooth(0, 3, float(i)) * (1 - smooth(float(last) - 2, float(last), float(i)));
        return Corner{x * std::lerp(1.0f, reach, ends), (isTop ? 1.0f : -1.0f) * std::lerp(std::sin(a), y, ends)};
    });
    if (in.rule.kind->rooting == Rooting::Line) // its vanes lie along the line
        for (Vec3f &p : out.positions)
            p = {p.z, p.y, -p.x};
    return isThin(in) ? sheetOf(out) : out;
}

} // namespace bonemoss::outgrowth
