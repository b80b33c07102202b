// Pores, bumps and warts: single spots about sites that keep apart.
#include "growth/grow_input.h"

namespace bonemoss::growth {

namespace {

/// A round hill or pit of that fullness: 1 in the middle, 0 at the rim, level in both.
float hill(float t, float full)
{
    if (t >= 1)
        return 0;
    const float soft = 1 - t * t;
    return std::pow(soft, std::lerp(3.0f, 0.8f, full)) * smoothStep(0, 0.25f, 1 - t);
}

} // namespace

ScatterSettings spotSites(const Growth &g)
{
    ScatterSettings s;
    s.size = g.value("size") / std::max(0.15f, g.value("cover")), s.aspect = 1, s.settle = 0.25f;
    s.variation = g.value("variation"), s.border = g.value("border"), s.joints = 0;
    s.seed = g.seedFor(2), s.isMirrored = g.isMirrored;
    return s;
}

void growSpots(const GrowInput &in, mesh::BlockArray<float> &out)
{
    const Growth &g = in.growth;
    const float depth = g.value("depth"), size = g.value("size"), variation = g.value("variation"), full = g.value("full"),
                cluster = g.value("cluster"), ragged = g.value("ragged"), aspect = g.value("aspect"), rim = g.value("rim");
    const bool isPit = g.kind->name == "pores";
    std::vector<Site> sites = in.sites(spotSites(g));
    const float wide = size / std::max(0.15f, g.value("cover"));
    std::vector<float> raised(sites.size()), radius(sites.size());
    for (std::size_t i = 0; i < sites.size(); ++i) {
        Site &s = sites[i];
        const float crowd = 0.5f + 0.5f * noiseAt(in.folded(s.at), 9 * wide, g.seedFor(3) + 1);
        const bool isHere = !s.isMissing && crowd * 1.3f >= cluster * (0.3f + randomUnit(s.number, 23));
        radius[i] = 0.5f * size * (s.size / wide) * (1 - 0.6f * variation * randomUnit(s.number, 24))
                    * std::lerp(1.0f, 0.5f + crowd, cluster);
        raised[i] = isHere ? s.lift * (1 - 0.6f * variation * randomUnit(s.number, 25)) : 0;
    }
    in.progress.say(0.6f, "spots");
    const float far = 0.75f * std::max(1.0f, aspect) * (1 + 0.5f * ragged) * 1.7f;
    heights(
        in, sites, [&](const Site &s) { return far * size * s.size / wide; }, out,
        [&](const Spot &spot, std::span<const std::uint32_t> near) {
            float most = 0, around = 0;
            for (const std::uint32_t i : near) {
                const Site &s = sites[i];
                if (raised[i] == 0 || dot(s.normal, spot.normal) < 0)
                    continue;
                float t = distanceFrom(s, aspect, spot.at) / radius[i];
                if (t * (1 - 0.55f * ragged) > (rim > 0 ? 2 : 1))
                    continue;
                if (ragged > 0)
                    t *= 1 + 0.55f * ragged * noiseAt(spot.folded, 0.8f * radius[i], s.number & 0xffff);
                most = std::max(most, raised[i] * hill(t, full));
                if (rim > 0)
                    around = std::max(around, raised[i] * std::exp(-std::pow((t - 1.15f) / 0.35f, 2.0f)));
            }
            if (ragged > 0 && most > 0)
                most *= 1 - 0.3f * ragged * (0.5f + 0.5f * noiseAt(spot.folded, 0.25f * size, 77));
            return depth
                   * std::clamp((isPit ? -most : most) + (isPit ? 1.0f : -1.0f) * 0.35f * rim * around * (1 - most), -1.0f, 1.0f);
        });
}

} // namespace bonemoss::growth
