#include "growth/scatter.h"

#include "base/parallel.h"
#include "base/random.h"
#include "growth/place_table.h"
#include "mesh/box_tree.h"

#include <array>
#include <atomic>
#include <cstring>
#include <numeric>

namespace bonemoss::growth {

using mesh::Lanes;

namespace {

Lanes roots(Lanes v)
{
    float each[4];
    std::memcpy(each, &v, sizeof v);
    for (float &r : each)
        r = std::sqrt(r);
    std::memcpy(&v, each, sizeof v);
    return v;
}

struct Plane {
    Vec3f point, normal;
    float side(Vec3f p) const { return dot(p - point, normal); }
    Vec3f mirror(Vec3f p) const { return p - normal * (2 * side(p)); }
    Vec3f mirrorDirection(Vec3f v) const { return v - normal * (2 * dot(v, normal)); }
};

/// Places with sizes in their fourth lanes, coordinate by coordinate.
struct Four {
    Lanes x, y, z, size;
    Four(Lanes p, Lanes q, Lanes u, Lanes v)
    {
        const Lanes xyPq = __builtin_shufflevector(p, q, 0, 4, 1, 5), xyUv = __builtin_shufflevector(u, v, 0, 4, 1, 5);
        const Lanes zsPq = __builtin_shufflevector(p, q, 2, 6, 3, 7), zsUv = __builtin_shufflevector(u, v, 2, 6, 3, 7);
        x = __builtin_shufflevector(xyPq, xyUv, 0, 1, 4, 5), y = __builtin_shufflevector(xyPq, xyUv, 2, 3, 6, 7);
        z = __builtin_shufflevector(zsPq, zsUv, 0, 1, 4, 5), size = __builtin_shufflevector(zsPq, zsUv, 2, 3, 6, 7);
    }
};

/// Where a site is, which way it lies, and on what lattice: its neighbours want it somewhere else.
struct Seat {
    Vec3f at, along, across;
    float size, aspect, rows;
};
/// How far they want it, along and across, mm, and how much all of them count.
struct Pull {
    float along = 0, across = 0, weight = 0;
};

/// Where neighbours want a site, each seen from itself along and across, in sizes: at equal distance, or on a lattice of
/// staggered rows. Four neighbours at a time; what lies on the site itself does not count.
Pull pullOf(const Seat &o, const Lanes *places, std::span<const std::uint32_t> near)
{
    constexpr float kHigh = 0.8660254f;
    const Lanes none{};
    const float perAspect = 1 / o.aspect;
    Lanes a{}, b{}, weight{};
    for (std::size_t k = 0; k < near.size(); k += 4) {
        const Four p(places[near[k]], places[near[k + 1]], places[near[k + 2]], places[near[k + 3]]);
        const Lanes x = o.at.x - p.x, y = o.at.y - p.y, z = o.at.z - p.z; // from the neighbour to the site
        const Lanes size = 0.5f * (o.size + p.size), perSize = 1 / size;
        const Lanes along = (x * o.along.x + y * o.along.y + z * o.along.z) * (perSize * perAspect),
                    across = (x * o.across.x + y * o.across.y + z * o.across.z) * perSize;
        const Lanes len2 = along * along + across * across;
        const auto counts = (len2 >= 1e-6f) & (len2 <= 1.6f * 1.6f);
        const Lanes perLen = 1 / roots(counts ? len2 : none + 1);
        Lanes toAlong = along * perLen, toAcross = across * perLen;
        if (o.rows > 0) { // the nearest of six places about it
            const Lanes up = along < 0 ? -along : along, aside = across < 0 ? -across : across;
            const auto isBeside = 0.5f * aside >= kHigh * up;
            const Lanes latticeAlong = isBeside ? none : (along < 0 ? none - kHigh : none + kHigh),
                        far = isBeside ? none + 1 : none + 0.5f, latticeAcross = across < 0 ? -far : far;
            toAlong += (latticeAlong - toAlong) * o.rows;
            toAcross += (latticeAcross - toAcross) * o.rows;
        }
        const Lanes over = len2 > 1 ? len2 - 1 : none, w = counts ? 1 / (1 + 8 * over * over) : none;
        a += w * (toAlong - along) * size, b += w * (toAcross - across) * size, weight += w;
    }
    const auto sum = [](Lanes v) { return (v[0] + v[1]) + (v[2] + v[3]); };
    return {sum(a) * o.aspect, sum(b), sum(weight)};
}

/// How far each ground point is from what is masked, in cubes, up to `most`: wave after wave over the points near.
std::vector<float> depthsInside(std::span<const GroundPoint> points, std::span<const bool> isMasked, float cube, float most,
                                const PointGrid &grid)
{
    std::vector<float> depth(points.size(), most);
    std::vector<std::uint32_t> front, next;
    for (std::uint32_t i = 0; i < points.size(); ++i)
        if (isMasked[i])
            depth[i] = 0, front.push_back(i);
    while (!front.empty()) {
        next.clear();
        for (const std::uint32_t i : front)
            grid.around(points[i].at, 1.9f * cube, [&](std::uint32_t j) {
                const float d = depth[i] + length(points[j].at - points[i].at) / cube;
                if (d < depth[j] - 1e-4f && dot(points[i].normal, points[j].normal) > 0)
                    depth[j] = d, next.push_back(j);
            });
        std::sort(next.begin(), next.end());
        next.erase(std::unique(next.begin(), next.end()), next.end());
        front.swap(next);
    }
    return depth;
}

/// Whether any of a mask is whole: what is only weakened is still part of the area.
bool hasBorder(const mesh::BlockArray<std::uint8_t> &masked)
{
    for (std::size_t b = 0; b < masked.blockCount(); ++b)
        if (const std::uint8_t *m = masked.data(b); m && std::find(m, m + masked.countIn(b), 255) != m + masked.countIn(b))
            return true;
    return false;
}

class Scattering
{
public:
    Scattering(const Ground &ground, const Flow &flow, const Surroundings &about, const mesh::BlockArray<std::uint8_t> &masked,
               const ScatterSettings &settings)
        : m_flow(flow), m_about(about), m_settings(settings), m_stretch(std::max(1.0f, settings.aspect)),
          m_tight(std::min(1.0f, settings.aspect))
    {
        if (settings.isMirrored && about.plane)
            m_plane = Plane{*about.plane, normalized(*about.planeNormal)};
        const bool isBordered = settings.border > 0 && hasBorder(masked);
        const float least = settings.size * (about.joints.empty() ? 1 : 1 - 0.6f * settings.joints) * (isBordered ? 0.45f : 1)
                            * (flow.hasSizes() ? 0.6f : 1) * (hasSizeMap() ? 0.5f : 1);
        m_cube = std::max(kGroundCube * least * m_tight, 0.9f * ground.spacing);
        std::vector<GroundPoint> points = ground.points(m_cube, settings.seed);
        if (m_plane)
            std::erase_if(points, [&](const GroundPoint &p) { return m_plane->side(p.at) < -m_cube / 4; });
        std::vector<Vec3f> places(points.size());
        forEachBlock(points.size(), 4096, [&](BlockRange r) {
            for (std::size_t i = r.begin; i < r.end; ++i)
                places[i] = points[i].at;
        });
        m_most = std::max(settings.size * (flow.hasSizes() ? std::clamp(flow.largestSize(), kLeastGuided, kMostGuided) : 1),
                          m_cube / kCubesAcross);
        m_grid = PointGrid(places, std::max(kGroundCell * m_cube, m_most * m_stretch / 3.9f));
        standOn(points, masked);
        m_order = randomOrder();
    }

