// Growths: where sites fall, which way they lie, and what is made of them.
#include "support/run.h"
#include "base/parallel.h"
#include "growth/grow_input.h"
#include "support/skins.h"

#include <QtTest>

#include <complex>
#include <numbers>

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

class TestGrowth : public QObject
{
    Q_OBJECT

private slots:
    void flowFollowsGuidesAndLimbs()
    {
        const Ground ground = growth::groundOf(sheet());
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
        const Flow flow(growth::groundOf(limb), limbs);
        for (const float turn : {0.0f, 1.3f, 2.6f, 4.0f}) {
            const Vec3f out{std::cos(turn), std::sin(turn), 0};
            QVERIFY(flow.at(out * kTube + Vec3f{0, 0, 5}, out).along.z > 0.97f);
        }
        // A field on a ball has poles (Poincare & Hopf): where all directions meet it says that it is not certain.
        const Flow poles(growth::groundOf(skin::makeSkin(test::sphere(20, 100, 160), false)), {});
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
        const Ground ground = growth::groundOf(skin::makeSkin(pulled, false));
        const Flow flow(ground, {}, 1);
        for (const Vec3f at : {Vec3f{}, Vec3f{15, 5, 0}, Vec3f{-10, 12, 0}})
            QVERIFY(std::abs(dot(flow.at(at, {0, 0, 1}).along, way)) > std::cos(0.07f)); // 4 degrees
        QVERIFY(std::abs(dot(Flow(ground, {}).at({}, {0, 0, 1}).along, way)) < 0.8f);
        const Ground still = growth::groundOf(skin::makeSkin(even, false));
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
        const Skin skin = grown(skin::makeSkin(pulled, false), g);
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
            const Ground ground = growth::groundOf(skin::makeSkin(ball, true));
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
        for (const GrowthKind &k : growth::growthKinds())
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
        const Skin bare = skin::makeSkin(test::sphere(15, 160, 240), false); // its vertices have exact twins
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

    void layersAddUpInAnyOrder()
    {
        Skin s = sheet(120);
        s.layers.emplace_back(s.body.size()).id = 1;
        s.layers.emplace_back(s.body.size()).id = 2;
        QVERIFY(bool(growth::grow(s, 1, rule("pebbles"), {})));
        QVERIFY(bool(growth::grow(s, 2, rule("warts"), {})));
        s.layers[0].strength = 0.5f, s.layers[1].strength = -0.7f;
        std::vector<std::uint32_t> all(s.body.blockCount());
        for (std::uint32_t b = 0; b < all.size(); ++b)
            all[b] = b;
        skin::mixBlocks(s, all);
        for (std::size_t v = 0; v < s.body.size(); v += 11)
            QVERIFY(length(s.shown.positions[v] - (s.body[v] + s.layers[0].offsets[v] * 0.5f - s.layers[1].offsets[v] * 0.7f))
                    < 1e-5f);
        Skin other = s;
        std::swap(other.layers[0], other.layers[1]);
        skin::mixBlocks(other, all);
        Skin off = s;
        off.layers[1].isOn = false;
        skin::mixBlocks(off, all);
        Skin never = s;
        never.layers.pop_back();
        skin::mixBlocks(never, all);
        for (std::size_t v = 0; v < s.body.size(); ++v) {
            QVERIFY(length(other.shown.positions[v] - s.shown.positions[v]) < 1e-5f);
            QVERIFY(off.shown.positions[v] == never.shown.positions[v]);
        }
        // One growth does not stand on another: with the second there, the first grows the same.
        Skin again = s;
        QVERIFY(bool(growth::grow(again, 1, rule("pebbles"), {})));
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
        skin::mixBlocks(s, skin::blocksWith(s.layers[0]));
        for (std::size_t v = 0; v < half.size(); ++v) {
            const Vec3f wanted = s.body[v] + s.layers[0].offsets[v] * (1 - float(half[v]) / 255);
            QVERIFY(half[v] == 255 ? s.shown.positions[v] == s.body[v] : length(s.shown.positions[v] - wanted) < 1e-6f);
        }
        const std::vector<Vec3f> shown = s.shown.positions.flatten();
        applyLayerMask(s.layers[0]);
        skin::mixBlocks(s, skin::blocksWith(s.layers[0]));
        QVERIFY(s.layers[0].mask.isBlank());
        for (std::size_t v = 0; v < half.size(); ++v)
            QVERIFY(length(s.shown.positions[v] - shown[v]) < 1e-6f);
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
        QVERIFY(!growth::grow(s, 1, other, {}, progress));
        QCOMPARE(s.layers[0].growth->seed, 1u);
        for (std::size_t v = 0; v < before.size(); ++v)
            QVERIFY(s.shown.positions[v] == before[v]);
    }
};

BONEMOSS_TEST(TestGrowth)
#include "tst_growth.moc"
