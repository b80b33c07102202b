// Where sites fall, which vertices see them, and what a scale about each looks like.
#include "support/run.h"
#include "base/random.h"
#include "growth/grow_input.h"
#include "support/skins.h"

#include <QtTest>

#include <atomic>
#include <complex>
#include <map>
#include <numbers>
#include <set>

using namespace bonemoss;
using namespace bonemoss::test;
using growth::Flow;
using growth::Ground;
using growth::Growth;
using growth::GrowthKind;
using growth::ScatterSettings;
using growth::Site;
using growth::Surroundings;
using skin::Skin;

class TestSites : public QObject
{
    Q_OBJECT

private slots:
    // R. Bridson, "Fast Poisson Disk Sampling in Arbitrary Dimensions", SIGGRAPH 2007 sketches: no two samples are nearer than
    // the radius, and none could be added. How dense such a set is: random sequential addition of discs covers 0.547 of the
    // plane (J. Feder, "Random sequential adsorption", J. Theor. Biol. 87, 1980), so 0.547 / (pi r^2 / 4) sites to a unit of
    // area; ours choose among points of a raster, which costs a few percent.
    void sitesKeepApartAndCover()
    {
        constexpr float kSize = 2;
        const Ground ground = growth::groundOf(sheet());
        const std::vector<Site> sites = thrown(ground, kSize);
        std::vector<Vec3f> places;
        for (const Site &s : sites)
            places.push_back(s.at);
        const PointGrid grid(places, kSize);
        for (std::uint32_t i = 0; i < places.size(); ++i)
            grid.around(places[i], kSize * 0.999f, [&](std::uint32_t j) { QCOMPARE(i, j); });
        float worst = 0; // farthest a vertex is from its nearest site
        for (std::size_t v = 0; v < ground.positions.size(); v += 7) {
            float least = 100;
            grid.around(ground.positions[v], 2 * kSize,
                        [&](std::uint32_t j) { least = std::min(least, length(places[j] - ground.positions[v])); });
            worst = std::max(worst, least);
        }
        QVERIFY2(worst < 1.55f * kSize, qPrintable(QString::number(double(worst))));
        const double perArea = double(places.size()) / double(kSide * kSide);
        const double saturated = 0.547 / (std::numbers::pi * kSize * kSize / 4);
        QVERIFY2(perArea > 0.86 * saturated && perArea < 1.08 * saturated, qPrintable(QString::number(perArea / saturated)));
    }

    // Blue noise: next to no power at low frequencies (Bridson 2007, figure 2; common practice for the bounds).
    void spectrumHasNoLowFrequencies()
    {
        constexpr float kSize = 1.5f;
        const std::vector<Site> sites = thrown(growth::groundOf(sheet()), kSize);
        const auto power = [&](double cycles) { // mean over directions, cycles over the whole sheet
            double sum = 0;
            constexpr int kDirections = 24;
            for (int d = 0; d < kDirections; ++d) {
                const double turn = std::numbers::pi * d / kDirections;
                // whole numbers of waves in both axes, so that the border does not show
                const double across = std::round(cycles * std::cos(turn)), along = std::round(cycles * std::sin(turn));
                std::complex<double> f = 0;
                for (const Site &s : sites)
                    f += std::polar(1.0,
                                    2 * std::numbers::pi / double(kSide) * (across * double(s.at.x) + along * double(s.at.y)));
                sum += std::norm(f) / double(sites.size());
            }
            return sum / kDirections;
        };
        double low = 0, high = 0;
        for (int k = 4; k < 12; ++k)
            low += power(k) / 8;
        for (int k = 60; k < 76; ++k)
            high += power(k) / 16;
        QVERIFY2(low < 0.3 && high > 0.7, qPrintable(QStringLiteral("%1 %2").arg(low).arg(high)));
    }