    void throwDarts() { tryAll(1); }

    void settle(int rounds)
    {
        for (const int n : {rounds - rounds / 2, rounds / 2}) {
            if (n == 0)
                continue;
            lookAround();
            for (int k = 0; k < n; ++k)
                relax(k + 1 == n);
            mend();
        }
    }

    std::vector<Site> take()
    {
        for (Site &s : m_sites) {
            const float v = m_settings.variation;
            s.size *= 1 + 0.35f * v * (2 * unit(s.number, 11) - 1);
            const float far = 0.22f * v * s.size;
            s.at += s.along * (far * m_settings.aspect * (2 * unit(s.number, 12) - 1))
                    + s.across * (far * (2 * unit(s.number, 13) - 1));
        }
        std::vector<Site> all = std::move(m_sites);
        if (m_plane) {
            const std::size_t n = all.size();
            for (std::size_t i = 0; i < n; ++i) {
                Site &s = all[i];
                if (m_plane->side(s.at) < 0.3f * s.size) { // on the middle line: its own twin
                    s.at -= m_plane->normal * m_plane->side(s.at);
                    s.along = normalized(s.along - m_plane->normal * dot(s.along, m_plane->normal));
                    s.normal = normalized(s.normal - m_plane->normal * dot(s.normal, m_plane->normal));
                    s.across = cross(s.normal, s.along);
                    s.isMiddle = true;
                } else {
                    all.push_back(twin(s));
                }
            }
        }
        return all;
    }

private:
    static float unit(std::uint64_t number, std::uint64_t what) { return randomUnit(number, what); }

