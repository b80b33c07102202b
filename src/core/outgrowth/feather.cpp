// Feathers, quills and fine hair.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

/// An arc of that length from the origin along +Y that turns towards +Z by so many degrees over it.
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

/// A shaft with a vane on each side: a thin curved blade whose edges have notches where barbs part, with grooves along the barbs.
mesh::PolyMesh featherShape(const Input &in, const Variation &v)
{
    const float high = in.value("height"), half = in.value("width") * high / 2,
                thin = std::min({in.value("thickness") / 2, 0.05f * high, 0.25f * half}),
                shaft = std::max(0.022f * high, 1.5f * thin), notches = in.value("notches"), barbs = in.value("barbs"),
                uneven = in.value("outer"), down = in.value("down");
    constexpr std::size_t kAlong = 40;
    constexpr std::uint32_t kAcross = 13, kAround = 2 * kAcross; // points on each side of the blade
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
    if (v.broken > 0)
        stations.resize(std::max<std::size_t>(6, std::size_t(float(kAlong) * (1 - v.broken))));
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
        const float a = kPi * (float(k) + 0.5f) / float(kAcross), x = std::cos(a);
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
    return out;
}

/// A tuft of hairs: each a thin closed tube that leans to the tuft's middle, with kink and curl.
mesh::PolyMesh tuftShape(const Input &in, const Variation &v)
{
    const float high = in.value("height"), root = in.value("hair") / 2, clump = in.value("clump"), curl = in.value("curl"),
                kink = in.value("kink"), frizz = in.value("frizz"), stray = in.value("stray");
    const int strands = std::max(1, in.count("strands"));
    const float wide = 0.62f * in.value("spacing");
    constexpr std::size_t kAlong = 7;
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    const std::vector<Vec3f> middle = arc(high, in.value("curve"), kAlong);
    mesh::PolyMesh out;
    for (int k = 0; k < strands; ++k) {
        const auto r = [&](std::uint64_t what) { return randomUnit(seed + std::uint64_t(k) * 131, what); };
        const float a = 2 * kPi * r(1), far = wide * std::sqrt(r(2));
        const Vec3f from{far * std::cos(a), 0, far * std::sin(a)};
        const bool strays = r(3) < stray;
        const float length = (0.78f + 0.28f * r(4)) * (strays ? 1.08f : 1.0f);
        const Vec3f aside{r(5) - 0.5f, 0, r(6) - 0.5f};
        std::vector<Vec3f> line;
        for (std::size_t i = 0; i < kAlong; ++i) {
            const float s = float(i) / float(kAlong - 1), spin = 2 * kPi * (2.2f * curl * s + r(7));
            Vec3f p = middle[i] * length + from * (1 - clump * std::pow(s, 1.4f));
            p += Vec3f{std::cos(spin) - std::cos(2 * kPi * r(7)), 0, std::sin(spin)} * (0.07f * high * curl * s);
            p += Vec3f{waver(seed + std::uint64_t(k), s * 4), 0, waver(seed + std::uint64_t(k) + 77, s * 4)}
                 * (0.06f * high * kink * s);
            p += aside * (high * s * (0.25f * frizz + (strays ? 0.5f : 0.0f)));
            line.push_back(p - Vec3f{0, i == 0 ? 0.04f * high : 0, 0});
        }
        std::vector<Station> stations = framed(line, {1, 0, 0});
        for (std::size_t i = 0; i < kAlong; ++i)
            stations[i].width = stations[i].height =
                root * std::lerp(1.0f, in.value("tip"), std::pow(float(i) / float(kAlong - 1), 1.5f));
        mesh::append(out, swept(stations, 4, [](std::size_t, std::uint32_t j) {
                         const float q = 2 * kPi * float(j) / 4;
                         return Corner{std::cos(q), std::sin(q)};
                     }));
    }
    return out;
}

io::Material hairMaterial(const Input &, const Variation &)
{
    return {"hair"};
}

} // namespace bonemoss::outgrowth
