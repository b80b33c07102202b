// Growths: where sites fall, which way they lie, and what is made of them.
#include "base/parallel.h"
#include "detail/grow_input.h"
#include "field/knit.h"
#include "support/shapes.h"

#include <QtTest>

#include <complex>
#include <numbers>

using namespace bonemoss;
using detail::Flow;
using detail::Ground;
using detail::Growth;
using detail::GrowthKind;
using detail::ScatterSettings;
using detail::Site;
using detail::Skin;
using detail::Surroundings;

namespace {

constexpr float kSide = 60;

/// A flat skin that faces +z, 60 mm long, with vertices 0.25 mm apart.
Skin sheet(std::uint32_t n = 240)
{
    mesh::PolyMesh m = test::plane(kSide, n);
    for (Vec3f &p : m.positions)
        p = {p.x, -p.z, 0};
    return detail::makeSkin(m, false);
}

/// A tube with round ends along z, as a limb of the armature gives it.
constexpr float kTube = 10;
Skin tube()
{
    mesh::PolyMesh m = test::sphere(kTube, 160, 200);
    for (Vec3f &p : m.positions)
        p = {p.x, p.z, p.y + (p.y > 0 ? 25.0f : -25.0f)};
    return detail::makeSkin(field::knitMesh(m, {0.35f, 0})->mesh, true);
}

Growth rule(const char *kind, bool isMirrored = false)
{
    Growth g = growthOf(*detail::growthNamed(kind));
    g.isMirrored = isMirrored;
    return g;
}

Skin grown(Skin skin, const Growth &g, const Surroundings &about = {}, const mesh::BlockArray<std::uint8_t> &mask = {})
{
    skin.layers.emplace_back(skin.body.size()).id = 1;
    if (mask.size() > 0)
        skin.layers.back().mask = mask;
    if (!detail::grow(skin, 1, g, about))
        qFatal("not grown");
    return skin;
}

bool isInside(Vec3f p, float margin)
{
    return std::abs(p.x) < kSide / 2 - margin && std::abs(p.y) < kSide / 2 - margin;
}

} // namespace

class TestGrowth : public QObject
{
    Q_OBJECT

    static std::vector<Site> thrown(const Ground &ground, float size, const Surroundings &about = {})
    {
        const Flow flow(ground, about);
        ScatterSettings s;
        s.size = size, s.settle = 0, s.isMirrored = false;
        return detail::scatter(ground, flow, about, {}, s);
    }

private slots:
    // R. Bridson, "Fast Poisson Disk Sampling in Arbitrary Dimensions", SIGGRAPH 2007 sketches: no two samples are nearer than
    // the radius, and none could be added. How dense such a set is: random sequential addition of discs covers 0.547 of the
    // plane (J. Feder, "Random sequential adsorption", J. Theor. Biol. 87, 1980), so 0.547 / (pi r^2 / 4) sites to a unit of
    // area; ours choose among points of a raster, which costs a few percent.
    void sitesKeepApartAndCover()
    {
        constexpr float kSize = 2;
        const Ground ground = detail::groundOf(sheet());
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
        const std::vector<Site> sites = thrown(detail::groundOf(sheet()), kSize);
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
        const Ground ground = detail::groundOf(sheet());
        const Flow flow(ground, {});
        ScatterSettings s;
        s.size = 2.5f, s.rows = 1, s.isMirrored = false;
        std::vector<Vec3f> places;
        for (const Site &site : detail::scatter(ground, flow, {}, {}, s))
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
        QVERIFY2(onLattice > 0.62 * all, qPrintable(QString::number(double(onLattice) / all)));
    }

