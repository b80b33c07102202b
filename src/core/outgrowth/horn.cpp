// Horns, tusks and the like: one sweep along a coil, a bend or a drawn line.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

/// The line of a horn by rule, from the root on; its radius falls evenly along it to `end` times that of the root where the coil keeps
/// its proportions.
struct Coil {
    std::vector<Vec3f> line;
    float end = 1;
};

/// A logarithmic coil about an axis (Raup 1966, "Geometric analysis of shell coiling"): W, how much larger all is after a turn; D,
/// distance of the tube's inner side from the axis over that of its outer side; T, way along the axis for each way from it.
/// The centre's distance from the axis is r = r0 exp(-b phi), b = ln W / 2 pi, towards the tip; with T the arc length from the root
/// is r0 k (1 - exp(-b phi)) / b, k^2 = 1 + b^2 (1 + T^2).
Coil coilOf(const Input &in, float length, float radius, std::size_t n)
{
    const float w = std::max(in.value("expansion"), 1.01f), d = std::min(in.value("distance"), 0.98f), t = in.value("drift");
    const float b = std::log(w) / (2 * kPi), k = std::sqrt(1 + b * b * (1 + t * t));
    // All that a coil can be is r0 k / b long: where more is asked for, it keeps farther from its axis.
    const float r0 = std::max(radius * (1 + d) / (1 - d), length * b / (0.97f * k));
    const float used = length * b / (r0 * k);
    const Vec3f way = normalized(Vec3f{-b, b * t, 1}); // at the root
    const Vec3f inward = Vec3f{-1, 0, 0} - way * dot(Vec3f{-1, 0, 0}, way), c = normalized(inward), e = cross(way, c);
    const float bearing = in.value("bearing") * kRadiansPerDegree;
    const Vec3f to{std::sin(bearing), 0, -std::cos(bearing)}, y{0, 1, 0}, z = cross(y, to);
    Coil out;
    out.end = 1 - used;
    for (std::size_t i = 0; i < n; ++i) {
        const float left = 1 - used * float(i) / float(n - 1), phi = -std::log(left) / b, r = r0 * left;
        const Vec3f p{r * std::cos(phi) - r0, t * (r0 - r), r * std::sin(phi)};
        out.line.push_back(y * dot(p, way) + to * dot(p, c) + z * dot(p, e));
    }
    return out;
}

} // namespace

Corner sectionCorner(int section, float angle, std::span<const float> drawn)
{
    const float c = std::cos(angle), s = std::sin(angle);
    if (section == 4 && drawn.size() > 2) {
        const std::size_t n = drawn.size();
        const float x = angle / (2 * kPi) * float(n);
        const auto k = std::size_t(x) % n;
        const float t = x - std::floor(x), most = *std::max_element(drawn.begin(), drawn.end());
        const float a = drawn[(k + n - 1) % n], b = drawn[k], d = drawn[(k + 1) % n], e = drawn[(k + 2) % n];
        const float r = b + 0.5f * t * (d - a + t * (2 * a - 5 * b + 4 * d - e + t * (3 * (b - d) + e - a)));
        const float share = most > 0 ? std::clamp(r / most, 0.25f, 1.0f) : 1;
        return {share * c, share * s};
    }
    if (section == 2) { // a triangle with round edges: r = 1 / (1 + 0.25 cos 3a), one edge towards +Z
        const float r = 0.86f / (1 - 0.22f * std::sin(3 * angle + kPi));
        return {r * c, r * s};
    }
    if (section == 3) { // a ridge towards -Z
        const float ridge = std::pow(std::max(0.0f, -s), 10.0f);
        return {c * (1 - 0.25f * ridge), s * (1 + 0.28f * ridge)};
    }
    return {c, s};
}

