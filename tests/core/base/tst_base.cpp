#include "support/run.h"
#include "base/large_pages.h"
#include "base/parallel.h"
#include "base/point_grid.h"
#include "base/random.h"
#include "base/space_map.h"
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
        QVERIFY(length(back.translation - whole.translation) < 1e-4f);
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
    // What an allocator promises (ISO C++ 2020, 16.4.4.6.1): aligned, apart from each other, kept until given back; here
    // with many sizes, taken and given back in no order by several threads at once.
    void arraysInLargePagesStayApart()
    {
        const std::size_t before = pagedBytesInUse();
        const std::array<std::size_t, 9> sizes = {1, 4095, 4096, 4097, 12288, 49152, 65536, 131072, 131073};
        std::array<std::atomic<int>, 4> wrong{};
        forEachBlock(wrong.size(), 1, [&](BlockRange thread) {
            struct Array {
                std::uint8_t *at;
                std::size_t bytes;
                std::uint8_t mark;
            };
            std::vector<Array> held;
            const auto give = [&](std::size_t i) {
                const Array a = held[i];
                wrong[thread.begin] += std::count(a.at, a.at + a.bytes, a.mark) != std::ptrdiff_t(a.bytes);
                givePaged(a.at, a.bytes);
                held[i] = held.back();
                held.pop_back();
            };
            for (std::uint64_t k = 0; k < 3000; ++k) {
                const std::uint64_t draw = randomBits(thread.begin, k);
                if (held.size() < 300 && (held.empty() || draw % 5 < 3)) {
                    const std::size_t bytes = sizes[draw / 8 % sizes.size()];
                    auto *at = static_cast<std::uint8_t *>(takePaged(bytes));
                    wrong[thread.begin] += reinterpret_cast<std::uintptr_t>(at) % 16 != 0;
                    held.push_back({at, bytes, std::uint8_t(draw >> 32)});
                    std::fill_n(at, bytes, held.back().mark);
                } else {
                    give(draw / 8 % held.size());
                }
            }
            while (!held.empty())
                give(held.size() - 1);
        });
        for (const auto &w : wrong)
            QCOMPARE(w.load(), 0);
        QCOMPARE(pagedBytesInUse(), before);
        QVERIFY_EXCEPTION_THROWN(static_cast<void>(LargePages<int>().allocate(std::size_t(-1) / 2)), std::bad_alloc);
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
    // Barr 1984: a twist and a stretch keep the volume, a taper scales it by the square of the thickness, a bend keeps the axis'
    // length. What the map says of its own turn and sizes is compared to differences of places close by.
    void spaceIsChangedAsSaid_data()
    {
        QTest::addColumn<int>("kind");
        QTest::addColumn<float>("amount");
        for (const float amount : {0.5f, -1.2f, 3.0f}) {
            QTest::addRow("bend %g", double(amount)) << int(SpaceMapKind::Bend) << amount;
            QTest::addRow("twist %g", double(amount)) << int(SpaceMapKind::Twist) << amount;
        }
        for (const float amount : {0.4f, 1.0f, 1.7f}) {
            QTest::addRow("taper %g", double(amount)) << int(SpaceMapKind::Taper) << amount;
            QTest::addRow("stretch %g", double(amount)) << int(SpaceMapKind::Stretch) << amount;
        }
    }
    void spaceIsChangedAsSaid()
    {
        QFETCH(int, kind);
        QFETCH(float, amount);
        SpaceMap map;
        map.kind = SpaceMapKind(kind), map.a = {3, -2, 1}, map.b = {7, 18, 9}, map.side = {1, 0.2f, 0}, map.amount = amount;
        const float whole = length(map.b - map.a);
        const Vec3f axis = normalized(map.b - map.a), out = normalized(cross(axis, {0.3f, 0.1f, 1})), beside = cross(axis, out);
        const auto place = [&](float along, float off, float angle) {
            return map.a + axis * (along * whole) + (out * std::cos(angle) + beside * std::sin(angle)) * off;
        };
        for (std::uint64_t k = 0; k < 60; ++k) {
            // Before a nothing happens; the axis is kept in length by all but a stretch.
            const Vec3f before = place(-0.1f - randomUnit(1, k), 4 * randomUnit(2, k), 6 * randomUnit(3, k));
            if (SpaceMapKind(kind) != SpaceMapKind::Stretch)
                QVERIFY(length(map.at(before).at - before) < 1e-4f);
            const Vec3f p = place(0.15f + 0.7f * randomUnit(4, k), 3 * randomUnit(5, k), 6 * randomUnit(6, k));
            const SpaceMap::Local here = map.at(p);
            const float step = 0.01f;
            const auto change = [&](Vec3f way) {
                return (map.at(p + way * step).at - map.at(p - way * step).at) * (0.5f / step);
            };
            const Vec3f x = change(axis), y = change(out), z = change(beside);
            const float volume = dot(x, cross(y, z));
            const float foot = dot(p - map.a, axis) / whole;
            if (SpaceMapKind(kind) == SpaceMapKind::Twist)
                QVERIFY(std::abs(volume - 1) < 0.01f);
            if (SpaceMapKind(kind) == SpaceMapKind::Stretch)
                QVERIFY(std::abs(volume - 1) < 0.02f);
            if (SpaceMapKind(kind) == SpaceMapKind::Taper)
                QVERIFY(std::abs(volume - std::pow(1 + (amount - 1) * foot, 2.0f)) < 0.02f);
            // Across the axis things turn and grow as told.
            QVERIFY(length(y - rotate(here.rotation, out) * here.across) < 0.02f);
            QVERIFY(length(z - rotate(here.rotation, beside) * here.across) < 0.02f);
        }
        float was = 0, is = 0;
        for (int i = 0; i < 200; ++i) {
            const Vec3f p = place(float(i) / 200, 0, 0), q = place(float(i + 1) / 200, 0, 0);
            was += length(q - p), is += length(map.at(q).at - map.at(p).at);
        }
        QVERIFY(std::abs(is / was - (SpaceMapKind(kind) == SpaceMapKind::Stretch ? amount : 1)) < 1e-3f);
        // At b and beyond all of it has happened: a frame there is turned by the whole angle and moves as one body.
        const SpaceMap::Local end = map.at(place(1.2f, 1, 0)), farther = map.at(place(1.9f, 1, 2));
        if (SpaceMapKind(kind) == SpaceMapKind::Bend || SpaceMapKind(kind) == SpaceMapKind::Twist) {
            QVERIFY(std::abs(2 * std::acos(std::min(1.0f, std::abs(end.rotation.w))) - std::abs(amount)) < 1e-3f);
            QVERIFY(std::abs(length(farther.at - end.at) - length(place(1.9f, 1, 2) - place(1.2f, 1, 0))) < 1e-3f);
        }
        // Without a length there is nothing to do.
        map.b = map.a;
        QVERIFY(map.at({5, 6, 7}).at == (Vec3f{5, 6, 7}));
    }
};

BONEMOSS_TEST(TestBase)
#include "tst_base.moc"
