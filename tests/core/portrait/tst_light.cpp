// What light does: on surfaces, in hair, from lamps and from all around. Oracles: energy (a white surface in even light is as bright as
// the light: the white furnace); sums over the sphere by plain quadrature; Snell's law and Fresnel's equations at textbook values
// (E. Hecht, "Optics", section 4.6: 4.2 % of glass of 1.5 straight on is 4 %, Brewster's angle); view factors of a sphere and of a
// square (J. Howell, "A catalog of radiation heat transfer configuration factors", B-1 and A-19's special case, sums by quadrature
// here); colours of black bodies beside CIE daylight white (a value from memory).
#include "base/random.h"
#include "portrait/environment.h"
#include "portrait/lamps.h"
#include "portrait/sampler.h"
#include "portrait/surface_light.h"
#include "support/run.h"

#include <QtTest>

#include <cmath>

using namespace bonemoss;
using namespace bonemoss::portrait;

namespace {

Vec3f lightDirection(float theta, float phi)
{
    return {std::sin(theta) * std::cos(phi), std::sin(theta) * std::sin(phi), std::cos(theta)};
}

/// Sum over directions by midpoints: over the half-sphere about +z, or all of it.
template <typename Use> double overSphere(bool isHalf, const Use &use)
{
    constexpr int kTheta = 600, kPhi = 400;
    const double top = isHalf ? double(kPi) / 2 : double(kPi);
    double sum = 0;
    for (int t = 0; t < kTheta; ++t)
        for (int p = 0; p < kPhi; ++p) {
            const double theta = (t + 0.5) * top / kTheta;
            sum += double(use(lightDirection(float(theta), float((p + 0.5) * 2 * double(kPi) / kPhi)))) * std::sin(theta)
                   * (top / kTheta) * (2 * double(kPi) / kPhi);
        }
    return sum;
}

FinishValues finishOf(float gloss, float metal, float wet)
{
    return {gloss, metal, wet, 0, 0};
}

} // namespace

