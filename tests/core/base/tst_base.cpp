#include "base/parallel.h"
#include "base/point_grid.h"
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
    // Who is near: against asking every point, on both sides of the middle, for reaches below and above the cells' size.
    void gridFindsWhoIsNear()
    {
        std::vector<Vec3f> points;
        for (std::uint64_t i = 0; i < 4000; ++i)
            points.push_back({50 * randomSigned(3, 3 * i), 20 * randomSigned(3, 3 * i + 1), 8 * randomSigned(3, 3 * i + 2)});
        points.push_back(points[7]); // twice in one place
        const PointGrid grid(points, 2.5f);
        for (std::uint64_t k = 0; k < 200; ++k) {
            const Vec3f at{55 * randomSigned(4, 3 * k), 22 * randomSigned(4, 3 * k + 1), 9 * randomSigned(4, 3 * k + 2)};
            const float reach = 0.2f + 9 * randomUnit(5, k);
            std::vector<std::uint32_t> found, expected;
            grid.around(at, reach, [&](std::uint32_t i) { found.push_back(i); });
            for (std::uint32_t i = 0; i < points.size(); ++i)
                if (squaredLength(points[i] - at) <= reach * reach)
                    expected.push_back(i);
            std::sort(found.begin(), found.end());
            QCOMPARE(found, expected); // each once
        }
        std::size_t none = 0;
        PointGrid().around({}, 1, [&](std::uint32_t) { ++none; });
        PointGrid(std::span<const Vec3f>(), 1).around({}, 1, [&](std::uint32_t) { ++none; });
        PointGrid(std::span<const Vec3f>(), 0).around({}, 1e6f, [&](std::uint32_t) { ++none; });
        QCOMPARE(none, std::size_t(0));
        std::size_t all = 0; // however far it is asked for in however small cells
        PointGrid(points, 1e-4f).around({}, 1e9f, [&](std::uint32_t) { ++all; });
        QCOMPARE(all, points.size());
    }
};

QTEST_APPLESS_MAIN(TestBase)
#include "tst_base.moc"
