// Oracle: volumes, areas and centres of solids from standard mathematical tables (Bronstein & Semendjajew,
// "Handbook of Mathematics", section on stereometry; quoted from memory). A polyhedron inscribed in a smooth
// solid falls short by O(1/n^2); tolerances are that order times a small factor.
#include "support/run.h"
#include "base/random.h"
#include "mesh/intrinsic.h"
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
    void partialUpdateEqualsFull_data()
    {
        QTest::addColumn<int>("kind");
        QTest::newRow("quads") << 0;
        QTest::newRow("triangles, more than four about a vertex") << 1;
        QTest::newRow("quads and a fan of 400") << 2;
        QTest::newRow("a fan of more faces than two bytes count") << 3;
        QTest::newRow("no order at all") << 4;
    }
    // Moved bit by bit, told by spots, the surface is what it is when made from the start; and that is the formula.
    void partialUpdateEqualsFull()
    {
        QFETCH(int, kind);
        mesh::PolyMesh m = kind == 3 ? test::sphere(10, 2, 55000) : test::sphere(10, 150, kind == 2 ? 400 : 300);
        if (kind == 3) { // both poles in one block
            const auto last = std::uint32_t(m.positions.size() - 1);
            std::swap(m.positions[1], m.positions[last]);
            for (mesh::Face &f : m.faces)
                for (std::uint32_t &v : f.v)
                    v = v == 1 ? last : v == last ? 1 : v;
        }
        for (std::size_t i = 0, n = m.faces.size(); kind == 1 && i < n; ++i)
            if (const mesh::Face f = m.faces[i]; f.size() == 4) {
                m.faces.push_back({{f.v[0], f.v[2], f.v[3], kNone}});
                m.faces[i] = {{f.v[0], f.v[1], f.v[2], kNone}};
            }
        mesh::Surface s = mesh::makeSurface(kind >= 3 ? m : inSpatialOrder(m));
        for (int round = 0; round < 6; ++round) {
            const Vec3f centre =
                normalized(Vec3f{randomSigned(3, round * 3), randomSigned(3, round * 3 + 1), randomSigned(3, round * 3 + 2)})
                * 10.0f;
            const float radius = round % 2 ? 0.3f : 3.0f;
            std::vector<std::uint32_t> blocks = mesh::blocksNear(s, centre, radius);
            std::vector<mesh::Spots> moved(blocks.size());
            std::vector<bool> moves(s.positions.size());
            for (std::size_t i = 0; i < moves.size(); ++i)
                moves[i] = length(s.positions[i] - centre) < radius;
            for (std::size_t k = 0; k < blocks.size(); ++k) {
                const std::size_t first = blocks[k] * mesh::kBlockSize;
                const auto near = s.bounds[blocks[k]]->spots.near(centre, radius * radius);
                Vec3f *p = s.positions.edit(blocks[k]);
                for (std::size_t i = 0; i < s.positions.countIn(blocks[k]); ++i)
                    if (moves[first + i]) {
                        QVERIFY(near & mesh::Spots::ofOwn(i));
                        p[i] *= 1.1f;
                        moved[k].own |= mesh::Spots::ofOwn(i);
                    }
                const auto &borrowed = s.topology->block(blocks[k]).borrowed;
                for (std::size_t i = 0; i < borrowed.size(); ++i)
                    if (moves[borrowed[i]])
                        moved[k].borrowed |= mesh::Spots::ofBorrowed(i);
            }
            mesh::updateBlocks(s, blocks, moved);
            compareToWhole(s, kind == 3 ? 0.98 : 0.9995); // faces a thousandth as wide as long do not tell theirs well
        }
    }

private:
    static void compareToWhole(const mesh::Surface &s, double least)
    {
        std::vector<std::shared_ptr<const mesh::BlockFaces>> copies; // that do not know yet what was found out about them
        for (std::size_t b = 0; b < s.topology->blockCount(); ++b)
            copies.push_back(std::make_shared<mesh::BlockFaces>(s.topology->block(b)));
        const auto same = mesh::Topology::fromBlocks(s.positions.size(), copies);
        const mesh::Surface whole = mesh::makeSurface(same, s.positions);
        // Area-weighted mean of the faces about a vertex (common practice, no source), in doubles.
        std::vector<std::array<double, 3>> sums(s.positions.size());
        for (const mesh::Face &f : s.topology->faces()) {
            const auto p = [&](std::size_t k) { return s.positions[f.v[k]]; };
            const Vec3f a = p(2) - p(0), b = (f.size() == 4 ? p(3) : p(0)) - p(1);
            for (int k = 0; k < f.size(); ++k)
                for (int c = 0; c < 3; ++c) {
                    const int d = (c + 1) % 3, e = (c + 2) % 3;
                    sums[f.v[std::size_t(k)]][std::size_t(c)] +=
                        double(at(a, d)) * double(at(b, e)) - double(at(a, e)) * double(at(b, d));
                }
        }
        for (std::size_t i = 0; i < s.positions.size(); ++i) {
            const auto a = s.normals[i], b = whole.normals[i];
            QVERIFY(a.x == b.x && a.y == b.y && a.z == b.z);
            const double size = std::hypot(sums[i][0], sums[i][1], sums[i][2]);
            const Vec3f n = a.unpack();
            if (size > 1e-6)
                QVERIFY((double(n.x) * sums[i][0] + double(n.y) * sums[i][1] + double(n.z) * sums[i][2]) / size > least);
        }
        for (std::size_t b = 0; b < s.bounds.size(); ++b) {
            QVERIFY(s.bounds[b]->box == whole.bounds[b]->box);
            QVERIFY(s.bounds[b]->spots.whole() == whole.bounds[b]->spots.whole());
        }
    }
