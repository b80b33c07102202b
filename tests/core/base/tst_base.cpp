#include "base/parallel.h"
#include "base/random.h"
#include "base/types.h"

#include <QtTest>

using namespace bonemoss;

class TestBase : public QObject
{
    Q_OBJECT
private slots:
    // Rotation about z by 90 degrees takes x to y: definition of the right-handed turn.
    void eulerTurnsRightHanded()
    {
        const Vec3f p = rotate(fromEulerDeg({0, 0, 90}), {1, 0, 0});
        QVERIFY(length(p - Vec3f{0, 1, 0}) < 1e-6f);
    }
    void eulerRoundTrip_data()
    {
        QTest::addColumn<float>("x");
        QTest::addColumn<float>("y");
        QTest::addColumn<float>("z");
        QTest::newRow("plain") << 10.0f << 20.0f << 30.0f;
        QTest::newRow("large") << -170.0f << 80.0f << 175.0f;
        QTest::newRow("pole") << 0.0f << 90.0f << 40.0f;
    }
    void eulerRoundTrip()
    {
        QFETCH(float, x);
        QFETCH(float, y);
        QFETCH(float, z);
        const Quat a = fromEulerDeg({x, y, z}), b = fromEulerDeg(toEulerDeg(a));
        QVERIFY(std::abs(std::abs(a.x * b.x + a.y * b.y + a.z * b.z + a.w * b.w) - 1) < 1e-4f); // the same turn, maybe negated
    }
    void relativePlaceComposesBack()
    {
        const Transform parent{{1, 2, 3}, fromEulerDeg({20, -30, 50}), {2, 2, 2}},
            whole{{-4, 7, 9}, fromEulerDeg({5, 6, 7}), {3, 1, 2}};
        const Transform back = compose(parent, relativeTo(parent, whole));
        QVERIFY(length(back.move - whole.move) < 1e-4f);
        QVERIFY(length(back.scale - whole.scale) < 1e-5f);
        QVERIFY(length(back.apply({1, 2, 3}) - whole.apply({1, 2, 3})) < 1e-3f);
    }
    // Mean 1/2 and variance 1/12 of the uniform distribution (standard tables), within 5 sigma of n draws.
    void randomIsEven()
    {
        constexpr int n = 100000;
        double mean = 0, square = 0;
        for (int i = 0; i < n; ++i) {
            const double v = double(randomUnit(3, std::uint64_t(i)));
            mean += v / n, square += v * v / n;
        }
        QVERIFY(std::abs(mean - 0.5) < 5 * std::sqrt(1.0 / 12 / n));
        QVERIFY(std::abs(square - mean * mean - 1.0 / 12) < 0.002);
    }
    void sumHasSameBitsOnAnyThreadCount()
    {
        const auto sum = [] {
            return sumBlocks<float>(100000, 1000, [](BlockRange r) {
                float s = 0;
                for (std::size_t i = r.begin; i < r.end; ++i)
                    s += randomUnit(1, i);
                return s;
            });
        };
        const float all = sum();
        const ThreadLimit one(1);
        QCOMPARE(sum(), all);
    }
    void loopStopsOnRequest()
    {
        std::stop_source stop;
        stop.request_stop();
        int ran = 0;
        QVERIFY(!forEachBlock(10, 1, stop.get_token(), [&](BlockRange) { ++ran; }));
        QCOMPARE(ran, 0);
    }
};

QTEST_APPLESS_MAIN(TestBase)
#include "tst_base.moc"
