// Antlers: a beam and its tines, each a solid of its own that reaches into the beam.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

constexpr std::size_t kBeam = 56, kTine = 18;

/// The beam leans back, then bends forward again; it spreads, then closes.
std::vector<Station> beamOf(const Input &in)
{
    const float length = in.value("length"), radius = std::min(in.value("radius"), 0.16f * length),
                curve = in.value("curve") * kRadiansPerDegree, spread = in.value("spread") * kRadiansPerDegree,
                palm = in.value("palm");
    std::vector<Vec3f> line{{0, 0, 0}};
    for (std::size_t i = 1; i < kBeam; ++i) {
        const float s = (float(i) - 0.5f) / float(kBeam - 1), back = curve * std::cos(kPi * s), out = spread * std::cos(kPi * s);
        const Vec3f way = normalized(Vec3f{std::sin(out), std::cos(back) * std::cos(out), -std::sin(back)});
        line.push_back(line.back() + way * (length / float(kBeam - 1)));
    }
    std::vector<Station> beam = framed(line, {1, 0, 0});
    for (std::size_t i = 0; i < kBeam; ++i) {
        const float s = float(i) / float(kBeam - 1);
        const float r = radius * std::lerp(1.0f, in.value("tip"), std::pow(s, 1.2f)) * in.profileAt(s);
        const float flat = palm * smooth(0.35f, 0.78f, s) * (1 - 0.8f * smooth(0.85f, 1.0f, s));
        beam[i].width = r * (1 - 0.35f * flat), beam[i].height = r * (1 + 2.2f * flat);
    }
    keepApart(beam, 1.3f);
    return beam;
}

mesh::PolyMesh beamShape(const Input &in, const Variation &v)
{
    std::vector<Station> beam = beamOf(in);
    const float radius = beam.front().width, burr = in.value("burr"), grooves = in.value("grooves");
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16;
    beam.resize(std::max<std::size_t>(6, std::size_t(float(kBeam) * (1 - v.broken))));
    const std::size_t own = beam.size();
    if (v.broken <= 0)
        roundTip(beam, 0.9f * std::min(beam.back().width, beam.back().height));
    const Station root = beam.front();
    for (const float deep : {0.4f, 1.0f}) { // below the skin
        Station s = root;
        s.at = root.at - root.along() * (deep * (std::max(in.value("sink"), 0.0f) + 0.3f * radius));
        beam.insert(beam.begin(), s);
    }
    constexpr std::uint32_t kAround = 28;
    return swept(beam, kAround, [&](std::size_t i, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / kAround, c = std::cos(a), s = std::sin(a);
        if (i < 1 || i + 1 >= own + 2)
            return Corner{c, s};
        const float t = i < 2 ? 0 : float(i - 2) / float(kBeam - 1);
        const float ring = (t - 0.035f) / 0.022f, bead = 0.7f + 0.3f * std::cos(9 * a + 3 * waver(seed + 3, a));
        float r = 1 + 0.42f * burr * std::exp(-ring * ring) * bead;
        r -= 0.10f * grooves * std::pow(0.5f + 0.5f * std::cos(7 * (a + 0.4f * waver(seed + 9, t * 5))), 3.0f)
             * smooth(0.07f, 0.13f, t) * (1 - smooth(0.8f, 1.0f, t));
        r += 0.05f * grooves * waver(seed + 40 + j % 9, t * 30) * smooth(0.07f, 0.13f, t) * (1 - smooth(0.7f, 0.95f, t));
        r = std::lerp(r, 1.0f, smooth(float(own) - 4, float(own), float(i)));
        return Corner{c * r, s * r};
    });
}

mesh::PolyMesh tineShape(const Input &in, const Variation &v)
{
    const std::vector<Station> beam = beamOf(in);
    const int tines = in.count("tines");
    const std::uint64_t seed = (std::uint64_t(in.rule.seed) << 16) + v.variant;
    const float jitter = in.value("jitter");
    const float s =
        std::clamp(std::lerp(in.value("first"), 0.94f,
                             (float(v.variant) - 1 + 0.2f * jitter * randomSigned(seed, 1)) / float(std::max(1, tines))),
                   0.02f, 0.95f);
    const Station &at = beam[std::size_t(s * float(kBeam - 1))];
    const float angle = (in.value("angle") + 12 * jitter * randomSigned(seed, 2)) * kRadiansPerDegree;
    const Vec3f way = at.along(), side = at.side * (0.35f * jitter * randomSigned(seed, 3));
    const Vec3f to = normalized(at.up * (std::sin(angle)) + way * std::cos(angle) + side);
    const float palm = in.value("palm") * smooth(0.35f, 0.78f, s);
    const float out = at.height * 0.55f * palm / (1 + palm); // from the edge of a palm, not from its middle
    const float thick = 0.8f * std::min(at.width, at.height);
    const float length =
        in.value("tineLength") * in.value("length") * (1 - 0.5f * s) * (1 + 0.25f * jitter * randomSigned(seed, 4));
    std::vector<Vec3f> line;
    Vec3f p = at.at + at.up * out;
    const float step = std::max(length, 2 * thick) / float(kTine - 1);
    for (std::size_t i = 0; i < kTine; ++i) {
        line.push_back(p);
        p += normalized(lerp(to, way, 0.4f * float(i) / float(kTine - 1))) * step; // it turns up the beam
    }
    std::vector<Station> stations = framed(line, at.side);
    for (std::size_t i = 0; i < kTine; ++i)
        stations[i].width = stations[i].height =
            thick * std::lerp(1.0f, std::max(in.value("tip"), 0.08f) * 0.7f, std::pow(float(i) / float(kTine - 1), 1.1f));
    keepApart(stations, 1.1f);
    roundTip(stations, 0.9f * stations.back().width);
    constexpr std::uint32_t kAround = 16;
    return swept(stations, kAround, [&](std::size_t, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / kAround;
        return Corner{std::cos(a), std::sin(a)};
    });
}

} // namespace

/// The beam, and each tine as a part of the same member.
void antlerParts(const Input &in, std::vector<Spot> &out)
{
    onePlace(in, out);
    if (out.empty())
        return;
    out.front().number = 0;
    const int tines = in.count("tines");
    const Correction *own = in.rule.correction(0, false);
    for (int k = 1; k <= tines; ++k) {
        const float s = std::lerp(in.value("first"), 0.94f, (float(k) - 1) / float(std::max(1, tines)));
        if (own && s > 0.95f - own->broken)
            break; // broken off with the beam
        Spot tine = out.front();
        tine.variant = std::uint32_t(k);
        out.push_back(tine);
    }
}

mesh::PolyMesh antlerShape(const Input &in, const Variation &v)
{
    return v.variant == 0 ? beamShape(in, v) : tineShape(in, v);
}

} // namespace bonemoss::outgrowth