private slots:
    // Runs of spots against going over every vertex.
    void runsOfSpots()
    {
        for (std::uint64_t k = 0; k < 300; ++k) {
            const std::uint64_t spots = k == 0 ? 0 : k == 1 ? ~std::uint64_t(0) : randomBits(5, k) & randomBits(6, k);
            const std::size_t n = k % 3 ? mesh::kBlockSize : randomBits(7, k) % mesh::kBlockSize;
            std::vector<bool> got(n, false);
            std::size_t last = 0;
            mesh::eachRun(spots, n, [&](std::size_t begin, std::size_t end) {
                QVERIFY(begin < end && end <= n && (begin == 0 || begin > last));
                std::fill(got.begin() + std::ptrdiff_t(begin), got.begin() + std::ptrdiff_t(end), true);
                last = end;
            });
            for (std::size_t i = 0; i < n; ++i)
                QCOMPARE(bool(got[i]), bool(spots >> (i / mesh::kSpotSize) & 1));
        }
    }
    void heatDoesNotHangOnTheTriangles()
    {
        // A flat square cut into long thin triangles: on an intrinsic Delaunay triangulation no weight is below 0, linear functions are
        // harmonic inside, and the area stays (Fisher et al. 2006, section 1; M. Wardetzky et al. 2007, "Discrete Laplace operators").
        constexpr std::uint32_t kSide = 13;
        std::vector<Vec3f> points;
        for (std::uint32_t r = 0; r < kSide; ++r)
            for (std::uint32_t c = 0; c < kSide; ++c) {
                const bool isInside = r > 0 && c > 0 && r + 1 < kSide && c + 1 < kSide;
                const float by = isInside ? 0.3f : 0;
                points.push_back({float(c) * 7 + by * randomSigned(3, 2 * (r * kSide + c)),
                                  float(r) + by * randomSigned(3, 2 * (r * kSide + c) + 1), 0});
            }
        std::vector<std::array<std::uint32_t, 3>> triangles;
        for (std::uint32_t r = 0; r + 1 < kSide; ++r)
            for (std::uint32_t c = 0; c + 1 < kSide; ++c) {
                const std::uint32_t a = r * kSide + c, b = a + 1, d = a + kSide, e = d + 1;
                if ((r + c) % 3)
                    triangles.push_back({a, b, e}), triangles.push_back({a, e, d});
                else
                    triangles.push_back({a, b, d}), triangles.push_back({b, e, d});
            }
        const mesh::Laplacian made = mesh::delaunayLaplacian(points, triangles);
        std::vector<double> x(points.size(), 0), y(points.size(), 0), size(points.size(), 0);
        double area = 0;
        for (const auto &[a, b, w] : made.edges) {
            const auto isOnBorder = [&](std::uint32_t v) {
                return v < kSide || v >= kSide * (kSide - 1) || v % kSide == 0 || v % kSide == kSide - 1;
            };
            QVERIFY2(w > -1e-6 || (isOnBorder(a) && isOnBorder(b)), qPrintable(QString::number(w))); // open edges stay
            x[a] += w * double(points[b].x - points[a].x), x[b] += w * double(points[a].x - points[b].x);
            y[a] += w * double(points[b].y - points[a].y), y[b] += w * double(points[a].y - points[b].y);
            size[a] += w * 7, size[b] += w * 7;
        }
        for (std::uint32_t r = 1; r + 1 < kSide; ++r)
            for (std::uint32_t c = 1; c + 1 < kSide; ++c) {
                const std::size_t v = r * kSide + c;
                QVERIFY2(std::abs(x[v]) < 1e-4 * size[v] && std::abs(y[v]) < 1e-4 * size[v],
                         qPrintable(QStringLiteral("%1 %2").arg(x[v]).arg(y[v])));
            }
        for (const double a : made.area)
            area += a;
        QVERIFY(std::abs(area - 12 * 7 * 12) < 1e-2);
        // On a closed surface of good triangles it is the plain cotangents: a cube of squares, each cut in two, weighs 0 across.
        const mesh::PolyMesh box = test::box({0, 0, 0}, {1, 1, 1});
        std::vector<std::array<std::uint32_t, 3>> halves;
        for (const mesh::Face &f : box.faces) {
            halves.push_back({f.v[0], f.v[1], f.v[2]});
            if (f.v[3] != kNone)
                halves.push_back({f.v[0], f.v[2], f.v[3]});
        }
        double most = 0, least = 1;
        for (const auto &[a, b, w] : mesh::delaunayLaplacian(box.positions, halves).edges)
            most = std::max(most, w), least = std::min(least, w);
        QVERIFY(std::abs(most - 1) < 1e-6 && std::abs(least) < 1e-6);
    }
};

BONEMOSS_TEST(TestMeasures)
#include "tst_measures.moc"
