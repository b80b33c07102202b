// Wrinkles, folds, ridges and bark: lines that run across the flow or along it, as the phase of a sum of short waves about
// sites (Tricard, Efremov, Zanni, Neyret, Martinez & Lefebvre 2019, "Procedural phasor noise"; the waves are the Gabor kernels
// of Lagae, Lefebvre, Drettakis & Dutre 2009). The phase gives lines of even height that branch and end where waves disagree.
#include "growth/grow_input.h"

namespace bonemoss::growth {

namespace {

constexpr float kPi = 3.14159265358979f;

struct Waves {
    float size;   ///< mm from line to line
    float turn;   ///< radians of the wave from the flow
    float length; ///< of lines, in sizes
    float branch; ///< 0 runs through, 1 branches much
    float variation;
    std::uint64_t salt;
};

/// One short wave about a site.
struct Kernel {
    Vec3f wave; ///< phase per mm
    float phase = 0;
    float spread = 1; ///< mm
};

struct WaveField {
    std::vector<Site> sites;
    std::vector<Kernel> kernels;
    float reach(const Site &s) const { return 1.5f * s.size; }

    /// Cosine and sine of the sum at a place, and how strong it is, 0 to 1.
    std::array<float, 3> at(const Spot &spot, std::span<const std::uint32_t> near, const float *phases = nullptr) const
    {
        float c = 0, s = 0, sum = 1e-6f;
        for (const std::uint32_t i : near) {
            if (dot(sites[i].normal, spot.normal) < 0.1f)
                continue;
            const Vec3f d = spot.at - sites[i].at;
            const float r2 = squaredLength(d) / (kernels[i].spread * kernels[i].spread);
            if (r2 >= 1)
                continue;
            const float w = (1 - r2) * (1 - r2), phase = dot(kernels[i].wave, d) + (phases ? phases[i] : kernels[i].phase);
            c += w * std::cos(phase), s += w * std::sin(phase), sum += w;
        }
        return {c, s, std::sqrt(c * c + s * s) / sum};
    }
};

/// Waves over the ground; neighbours brought into step as far as lines are to run through.
WaveField wavesOver(const GrowInput &in, const Waves &w)
{
    ScatterSettings lay;
    lay.size = w.size * std::lerp(0.9f, 1.6f, std::min(1.0f, w.length / 10)), lay.settle = 0.2f;
    lay.seed = in.growth.seedFor(w.salt), lay.isMirrored = in.growth.isMirrored;
    WaveField out;
    out.sites = scatter(in.ground, in.flow, in.about, in.masked, lay);
    const std::size_t n = out.sites.size();
    out.kernels.resize(n);
    const float tilt = 0.35f * w.variation * (1.2f - std::min(1.0f, w.length / 12));
    for (std::size_t i = 0; i < n; ++i) {
        const Site &s = out.sites[i];
        const float turn = w.turn + tilt * (2 * randomUnit(s.number, 51) - 1);
        const float per =
            2 * kPi / (w.size * (s.size / lay.size) * (1 + 0.25f * w.variation * (2 * randomUnit(s.number, 52) - 1)));
        if (s.isMiddle) { // its own twin, so a wave that is the same on both sides; it keeps its phase
            const bool isAcross = w.turn > 0.8f;
            out.kernels[i] = {(isAcross ? s.across : s.along) * per, isAcross ? 0 : 2 * kPi * randomUnit(s.number, 53),
                              1.5f * s.size};
            continue;
        }
        out.kernels[i] = {(s.along * std::cos(turn) + s.across * std::sin(turn)) * per, 2 * kPi * randomUnit(s.number, 53),
                          1.5f * s.size};
    }
    std::vector<Vec3f> places;
    float most = 0;
    for (const Site &s : out.sites)
        places.push_back(s.at), most = std::max(most, out.reach(s));
    const PointGrid grid(places, most);
    const int rounds = int(std::lround((1 - w.branch) * (4 + 2 * w.length)));
    for (int k = 0; k < rounds; ++k) {
        std::vector<float> next(n);
        forEachBlock(n, 128, [&](BlockRange r) {
            std::vector<std::uint32_t> near;
            for (std::size_t i = r.begin; i < r.end; ++i) {
                next[i] = out.kernels[i].phase;
                if (out.sites[i].isMiddle && w.turn > 0.8f)
                    continue;
                near.clear();
                grid.around(places[i], most, [&](std::uint32_t j) { near.push_back(j); });
                const auto [c, s, strength] = out.at({places[i], out.sites[i].normal, {}}, near);
                next[i] = strength > 0 ? std::atan2(s, c) : out.kernels[i].phase;
            }
        });
        for (std::size_t i = 0; i < n; ++i)
            out.kernels[i].phase = next[i];
    }
    return out;
}

/// How much a joint gathers the skin at a place: most inside the bend, fading along the limb. 0 to 1.
float gathered(const std::vector<JointSpot> &joints, const Spot &spot)
{
    float most = 0;
    for (const JointSpot &j : joints) {
        const Vec3f d = spot.at - j.at;
        const float along = dot(d, j.axis) / (1.0f * j.radius), off = length(d - j.axis * dot(d, j.axis)) / (1.9f * j.radius);
        if (off > 1)
            continue;
        const float side =
            squaredLength(j.inside) > 0 ? 0.5f + 0.5f * dot(normalized(d - j.axis * dot(d, j.axis)), j.inside) : 0.6f;
        most = std::max(most, std::exp(-along * along) * (0.25f + 0.75f * side) * (1 - smoothStep(0.75f, 1, off)));
    }
    return most;
}

} // namespace

void growWaves(const GrowInput &in, mesh::BlockArray<float> &out)
{
    const Growth &g = in.growth;
    const float age = g.value("age"), depth = g.value("depth"), sharp = g.value("sharp"), variation = g.value("variation"),
                patchy = g.value("patchy") * (1 - 0.6f * age), joints = g.value("joints"),
                fine = std::min(1.0f, g.value("fine") + 0.6f * age), size = g.value("size") * (1 - 0.4f * age);
    const float turn = g.value("turn") * kPi / 180, length = g.value("length"), branch = g.value("branch");
    const float power = std::lerp(1.6f, 7.0f, sharp);
    // Plump between narrow valleys: 0.35 at a crest, -1 in a valley.
    const auto profile = [&](float c, float s) {
        const float t = std::abs(std::atan2(s, c)) / kPi;
        return 0.35f * (1 - t * t) - std::pow(t, power);
    };
    const auto lay = [&](float wide, float turned, float long_, std::uint64_t salt, float share) {
        const WaveField field = wavesOver(in, {wide, turned, long_, branch, variation, salt});
        mesh::BlockArray<float> part(out.size());
        heights(
            in, field.sites, [&](const Site &s) { return field.reach(s); }, part,
            [&](const Spot &spot, std::span<const std::uint32_t> near) {
                float strength = share;
                if (joints > 0)
                    strength *= std::lerp(1.0f, gathered(in.about.joints, spot), joints);
                if (patchy > 0)
                    strength *= smoothStep(patchy - 0.55f, patchy + 0.25f,
                                           0.5f + 0.8f * noiseAt(spot.folded, 7 * wide, g.seedFor(salt) + 5));
                if (strength < 1e-3f)
                    return 0.0f;
                const auto [c, s, strong] = field.at(spot, near);
                return depth * strength * smoothStep(0.12f, 0.5f, strong) * profile(c, s);
            });
        return part;
    };
    in.progress.say(0.3f, "lines");
    out = lay(size, turn, length, 61, 1 / (1 + 0.5f * fine));
    if (fine > 0 && !in.progress.isCancelled()) {
        in.progress.say(0.6f, "fine lines");
        const auto more = lay(size * 0.36f, turn + 0.5f * std::cos(turn), length * 0.8f, 62, 0.5f * fine / (1 + 0.5f * fine));
        for (std::size_t b = 0; b < out.blockCount(); ++b)
            for (std::size_t i = 0; i < out.countIn(b); ++i)
                out.edit(b)[i] += more.data(b)[i];
    }
}

} // namespace bonemoss::growth
