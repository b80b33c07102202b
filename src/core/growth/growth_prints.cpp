// A picture laid all over a skin without texture coordinates: patches of it about sites, each turned, mirrored and moved its own
// way, blended with their contrast kept (Heitz & Neyret 2018, "High-performance by-example noise using a histogram-preserving
// blending operator": weights over the root of the sum of their squares).
#include "growth/grow_input.h"

namespace bonemoss::growth {

void growPrints(const GrowInput &in, mesh::BlockArray<float> &out)
{
    const Growth &g = in.growth;
    const image::HeightPicture *picture = in.about.stamp ? in.about.stamp.get() : image::builtInStamp(g.stamp);
    if (!picture)
        picture = image::builtInStamp("pebbles");
    const float depth = g.value("depth"), size = g.value("size"), variation = g.value("variation"), turn = g.value("turn"),
                flip = g.value("flip"), sharp = std::lerp(5.0f, 1.0f, g.value("blend"));
    ScatterSettings lay;
    lay.size = 0.55f * size, lay.settle = 0.3f, lay.variation = 0.3f;
    lay.seed = g.seedFor(80), lay.isMirrored = g.isMirrored;
    const std::vector<Site> sites = in.sites(lay);
    struct Patch {
        Vec3f u, v; ///< pictures per mm
        float u0, v0, height;
    };
    std::vector<Patch> patches(sites.size());
    for (std::size_t i = 0; i < sites.size(); ++i) {
        const Site &s = sites[i];
        const float angle = 3.14159265f * turn * randomSigned(s.number, 81), c = std::cos(angle), t = std::sin(angle);
        const float per = 1 / (size * (s.size / lay.size) * (1 + 0.3f * variation * randomSigned(s.number, 82)));
        const float side = randomUnit(s.number, 83) < 0.5f * flip ? -1.0f : 1.0f;
        // The picture's left to right lies across the flow, its top to bottom along it.
        const float perTall = per * float(picture->width) / float(picture->height); // it keeps its proportions
        patches[i] = {(s.across * c + s.along * t) * (per * side), (s.along * c - s.across * t) * perTall,
                      randomUnit(s.number, 84), randomUnit(s.number, 85),
                      s.isMissing ? 0 : s.lift * (1 - 0.5f * variation * randomUnit(s.number, 86))};
    }
    in.progress.say(0.6f, "prints");
    heights(
        in, sites, [&](const Site &s) { return 1.5f * s.size; }, out,
        [&](const Spot &spot, std::span<const std::uint32_t> near) {
            float sum = 0, squares = 0;
            for (const std::uint32_t i : near) {
                const Site &s = sites[i];
                const Vec3f d = spot.at - s.at;
                const float r2 = squaredLength(d) / (2.25f * s.size * s.size);
                if (r2 >= 1 || dot(s.normal, spot.normal) < 0.1f)
                    continue;
                const float w = std::pow((1 - r2) * (1 - r2), sharp);
                const Patch &p = patches[i];
                sum += w * p.height * (picture->at(p.u0 + dot(d, p.u), p.v0 + dot(d, p.v)) - picture->middle);
                squares += w * w;
            }
            return squares > 0 ? depth * std::clamp(2 * sum / std::sqrt(squares), -1.0f, 1.0f) : 0.0f;
        });
}

} // namespace bonemoss::growth
