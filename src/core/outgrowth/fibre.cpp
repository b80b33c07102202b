// Fine hair: tufts of strands, which are curves to look at and thin closed tubes where a solid is asked for.
#include "outgrowth/shapes.h"

namespace bonemoss::outgrowth {

namespace {

constexpr std::size_t kAlong = 7;

/// Calls use(line) for each hair of a tuft: it leans to the tuft's middle, with kink and curl, and begins a little below the skin.
template <typename Use> void eachHair(const Input &in, const Variation &v, const Use &use)
{
    const float high = in.value("height"), clump = in.value("clump"), curl = in.value("curl"), kink = in.value("kink"),
                frizz = in.value("frizz"), stray = in.value("stray");
    const int strands = std::max(1, in.count("strands"));
    const float wide = 0.62f * in.value("spacing");
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    const std::vector<Vec3f> middle = arc(high, in.value("curve"), kAlong);
    std::vector<Vec3f> line(kAlong);
    for (int k = 0; k < strands; ++k) {
        const auto r = [&](std::uint64_t what) { return randomUnit(seed + std::uint64_t(k) * 131, what); };
        const float a = 2 * kPi * r(1), far = wide * std::sqrt(r(2));
        const Vec3f from{far * std::cos(a), 0, far * std::sin(a)};
        const bool strays = r(3) < stray;
        const float length = (0.78f + 0.28f * r(4)) * (strays ? 1.08f : 1.0f);
        const Vec3f aside{r(5) - 0.5f, 0, r(6) - 0.5f};
        for (std::size_t i = 0; i < kAlong; ++i) {
            const float s = float(i) / float(kAlong - 1), spin = 2 * kPi * (2.2f * curl * s + r(7));
            Vec3f p = middle[i] * length + from * (1 - clump * std::pow(s, 1.4f));
            p += Vec3f{std::cos(spin) - std::cos(2 * kPi * r(7)), 0, std::sin(spin)} * (0.07f * high * curl * s);
            p += Vec3f{waver(seed + std::uint64_t(k), s * 4), 0, waver(seed + std::uint64_t(k) + 77, s * 4)}
                 * (0.06f * high * kink * s);
            p += aside * (high * s * (0.25f * frizz + (strays ? 0.5f : 0.0f)));
            line[i] = p - Vec3f{0, i == 0 ? 0.04f * high : 0, 0};
        }
        use(line);
    }
}

/// mm, at a place along a hair.
float radiusAt(const Input &in, std::size_t i)
{
    return in.value("hair") / 2 * std::lerp(1.0f, in.value("tip"), std::pow(float(i) / float(kAlong - 1), 1.5f));
}

} // namespace

mesh::Curves tuftCurves(const Input &in, const Variation &v)
{
    mesh::Curves out;
    eachHair(in, v, [&](const std::vector<Vec3f> &line) {
        out.starts.push_back(std::uint32_t(out.points.size()));
        out.points.insert(out.points.end(), line.begin(), line.end());
        for (std::size_t i = 0; i < line.size(); ++i)
            out.radii.push_back(radiusAt(in, i));
    });
    return out;
}

mesh::PolyMesh tuftShape(const Input &in, const Variation &v)
{
    mesh::PolyMesh out;
    eachHair(in, v, [&](const std::vector<Vec3f> &line) {
        std::vector<Station> stations = framed(line, {1, 0, 0});
        for (std::size_t i = 0; i < stations.size(); ++i)
            stations[i].width = stations[i].height = radiusAt(in, i);
        mesh::append(out, swept(stations, 4, [](std::size_t, std::uint32_t j) {
                         const float q = 2 * kPi * float(j) / 4;
                         return Corner{std::cos(q), std::sin(q)};
                     }));
    });
    return out;
}

io::Material hairMaterial(const Input &, const Variation &)
{
    return {"hair"};
}

} // namespace bonemoss::outgrowth
