// Teeth along a gum line; claws, nails and hooves at the tips of toes and fingers.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

mesh::PolyMesh toothShape(const Input &in, const Variation &v)
{
    enum Form { Fang, Incisor, Molar, Needle };
    const auto form = Form(in.count("form"));
    const float high = in.value("height"), wide = high * in.value("width") / 2, thick = high * in.value("thickness") / 2;
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    const float own = float(v.variant > 0); // the first shape is the plain one
    constexpr std::size_t kAlong = 20;
    constexpr std::uint32_t kAround = 20;
    const float below = 0.15f + in.value("sink"),
                curve = in.value("curve") * high * (form == Incisor || form == Molar ? 0.15f : 0.7f);
    std::vector<Vec3f> line;
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float y = -below + (1 + below) * float(i) / float(kAlong - 1), up = std::max(y, 0.0f);
        line.push_back({-curve * up * up * (1 + 0.25f * own * randomSigned(seed, 3)), y * high, 0});
    }
    std::vector<Station> stations = framed(line, {1, 0, 0});
    const float worn = 0.35f * in.value("wear");
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float y = std::clamp(line[i].y / high, 0.0f, 1.0f), neck = 1 - 0.14f * std::exp(-y * y / 0.006f);
        float z = 1, x = 1; // of the whole width along the gum, and across it
        switch (form) {
        case Fang: z = x = std::pow(1 - (1 - 0.2f * worn) * y, 0.72f); break;
        case Incisor: z = 0.82f + 0.18f * smooth(0, 0.7f, y), x = std::lerp(1.0f, 0.16f + worn, std::pow(y, 0.8f)); break;
        case Molar: z = x = 0.9f + 0.1f * smooth(0, 0.5f, y) - 0.12f * smooth(0.75f, 1.0f, y); break;
        case Needle: z = x = 0.55f * (1 - 0.94f * y); break;
        }
        const float uneven = neck * (1 + 0.08f * own * waver(seed + 4, y * 2.5f));
        stations[i].height = std::max(wide * z * uneven, 0.02f * high);
        stations[i].width = std::max(thick * x * uneven, 0.02f * high);
    }
    keepApart(stations, 1.2f);
    if (const float cut = std::clamp(v.broken, 0.0f, 0.9f); cut > 0)
        stations.resize(std::max<std::size_t>(4, std::size_t(float(kAlong) * (1 - cut))));
    else
        roundTip(stations, 0.7f * std::min(stations.back().width, stations.back().height));
    const std::size_t crown = stations.size();
    return swept(stations, kAround, [&](std::size_t i, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / float(kAround), c = std::cos(a), s = std::sin(a);
        if (i == 0 || i + 1 >= crown || form == Needle || form == Fang)
            return Corner{c, s};
        // Flat sides with round edges: a superellipse; molars have cusps at four corners.
        const float square = form == Molar ? 0.62f : 0.75f;
        Corner out{std::copysign(std::pow(std::abs(c), square), c), std::copysign(std::pow(std::abs(s), square), s)};
        if (form == Molar) {
            const float y = std::clamp(float(i) / float(kAlong - 1) * (1 + below) - below, 0.0f, 1.0f);
            const float cusp = 1 - 0.12f * smooth(0.4f, 0.9f, y) * (0.5f + 0.5f * std::cos(4 * a));
            out.x *= cusp, out.y *= cusp;
        }
        return out;
    });
}