    void evenedRowsStandAcrossTheFlow()
    {
        const Ground ground = growth::groundOf(sheet());
        const Flow flow(ground, {});
        ScatterSettings s;
        s.size = 2.5f, s.rows = 1, s.isMirrored = false;
        std::vector<Vec3f> places;
        for (const Site &site : growth::scatter(ground, flow, {}, {}, s))
            places.push_back(site.at);
        const PointGrid grid(places, 4);
        // The nearest neighbours of most lie across the flow (which runs along -y here) or 60 degrees from there: a hexagonal lattice.
        int onLattice = 0, all = 0;
        for (std::uint32_t i = 0; i < places.size(); ++i)
            if (isInside(places[i], 5))
                grid.around(places[i], 3.2f, [&](std::uint32_t j) {
                    if (j == i)
                        return;
                    const Vec3f d = places[j] - places[i];
                    const double turn = std::abs(std::remainder(std::atan2(double(d.y), double(d.x)), std::numbers::pi / 3));
                    onLattice += turn < 0.21, ++all; // 12 degrees; chance alone gives 0.4
                });
        QVERIFY2(onLattice > 0.85 * all, qPrintable(QString::number(double(onLattice) / all)));
    }

    void nearestTwoAreAmongThoseLookedAt()
    {
        const Skin skin = tube();
        const Ground ground = growth::groundOf(skin);
        const Flow flow(ground, {});
        const Growth g = rule("pebbles");
        const Progress none;
        const mesh::BlockArray<std::uint8_t> free;
        const growth::GrowInput in{g, ground, flow, {}, free, none};
        const std::vector<Site> sites = in.sites(growth::scaleSites(g));
        std::atomic<int> wrong = 0, seen = 0;
        growth::forEachVertex(
            in, sites, [](const Site &s) { return 1.8f * s.size; },
            [&](std::size_t, std::size_t i, const growth::Spot &spot, std::span<const std::uint32_t> near) {
                if (i % 97)
                    return;
                ++seen;
                const auto two = [&](const auto &numbers) { // by distance, over all given
                    std::pair<float, float> d{1e9f, 1e9f};
                    for (const std::uint32_t k : numbers) {
                        const float off = length(sites[k].at - spot.at);
                        d.second = std::min(d.second, std::max(d.first, off)), d.first = std::min(d.first, off);
                    }
                    return d;
                };
                std::vector<std::uint32_t> all(sites.size());
                for (std::uint32_t k = 0; k < all.size(); ++k)
                    all[k] = k;
                wrong += two(near) != two(all);
            });
        QVERIFY(seen > 100);
        QCOMPARE(wrong.load(), 0);
    }

    // Overlapping scales are worked out four vertices at a time; here vertex by vertex, over all sites, in double precision.
    void shinglesAreTheHighestOfAllThatReach()
    {
        Growth g = rule("scales");
        const auto set = [&](std::string_view name, float v) {
            for (std::size_t i = 0; i < g.kind->settings.size(); ++i)
                if (g.kind->settings[i].name == name)
                    g.values[i] = v;
        };
        set("variation", 0), set("wear", 0), set("border", 0), set("joints", 0), set("point", 0.4f), set("size", 2.5f);
        const Skin bare = tube();
        const Skin skin = grown(bare, g);
        const std::vector<Site> sites = growth::sitesOf(bare, g, {}, {});
        const double aspect = double(g.value("aspect")), overlap = double(g.value("overlap")), tilt = double(g.value("tilt")),
                     dome = double(g.value("dome")), depth = double(g.value("depth")), bow = std::lerp(3.2, 1.15, 0.4);
        const double spacing = double(meanEdgeLength(bare.shown));
        const auto heightAt = [&](Vec3f p, Vec3f normal) {
            double best = 0;
            for (const Site &s : sites) {
                const Vec3f d = p - s.at;
                const double size = double(s.size), along = double(dot(d, s.along)) / (size * aspect),
                             across = std::abs(double(dot(d, s.across)) / size), tip = 0.5 + overlap * double(s.certain);
                if (dot(normal, s.normal) < 0.1f || across > 0.66 || along < -0.62 || along > 0.5 + overlap)
                    continue;
                double half = 0.62 * (1 - 0.25 * std::min(1.0, 4 * along * along));
                if (along > 0)
                    half = along < tip ? 0.62 * std::pow(1 - std::pow(along / tip, bow), 1 / (0.75 * bow)) : 0;
                const double inside = std::min(half - across, (along + 0.62) * 1.2), soft = std::max(0.05, 0.8 * spacing / size);
                if (inside <= 0)
                    continue;
                const double t = std::clamp(std::min(inside, std::max((tip - along) * aspect, 0.0)) / soft, 0.0, 1.0);
                const double ramp = std::clamp((along + 0.6) / (tip + 0.6), 0.0, 1.0);
                const double round = std::max(0.0, 1 - (across / 0.66) * (across / 0.66));
                best =
                    std::max(best, std::lerp(0.62, ramp, tilt) * 0.78 * std::lerp(1.0, round, 0.55 * dome) * t * t * (3 - 2 * t));
            }
            return best * depth;
        };
        int seen = 0;
        for (std::size_t v = 0; v < bare.body.size(); v += 41) {
            const Vec3f n = bare.shown.normals[v].unpack();
            const double found = double(dot(skin.layers[0].offsets[v], n)), wanted = heightAt(bare.body[v], n);
            QVERIFY2(std::abs(found - wanted) < 2e-3 * depth,
                     qPrintable(QStringLiteral("%1: %2, not %3").arg(v).arg(found).arg(wanted)));
            seen += wanted > 0.3 * depth;
        }
        QVERIFY2(seen > 300, qPrintable(QString::number(seen)));
    }

