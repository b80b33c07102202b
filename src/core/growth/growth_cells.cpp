// Scales, plates and cracks: cells about sites, in a metric stretched along the flow (Worley 1996, "A cellular texture basis
// function"); how near a place is to its cell's border is told by the planes halfway to the other sites.
#include "base/wide.h"
#include "growth/grow_input.h"

#include <bit>
#include <cstring>

namespace bonemoss::growth {

namespace {

struct Scales {
    float depth, variation, aspect, overlap, tilt, keel, dome, gap, gapDepth, rings, wear, missing, barbs, point, broken;

    explicit Scales(const Growth &g)
        : depth(g.value("depth")), variation(g.value("variation")), aspect(g.value("aspect")), overlap(g.value("overlap")),
          tilt(g.value("tilt")), keel(g.value("keel")), dome(g.value("dome")), gap(g.value("gap")), gapDepth(g.value("gapDepth")),
          rings(g.value("rings")), wear(g.value("wear")), missing(g.value("missing")), barbs(g.value("barbs")),
          point(g.value("point")), broken(g.value("broken"))
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

/// Whether its free end is broken off, and how far a place lies inside the jagged break, in sizes.
bool isBroken(const Scales &k, const Site &s)
{
    return k.broken > 0 && randomUnit(s.number, 23) < k.broken;
}
float insideBreak(const Site &s, const Local &l)
{
    const float turn = 1.1f * (randomUnit(s.number, 24) - 0.5f), from = -0.1f + 0.4f * randomUnit(s.number, 25);
    const float jagged = 0.1f * noiseAt({l.along * 4, l.across * 4, float(s.number & 1023)}, 1, s.number);
    return from - (l.along * std::cos(turn) + l.across * std::sin(turn)) + jagged;
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

// Overlapping scales are worked out for eight vertices at once: in one register where there are such, else in two. All of it
// is inlined into shinglesAt, which is compiled for both.
#pragma GCC diagnostic ignored "-Wpsabi" // no such register is passed to a function that is not inlined

constexpr int kWide = 8;
typedef float Lanes __attribute__((vector_size(4 * kWide)));
typedef std::int32_t Whole __attribute__((vector_size(4 * kWide)));
#define BONEMOSS_INLINE inline __attribute__((always_inline))

BONEMOSS_INLINE Lanes lesser(Lanes a, Lanes b)
{
    return a < b ? a : b;
}
BONEMOSS_INLINE Lanes greater(Lanes a, Lanes b)
{
    return a > b ? a : b;
}
BONEMOSS_INLINE bool any(Whole mask)
{
    typedef std::int32_t Four __attribute__((vector_size(16)));
    typedef std::int64_t Two __attribute__((vector_size(16)));
    const Four four = __builtin_shufflevector(mask, mask, 0, 1, 2, 3) | __builtin_shufflevector(mask, mask, 4, 5, 6, 7);
    const auto two = reinterpret_cast<Two>(four);
    return (two[0] | two[1]) != 0;
}
BONEMOSS_INLINE Lanes all(float v)
{
    return Lanes{} + v;
}
template <typename F> BONEMOSS_INLINE Lanes eachLane(Lanes v, const F &f)
{
    for (int i = 0; i < kWide; ++i)
        v[i] = f(v[i]);
    return v;
}
BONEMOSS_INLINE Lanes smoothSteps(float from, float to, Lanes v)
{
    const Lanes t = lesser(greater((v - from) * (1 / (to - from)), all(0)), all(1));
    return t * t * (3 - 2 * t);
}

/// Half the width of an overlapping scale along it, in sizes, as a table over the way from its free edge: with steps that get
/// shorter towards the edge, where the width falls the faster, which are told by the leading bits of a float. Off by less than 3e-4.
class HalfWidth
{
public:
    explicit HalfWidth(float point)
    {
        const double bow = std::lerp(3.2, 1.15, double(point)), round = 1 / std::max(1.0, bow * 0.75);
        for (int i = 0; i < kSteps + 2; ++i) {
            const double from = std::min(1.0, std::ldexp(1 + double(i % kPerOctave) / kPerOctave, i / kPerOctave - kOctaves));
            m_width[std::size_t(i)] = float(kHalf * std::pow(1 - std::pow(1 - from, bow), round));
        }
    }
    /// tip: where the free edge is.
    BONEMOSS_INLINE Lanes at(Lanes along, float tip) const
    {
        const Lanes behind = float(kHalf) * (1 - 0.25f * lesser(along * along * 4, all(1)));
        const Whole isFront = along > 0;
        if (!any(isFront))
            return behind;
        constexpr float kLeast = 1.0f / (1 << kOctaves);
        const Whole bits = reinterpret_cast<Whole>(lesser(greater(1 - along * (1 / tip), all(kLeast)), all(1)));
        const Whole step = (bits - std::bit_cast<std::int32_t>(kLeast)) >> kShift;
        const Lanes share = __builtin_convertvector(bits & ((1 << kShift) - 1), Lanes) * (1.0f / (1 << kShift));
        Lanes low, high;
        for (int i = 0; i < kWide; ++i)
            low[i] = m_width[std::size_t(step[i])], high[i] = m_width[std::size_t(step[i]) + 1];
        return isFront ? low + (high - low) * share : behind;
    }

private:
    static constexpr int kOctaves = 20, kPerOctave = 64, kShift = 17, kSteps = kOctaves * kPerOctave;
    static constexpr double kHalf = 0.62;
    std::array<float, kSteps + 2> m_width;
};

/// The same for eight places: what is left of how far they lie inside the scale. Apart, as few scales are broken.
[[gnu::noinline]] void breakOff(const Site &s, const float *along, const float *across, float *inside)
{
    for (int i = 0; i < kWide; ++i)
        inside[i] = std::min(inside[i], insideBreak(s, {along[i], across[i]}));
}

/// A run of vertices, coordinate by coordinate, to whole eights, and what they are within.
struct Run {
    static constexpr std::size_t kMost = 6;
    Lanes x[kMost], y[kMost], z[kMost], nx[kMost], ny[kMost], nz[kMost];
    std::size_t eights = 0;
    Vec3f centre, half; ///< of their box, mm

    Run(const Vec3f *at, const mesh::PackedNormal *normals, std::size_t count, const Box3f &box)
        : eights((count + kWide - 1) / kWide), centre(box.centre()), half(box.size() * 0.5f)
    {
        float to[6][kMost * kWide];
        for (std::size_t i = 0; i < count; ++i) {
            const Vec3f n = normals[i].unpack();
            to[0][i] = at[i].x, to[1][i] = at[i].y, to[2][i] = at[i].z;
            to[3][i] = n.x, to[4][i] = n.y, to[5][i] = n.z;
        }
        for (auto &values : to)
            std::fill(values + count, values + kWide * eights, values[count - 1]);
        const auto put = [&](Lanes *lanes, const float *values) { std::memcpy(lanes, values, eights * sizeof(Lanes)); };
        put(x, to[0]), put(y, to[1]), put(z, to[2]), put(nx, to[3]), put(ny, to[4]), put(nz, to[5]);
    }
    /// How far it reaches to either side of its centre along a direction, mm.
    float reach(Vec3f d) const { return std::abs(d.x) * half.x + std::abs(d.y) * half.y + std::abs(d.z) * half.z; }
};

/// The height of one overlapping scale at some places, 0 to 1, where it may be; 0 also where it could not rise above `best`.
BONEMOSS_INLINE Lanes shingle(const Scales &k, const HalfWidth &width, const Site &s, Lanes along, Lanes across, Lanes best,
                              Whole may, float soft, bool isBroken)
{
    const float tip = 0.5f + k.overlap * s.certain;
    const Lanes aside = across < 0 ? -across : across;
    const Lanes ramp = lesser(greater((along + 0.6f) * (1 / (tip + 0.6f)), all(0)), all(1));
    const Lanes share = across * (1 / 0.66f), round = greater(1 - share * share, all(0));
    const Lanes form = (0.62f + (ramp - 0.62f) * k.tilt) * 0.78f * (1 + (round - 1) * (0.55f * k.dome));
    const float more = 0.22f * k.keel + (k.rings >= 1 ? 0.35f : 0) + (k.barbs >= 1 ? 0.035f : 0);
    may &= (form + more) * s.lift > best;
    if (!any(may))
        return all(0);
    const auto insideAt = [&](Lanes a) { return lesser(width.at(a, tip) - aside, (a + 0.62f) * 1.2f); };
    Lanes inside = insideAt(along);
    may &= inside > 0;
    if (k.wear > 0 && any(may)) {
        const Whole isWorn = may & (insideAt(along + 0.24f * k.wear) < soft); // near the rim: eaten away
        if (any(isWorn)) {
            Lanes noise{};
            for (int i = 0; i < kWide; ++i)
                if (isWorn[i])
                    noise[i] = noiseAt({along[i] * 3, across[i] * 3, float(s.number & 1023)}, 1, s.number);
            inside = isWorn ? insideAt(along + k.wear * 0.16f * (0.5f + noise)) : inside;
            may &= inside > 0;
        }
    }
    if (isBroken) {
        breakOff(s, reinterpret_cast<const float *>(&along), reinterpret_cast<const float *>(&across),
                 reinterpret_cast<float *>(&inside));
        may &= inside > 0;
    }
    if (!any(may))
        return all(0);
    Lanes h = form;
    if (k.keel > 0)
        h += 0.22f * k.keel * eachLane(across, keelAt) * smoothSteps(-0.5f, 0.1f, along);
    if (k.rings >= 1)
        h += 0.35f * ramp * eachLane(lesser(greater(2 * inside, all(0)), all(1)), [&](float v) { return terraces(v, k.rings); });
    if (k.barbs >= 1)
        for (int i = 0; i < kWide; ++i)
            h[i] += 0.07f * vane({along[i], across[i]}, k.barbs) * smoothStep(0, 0.15f, inside[i]);
    const Lanes rim = smoothSteps(0, soft, lesser(inside, greater((tip - along) * k.aspect, all(0))));
    return may ? lesser(greater(h * rim, all(0)), all(1)) * s.lift : all(0);
}

/// Overlapping scales, their lift as heightOf gives it: at each place the highest of those that reach there.
BONEMOSS_WIDE void shinglesAt(const Scales &k, const HalfWidth &width, const std::vector<Site> &sites, const Run &run,
                              std::vector<std::uint32_t> &near, float spacing, float *heights)
{
    // Those whose free end is here first: they lie above the others. Those that end beside the run are left out.
    struct Here {
        float along;
        std::uint32_t site;
    };
    std::array<Here, 64> some;
    std::vector<Here> more;
    const bool areFew = near.size() <= some.size();
    if (!areFew)
        more.resize(near.size());
    Here *here = areFew ? some.data() : more.data();
    std::size_t count = 0;
    for (const std::uint32_t i : near) {
        const Site &s = sites[i];
        const Vec3f d = run.centre - s.at;
        const float along = dot(d, s.along), across = dot(d, s.across), length = s.size * k.aspect;
        const float reach = run.reach(s.along);
        if (s.lift > 0 && std::abs(across) < 0.66f * s.size + run.reach(s.across) && along > -0.62f * length - reach
            && along < (0.5f + k.overlap) * length + reach)
            here[count++] = {along, i};
    }
    std::sort(here, here + count,
              [](const Here &a, const Here &b) { return a.along != b.along ? a.along > b.along : a.site < b.site; });
    Lanes highest[Run::kMost] = {};
    for (std::size_t n = 0; n < count; ++n) {
        const Site &s = sites[here[n].site];
        const float perAlong = 1 / (s.size * k.aspect), perAcross = 1 / s.size;
        const Vec3f a = s.along * perAlong, c = s.across * perAcross;
        const float soft = std::max(0.05f, 0.8f * spacing / s.size);
        for (std::size_t f = 0; f < run.eights; ++f) {
            const Lanes x = run.x[f] - s.at.x, y = run.y[f] - s.at.y, z = run.z[f] - s.at.z;
            const Lanes along = x * a.x + y * a.y + z * a.z, across = x * c.x + y * c.y + z * c.z;
            const Lanes facing = run.nx[f] * s.normal.x + run.ny[f] * s.normal.y + run.nz[f] * s.normal.z;
            const Whole may = (across < 0.66f) & (across > -0.66f) & (along > -0.62f) & (along < 0.5f + k.overlap)
                              & (facing >= 0.1f) & (s.lift > highest[f]);
            if (any(may))
                highest[f] = greater(highest[f], shingle(k, width, s, along, across, highest[f], may, soft, isBroken(k, s)));
        }
    }
    std::memcpy(heights, highest, sizeof highest);
}
#undef BONEMOSS_INLINE

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
    h = std::clamp(h, 0.0f, 1.0f) * raised * t;
    if (isBroken(k, s)) // a stump is left
        h *= 0.3f + 0.7f * smoothStep(0, std::max(0.04f, least), insideBreak(s, c.local));
    return floor + h;
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
    const auto reach = [&](const Site &s) { return far * s.size; };
    if (!isShingled) {
        heights(in, sites, reach, out, [&](const Spot &spot, std::span<const std::uint32_t> near) {
            return k.depth * pavingAt(k, sites, spot, near, spacing);
        });
        return;
    }
    const HalfWidth width(k.point);
    for (std::size_t b = 0; b < out.blockCount(); ++b)
        out.edit(b); // so that the loop only writes
    forEachRun(in, sites, reach,
               [&](std::size_t b, std::size_t first, std::size_t count, const Box3f &box, std::vector<std::uint32_t> &near) {
                   if (near.empty())
                       return;
                   const Run run(in.ground.positions.data(b) + first, in.ground.normals.data(b) + first, count, box);
                   float found[Run::kMost * kWide];
                   shinglesAt(k, width, sites, run, near, spacing, found);
                   const std::uint8_t *masked = in.masked.size() > 0 ? in.masked.data(b) : nullptr;
                   float *to = out.edit(b) + first;
                   for (std::size_t i = 0; i < count; ++i)
                       if (!masked || masked[first + i] < 255)
                           to[i] = k.depth * found[i];
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

} // namespace bonemoss::growth