/// A claw bends towards its own -Z: down, when its +Z was set upward.
mesh::PolyMesh clawShape(const Input &in, const Variation &v)
{
    const float length = in.value("length"), curve = in.value("curve") * kRadiansPerDegree, wide = in.value("width") * length / 2,
                high = in.value("height") * length / 2, blunt = in.value("blunt"), keel = in.value("keel"),
                wear = in.value("wear");
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    constexpr std::size_t kAlong = 28;
    constexpr std::uint32_t kAround = 24;
    const float bed = std::max(in.value("sink"), 0.05f * length); // that lies in the flesh
    const float radius = std::abs(curve) > 0.02f ? length / curve : 0;
    std::vector<Vec3f> line{{0, -bed, 0}, {0, -bed * 0.5f, 0}};
    for (std::size_t i = 2; i < kAlong; ++i) {
        const float s = length * float(i - 2) / float(kAlong - 3), a = s / length * curve;
        line.push_back(radius != 0 ? Vec3f{0, radius * std::sin(a), -radius * (1 - std::cos(a))} : Vec3f{0, s, 0});
    }
    std::vector<Station> stations = framed(line, {1, 0, 0});
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float s = i < 2 ? 0 : float(i - 2) / float(kAlong - 3);
        const float taper = std::lerp(1.0f, 0.04f + 0.9f * blunt, std::pow(s, std::lerp(0.95f, 2.6f, blunt)));
        stations[i].width = std::max(wide * taper * in.profileAt(s), 0.015f * length);
        stations[i].height = std::max(high * taper * in.profileAt(s), 0.015f * length);
    }
    keepApart(stations, 1.25f);
    if (const float cut = std::clamp(v.broken, 0.0f, 0.9f); cut > 0)
        stations.resize(std::max<std::size_t>(5, std::size_t(float(kAlong) * (1 - cut))));
    else
        roundTip(stations, 0.8f * std::min(stations.back().width, stations.back().height));
    const std::size_t last = stations.size();
    return swept(stations, kAround, [&](std::size_t i, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / float(kAround), c = std::cos(a), s = std::sin(a);
        if (i < 1 || i + 1 >= last)
            return Corner{c, s};
        const float t = float(i) / float(kAlong - 1);
        // A ridge on the back, and a groove with two edges below.
        float r = 1 + 0.16f * keel * std::pow(std::max(0.0f, s), 6.0f) - 0.30f * keel * std::pow(std::max(0.0f, -s), 10.0f);
        r += 0.02f * in.value("rings") * std::sin(t * 70 + 0.8f * waver(seed, t * 9)) * (1 - t) * smooth(0.05f, 0.15f, t);
        r -= 0.14f * wear * smooth(0.7f, 1.0f, t) * (0.5f + 0.5f * waver(seed + 31 + j % 5, t * 30));
        return Corner{c * r, s * r};
    });
}

/// One at each root; its own +Z as near to the crown as the skin allows, so that what bends, bends down.
void atRoots(const Input &in, std::vector<Spot> &out)
{
    const auto variants = std::uint32_t(std::max(1, in.count("variants")));
    for (std::size_t k = 0; k < in.rule.roots.size(); ++k) {
        Spot s;
        s.root = in.rule.roots[k];
        s.forward = std::abs(s.root.normal.y) < 0.94f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
        const float jitter = in.value("jitter");
        s.rotation = {in.value("lean") + 8 * jitter * in.randomSigned(3, k),
                      in.value("turn") + 10 * jitter * in.randomSigned(4, k), in.value("splay")};
        s.size = in.profileAt(in.rule.roots.size() > 1 ? float(k) / float(in.rule.roots.size() - 1) : 0)
                 * (1 + 0.2f * jitter * in.randomSigned(2, k));
        s.variant = std::uint32_t(in.random(40, k) * float(variants));
        if (in.about.plane && in.about.planeNormal)
            s.isOnPlane = std::abs(dot(s.root.at - *in.about.plane, *in.about.planeNormal)) < 0.3f;
        out.push_back(s);
    }
}

/// So many in a ring about the root's normal, leaning outward.
void aroundRoot(const Input &in, std::vector<Spot> &out)
{
    if (in.rule.roots.empty())
        return;
    const Root &root = in.rule.roots.front();
    const io::Placement frame = frameAt(root, {0, 0, 1});
    const Vec3f x{frame.m[0], frame.m[1], frame.m[2]}, z{frame.m[6], frame.m[7], frame.m[8]};
    const int count = std::max(1, in.count("count"));
    const float jitter = in.value("jitter");
    for (int k = 0; k < count; ++k) {
        const auto q = std::uint64_t(k);
        const float a = 2 * kPi * (float(k) + 0.35f * jitter * in.randomSigned(1, q)) / float(count);
        const Vec3f outward = z * std::cos(a) + x * std::sin(a);
        Spot s;
        s.root = root;
        if (const auto hit = mesh::nearestPoint(in.skin, root.at + outward * in.value("distance")))
            s.root = {hit->point, normalized(hit->normal + root.normal)};
        s.forward = outward;
        s.rotation = {in.value("lean") + 10 * jitter * in.randomSigned(2, q), in.value("turn"), 0};
        s.size = in.profileAt(count > 1 ? float(k) / float(count) : 0) * (1 + 0.25f * jitter * in.randomSigned(3, q));
        s.lift = -in.value("sink") * in.value("height") * s.size;
        out.push_back(s);
    }
}

} // namespace bonemoss::outgrowth