    // Of many shields as many have lost the end as were asked for, the rest is as before.
    void asManyAreBrokenAsAskedFor()
    {
        Growth g = rule("shields");
        const auto set = [&](std::string_view name, float v) {
            for (std::size_t i = 0; i < g.kind->settings.size(); ++i)
                if (g.kind->settings[i].name == name)
                    g.values[i] = v;
        };
        set("size", 2.5f), set("variation", 0), set("wear", 0), set("rings", 0), set("border", 0), set("joints", 0);
        const Skin bare = sheet();
        const std::vector<Site> sites = growth::sitesOf(bare, g, {}, {});
        const Skin whole = grown(bare, g);
        set("broken", 0.3f);
        const Skin broken = grown(bare, g);
        std::vector<Vec3f> places;
        for (const Site &s : sites)
            places.push_back(s.at);
        const PointGrid grid(places, 2.5f);
        std::set<std::uint32_t> lower;
        for (std::size_t v = 0; v < bare.body.size(); ++v) {
            const float was = length(whole.layers[0].offsets[v]), is = length(broken.layers[0].offsets[v]);
            if (is >= was - 0.05f)
                continue;
            std::uint32_t owner = 0;
            float least = 1e9f;
            grid.around(bare.body[v], 3, [&](std::uint32_t i) {
                if (const float off = growth::distanceFrom(sites[i], g.value("aspect"), bare.body[v]) / sites[i].size;
                    off < least)
                    least = off, owner = i;
            });
            lower.insert(owner);
        }
        const double share = double(lower.size()) / double(sites.size());
        QVERIFY(sites.size() > 200);
        QVERIFY2(share > 0.2 && share < 0.4, qPrintable(QString::number(share)));
    }

    // The same seed gives the same pattern in the same place as far as the surface allows: sites stay when it is knitted again.
    void sitesStayWhenKnittedAgain()
    {
        mesh::PolyMesh m = test::sphere(15, 100, 160);
        const auto at = [&](float spacing) {
            const auto knitted = field::knitMesh(m, {spacing, 0});
            const Ground ground = growth::groundOf(skin::makeSkin(knitted->mesh, true));
            return thrown(ground, 3);
        };
        const std::vector<Site> a = at(0.20f), b = at(0.24f);
        int kept = 0;
        for (const Site &s : a)
            kept += std::any_of(b.begin(), b.end(), [&](const Site &o) { return length(o.at - s.at) < 0.6f; });
        QVERIFY2(kept > 0.6 * double(a.size()), qPrintable(QStringLiteral("%1 of %2").arg(kept).arg(a.size())));
    }