    void nearestTwoAreAmongThoseLookedAt()
    {
        const Skin skin = tube();
        const Ground ground = detail::groundOf(skin);
        const Flow flow(ground, {});
        const Growth g = rule("pebbles");
        const Progress none;
        const mesh::BlockArray<std::uint8_t> free;
        const detail::GrowInput in{g, ground, flow, {}, free, none};
        const std::vector<Site> sites = in.sites(detail::scaleSites(g));
        std::atomic<int> wrong = 0, seen = 0;
        detail::forEachVertex(
            in, sites, [](const Site &s) { return 1.8f * s.size; },
            [&](std::size_t, std::size_t i, const detail::Spot &spot, std::span<const std::uint32_t> near) {
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
        const std::vector<Site> sites = detail::sitesOf(bare, g, {}, {});
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

    void flowFollowsGuidesAndLimbs()
    {
        const Ground ground = detail::groundOf(sheet());
        Surroundings about;
        about.guides.push_back({{{-20, 0, 0}, {20, 0, 0}}, 2});
        const Flow guided(ground, about);
        for (const float x : {-15.0f, 0.0f, 12.0f}) {
            const Flow::At at = guided.at({x, 0.5f, 0}, {0, 0, 1});
            QVERIFY2(at.along.x > 0.95f, qPrintable(QString::number(double(at.along.x))));
            QVERIFY(at.size > 1.6f);
        }
        const Skin limb = tube();
        Surroundings limbs;
        limbs.limbs.push_back({{0, 0, -25}, {0, 0, 25}, kTube, kTube}); // towards the nose: against the tailward rest
        const Flow flow(detail::groundOf(limb), limbs);
        for (const float turn : {0.0f, 1.3f, 2.6f, 4.0f}) {
            const Vec3f out{std::cos(turn), std::sin(turn), 0};
            QVERIFY(flow.at(out * kTube + Vec3f{0, 0, 5}, out).along.z > 0.97f);
        }
        // A field on a ball has poles (Poincare & Hopf): where all directions meet it says that it is not certain.
        const Flow poles(detail::groundOf(detail::makeSkin(test::sphere(20, 100, 160), false)), {});
        float least = 1;
        for (std::size_t i = 0; i < poles.size(); ++i)
            least = std::min(least, length(poles.along(i)));
        QVERIFY(least < 0.35f);
    }

    // Skin pulled to 1.6 times its length one way: its cells tell which way (the first axis of F F^T of that pull is the pull's),
    // and wrinkles lie across it. Guides go before it, and skin that was not pulled stays as it was.
    void wrinklesLieAcrossTheStretch()
    {
        mesh::PolyMesh even = toPolyMesh(sheet().shown), pulled = even;
        const Vec3f way{std::cos(0.6f), std::sin(0.6f), 0};
        for (Vec3f &p : pulled.positions)
            p += way * (0.6f * dot(p, way));
        const Ground ground = detail::groundOf(detail::makeSkin(pulled, false));
        const Flow flow(ground, {}, 1);
        for (const Vec3f at : {Vec3f{}, Vec3f{15, 5, 0}, Vec3f{-10, 12, 0}})
            QVERIFY(std::abs(dot(flow.at(at, {0, 0, 1}).along, way)) > std::cos(0.07f)); // 4 degrees
        QVERIFY(std::abs(dot(Flow(ground, {}).at({}, {0, 0, 1}).along, way)) < 0.8f);
        const Ground still = detail::groundOf(detail::makeSkin(even, false));
        QVERIFY(Flow(still, {}, 1).at({}, {0, 0, 1}).along == Flow(still, {}).at({}, {0, 0, 1}).along);
        Surroundings guided;
        guided.guides.push_back({{way * -20.0f + Vec3f{0, 8, 0}, way * -20.0f + Vec3f{0, -30, 0}}, 1});
        const Vec3f beside = way * -20.0f;
        QVERIFY(std::abs(Flow(ground, guided, 1).at(beside, {0, 0, 1}).along.y) > 0.9f);

        Growth g = rule("wrinkles");
        for (std::size_t k = 0; k < g.values.size(); ++k) // lines of one kind everywhere
            if (const auto name = g.kind->settings[k].name; name == "stretch")
                g.values[k] = 1;
            else if (name == "fine" || name == "patchy" || name == "age" || name == "branch")
                g.values[k] = 0;
        const Skin skin = grown(detail::makeSkin(pulled, false), g);
        // Half a line's spacing on, heights differ; as far along the line they are alike.
        const std::vector<Vec3f> places = skin.body.flatten();
        const PointGrid grid(places, 0.5f);
        const float far = g.value("size") / 2;
        const Vec3f acrossWay{-way.y, way.x, 0};
        double along = 0, across = 0;
        for (std::size_t v = 0; v < places.size(); v += 7) {
            const auto differs = [&](Vec3f at) {
                float least = 0.3f, height = skin.layers[0].offsets[v].z;
                grid.around(at, least, [&](std::uint32_t j) {
                    if (const float d = length(places[j] - at); d < least)
                        least = d, height = skin.layers[0].offsets[j].z;
                });
                return double(height - skin.layers[0].offsets[v].z);
            };
            if (std::abs(places[v].x) < 15 && std::abs(places[v].y) < 15)
                along += std::pow(differs(places[v] + way * far), 2), across += std::pow(differs(places[v] + acrossWay * far), 2);
        }
        QVERIFY2(along > 5 * across, qPrintable(QStringLiteral("%1 %2").arg(along).arg(across)));
    }

    // What a knit makes by itself, where skin lies slantwise in its cells, is no stretch; a ball drawn out after it was knitted is,
    // told to within 20 degrees of what the knit made besides.
    void aKnitIsNoStretch()
    {
        mesh::PolyMesh ball = field::knitMesh(test::sphere(15, 160, 200), {0.5f, 0})->mesh;
        const auto share = [&](const auto &isRight, const auto &counts) {
            const Ground ground = detail::groundOf(detail::makeSkin(ball, true));
            const Flow plain(ground, {}), stretched(ground, {}, 1);
            std::size_t right = 0, all = 0;
            for (std::size_t i = 0; i < plain.size(); ++i)
                if (counts(plain, i))
                    ++all, right += isRight(normalized(plain.along(i)), normalized(stretched.along(i)));
            return all > 1000 ? double(right) / double(all) : 0;
        };
        const double same = share([](Vec3f a, Vec3f b) { return std::abs(dot(a, b)) > std::cos(0.02f); },
                                  [](const Flow &f, std::size_t i) { return length(f.along(i)) > 0.02f; });
        QVERIFY2(same > 0.95, qPrintable(QString::number(same)));
        for (Vec3f &p : ball.positions)
            p.x *= 2.2f;
        const double drawn = share([](Vec3f, Vec3f b) { return std::abs(b.x) > std::cos(0.35f); },
                                   [](const Flow &f, std::size_t i) { return std::abs(f.normal(i).x) < 0.3f; });
        QVERIFY2(drawn > 0.9, qPrintable(QString::number(drawn)));
    }

    void staysInItsDepth_data()
    {
        QTest::addColumn<QString>("kind");
        for (const GrowthKind &k : detail::growthKinds())
            QTest::newRow(k.name.data()) << QString::fromUtf8(k.name.data(), qsizetype(k.name.size()));
    }
    void staysInItsDepth()
    {
        QFETCH(QString, kind);
        const Skin bare = tube();
        mesh::BlockArray<std::uint8_t> mask(bare.body.size());
        for (std::size_t b = 0; b < mask.blockCount(); ++b)
            for (std::size_t i = 0; i < mask.countIn(b); ++i)
                mask.edit(b)[i] = bare.body.data(b)[i].z > 12 ? 255 : 0;
        Surroundings about;
        about.joints.push_back({{0, 0, 0}, {0, 0, 1}, {0, 1, 0}, kTube});
        about.plane = Vec3f{}, about.planeNormal = Vec3f{1, 0, 0};
        const Growth g = rule(kind.toUtf8(), true);
        const Skin skin = grown(bare, g, about, mask);
        const float depth = g.value("depth");
        float most = 0;
        for (std::size_t v = 0; v < skin.body.size(); ++v) {
            const Vec3f off = skin.layers[0].offsets[v], n = normalized(bare.shown.normals[v].unpack());
            QVERIFY(isFinite(off));
            QVERIFY(length(off) <= depth * 1.001f);
            QVERIFY(length(off - n * dot(off, n)) <= 1e-3f * depth + 1e-6f); // along the normal alone
            if (mask[v] == 255)
                QVERIFY(skin.shown.positions[v] == bare.shown.positions[v]); // masked: bit for bit
            most = std::max(most, length(off));
        }
        QVERIFY2(most > 0.2f * depth, qPrintable(QString::number(double(most))));
        QVERIFY(skin.body.sharesWith(bare.body, 0));

        // The same bits again, on one thread, and others from another seed.
        const ThreadLimit one(1);
        const Skin again = grown(bare, g, about, mask);
        Growth other = g;
        other.seed = 2;
        const Skin different = grown(bare, other, about, mask);
        std::size_t unequal = 0;
        for (std::size_t v = 0; v < skin.body.size(); ++v) {
            QVERIFY(again.layers[0].offsets[v] == skin.layers[0].offsets[v]);
            unequal += !(different.layers[0].offsets[v] == skin.layers[0].offsets[v]);
        }
        QVERIFY(unequal > skin.body.size() / 50);
    }

    void bothSidesAlike_data()
    {
        QTest::addColumn<QString>("kind");
        for (const char *kind : {"pebbles", "scales", "shields", "pores", "veins", "wrinkles", "cracks"})
            QTest::newRow(kind) << QString::fromUtf8(kind);
    }
    void bothSidesAlike()
    {
        QFETCH(QString, kind);
        const Skin bare = detail::makeSkin(test::sphere(15, 160, 240), false); // its vertices have exact twins
        Surroundings about;
        about.plane = Vec3f{}, about.planeNormal = Vec3f{1, 0, 0};
        const Skin skin = grown(bare, rule(kind.toUtf8(), true), about);
        std::vector<Vec3f> places = bare.body.flatten();
        const PointGrid grid(places, 0.1f);
        double off = 0, all = 0;
        for (std::size_t v = 0; v < places.size(); ++v) {
            std::uint32_t twin = kNone;
            grid.around(mirrored(places[v]), 1e-3f, [&](std::uint32_t j) { twin = j; });
            QVERIFY(twin != kNone);
            const Vec3f a = skin.layers[0].offsets[v], b = mirrored(skin.layers[0].offsets[twin]);
            off += double(length(a - b)), all += double(length(a));
        }
        QVERIFY2(off < 0.0012 * all, qPrintable(QString::number(off / all)));
    }

    void ridgesHaveTheirSpacing()
    {
        Growth g = rule("ridges");
        g.values[0] = 3; // mm from ridge to ridge
        const Skin skin = grown(sheet(), g);
        // Power of the heights along the flow at each number of waves over the sheet; the strongest is the spacing that was asked for.
        int best = 0;
        double most = 0;
        for (int k = 5; k < 60; ++k) {
            std::complex<double> f = 0;
            double power = 0;
            for (const float x : {-20.0f, -10.0f, 0.0f, 10.0f, 20.0f}) {
                f = 0;
                for (std::size_t v = 0; v < skin.body.size(); ++v)
                    if (std::abs(skin.body[v].x - x) < 0.2f)
                        f += double(skin.layers[0].offsets[v].z)
                             * std::polar(1.0, 2 * std::numbers::pi * k * double(skin.body[v].y / kSide));
                power += std::norm(f);
            }
            if (power > most)
                most = power, best = k;
        }
        QVERIFY2(std::abs(best - 20) <= 2, qPrintable(QString::number(best)));
    }

    // A. Lagae, S. Lefebvre, G. Drettakis, P. Dutre, "Procedural noise using sparse Gabor convolution", 2009, section 3: the power
    // spectrum of such noise is that of its kernel, two lobes about plus and minus the wave's frequency, as wide as the
    // envelope's transform is. Ours is (1 - r^2/R^2)^2, whose spectrum has a mean square of 10/3 / R^2 along each axis (by
    // Parseval: the integral of the squared slope over that of the square). The phase alone is kept, and made a profile.
    void linesHaveTheSpectrumOfTheirKernel()
    {
        constexpr float kLine = 3;
        constexpr int kSide1 = 240;
        Growth g = rule("ridges");
        const auto set = [&](std::string_view name, float value) {
            for (std::size_t k = 0; k < g.values.size(); ++k)
                if (g.kind->settings[k].name == name)
                    g.values[k] = value;
        };
        set("size", kLine), set("variation", 0), set("branch", 1), set("length", 1), set("sharp", 0);
        const Skin bare = sheet(kSide1);
        constexpr int kMost = 60;
        std::vector<double> power(std::size_t((2 * kMost + 1) * (kMost + 1)), 0.0);
        for (std::uint32_t seed = 1; seed <= 6; ++seed) {
            g.seed = seed;
            const Skin skin = grown(bare, g);
            // Heights on the lattice, fading towards its border (Hann), then a transform along x and one along y.
            std::vector<std::complex<double>> rows(std::size_t((kSide1 + 1) * (2 * kMost + 1)));
            std::vector<double> height(std::size_t((kSide1 + 1) * (kSide1 + 1)));
            const auto index = [](float v) { return int(std::lround((v / kSide + 0.5f) * kSide1)); };
            for (std::size_t v = 0; v < skin.body.size(); ++v) {
                const int i = index(skin.body[v].x), j = index(skin.body[v].y);
                const auto fade = [](int k) { return 0.5 - 0.5 * std::cos(2 * std::numbers::pi * k / kSide1); };
                height[std::size_t(j * (kSide1 + 1) + i)] = double(skin.layers[0].offsets[v].z) * fade(i) * fade(j);
            }
            const auto turned = [](int k, int at) { return std::polar(1.0, -2 * std::numbers::pi * k * at / kSide1); };
            for (int j = 0; j <= kSide1; ++j)
                for (int k = -kMost; k <= kMost; ++k)
                    for (int i = 0; i <= kSide1; ++i)
                        rows[std::size_t(j * (2 * kMost + 1) + k + kMost)] +=
                            height[std::size_t(j * (kSide1 + 1) + i)] * turned(k, i);
            for (int k = -kMost; k <= kMost; ++k)
                for (int l = 0; l <= kMost; ++l) {
                    std::complex<double> sum = 0;
                    for (int j = 0; j <= kSide1; ++j)
                        sum += rows[std::size_t(j * (2 * kMost + 1) + k + kMost)] * turned(l, j);
                    power[std::size_t(l * (2 * kMost + 1) + k + kMost)] += std::norm(sum);
                }
        }
        // The lobe about the wave, which runs along y (tailward is across x): its middle and its width, in waves per mm.
        double whole = 0, x = 0, y = 0, xx = 0, yy = 0;
        const double wave = 1 / double(kLine), unit = 1 / double(kSide);
        for (int k = -kMost; k <= kMost; ++k)
            for (int l = 0; l <= kMost; ++l) {
                const double p = power[std::size_t(l * (2 * kMost + 1) + k + kMost)], fx = k * unit, fy = l * unit;
                if (std::hypot(fx, fy - wave) > 0.75 * wave)
                    continue;
                whole += p, x += p * fx, y += p * fy, xx += p * fx * fx, yy += p * (fy - wave) * (fy - wave);
            }
        const double reach = 1.5 * 0.97 * double(kLine), width = std::sqrt(10.0 / 3) / reach / (2 * std::numbers::pi);
        const QString found = QStringLiteral("middle %1 %2, widths %3 %4, of the kernel %5")
                                  .arg(x / whole)
                                  .arg(y / whole)
                                  .arg(std::sqrt(xx / whole))
                                  .arg(std::sqrt(yy / whole))
                                  .arg(width);
        qInfo("%s", qPrintable(found));
        QVERIFY2(std::abs(x / whole) < 0.1 * wave && std::abs(y / whole - wave) < 0.1 * wave, qPrintable(found));
        for (const double w : {std::sqrt(xx / whole), std::sqrt(yy / whole)})
            QVERIFY2(w > 0.7 * width && w < 1.5 * width, qPrintable(found));
    }

    // Folds lie across the axis of the joint and are deepest on its inner side.
    void foldsLieAcrossTheJoint()
    {
        const Skin bare = tube();
        Surroundings about;
        about.limbs.push_back({{0, 0, -25}, {0, 0, 25}, kTube, kTube});
        about.joints.push_back({{0, 0, 0}, {0, 0, 1}, {0, 1, 0}, kTube});
        const Skin skin = grown(bare, rule("folds"), about);
        const auto height = [&](std::size_t v) {
            return dot(skin.layers[0].offsets[v], normalized(bare.shown.normals[v].unpack()));
        };
        double along = 0, across = 0, inner = 0, outer = 0, far = 0;
        for (std::size_t b = 0; b < bare.shown.topology->blockCount(); ++b)
            for (const mesh::LocalFace &f : bare.shown.topology->block(b).faces) {
                const std::uint32_t i = bare.shown.topology->vertexOf(b, f.v[0]), j = bare.shown.topology->vertexOf(b, f.v[1]);
                const Vec3f p = bare.body[i], d = normalized(bare.body[j] - p);
                const double slope = std::abs(double(height(j) - height(i)));
                if (std::abs(p.z) < 6)
                    (std::abs(d.z) > 0.8f ? along : std::abs(d.z) < 0.2f ? across : far) += slope * slope;
                (std::abs(p.z) > 22 ? far
                 : p.y > 5          ? inner
                 : p.y < -5         ? outer
                                    : far) += std::abs(p.z) < 12 ? std::abs(double(height(i))) : 0;
            }
        QVERIFY2(along > 4 * across, qPrintable(QStringLiteral("%1 %2").arg(along).arg(across)));
        QVERIFY2(inner > 1.8 * outer, qPrintable(QStringLiteral("%1 %2").arg(inner).arg(outer)));
    }

    // The same seed gives the same pattern in the same place as far as the surface allows: sites stay when it is knitted again.
    void sitesStayWhenKnittedAgain()
    {
        mesh::PolyMesh m = test::sphere(15, 100, 160);
        const auto at = [&](float spacing) {
            const auto knitted = field::knitMesh(m, {spacing, 0});
            const Ground ground = detail::groundOf(detail::makeSkin(knitted->mesh, true));
            return thrown(ground, 3);
        };
        const std::vector<Site> a = at(0.20f), b = at(0.24f);
        int kept = 0;
        for (const Site &s : a)
            kept += std::any_of(b.begin(), b.end(), [&](const Site &o) { return length(o.at - s.at) < 0.6f; });
        QVERIFY2(kept > 0.6 * double(a.size()), qPrintable(QStringLiteral("%1 of %2").arg(kept).arg(a.size())));
    }

    void layersAddUpInAnyOrder()
    {
        Skin s = sheet(120);
        s.layers.emplace_back(s.body.size()).id = 1;
        s.layers.emplace_back(s.body.size()).id = 2;
        QVERIFY(bool(detail::grow(s, 1, rule("pebbles"), {})));
        QVERIFY(bool(detail::grow(s, 2, rule("warts"), {})));
        s.layers[0].strength = 0.5f, s.layers[1].strength = -0.7f;
        std::vector<std::uint32_t> all(s.body.blockCount());
        for (std::uint32_t b = 0; b < all.size(); ++b)
            all[b] = b;
        detail::mixBlocks(s, all);
        for (std::size_t v = 0; v < s.body.size(); v += 11)
            QVERIFY(length(s.shown.positions[v] - (s.body[v] + s.layers[0].offsets[v] * 0.5f - s.layers[1].offsets[v] * 0.7f))
                    < 1e-5f);
        Skin other = s;
        std::swap(other.layers[0], other.layers[1]);
        detail::mixBlocks(other, all);
        Skin off = s;
        off.layers[1].isOn = false;
        detail::mixBlocks(off, all);
        Skin never = s;
        never.layers.pop_back();
        detail::mixBlocks(never, all);
        for (std::size_t v = 0; v < s.body.size(); ++v) {
            QVERIFY(length(other.shown.positions[v] - s.shown.positions[v]) < 1e-5f);
            QVERIFY(off.shown.positions[v] == never.shown.positions[v]);
        }
        // One growth does not stand on another: with the second there, the first grows the same.
        Skin again = s;
        QVERIFY(bool(detail::grow(again, 1, rule("pebbles"), {})));
        for (std::size_t v = 0; v < s.body.size(); ++v)
            QVERIFY(again.layers[0].offsets[v] == s.layers[0].offsets[v]);
    }

    void maskOfALayerShowsWhatItLets()
    {
        Skin s = grown(sheet(120), rule("bumps"));
        std::vector<std::uint8_t> half(s.body.size());
        for (std::size_t v = 0; v < half.size(); ++v)
            half[v] = s.body[v].x < -5 ? 255 : s.body[v].x > 5 ? 0 : 102;
        s.layers[0].mask = mesh::BlockArray<std::uint8_t>(half);
        detail::mixBlocks(s, detail::blocksWith(s.layers[0]));
        for (std::size_t v = 0; v < half.size(); ++v) {
            const Vec3f wanted = s.body[v] + s.layers[0].offsets[v] * (1 - float(half[v]) / 255);
            QVERIFY(half[v] == 255 ? s.shown.positions[v] == s.body[v] : length(s.shown.positions[v] - wanted) < 1e-6f);
        }
        const std::vector<Vec3f> shown = s.shown.positions.flatten();
        applyLayerMask(s.layers[0]);
        detail::mixBlocks(s, detail::blocksWith(s.layers[0]));
        QVERIFY(s.layers[0].mask.isBlank());
        for (std::size_t v = 0; v < half.size(); ++v)
            QVERIFY(length(s.shown.positions[v] - shown[v]) < 1e-6f);
    }

    void oneScaleByHand()
    {
        const Skin bare = sheet(200);
        Growth g = rule("shields");
        const std::vector<Site> sites = detail::sitesOf(bare, g, {}, {});
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

    void stoppedLeavesTheSkin()
    {
        Skin s = grown(sheet(120), rule("pebbles"));
        const std::vector<Vec3f> before = s.shown.positions.flatten();
        std::stop_source source;
        source.request_stop();
        Progress progress;
        progress.stop = source.get_token();
        Growth other = rule("pebbles");
        other.seed = 9;
        QVERIFY(!detail::grow(s, 1, other, {}, progress));
        QCOMPARE(s.layers[0].growth->seed, 1u);
        for (std::size_t v = 0; v < before.size(); ++v)
            QVERIFY(s.shown.positions[v] == before[v]);
    }
};

QTEST_GUILESS_MAIN(TestGrowth)
#include "tst_growth.moc"
