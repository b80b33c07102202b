// Oracle: volumes, areas and centres of solids from standard mathematical tables (Bronstein & Semendjajew,
// "Handbook of Mathematics", section on stereometry; quoted from memory). A polyhedron inscribed in a smooth
// solid falls short by O(1/n^2); tolerances are that order times a small factor.
#include "mesh/measures.h"
#include "mesh/surface.h"
#include "support/shapes.h"

#include <QtTest>

#include <numbers>

using namespace bonemoss;

class TestMeasures : public QObject
{
    Q_OBJECT
private slots:
    void solids_data()
    {
        QTest::addColumn<int>("kind");
        QTest::addColumn<double>("volume");
        QTest::addColumn<double>("area");
        QTest::addColumn<int>("genus");
        const double pi = std::numbers::pi;
        QTest::newRow("ball of radius 10") << 0 << 4.0 / 3 * pi * 1000 << 4 * pi * 100 << 0;
        QTest::newRow("torus 20, 5") << 1 << 2 * pi * pi * 20 * 25 << 4 * pi * pi * 100 << 1;
        QTest::newRow("box 2 x 3 x 4") << 2 << 24.0 << 52.0 << 0;
        QTest::newRow("ellipsoid 30, 20, 10") << 3 << 4.0 / 3 * pi * 6000 << 0.0 << 0;
    }
    void solids()
    {
        QFETCH(int, kind);
        QFETCH(double, volume);
        QFETCH(double, area);
        QFETCH(int, genus);
        mesh::PolyMesh m = kind == 0   ? test::sphere(10, 128, 256)
                           : kind == 1 ? test::torus(20, 5, 256, 128)
                           : kind == 2 ? test::box({0, 0, 0}, {2, 3, 4})
                                       : test::sphere(1, 128, 256);
        if (kind == 3)
            for (Vec3f &p : m.positions)
                p = p * Vec3f{30, 20, 10};
        const mesh::Measures r = mesh::measure(m);
        QVERIFY(r.closed);
        QCOMPARE(int(r.genus), genus);
        QCOMPARE(r.components, std::size_t(1));
        QVERIFY2(std::abs(r.volumeMm3 / volume - 1) < 1e-3, qPrintable(QString::number(r.volumeMm3)));
        if (area > 0)
            QVERIFY2(std::abs(r.areaMm2 / area - 1) < 1e-3, qPrintable(QString::number(r.areaMm2)));
    }
    // Centre of mass of a box is its middle wherever it stands: the sums must not lose digits far away.
    void centreFarFromOrigin()
    {
        const mesh::Measures r = mesh::measure(test::box({10000, 5, -3000}, {10002, 8, -2996}));
        QVERIFY(std::abs(r.centreOfMassMm[0] - 10001) < 1e-2);
        QVERIFY(std::abs(r.centreOfMassMm[1] - 6.5) < 1e-2);
        QVERIFY(std::abs(r.volumeMm3 - 24) < 0.1);
    }
    void openAndFlippedAreSeen()
    {
        mesh::PolyMesh m = test::box({0, 0, 0}, {1, 1, 1});
        m.faces.pop_back();
        mesh::Measures r = mesh::measure(m);
        QCOMPARE(r.boundaryEdges, std::size_t(4));
        QVERIFY(!r.closed);
        m = test::box({0, 0, 0}, {1, 1, 1});
        std::swap(m.faces[0].v[1], m.faces[0].v[3]);
        r = mesh::measure(m);
        QCOMPARE(r.flippedEdges, std::size_t(4));
        QVERIFY(!r.closed);
    }
    void edgeOfThreeFaces()
    {
        mesh::PolyMesh m = test::box({0, 0, 0}, {1, 1, 1});
        m.positions.push_back({-1, -1, 0.5f});
        m.faces.push_back({{0, 4, 8, kNone}});
        QCOMPARE(mesh::measure(m).nonManifoldEdges, std::size_t(1));
    }
    void twoIslands()
    {
        mesh::PolyMesh m = test::box({0, 0, 0}, {1, 1, 1});
        const mesh::PolyMesh b = test::box({5, 0, 0}, {6, 1, 1});
        for (const Vec3f p : b.positions)
            m.positions.push_back(p);
        for (mesh::Face f : b.faces) {
            for (std::uint32_t &v : f.v)
                v += 8;
            m.faces.push_back(f);
        }
        const mesh::Measures r = mesh::measure(m);
        QCOMPARE(r.components, std::size_t(2));
        QCOMPARE(int(r.genus), 0);
    }
    // N. Max 1999: on a sphere the area-weighted normal converges to the radius direction.
    void normalsPointOutOfASphere()
    {
        const mesh::Surface s = mesh::makeSurface(test::sphere(10, 200, 400));
        float worst = 1;
        for (std::size_t i = 0; i < s.positions.size(); ++i)
            worst = std::min(worst, dot(s.normals[i].unpack(), normalized(s.positions[i])));
        QVERIFY2(worst > 0.999f, qPrintable(QString::number(double(worst))));
    }
    void blocksHoldEveryFaceOnce()
    {
        const mesh::PolyMesh m = inSpatialOrder(test::sphere(10, 150, 300));
        const mesh::Surface s = mesh::makeSurface(m);
        QVERIFY(s.positions.blockCount() > 8);
        auto got = s.topology->faces();
        auto want = m.faces;
        const auto less = [](const mesh::Face &a, const mesh::Face &b) { return a.v < b.v; };
        std::sort(got.begin(), got.end(), less);
        std::sort(want.begin(), want.end(), less);
        QVERIFY(got == want);
    }
    void partialUpdateEqualsFull()
    {
        mesh::Surface s = mesh::makeSurface(inSpatialOrder(test::sphere(10, 150, 300)));
        const auto blocks = mesh::blocksNear(s, {0, 10, 0}, 3);
        QVERIFY(!blocks.empty() && blocks.size() < s.positions.blockCount());
        for (const std::uint32_t b : blocks) {
            Vec3f *p = s.positions.edit(b);
            for (std::size_t i = 0; i < s.positions.countIn(b); ++i)
                if (length(p[i] - Vec3f{0, 10, 0}) < 3)
                    p[i] *= 1.1f;
        }
        mesh::updateBlocks(s, blocks);
        const mesh::Surface whole = mesh::makeSurface(s.topology, s.positions);
        for (std::size_t i = 0; i < s.positions.size(); ++i) {
            const auto a = s.normals[i], b = whole.normals[i];
            QVERIFY(a.x == b.x && a.y == b.y && a.z == b.z);
        }
    }
};

QTEST_APPLESS_MAIN(TestMeasures)
#include "tst_measures.moc"