    Site twin(const Site &s) const { return growth::mirrored(s, m_plane->point, m_plane->normal); }

    /// Notes what is to be known of the ground points, in the grid's order.
    void standOn(const std::vector<GroundPoint> &points, const mesh::BlockArray<std::uint8_t> &masked)
    {
        const std::unique_ptr<bool[]> isMasked(new bool[points.size()]());
        bool any = false;
        if (masked.size() > 0 && !masked.isBlank())
            for (std::size_t i = 0; i < points.size(); ++i)
                any |= isMasked[i] = masked[points[i].vertex] == 255;
        std::vector<float> depth;
        const float borderCubes = m_settings.border * m_settings.size / m_cube;
        if (any && m_settings.border > 0)
            depth = depthsInside(points, {isMasked.get(), points.size()}, m_cube, borderCubes, m_grid);
        m_table = PlaceTable(points.size());
        m_along.resize(points.size()), m_numbers.resize(points.size()), m_isMasked.resize(points.size());
        m_inner.resize(depth.size());
        forEachBlock(points.size(), 2048, [&](BlockRange r) {
            std::vector<GroundPoint> here;
            for (std::size_t k = r.begin; k < r.end; ++k)
                here.push_back(points[m_grid.which(k)]);
            std::vector<Flow::At> flowAt(here.size());
            m_flow.at(here, flowAt);
            for (std::size_t k = r.begin; k < r.end; ++k) {
                const GroundPoint &p = here[k - r.begin];
                const Flow::At &f = flowAt[k - r.begin];
                const std::uint32_t i = m_grid.which(k);
                m_along[k] = Lanes{f.along.x, f.along.y, f.along.z, f.certain};
                m_numbers[k] = p.number, m_isMasked[k] = isMasked[i];
                if (!depth.empty())
                    m_inner[k] = std::clamp(depth[i] / borderCubes, 0.0f, 1.0f);
                m_table.set(k, p.at, sizeAt(p, innerAt(k), f.size), isMasked[i] ? Vec3f{} : p.normal); // nothing lands on such
            }
        });
    }

    /// The points of each cube of the grid in an order that hangs on their places alone.
    std::vector<std::uint32_t> randomOrder() const
    {
        std::vector<std::uint32_t> order(m_numbers.size());
        const auto cubes = m_grid.cubes();
        forEachBlock(cubes.size(), 16, [&](BlockRange r) {
            std::vector<std::pair<std::uint64_t, std::uint32_t>> keys;
            for (std::size_t c = r.begin; c < r.end; ++c) {
                keys.clear();
                for (std::uint32_t i = cubes[c].first; i < cubes[c].end; ++i)
                    keys.emplace_back(m_numbers[i], i);
                std::sort(keys.begin(), keys.end());
                for (std::uint32_t k = 0; k < keys.size(); ++k)
                    order[cubes[c].first + k] = keys[k].second;
            }
        });
        return order;
    }

    bool hasSizeMap() const { return m_about.sizes.size() > 0 && !m_about.sizes.isBlank(); }

    float innerAt(std::size_t i) const { return m_inner.empty() ? 1 : m_inner[i]; }