    void oneScaleByHand()
    {
        const Skin bare = sheet(200);
        Growth g = rule("shields");
        const std::vector<Site> sites = growth::sitesOf(bare, g, {}, {});
        const Site *middle = nullptr;
        for (const Site &s : sites)
            if (!middle || length(s.at) < length(middle->at))
                middle = &s;
        const Skin before = grown(bare, g);
        g.edits.push_back({middle->at + Vec3f{0.3f, 0, 0}, 0, 1, 1, true});
        const Skin after = grown(bare, g);
        double gone = 0, elsewhere = 0;
        for (std::size_t v = 0; v < bare.body.size(); ++v) {
            const double d = double(length(before.layers[0].offsets[v] - after.layers[0].offsets[v]));
            (length(bare.body[v] - middle->at) < 0.45f * middle->size  ? gone
             : length(bare.body[v] - middle->at) > 1.5f * middle->size ? elsewhere
                                                                       : gone) += d;
        }
        QVERIFY(gone > 1);
        QCOMPARE(elsewhere, 0.0);
    }

    // The same by a map over all vertices.
    void groundPointsAreNearestToTheirRandomPlaces()
    {
        const Ground ground = growth::groundOf(tube());
        constexpr float kCube = 1.3f;
        constexpr std::uint64_t kSeed = 5;
        struct Best {
            float off = 1e9f;
            std::uint32_t vertex = 0;
        };
        std::map<std::uint64_t, Best> best;
        for (std::uint32_t v = 0; v < ground.positions.size(); ++v) {
            const Vec3f p = ground.positions[v];
            const mesh::PackedNormal n = ground.normals[v];
            const std::int64_t c[3] = {std::int64_t(std::floor(p.x / kCube)), std::int64_t(std::floor(p.y / kCube)),
                                       std::int64_t(std::floor(p.z / kCube))};
            const int away[3] = {std::abs(n.x), std::abs(n.y), std::abs(n.z)};
            const std::uint64_t facing = away[0] >= away[1] && away[0] >= away[2] ? (n.x > 0 ? 0 : 1)
                                         : away[1] >= away[2]                     ? (n.y > 0 ? 2 : 3)
                                                                                  : (n.z > 0 ? 4 : 5);
            std::uint64_t key = 0;
            for (const std::int64_t k : c)
                key = key << 20 | std::uint64_t(k + (1 << 19));
            key = key << 3 | facing;
            const auto along = [&](std::uint64_t axis) { return (float(c[axis]) + randomUnit(kSeed, key * 3 + axis)) * kCube; };
            const Vec3f wanted{along(0), along(1), along(2)};
            Best &b = best[key];
            if (const float off = squaredLength(p - wanted); off < b.off)
                b = {off, v};
        }
        std::vector<std::uint32_t> wanted, found;
        for (const auto &[key, b] : best)
            wanted.push_back(b.vertex);
        const std::vector<growth::GroundPoint> points = ground.points(kCube, kSeed);
        float apart = 0;
        for (std::size_t i = 0; i < points.size(); ++i) {
            found.push_back(points[i].vertex);
            if (i > 0)
                apart += length(points[i].at - points[i - 1].at) / float(points.size() - 1);
        }
        std::sort(wanted.begin(), wanted.end());
        std::sort(found.begin(), found.end());
        QVERIFY(wanted.size() > 500);
        QCOMPARE(found, wanted);
        QVERIFY2(apart < 3 * kCube, qPrintable(QString::number(double(apart)))); // those that follow each other lie together
    }

    // Darts are tried many at a time; the result is that of one after the other (here: plainly, over all points, in their
    // order: by colours of a board of cubes in space, then by their numbers).
    void dartsFallAsIfOneAfterTheOther()
    {
        const Ground ground = growth::groundOf(sheet(120));
        const Flow flow(ground, {});
        ScatterSettings s;
        s.size = 2, s.aspect = 1.3f, s.settle = 0, s.isMirrored = false;
        std::vector<Site> sites = growth::scatter(ground, flow, {}, {}, s);
        std::sort(sites.begin(), sites.end(), [](const Site &a, const Site &b) { return a.number < b.number; });
        const float cube = std::max(growth::kGroundCube * s.size, 0.9f * ground.spacing);
        std::vector<growth::GroundPoint> points = ground.points(cube, s.seed);
        const auto colour = [&](const growth::GroundPoint &p) {
            const auto isOdd = [&](float v) { return int(std::floor(std::floor(v / (growth::kGroundCell * cube)) / 4)) & 1; };
            return isOdd(p.at.x) << 2 | isOdd(p.at.y) << 1 | isOdd(p.at.z);
        };
        std::sort(points.begin(), points.end(),
                  [&](const auto &a, const auto &b) { return std::pair(colour(a), a.number) < std::pair(colour(b), b.number); });
        std::vector<Site> wanted;
        for (const growth::GroundPoint &p : points) {
            const bool isFree = std::none_of(wanted.begin(), wanted.end(),
                                             [&](const Site &o) { return distanceFrom(o, s.aspect, p.at) < s.size; });
            if (!isFree)
                continue;
            const Flow::At f = flow.at(p.at, p.normal);
            Site site;
            site.at = p.at, site.normal = p.normal, site.along = f.along, site.across = cross(p.normal, f.along);
            site.number = p.number;
            wanted.push_back(site);
        }
        std::sort(wanted.begin(), wanted.end(), [](const Site &a, const Site &b) { return a.number < b.number; });
        QVERIFY(wanted.size() > 300);
        QCOMPARE(sites.size(), wanted.size());
        for (std::size_t i = 0; i < sites.size(); ++i)
            QVERIFY(sites[i].number == wanted[i].number && sites[i].at == wanted[i].at);
    }