class TestLight : public QObject
{
    Q_OBJECT
private slots:
    /// White in a furnace: by sampling, what comes back is what is sent.
    void furnace_data()
    {
        QTest::addColumn<float>("gloss");
        QTest::addColumn<float>("metal");
        QTest::addColumn<float>("wet");
        for (const float gloss : {0.0f, 0.3f, 0.6f, 1.0f})
            for (const float metal : {0.0f, 0.5f, 1.0f})
                for (const float wet : {0.0f, 1.0f})
                    QTest::addRow("gloss %.1f metal %.1f wet %.1f", double(gloss), double(metal), double(wet))
                        << gloss << metal << wet;
    }
    void furnace()
    {
        QFETCH(float, gloss);
        QFETCH(float, metal);
        QFETCH(float, wet);
        const SurfaceLight light({1, 1, 1}, finishOf(gloss, metal, wet));
        for (const float theta : {0.05f, 0.7f, 1.2f}) {
            const Vec3f out = lightDirection(theta, 0.4f);
            double sum = 0;
            constexpr int kSamples = 20000;
            for (int k = 0; k < kSamples; ++k) {
                Sampler s(1, 2, std::uint32_t(k), 3);
                const float which = s.one();
                const auto found = light.sample(out, which, s.pair());
                sum += found.density > 0 ? double(luminance(found.weight)) : 0;
            }
            // One lobe's compensation is for its own roughness; where lobes lie over one another 3 % are left to them.
            QVERIFY2(std::abs(sum / kSamples - 1) < 0.03, qPrintable(QString::number(sum / kSamples)));
        }
    }
    void valuesAreWhatIsSampled()
    {
        const SurfaceLight light({0.7f, 0.4f, 0.2f}, finishOf(0.4f, 0.2f, 0.5f));
        const Vec3f out = lightDirection(0.8f, 1);
        // Of the coat a narrow peak is not met by plain midpoints: of gloss alone.
        const SurfaceLight plain({0.7f, 0.4f, 0.2f}, finishOf(0.3f, 0.3f, 0));
        const double found = overSphere(true, [&](Vec3f d) { return plain.density(out, d); });
        QVERIFY2(found < 1.005 && found > 0.9, qPrintable(QString::number(found))); // the rest is mirrored into the surface
        const double all = overSphere(true, [&](Vec3f d) { return plain.value(out, d).x; });
        double sum = 0;
        for (std::uint32_t k = 0; k < 20000; ++k) {
            Sampler s(4, 5, k, 6);
            const float which = s.one();
            const auto one = plain.sample(out, which, s.pair());
            sum += one.density > 0 ? double(one.weight.x) / 20000 : 0;
        }
        QVERIFY2(std::abs(sum - all) < 0.01 * all, qPrintable(QStringLiteral("%1 %2").arg(sum).arg(all)));
        // Nobody gives back more than there is, and nothing comes from below.
        QVERIFY(light.value(out, {0, 0, -1}) == Vec3f{});
    }
    void fresnelOfGlass()
    {
        QVERIFY(std::abs(fresnel(1, 1.5f) - 0.04f) < 1e-4f);
        QVERIFY(std::abs(fresnel(0, 1.5f) - 1) < 1e-4f);
        const float brewster = std::atan(1.5f); // there the parallel part is gone: half of the other is left
        const float s = std::sin(brewster - std::asin(std::sin(brewster) / 1.5f));
        QVERIFY(std::abs(fresnel(std::cos(brewster), 1.5f) - s * s / 2) < 1e-4f);
        QCOMPARE(fresnel(std::cos(0.9f), 1 / 1.5f), 1.0f); // beyond the critical angle of 41.8 degrees
    }
    void hairKeepsEnergy()
    {
        for (const float across : {-0.9f, -0.3f, 0.0f, 0.6f})
            for (const float theta : {0.3f, 1.2f}) {
                const HairLight white({0.995f, 0.995f, 0.995f}, across);
                const Vec3f out = lightDirection(theta, 0.3f);
                double sum = 0;
                constexpr int kSamples = 12000;
                for (int k = 0; k < kSamples; ++k) {
                    Sampler s(7, 8, std::uint32_t(k), 9);
                    const auto u = s.pair(), v = s.pair();
                    const auto found = white.sample(out, u, v);
                    sum += found.density > 0 ? double(found.weight.x) / kSamples : 0;
                }
                QVERIFY2(sum < 1.02 && sum > 0.9, qPrintable(QString::number(sum)));
                // The density is one, and even directions find the same light.
                QVERIFY(std::abs(overSphere(false, [&](Vec3f d) { return white.density(out, d); }) - 1) < 0.03);
                const HairLight brown({0.3f, 0.2f, 0.1f}, across);
                const double even = overSphere(false, [&](Vec3f d) { return brown.value(out, d).x; });
                double found = 0;
                for (int k = 0; k < kSamples; ++k) {
                    Sampler s(9, 8, std::uint32_t(k), 9);
                    const auto u = s.pair(), v = s.pair();
                    const auto one = brown.sample(out, u, v);
                    found += one.density > 0 ? double(one.weight.x) / kSamples : 0;
                }
                QVERIFY2(std::abs(found - even) < 0.05 * even, qPrintable(QStringLiteral("%1 %2").arg(found).arg(even)));
            }
    }
    /// What lights give is what they are said to give, on a small surface that faces them: near and far, small and large.
    void lampsGiveWhatTheySay()
    {
        for (const Light::Shape shape : {Light::Shape::Ball, Light::Shape::Window, Light::Shape::Sun})
            for (const float size : {5.0f, 120.0f}) {
                Light l{
                    .shape = shape, .azimuth = 30, .elevation = 25, .distance = 100, .size = size, .strength = 0.7f, .kelvin = 0};
                if (shape == Light::Shape::Sun)
                    l.size = size / 10;
                const Lamp lamp = lampOf(l, {1, 2, 3}, {});
                const Vec3f n = directionOf(30, 25);
                double sum = 0, same = 0;
                constexpr int kSamples = 20000;
                for (int k = 0; k < kSamples; ++k) {
                    Sampler s(1, 1, std::uint32_t(k), 1);
                    const Lamp::Sample one = lamp.sample({1, 2, 3}, s.pair());
                    if (one.density <= 0)
                        continue;
                    sum += double(std::max(0.0f, dot(one.direction, n)) / one.density * lamp.radiance.x) / kSamples;
                    const auto met = lamp.meet({1, 2, 3}, one.direction);
                    same += met && std::abs(met->density / one.density - 1) < 2e-3f
                            && std::abs(met->distance / one.distance - 1) < 1e-3f;
                }
                QVERIFY2(std::abs(sum / (0.7 * double(kPi)) - 1) < 0.01, qPrintable(QString::number(sum)));
                QVERIFY(same > 0.97 * kSamples); // of rays that graze its rim some miss
            }
        Light l{.goesWithCamera = true, .azimuth = 0, .elevation = 0, .distance = 10, .size = 1};
        Camera left;
        left.rotation = *viewRotation("left");
        QVERIFY(length(directionTo(l, left) - Vec3f{1, 0, 0}) < 1e-5f);
        standIn(l, normalized(Vec3f{1, 1, 0.2f}), left);
        QVERIFY(length(directionTo(l, left) - normalized(Vec3f{1, 1, 0.2f})) < 1e-5f);
    }
    void surroundingsAreSampledAsTheyAre()
    {
        Surroundings s{.kind = Surroundings::Kind::Sky, .sunHeight = 30, .haze = 4, .rotation = 40, .strength = 1};
        const auto sky = Environment::from(s);
        QVERIFY(bool(sky));
        double even = overSphere(false, [&](Vec3f d) { return luminance(sky->radiance({d.x, d.z, d.y})); }), asked = 0;
        constexpr int kSamples = 40000;
        for (int k = 0; k < kSamples; ++k) {
            Sampler r(3, 1, std::uint32_t(k), 1);
            const auto one = sky->sample(r.pair());
            asked += double(luminance(one.radiance) / one.density) / kSamples;
        }
        QVERIFY2(std::abs(asked / even - 1) < 0.01, qPrintable(QStringLiteral("%1 %2").arg(asked).arg(even)));
        QVERIFY(std::abs(overSphere(false, [&](Vec3f d) { return sky->density({d.x, d.z, d.y}); }) - 1) < 0.01);
        // Brightest about the sun; bluer away from it.
        const Vec3f sun = directionOf(40, 30), away = directionOf(220, 40);
        const Vec3f a = sky->radiance(sun), b = sky->radiance(away);
        QVERIFY(luminance(a) > 2 * luminance(b) && b.z / b.x > a.z / a.x);
        // One bright texel of a table is what is asked for.
        std::vector<Vec3f> dark(64 * 32, {0.01f, 0.01f, 0.01f});
        dark[10 * 64 + 20] = {1000, 1000, 1000};
        const Environment spot(64, 32, dark);
        int hits = 0;
        for (std::uint32_t k = 0; k < 1000; ++k) {
            Sampler r(3, 1, k, 2);
            hits += luminance(spot.sample(r.pair()).radiance) > 100;
        }
        QVERIFY(hits > 900);
    }
    void blackBodies()
    {
        const Vec3f candle = blackBody(1900), white = blackBody(6500), blue = blackBody(15000);
        QVERIFY(candle.x == 1 && candle.y < 0.5f && candle.z < 0.1f);
        QVERIFY(std::min({white.x, white.y, white.z}) > 0.9f);
        QVERIFY(blue.z == 1 && blue.x < 0.65f);
    }
    void numbersAreEven()
    {
        // The first 256 of a pixel: one in each cell of every grid of 256 cells (a (0, 8, 2)-net: H. Niederreiter 1992).
        for (const int across : {16, 4, 64}) {
            std::vector<int> cells(256, 0);
            for (std::uint32_t k = 0; k < 256; ++k) {
                const auto [a, b] = Sampler(5, 6, k, 7).pair();
                ++cells[std::size_t(int(a * float(across)) + across * int(b * float(256 / across)))];
            }
            QVERIFY(std::all_of(cells.begin(), cells.end(), [](int n) { return n == 1; }));
        }
        QVERIFY(Sampler(5, 6, 0, 7).pair() != Sampler(6, 6, 0, 7).pair());
        QVERIFY(Sampler(5, 6, 0, 7).pair() == Sampler(5, 6, 0, 7).pair());
    }
};

BONEMOSS_TEST(TestLight)
#include "tst_light.moc"