    float sizeAt(const GroundPoint &p, float inner, float guided) const
    {
        float size = m_settings.size * (0.45f + 0.55f * inner);
        if (hasSizeMap())
            size *= 1 - 0.67f * float(m_about.sizes[p.vertex]) / 255;
        if (m_flow.hasSizes())
            size *= std::clamp(guided, kLeastGuided, kMostGuided);
        if (m_settings.joints > 0)
            for (const JointSpot &j : m_about.joints) {
                const float t = squaredLength(p.at - j.at) / (2.2f * j.radius * j.radius);
                if (t < 8)
                    size *= 1 - 0.6f * m_settings.joints * std::exp(-t);
            }
        return std::max(size, m_cube / kCubesAcross);
    }

    Site siteAt(std::uint32_t i) const
    {
        Site s;
        s.at = m_table.at(i), s.normal = m_table.normal(i), s.number = m_numbers[i];
        const Lanes along = m_along[i];
        s.along = {along[0], along[1], along[2]}, s.across = cross(s.normal, s.along), s.certain = along[3];
        s.size = m_table.size(i), s.inner = innerAt(i);
        return s;
    }

    PlaceTable::Probe probeAt(const Site &s, float own, float perSize, float facing) const
    {
        return {s.at, s.along * (1 / m_settings.aspect), s.across, s.normal, own, perSize, facing};
    }

    /// Takes those of the ground points that keep `share` of the distance to all sites there are. Each site says which points
    /// it leaves no room at. The grid's cubes take turns by the eight colours of a board in space: those of one colour are
    /// farther from each other than a site reaches, so that they do not care which of them comes first.
    void tryAll(float share)
    {
        std::vector<std::uint8_t> isTaken(m_numbers.size(), 0);
        const auto cover = [&](const Site &s, PlaceTable::Search &search) {
            const float half = 0.5f * share;
            for (const std::uint32_t j :
                 m_table.near(m_grid, probeAt(s, half * s.size, half, -0.3f), half * (s.size + m_most) * m_stretch, search))
                std::atomic_ref(isTaken[j]).store(1, std::memory_order_relaxed); // neighbours may mark the same one at once
        };
        forEachBlock(m_sites.size(), kGroup, [&](BlockRange r) {
            PlaceTable::Search search;
            for (std::size_t i = r.begin; i < r.end; ++i)
                cover(m_sites[i], search);
        });
        const auto cubes = m_grid.cubes();
        std::array<std::vector<std::uint32_t>, 8> colours;
        for (std::uint32_t c = 0; c < cubes.size(); ++c)
            colours[std::size_t((cubes[c].at.z & 1) | (cubes[c].at.y & 1) << 1 | (cubes[c].at.x & 1) << 2)].push_back(c);
        std::vector<std::vector<Site>> found(cubes.size());
        for (const auto &colour : colours)
            forEachBlock(colour.size(), 4, [&](BlockRange r) {
                PlaceTable::Search search;
                for (std::size_t c = r.begin; c < r.end; ++c)
                    for (std::uint32_t k = cubes[colour[c]].first; k < cubes[colour[c]].end; ++k)
                        if (const std::uint32_t i = m_order[k]; !m_isMasked[i] && !isTaken[i]) {
                            found[colour[c]].push_back(siteAt(i));
                            cover(found[colour[c]].back(), search);
                        }
            });
        std::size_t n = m_sites.size();
        for (const auto &f : found)
            n += f.size();
        m_sites.reserve(n);
        for (const auto &f : found)
            m_sites.insert(m_sites.end(), f.begin(), f.end());
    }

    /// Where a site is, with its size in the fourth lane; and its twin.
    static Lanes placeOf(const Site &s) { return Lanes{s.at.x, s.at.y, s.at.z, s.size}; }
    Lanes mirrored(const Lanes &p) const
    {
        const Vec3f at = m_plane->mirror({p[0], p[1], p[2]});
        return Lanes{at.x, at.y, at.z, p[3]};
    }

