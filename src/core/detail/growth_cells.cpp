// Scales, plates and cracks: cells about sites, in a metric stretched along the flow (Worley 1996, "A cellular texture basis
// function"); how near a place is to its cell's border is told by the planes halfway to the other sites.
#include "detail/grow_input.h"

namespace bonemoss::detail {

namespace {

struct Scales {
    float depth, variation, aspect, overlap, tilt, keel, dome, gap, gapDepth, rings, wear, missing, barbs, point;

    explicit Scales(const Growth &g)
        : depth(g.value("depth")), variation(g.value("variation")), aspect(g.value("aspect")), overlap(g.value("overlap")),
          tilt(g.value("tilt")), keel(g.value("keel")), dome(g.value("dome")), gap(g.value("gap")), gapDepth(g.value("gapDepth")),
          rings(g.value("rings")), wear(g.value("wear")), missing(g.value("missing")), barbs(g.value("barbs")),
          point(g.value("point"))
    {}
};

/// A vertex in the frame of a site: along the flow and across it, in sizes.
struct Local {
    float along, across;
};
Local localOf(const Site &s, float aspect, Vec3f p)
{
    const Vec3f d = p - s.at;
    return {dot(d, s.along) / (s.size * aspect), dot(d, s.across) / s.size};
}

/// How much less high a scale is than the highest.
float heightOf(const Scales &k, const Site &s)
{
    if (s.isMissing || randomUnit(s.number, 21) < k.missing)
        return 0;
    return s.lift * (1 - 0.45f * k.variation * randomUnit(s.number, 22));
}

/// Terraces as of yearly growth, finer towards the rim. from: 0 at the rim, 1 in the middle.
float terraces(float from, float count)
{
    const float v = from * from * 0.35f + from * 0.65f, step = v * count, f = step - std::floor(step);
    return (std::floor(step) + smoothStep(0.55f, 1.0f, f)) / count - v;
}

/// Fine branches that leave the middle line backwards, as of a vane.
float vane(const Local &l, float count)
{
    const float phase = (l.along * 1.2f - 0.9f * std::abs(l.across)) * count, f = phase - std::floor(phase);
    return std::abs(2 * f - 1) - 0.5f;
}

/// The ridge along the middle of a scale.
float keelAt(float across)
{
    const float t = std::abs(across) / 0.16f;
    return t < 1 ? (1 - t) * (1 - 0.35f * (1 - t)) : 0;
}

/// Half the width of an overlapping scale at `along`, in sizes; its free edge is at `tip`.
float halfWidth(float along, float tip, float point)
{
    constexpr float kWide = 0.62f;
    if (along <= 0)
        return kWide * (1 - 0.25f * std::min(1.0f, along * along * 4));
    const float t = along / tip, power = std::lerp(3.2f, 1.15f, point);
    return t >= 1 ? 0 : kWide * std::pow(1 - std::pow(t, power), 1 / std::max(1.0f, power * 0.75f));
}

/// The height of one overlapping scale at a place, 0 to 1; below 0 where it is not.
float shingle(const Scales &k, const Site &s, const Local &l, float raised, float soft)
{
    const float tip = 0.5f + k.overlap * s.certain;
    const auto insideAt = [&](float along) {
        return std::min(halfWidth(along, tip, k.point) - std::abs(l.across), (l.along + 0.62f) * 1.2f);
    };
    float inside = insideAt(l.along);
    if (inside <= 0)
        return -1;
    if (k.wear > 0 && insideAt(l.along + 0.24f * k.wear) < soft) { // near the rim: eaten away
        inside = insideAt(l.along
                          + k.wear * 0.16f * (0.5f + noiseAt({l.along * 3, l.across * 3, float(s.number & 1023)}, 1, s.number)));
        if (inside <= 0)
            return -1;
    }
    const float fromTip = (tip - l.along) * k.aspect, rim = smoothStep(0, soft, std::min(inside, std::max(fromTip, 0.0f)));
    const float ramp = std::clamp((l.along + 0.6f) / (tip + 0.6f), 0.0f, 1.0f);
    const float round = 1 - (l.across / 0.66f) * (l.across / 0.66f);
    float h = std::lerp(0.62f, ramp, k.tilt) * 0.78f;
    h *= std::lerp(1.0f, std::max(round, 0.0f), 0.55f * k.dome);
    h += 0.22f * k.keel * keelAt(l.across) * smoothStep(-0.5f, 0.1f, l.along);
    if (k.rings >= 1)
        h += 0.35f * terraces(std::clamp(2 * inside, 0.0f, 1.0f), k.rings) * ramp;
    if (k.barbs >= 1)
        h += 0.07f * vane(l, k.barbs) * smoothStep(0, 0.15f, inside);
    return std::clamp(h * rim, 0.0f, 1.0f) * raised;
}

/// Overlapping scales, their lift as heightOf gives it: at each place the highest of those that reach there.
float shinglesAt(const Scales &k, const std::vector<Site> &sites, const Spot &spot, std::span<const std::uint32_t> near,
                 float spacing)
{
    float best = 0;
    for (const std::uint32_t i : near) {
        const Site &s = sites[i];
        if (dot(s.normal, spot.normal) < 0.1f)
            continue;
        const Local l = localOf(s, k.aspect, spot.at);
        if (std::abs(l.across) > 0.66f || l.along < -0.62f || l.along > 0.5f + k.overlap)
            continue;
        const float raised = s.lift;
        if (raised > best)
            best = std::max(best, shingle(k, s, l, raised, std::max(0.05f, 0.8f * spacing / s.size)));
    }
    return best;
}

/// How a place lies in its cell.
struct InCell {
    const Site *site = nullptr;
    Local local{};
    float border = 1;       ///< to the nearest border of the cell, in sizes; 0.5 in the middle of an even one
    std::uint64_t pair = 0; ///< of the border: its number
};

InCell cellAt(const std::vector<Site> &sites, Vec3f at, Vec3f normal, float aspect, std::span<const std::uint32_t> near,
              float soft)
{
    InCell out;
    float least = std::numeric_limits<float>::max();
    for (const std::uint32_t i : near) {
        const Site &s = sites[i];
        if (dot(s.normal, normal) < 0.1f)
            continue;
        const float d = squaredLength(at - s.at) == 0 ? 0 : distanceFrom(s, aspect, at) / s.size;
        if (d < least)
            least = d, out.site = &s;
    }
    if (!out.site)
        return out;
    const Site &own = *out.site;
    out.local = localOf(own, aspect, at);
    // In the cell's own stretched plane: the plane halfway (by size) to each other site; rounded where two meet.
    float closest = 2, round = 0;
    for (const std::uint32_t i : near) {
        const Site &o = sites[i];
        if (&o == &own || dot(o.normal, normal) < 0.1f)
            continue;
        const Local to = localOf(own, aspect, o.at);
        const float far = std::sqrt(to.along * to.along + to.across * to.across);
        if (far < 1e-4f || far > 2.6f)
            continue;
        const float along = (out.local.along * to.along + out.local.across * to.across) / far;
        const float border = far * own.size / (own.size + o.size) - along;
        if (border < closest)
            closest = border, out.pair = own.number ^ o.number;
        round += std::exp(-std::max(border, 0.0f) / soft);
    }
    out.border = round > 0 ? std::max(0.0f, -soft * std::log(round)) : closest;
    return out;
}

/// Scales side by side with gaps between them, their lift as above. -1 to 1.
float pavingAt(const Scales &k, const std::vector<Site> &sites, const Spot &spot, std::span<const std::uint32_t> near,
               float spacing)
{
    Vec3f at = spot.at;
    InCell c = cellAt(sites, at, spot.normal, k.aspect, near, 0.035f + 0.03f * k.dome);
    if (!c.site)
        return 0;
    const Site &s = *c.site;
    float border = c.border;
    if (k.wear > 0)
        border -= k.wear * 0.09f * (0.4f + noiseAt(spot.folded, 0.35f * s.size, s.number));
    const float raised = s.lift, half = 0.5f * k.gap, least = 0.9f * spacing / s.size;
    const float wall = std::max(std::lerp(0.07f, 0.42f, k.dome), least);
    const float floor = -k.gapDepth * 0.5f * (1 - smoothStep(0, std::max(half + 0.03f, least), border));
    const float t = std::clamp((border - half) / wall, 0.0f, 1.0f);
    if (raised == 0)
        return floor;
    float h = std::sqrt(std::max(0.0f, 1 - (1 - t) * (1 - t))); // a quarter of a circle up from the gap
    h *= 1 - 0.5f * k.tilt + k.tilt * std::clamp(c.local.along, -0.5f, 0.5f);
    h *= 0.82f;
    h += 0.18f * k.keel * keelAt(c.local.across) * t;
    if (k.rings >= 1)
        h += 0.30f * terraces(std::clamp(2 * (border - half), 0.0f, 1.0f), k.rings) * t;
    if (k.barbs >= 1)
        h += 0.06f * vane(c.local, k.barbs) * t;
    return floor + std::clamp(h, 0.0f, 1.0f) * raised * t;
}

} // namespace

ScatterSettings scaleSites(const Growth &g)
{
    ScatterSettings s;
    s.size = g.value("size"), s.aspect = g.value("aspect"), s.rows = g.value("rows"), s.variation = g.value("variation");
    s.border = g.value("border"), s.joints = g.value("joints");
    s.seed = g.seedFor(1), s.isMirrored = g.isMirrored;
    return s;
}

void growScales(const GrowInput &in, mesh::BlockArray<float> &out)
{
    const Scales k(in.growth);
    std::vector<Site> sites = in.sites(scaleSites(in.growth));
    for (Site &s : sites) // once, not for each vertex near it
        s.lift = heightOf(k, s);
    const bool isShingled = k.overlap > 0.01f;
    const float far = isShingled ? std::sqrt(0.66f * 0.66f + std::pow(std::max(0.62f, 0.5f + k.overlap) * k.aspect, 2.0f))
                                 : 1.7f * std::max(1.0f, k.aspect);
    const float spacing = in.ground.spacing;
    in.progress.say(0.6f, "scales");
    heights(
        in, sites, [&](const Site &s) { return far * s.size; }, out,
        [&](const Spot &spot, std::span<const std::uint32_t> near) {
            return k.depth * (isShingled ? shinglesAt(k, sites, spot, near, spacing) : pavingAt(k, sites, spot, near, spacing));
        });
}

void growCracks(const GrowInput &in, mesh::BlockArray<float> &out)
{
    const Growth &g = in.growth;
    const float depth = g.value("depth"), width = g.value("width"), broken = g.value("broken"), fine = g.value("fine"),
                wander = g.value("wander"), curl = g.value("curl"), aspect = g.value("aspect"), variation = g.value("variation");
    const auto layOf = [&](float size, std::uint64_t salt) {
        ScatterSettings s;
        s.size = size, s.aspect = aspect, s.variation = variation, s.settle = 0.3f;
        s.seed = g.seedFor(salt), s.isMirrored = g.isMirrored;
        return s;
    };
    // One net of cracks: a groove at borders of cells, some of them not cracked through; rims curled up.
    const auto net = [&](float size, float scale, std::uint64_t salt) {
        const std::vector<Site> sites = in.sites(layOf(size, salt));
        mesh::BlockArray<float> part(out.size());
        const float half = std::max(0.5f * width * scale, 0.7f * in.ground.spacing / size);
        heights(
            in, sites, [&](const Site &s) { return 1.8f * s.size * std::max(1.0f, aspect); }, part,
            [&](const Spot &spot, std::span<const std::uint32_t> near) {
                const float wave = 0.7f * size;
                const Vec3f noise{noiseAt(spot.folded, wave, 31), noiseAt(spot.folded, wave, 32), noiseAt(spot.folded, wave, 33)};
                const Vec3f off = in.unfolded(spot.at, noise * (0.3f * wander * size));
                const InCell c = cellAt(sites, spot.at + off, spot.normal, aspect, near, 0.008f);
                if (!c.site)
                    return 0.0f;
                const float open = smoothStep(broken - 0.25f, broken + 0.05f, randomUnit(c.pair, 5))
                                   * (1 - 0.6f * variation * randomUnit(c.pair, 6));
                const float t = std::clamp(1 - c.border / (half * (0.4f + 0.6f * open)), 0.0f, 1.0f);
                const float rim = curl * 0.3f * std::exp(-std::pow((c.border - 1.6f * half) / (1.3f * half), 2.0f));
                return depth * scale * open * (rim - t * (2 - t) * 0.7f);
            });
        return part;
    };
    in.progress.say(0.3f, "cracks");
    out = net(g.value("size"), 1, 41);
    if (fine > 0 && !in.progress.isCancelled()) {
        in.progress.say(0.6f, "fine cracks");
        const auto more = net(g.value("size") * 0.38f, 0.5f, 42);
        for (std::size_t b = 0; b < out.blockCount(); ++b)
            for (std::size_t i = 0; i < out.countIn(b); ++i)
                out.edit(b)[i] = std::max(out.edit(b)[i] + fine * more.data(b)[i], -depth);
    }
}

} // namespace bonemoss::detail
