// Veins: a tree of shortest ways over the skin from a few roots, each vein as thick as what it feeds asks for (Murray 1926, "The
// physiological principle of minimum work": the cube of a vessel's radius is the sum of the cubes of its branches').
#include "growth/grow_input.h"

#include <queue>

namespace bonemoss::growth {

namespace {

/// Which site each site is fed from; kNone at roots and where no way leads.
std::vector<std::uint32_t> fedFrom(const std::vector<Site> &sites, std::vector<std::uint32_t> &order, int roots, float wander)
{
    const std::size_t n = sites.size();
    std::vector<Vec3f> places(n);
    float most = 0;
    for (std::size_t i = 0; i < n; ++i)
        places[i] = sites[i].at, most = std::max(most, sites[i].size);
    const PointGrid grid(places, 1.7f * most);
    std::vector<std::uint32_t> ranked(n), from(n, kNone);
    for (std::uint32_t i = 0; i < n; ++i)
        ranked[i] = i;
    std::sort(ranked.begin(), ranked.end(), [&](std::uint32_t a, std::uint32_t b) {
        const float x = randomUnit(sites[a].number, 71), y = randomUnit(sites[b].number, 71);
        return x != y ? x < y : a < b;
    });
    std::vector<float> cost(n, std::numeric_limits<float>::max());
    using Entry = std::pair<float, std::uint32_t>;
    std::priority_queue<Entry, std::vector<Entry>, std::greater<>> queue;
    for (std::size_t k = 0; k < std::min<std::size_t>(n, std::size_t(roots)); ++k)
        cost[ranked[k]] = 0, queue.push({0, ranked[k]});
    std::vector<bool> isDone(n, false);
    while (!queue.empty()) {
        const float c = queue.top().first;
        const std::uint32_t i = queue.top().second;
        queue.pop();
        if (isDone[i])
            continue;
        isDone[i] = true;
        order.push_back(i);
        grid.around(places[i], 1.6f * sites[i].size, [&](std::uint32_t j) {
            if (isDone[j] || dot(sites[i].normal, sites[j].normal) < 0.2f)
                return;
            const Vec3f d = places[j] - places[i];
            const float len = length(d), straight = len > 0 ? std::abs(dot(d, sites[i].along)) / len : 1;
            const float way =
                len * (1.6f - 0.6f * straight) * (1 + 2 * wander * randomUnit(sites[i].number ^ sites[j].number, 72));
            if (c + way < cost[j])
                cost[j] = c + way, from[j] = i, queue.push({cost[j], j});
        });
    }
    return from;
}

} // namespace

void growVeins(const GrowInput &in, mesh::BlockArray<float> &out)
{
    const Growth &g = in.growth;
    const float depth = g.value("depth"), thick = g.value("size"), branch = g.value("branch"), wander = g.value("wander"),
                variation = g.value("variation");
    ScatterSettings lay;
    lay.size = 1.6f * thick, lay.settle = 0.3f, lay.variation = 0.6f * wander;
    lay.seed = g.seedFor(70), lay.isMirrored = g.isMirrored;
    std::vector<Site> sites = in.sites(lay);
    const bool isTwin = g.isMirrored && in.about.plane;
    const auto side = [&](Vec3f p) { return dot(p - *in.about.plane, *in.about.planeNormal); };
    if (isTwin) // the twins follow from this half
        std::erase_if(sites, [&](const Site &s) { return side(s.at) < -1e-4f; });
    in.progress.say(0.4f, "ways");
    std::vector<std::uint32_t> order;
    const std::vector<std::uint32_t> from = fedFrom(sites, order, int(g.value("roots")), wander);
    // Some of the ends ask for blood; what they ask for adds up towards the roots.
    std::vector<float> asked(sites.size(), 0);
    for (std::size_t k = order.size(); k-- > 0;) {
        const std::uint32_t i = order[k];
        if (randomUnit(sites[i].number, 73) < 0.03f + 0.3f * branch * branch)
            asked[i] += 1;
        if (from[i] != kNone)
            asked[from[i]] += asked[i];
    }
    float most = 1;
    for (const float a : asked)
        most = std::max(most, a);
    struct Piece {
        Vec3f a, b, normal;
        float thick, raised;
    };
    std::vector<Piece> pieces;
    std::vector<Site> middles; // of pieces: what forEachVertex looks up
    // What ends here thins out.
    const auto thinned = [&](std::uint32_t i) { return asked[i] < 1.5f ? 0.5f : 1.0f; };
    const auto put = [&](Vec3f a, Vec3f b, Vec3f normal, float share) {
        pieces.push_back({a, b, normal, thick * 0.5f * (0.15f + 0.85f * share), 0.2f + 0.8f * share});
        Site s;
        s.at = lerp(a, b, 0.5f), s.normal = normal, s.size = length(b - a) / 2 + 2 * pieces.back().thick;
        middles.push_back(s);
    };
    // A way is drawn through the middles of its steps, so that it bends softly.
    for (const std::uint32_t i : order) {
        if (asked[i] <= 0 || from[i] == kNone)
            continue;
        const std::uint32_t f = from[i];
        const Vec3f here = lerp(sites[i].at, sites[f].at, 0.5f);
        const float share = std::cbrt(asked[i] / most) * (1 - 0.4f * variation * randomUnit(sites[f].number, 74)) * thinned(i);
        const Vec3f there = from[f] != kNone ? lerp(sites[f].at, sites[from[f]].at, 0.5f) : sites[f].at;
        const Vec3f knee = lerp(lerp(here, there, 0.5f), sites[f].at, 0.5f);
        for (const auto &[a, b] : {std::pair{here, knee}, std::pair{knee, there}}) {
            put(a, b, sites[f].normal, share);
            if (isTwin) {
                const Vec3f n = *in.about.planeNormal;
                const auto flip = [&](Vec3f p) { return p - n * (2 * side(p)); };
                put(flip(a), flip(b), sites[f].normal - n * (2 * dot(sites[f].normal, n)), share);
            }
        }
    }
    in.progress.say(0.7f, "veins");
    heights(
        in, middles, [&](const Site &s) { return s.size; }, out,
        [&](const Spot &spot, std::span<const std::uint32_t> near) {
            float best = 0;
            for (const std::uint32_t i : near) {
                const Piece &p = pieces[i];
                if (dot(p.normal, spot.normal) < 0.1f)
                    continue;
                const Vec3f d = p.b - p.a;
                const float len2 = squaredLength(d), t = len2 > 0 ? std::clamp(dot(spot.at - p.a, d) / len2, 0.0f, 1.0f) : 0;
                const float off = length(spot.at - (p.a + d * t)) / (1.6f * p.thick);
                if (off < 1)
                    best = std::max(best, p.raised * (1 - off * off) * (1 - off * off));
            }
            return depth * best;
        });
}

} // namespace bonemoss::growth