    /// Notes who is near whom for the next few rounds.
    void lookAround()
    {
        m_seenFrom.clear();
        for (std::uint32_t i = 0; i < m_sites.size(); ++i)
            m_seenFrom.push_back(i);
        if (m_plane)
            for (std::uint32_t i = 0; i < m_sites.size(); ++i)
                if (m_plane->side(m_sites[i].at) < 2 * m_sites[i].size * m_stretch)
                    m_seenFrom.push_back(i);
        float most = 0;
        const std::size_t n = m_seenFrom.size();
        m_places.resize(n), m_next.resize(n);
        std::vector<Vec3f> places(n);
        for (std::size_t i = 0; i < n; ++i) {
            const Lanes p = placeOf(m_sites[m_seenFrom[i]]);
            m_places[i] = i < m_sites.size() ? p : mirrored(p);
            places[i] = {m_places[i][0], m_places[i][1], m_places[i][2]}, most = std::max(most, p[3]);
        }
        const PointGrid grid(places, 3 * most * m_stretch);
        PlaceTable table(n);
        forEachBlock(n, 4096, [&](BlockRange r) {
            for (std::size_t k = r.begin; k < r.end; ++k) {
                const std::uint32_t j = grid.which(k);
                const Vec3f normal = m_sites[m_seenFrom[j]].normal;
                table.set(k, places[j], 0, j < m_sites.size() ? normal : m_plane->mirrorDirection(normal));
            }
        });
        m_near.resize((m_sites.size() + kGroup - 1) / kGroup);
        forEachBlock(m_sites.size(), kGroup, [&](BlockRange r) {
            Group &g = m_near[r.begin / kGroup];
            g.all.clear();
            g.starts.assign(1, 0);
            PlaceTable::Search search;
            for (std::size_t i = r.begin; i < r.end; ++i) {
                const float far = 1.7f * m_sites[i].size;
                for (const std::uint32_t k : table.near(grid, probeAt(m_sites[i], far, 0, 0.1f), far * m_stretch, search))
                    if (grid.which(k) != i)
                        g.all.push_back(grid.which(k));
                while (g.all.size() % 4) // to whole fours, with itself, which does not count
                    g.all.push_back(std::uint32_t(i));
                g.starts.push_back(std::uint32_t(g.all.size()));
            }
        });
    }

    /// Only where sites are changes, and only m_places knows, until they land.
    void relax(bool lands)
    {
        forEachBlock(m_sites.size(), kGroup, [&](BlockRange r) {
            const Group &g = m_near[r.begin / kGroup];
            PlaceTable::Search search;
            for (std::size_t i = r.begin; i < r.end; ++i) {
                Site &s = m_sites[i];
                const std::uint32_t from = g.starts[i - r.begin], to = g.starts[i - r.begin + 1];
                const Lanes p = m_places[i];
                const Vec3f at = moved(s, {p[0], p[1], p[2]}, {g.all.data() + from, to - from});
                if (lands)
                    land(s, at, search);
                m_next[i] = lands ? placeOf(s) : Lanes{at.x, at.y, at.z, s.size};
            }
        });
        for (std::size_t i = m_sites.size(); i < m_seenFrom.size(); ++i)
            m_next[i] = mirrored(m_next[m_seenFrom[i]]);
        m_places.swap(m_next);
    }

    /// Where neighbours want a site.
    Vec3f moved(const Site &s, Vec3f at, std::span<const std::uint32_t> near) const
    {
        const Pull pull = pullOf({at, s.along, s.across, s.size, m_settings.aspect, m_settings.rows}, m_places.data(), near);
        if (pull.weight <= 0)
            return at;
        const float most = 0.3f * s.size;
        const auto bounded = [&](float v) { return std::clamp(v / pull.weight, -most, most); };
        Vec3f to = at + s.along * bounded(pull.along) + s.across * bounded(pull.across);
        if (m_plane && m_plane->side(to) < 0.3f * s.size)
            to -= m_plane->normal * (m_plane->side(to) * 0.5f);
        return to;
    }

    /// Puts a site on the free ground nearest to `to`, with the flow there.
    void land(Site &s, Vec3f to, PlaceTable::Search &search) const
    {
        float least = 0;
        std::uint32_t best = kNone;
        for (float reach = 0.8f * m_cube; best == kNone && reach < 7 * m_cube; reach *= 2)
            best = m_table.nearest(m_grid, to, s.normal, reach, search, least);
        if (best == kNone) {
            s.at = to;
            return;
        }
        const std::uint64_t number = s.number;
        const float lift = s.lift;
        if (least > 2.3f * m_cube * m_cube) // out of what is free: to its border
            to = m_table.at(best);
        s = siteAt(best);
        s.at = to - s.normal * dot(to - s.at, s.normal);
        s.number = number, s.lift = lift;
    }