    // Evened out, sites stand nearly as far from each other as a hexagonal lattice of the same density lets them (common practice).
    void evenedSitesStandWide()
    {
        const Ground ground = growth::groundOf(sheet());
        const Flow flow(ground, {});
        const auto nearest = [&](float settle) { // mean distance to the nearest, in that of the lattice
            ScatterSettings s;
            s.size = 2, s.rows = 1, s.settle = settle, s.isMirrored = false;
            std::vector<Vec3f> inside;
            const std::vector<Site> sites = growth::scatter(ground, flow, {}, {}, s);
            double sum = 0;
            int n = 0;
            for (const Site &a : sites) {
                if (!isInside(a.at, 4))
                    continue;
                float least = 1e9f;
                for (const Site &b : sites)
                    if (&a != &b)
                        least = std::min(least, length(a.at - b.at));
                sum += double(least), ++n;
            }
            const double perArea = double(sites.size()) / double(kSide * kSide);
            return sum / n / std::sqrt(2 / (std::sqrt(3.0) * perArea));
        };
        const double thrownApart = nearest(0), evenedApart = nearest(1);
        QVERIFY2(evenedApart > 0.83 && evenedApart > thrownApart + 0.05,
                 qPrintable(QStringLiteral("%1 %2").arg(thrownApart).arg(evenedApart)));
    }

    // Evened out, too, no two stand nearer than 0.6 sizes, beyond which one of them is taken away, and there are no holes that
    // another would fit in (Bridson 2007, with room for the raster and for the last round).
    void evenedSitesKeepApartAndCover()
    {
        constexpr float kSize = 2;
        const Ground ground = growth::groundOf(sheet());
        const Flow flow(ground, {});
        for (const float rows : {0.0f, 1.0f}) {
            ScatterSettings s;
            s.size = kSize, s.rows = rows, s.isMirrored = false;
            std::vector<Vec3f> places;
            for (const Site &site : growth::scatter(ground, flow, {}, {}, s))
                places.push_back(site.at);
            const auto nearest = [&](Vec3f p, std::size_t but) {
                float least = 1e9f;
                for (std::size_t k = 0; k < places.size(); ++k)
                    if (k != but)
                        least = std::min(least, length(places[k] - p));
                return least;
            };
            float closest = 1e9f, widest = 0;
            for (std::size_t k = 0; k < places.size(); ++k)
                closest = std::min(closest, nearest(places[k], k));
            for (std::size_t v = 0; v < ground.positions.size(); v += 7)
                widest = std::max(widest, nearest(ground.positions[v], places.size()));
            QVERIFY2(closest >= 0.599f * kSize, qPrintable(QString::number(double(closest))));
            QVERIFY2(widest < 1.4f * kSize, qPrintable(QString::number(double(widest))));
        }
    }