mesh::PolyMesh hornShape(const Input &in, const Variation &v)
{
    const float length = in.value("length"), radius = in.value("radius"),
                chip = std::clamp(std::max(in.value("chip"), v.broken), 0.0f, 0.9f);
    const int rings = in.count("rings"), grooves = in.count("grooves"), section = in.count("section");
    const auto n = std::size_t(std::clamp(24 + rings * 5, 40, 220));
    const auto around = std::uint32_t(std::clamp(std::max(24, grooves * 5), 24, 72) / 2 * 2);
    const float flat = 1 - 0.65f * in.value("flatness") * (section == 1 ? 1.0f : 0.5f);
    Coil coil;
    if (in.rule.path.size() > 1)
        coil.line = evenLine(in.rule.path, n);
    else
        coil = coilOf(in, length, radius, n);
    const float tip = std::max(in.value("tip"), 0.02f);
    std::vector<Station> stations = framed(coil.line, {1, 0, 0});
    const auto shareAt = [&](std::size_t i) { return float(i) / float(n - 1); };
    for (std::size_t i = 0; i < n; ++i) {
        const float s = shareAt(i), turn = in.value("twist") * kRadiansPerDegree * s;
        Station &st = stations[i];
        const Vec3f side = st.side * std::cos(turn) + st.up * std::sin(turn);
        st.up = st.up * std::cos(turn) - st.side * std::sin(turn), st.side = side;
        const float swell = 1 + 0.12f * in.value("bulges") * waver(in.rule.seed * 77 + v.variant, s * 6);
        st.width = radius * std::lerp(1.0f, tip, s) * in.profileAt(s) * swell;
        st.height = st.width * std::lerp(flat, 1.0f, in.value("flatRoot") * smooth(0.0f, 0.7f, s));
    }
    keepApart(stations, 1.25f);
    auto last = std::size_t(std::lround(float(n - 1) * (1 - chip)));
    stations.resize(std::max<std::size_t>(last, 4) + 1);
    const std::size_t own = stations.size();
    if (chip <= 0)
        roundTip(stations, 0.9f * std::max(stations.back().width, stations.back().height));
    // Below the skin it goes straight on, so that no gap shows at its root.
    const Station root = stations.front();
    const float deep = std::max(in.value("sink"), 0.0f) + 0.25f * radius;
    std::vector<Station> all;
    for (const float share : {1.0f, 0.5f}) {
        Station s = root;
        s.at = root.at - root.along() * (deep * share);
        all.push_back(s);
    }
    all.insert(all.end(), stations.begin(), stations.end());
    const float crowd = 1 + 2.5f * in.value("crowd"), ringDepth = 0.16f * in.value("ringDepth"),
                grooveDepth = 0.14f * in.value("grooveDepth"), wear = in.value("wear"), cracks = in.value("cracks");
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    return swept(all, around, [&](std::size_t k, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / float(around);
        Corner c = sectionCorner(section, a, in.rule.section);
        const Corner circle{std::cos(a), std::sin(a)};
        if (k < 2)
            return Corner{circle.x * 0.98f, circle.y * 0.98f};
        // Round at its very end, so that the strip of quads that closes it does not fold.
        const auto end = float(all.size() - 1);
        const float ends = smooth(end - 3, end, float(k));
        c = {std::lerp(c.x, circle.x, ends), std::lerp(c.y, circle.y, ends)};
        if (k >= own + 2)
            return c;
        const float s = shareAt(k - 2), fade = smooth(0.0f, 0.04f, s);
        float r = 1;
        if (rings > 0) { // each ring swells slowly and ends in a step
            const float u = float(rings) * (1 - std::pow(1 - s, crowd)), ring = u - std::floor(u);
            const float uneven = 0.75f + 0.5f * randomUnit(seed, std::uint64_t(u) + 900);
            const float wave = smooth(0.0f, 0.75f, ring) * (1 - smooth(0.82f, 1.0f, ring)) - 0.45f;
            const float lean = 0.12f * std::sin(a + 3 * waver(seed + 5, u * 0.4f));
            r += ringDepth * uneven * (wave + lean) * (1 - smooth(0.55f, 0.97f, s)) * fade;
        }
        if (grooves > 0) {
            const float wander = 0.35f * waver(seed + 9, s * 5);
            const float groove = std::pow(0.5f + 0.5f * std::cos(float(grooves) * (a + wander)), 5.0f);
            r -= grooveDepth * groove * smooth(0.02f, 0.15f, s) * (1 - smooth(0.75f, 1.0f, s));
        }
        if (wear > 0)
            r -= 0.16f * wear * smooth(0.72f, 1.0f, s) * (0.5f + 0.5f * waver(seed + 31 + j % 7, s * 40 + a));
        for (int q = 0; q < int(std::lround(cracks * 4)); ++q) {
            const float away = std::remainder(a - 2 * kPi * randomUnit(seed, std::uint64_t(q) + 70), 2 * kPi) / 0.14f;
            r -= 0.22f * std::exp(-away * away) * smooth(0.6f + 0.1f * float(q % 3), 0.95f, s);
        }
        r = std::clamp(r, 0.45f, 1.24f);
        r = std::lerp(r, 1.0f, ends);
        return Corner{c.x * r, c.y * r};
    });
}

void onePlace(const Input &in, std::vector<Spot> &out)
{
    if (in.rule.roots.empty())
        return;
    const Root &r = in.rule.roots.front();
    out.push_back({.root = r, .rotation = {in.value("lean"), in.value("turn"), in.value("splay")}, .lift = -in.value("sink")});
}

} // namespace bonemoss::outgrowth