    /// Of sites that came too close to one that was near when they last looked around, the one with the greater number goes, and
    /// gaps get one.
    void mend()
    {
        using Pair = std::pair<std::uint32_t, std::uint32_t>; // who stays and who goes, if the first is still there
        std::vector<std::vector<Pair>> close((m_sites.size() + kGroup - 1) / kGroup);
        forEachBlock(m_sites.size(), kGroup, [&](BlockRange r) {
            const Group &g = m_near[r.begin / kGroup];
            for (std::size_t i = r.begin; i < r.end; ++i)
                for (std::uint32_t k = g.starts[i - r.begin]; k < g.starts[i - r.begin + 1]; ++k) {
                    const std::uint32_t j = g.all[k];
                    if (j >= m_sites.size()) // a twin
                        continue;
                    const Site &s = m_sites[i], &o = m_sites[j];
                    if (std::pair(s.number, std::uint32_t(i)) < std::pair(o.number, j)
                        && distanceFrom(s, m_settings.aspect, o.at) < 0.3f * (o.size + s.size))
                        close[r.begin / kGroup].emplace_back(std::uint32_t(i), j);
                }
        });
        std::vector<Pair> pairs;
        for (const auto &c : close)
            pairs.insert(pairs.end(), c.begin(), c.end());
        std::sort(pairs.begin(), pairs.end(), [&](const Pair &a, const Pair &b) {
            return std::tuple(m_sites[a.first].number, a) < std::tuple(m_sites[b.first].number, b);
        });
        std::vector<bool> isGone(m_sites.size(), false);
        for (const auto &[stays, goes] : pairs)
            if (!isGone[stays])
                isGone[goes] = true;
        std::size_t k = 0;
        std::erase_if(m_sites, [&](const Site &) { return isGone[k++]; });
        tryAll(0.93f);
    }

    static constexpr float kLeastGuided = 0.2f, kMostGuided = 5; ///< what guides may do to sizes
    static constexpr float kCubesAcross = 0.75f;                 ///< ground cubes across the smallest site
    static constexpr std::size_t kGroup = 256;
    /// Who is near the sites of a group, one after the other.
    struct Group {
        std::vector<std::uint32_t> all, starts;
    };

    const Flow &m_flow;
    const Surroundings &m_about;
    const ScatterSettings &m_settings;
    float m_stretch, m_tight;
    std::optional<Plane> m_plane;
    float m_cube = 1;
    float m_most = 1;                   ///< no site is larger
    PointGrid m_grid;                   ///< over the ground points; what follows is in its order
    PlaceTable m_table;                 ///< where each is, the size there, and its normal: none where it is masked
    RawVector<Lanes> m_along;           ///< the flow there, and how certain it is
    RawVector<std::uint64_t> m_numbers; ///< random
    RawVector<std::uint8_t> m_isMasked;
    std::vector<float> m_inner; ///< of how far it is from what is masked; empty where it does not matter
    std::vector<std::uint32_t> m_order;
    std::vector<std::uint32_t> m_seenFrom; ///< of sites and, after them, twins of those near the plane: which site
    std::vector<Lanes> m_places, m_next;   ///< where those are now and after the round in hand, with their sizes
    std::vector<Group> m_near;
    std::vector<Site> m_sites;
};

} // namespace

Site mirrored(const Site &site, Vec3f point, Vec3f normal)
{
    const Plane plane{point, normal};
    Site t = site;
    t.at = plane.mirror(site.at), t.normal = plane.mirrorDirection(site.normal), t.along = plane.mirrorDirection(site.along);
    t.across = plane.mirrorDirection(site.across);
    return t;
}

std::vector<Site> scatter(const Ground &ground, const Flow &flow, const Surroundings &about,
                          const mesh::BlockArray<std::uint8_t> &masked, const ScatterSettings &settings, const Progress &progress)
{
    progress.say(0.2f, "ground");
    Scattering s(ground, flow, about, masked, settings);
    if (progress.isCancelled())
        return {};
    progress.say(0.35f, "places");
    s.throwDarts();
    if (progress.isCancelled())
        return {};
    progress.say(0.45f, "evening out");
    s.settle(int(std::lround(10 * settings.settle)));
    return s.take();
}

} // namespace bonemoss::growth