    // The flow is worked out from some of the vertices of fine skins, and from all of coarse ones: both say the same.
    void flowHangsLittleOnTheFaces()
    {
        const Flow fine(growth::groundOf(sheet(480)), {}), coarse(growth::groundOf(sheet(120)), {});
        double worst = 0;
        for (int k = 0; k < 200; ++k) {
            const Vec3f p{(randomUnit(1, std::uint64_t(k)) - 0.5f) * 50, (randomUnit(2, std::uint64_t(k)) - 0.5f) * 50, 0};
            worst = std::max(worst, double(length(fine.at(p, {0, 0, 1}).along - coarse.at(p, {0, 0, 1}).along)));
        }
        QVERIFY2(worst < 0.05, qPrintable(QString::number(worst)));
    }
    // Asked at many places at once, near each other or not, it is the plain weighted mean, here in doubles over all points.
    void flowAtManyIsThePlainMean()
    {
        const Ground ground = growth::groundOf(sheet(120));
        Surroundings about;
        about.guides = {{{{-20, -10, 0}, {-5, 12, 0}}, 0.5f}, {{{8, 20, 0}, {22, 3, 0}}, 2.0f}};
        const Flow flow(ground, about);
        QVERIFY(flow.hasSizes());
        std::vector<growth::GroundPoint> points = ground.points(1.5f, 1);
        const std::size_t half = points.size() / 2;
        for (std::size_t i = half; i < points.size(); ++i) // the second half without any order
            std::swap(points[i], points[half + randomBits(5, i) % (points.size() - half)]);
        std::vector<Flow::At> many(points.size());
        flow.at(points, many);
        const double reach = 2.2 * double(flow.spacing());
        double worst = 0;
        for (std::size_t k = 0; k < points.size(); ++k) {
            double sum[3] = {}, weight = 0;
            for (std::size_t i = 0; i < flow.size(); ++i) {
                const double facing = double(dot(points[k].normal, flow.normal(i)));
                const double t = 1 - std::pow(double(length(flow.point(i) - points[k].at)) / reach, 2);
                if (facing < 0.1 || t <= 0)
                    continue;
                const double w = t * t * facing;
                sum[0] += w * double(flow.along(i).x), sum[1] += w * double(flow.along(i).y), weight += w;
            }
            QVERIFY(weight > 0);
            const double len = std::hypot(sum[0], sum[1]) / weight;
            worst = std::max(worst, std::abs(double(many[k].certain) - std::min(1.0, 2 * len)));
            if (len > 0.01)
                worst = std::max(worst, std::hypot(double(many[k].along.x) - sum[0] / weight / len,
                                                   double(many[k].along.y) - sum[1] / weight / len));
            const Flow::At one = flow.at(points[k].at, points[k].normal);
            worst = std::max({worst, double(length(one.along - many[k].along)), std::abs(double(one.size - many[k].size))});
        }
        QVERIFY2(worst < 1e-4, qPrintable(QString::number(worst)));
    }
    // In its own order, a grid's rows hold all points there are, each once.
    void aGridInItsOwnOrder()
    {
        std::vector<Vec3f> points;
        for (std::uint64_t i = 0; i < 30000; ++i)
            points.push_back({randomSigned(1, i) * 20, randomSigned(2, i) * 20, randomSigned(3, i) * 4});
        const PointGrid grid(points, 1.5f);
        std::vector<Vec3f> ordered;
        std::set<std::uint32_t> all;
        for (std::size_t k = 0; k < grid.size(); ++k)
            ordered.push_back(points[grid.which(k)]), all.insert(grid.which(k));
        QCOMPARE(all.size(), points.size());
        for (std::uint64_t q = 0; q < 100; ++q) {
            const Vec3f p{randomSigned(4, q) * 20, randomSigned(5, q) * 20, randomSigned(6, q) * 4};
            std::set<std::uint32_t> wanted, found, inRows;
            for (std::uint32_t i = 0; i < ordered.size(); ++i)
                if (squaredLength(ordered[i] - p) <= 4)
                    wanted.insert(i);
            grid.around(p, 2, [&](std::uint32_t i) { QVERIFY(length(points[i] - p) <= 2 && found.insert(i).second); });
            grid.rows(p, 2, [&](std::uint32_t first, std::uint32_t end) {
                for (std::uint32_t i = first; i < end; ++i)
                    if (squaredLength(ordered[i] - p) <= 4)
                        QVERIFY(inRows.insert(i).second);
            });
            QVERIFY(found.size() == wanted.size() && inRows == wanted);
        }
    }
};

BONEMOSS_TEST(TestSites)
#include "tst_sites.moc"
