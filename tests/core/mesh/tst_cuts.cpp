// Oracles: lengths and areas of circles, caps and zones (Archimedes, "On the Sphere and Cylinder"); Euler's count of corners, edges
// and faces; searching all faces; rays for what is seen. Where neither is named: common practice, no source.
#include "support/run.h"
#include "base/random.h"
#include "mesh/depth_picture.h"
#include "mesh/measures.h"
#include "mesh/parts.h"
#include "mesh/section.h"
#include "mesh/surface.h"
#include "support/shapes.h"

#include <QtTest>

#include <algorithm>
#include <numbers>
#include <numeric>
#include <set>

using namespace bonemoss;

namespace {

bool isNear(double is, double wanted, double share)
{
    if (std::abs(is - wanted) <= share * std::abs(wanted))
        return true;
    qWarning("%g, not %g", is, wanted);
    return false;
}

/// Same islands, told by looking at all faces again and again until nothing changes.
std::vector<std::uint32_t> islandsSlowly(const mesh::PolyMesh &mesh)
{
    std::vector<std::uint32_t> island(mesh.positions.size());
    std::iota(island.begin(), island.end(), 0u);
    for (bool isChanged = true; std::exchange(isChanged, false);)
        for (const mesh::Face &f : mesh.faces) {
            std::uint32_t least = kNone;
            for (int k = 0; k < f.size(); ++k)
                least = std::min(least, island[f.v[std::size_t(k)]]);
            for (int k = 0; k < f.size(); ++k)
                if (std::uint32_t &i = island[f.v[std::size_t(k)]]; i != least)
                    i = least, isChanged = true;
        }
    return island;
}

double areaOf(const mesh::PolyMesh &mesh, const std::vector<bool> &of, bool side)
{
    mesh::PolyMesh some{mesh.positions, {}};
    for (std::size_t f = 0; f < mesh.faces.size(); ++f)
        if (of[f] == side)
            some.faces.push_back(mesh.faces[f]);
    return mesh::measure(some).areaMm2;
}

} // namespace

class TestCuts : public QObject
{
    Q_OBJECT
private slots:
    void aBallIsCutInCircles_data()
    {
        QTest::addColumn<float>("height");
        QTest::addColumn<float>("tilt");
        for (const float height : {0.0f, 3.0f, -7.5f, 9.2f})
            for (const float tilt : {0.0f, 0.4f, 1.3f})
                QTest::addRow("%g mm up, tilted %g", double(height), double(tilt)) << height << tilt;
    }
    void aBallIsCutInCircles()
    {
        QFETCH(float, height);
        QFETCH(float, tilt);
        const Vec3f centre{4, -3, 12}, normal = rotate(rotationAbout(normalized(Vec3f{1, 0, 2}), tilt), {0, 1, 0});
        const mesh::Surface ball = mesh::makeSurface(mesh::inSpatialOrder(test::sphere(10, 90, 160, centre)));
        const auto all = mesh::sections(ball, centre + normal * height, normal);
        QCOMPARE(all.size(), std::size_t(1));
        QVERIFY(all[0].isClosed);
        const double radius = std::sqrt(100.0 - double(height) * double(height));
        QVERIFY(isNear(double(all[0].length), 2 * std::numbers::pi * radius, 2e-3));
        QVERIFY(isNear(double(all[0].area), std::numbers::pi * radius * radius, 4e-3));
        float sum = 0;
        for (std::size_t i = 0; i < all[0].points.size(); ++i) {
            QVERIFY(std::abs(dot(all[0].points[i] - centre, normal) - height) < 1e-3f); // in the plane
            QVERIFY(std::abs(length(all[0].points[i] - centre) - 10) < 0.02f);          // on the ball
            sum += length(all[0].points[(i + 1) % all[0].points.size()] - all[0].points[i]);
        }
        QVERIFY(isNear(double(all[0].length), double(sum), 1e-4));
        QVERIFY(mesh::sections(ball, centre + normal * 10.5f, normal).empty());
    }
    void aRingIsCutTwice()
    {
        const mesh::Surface ring = mesh::makeSurface(mesh::inSpatialOrder(test::torus(20, 5, 200, 64))); // about y
        const auto across = mesh::sections(ring, {}, normalized(Vec3f{0, 0.001f, 1}));
        QCOMPARE(across.size(), std::size_t(2));
        for (const auto &s : across)
            QVERIFY(s.isClosed && isNear(double(s.length), 2 * std::numbers::pi * 5, 5e-3));
        const mesh::Section *left = mesh::nearestSection(across, {30, 0, 0}), *right = mesh::nearestSection(across, {-30, 0, 0});
        QVERIFY(left && right && left != right && left->points[0].x > 10 && right->points[0].x < -10);
        // Level, it is a disc with a hole: circles of 25 and 15 mm.
        auto level = mesh::sections(ring, {0, 0.0001f, 0}, {0, 1, 0});
        QCOMPARE(level.size(), std::size_t(2));
        std::sort(level.begin(), level.end(), [](const auto &a, const auto &b) { return a.length < b.length; });
        QVERIFY(isNear(double(level[0].length), 2 * std::numbers::pi * 15, 5e-3));
        QVERIFY(isNear(double(level[1].length), 2 * std::numbers::pi * 25, 5e-3));
        QVERIFY(!mesh::nearestSection({}, {}));
    }
    void aSheetIsCutInALine()
    {
        const mesh::Surface sheet = mesh::makeSurface(test::plane(40, 30));
        const auto all = mesh::sections(sheet, {3.3f, 0, 0}, normalized(Vec3f{1, 0, 0.5f}));
        QCOMPARE(all.size(), std::size_t(1));
        QVERIFY(!all[0].isClosed && all[0].area == 0);
        // From border to border of the square along a line of slope 1 : 2.
        QVERIFY(isNear(double(all[0].length), 40 * std::sqrt(1.25), 1e-3));
    }
    void aBallIsCutInCaps_data()
    {
        QTest::addColumn<float>("height");
        for (const float height : {-8.0f, -2.2f, 0.0f, 0.01f, 5.0f, 9.0f})
            QTest::addRow("%g mm up", double(height)) << height;
    }
    void aBallIsCutInCaps()
    {
        QFETCH(float, height);
        const mesh::PolyMesh ball = test::sphere(10, 60, 90);
        std::vector<float> above;
        for (const Vec3f p : ball.positions)
            above.push_back(p.y - height);
        const mesh::CutMesh cut = mesh::cutAlong(ball, above);
        QCOMPARE(cut.isIn.size(), cut.mesh.faces.size());
        // Old vertices keep their numbers and places.
        QVERIFY(cut.mesh.positions.size() >= ball.positions.size());
        QVERIFY(std::equal(ball.positions.begin(), ball.positions.end(), cut.mesh.positions.begin()));
        // No face reaches across by more than the twelfth of an edge that is let through.
        const float edge = 2 * kPi * 10 / 90;
        for (std::size_t f = 0; f < cut.mesh.faces.size(); ++f)
            for (int k = 0; k < cut.mesh.faces[f].size(); ++k) {
                const float off = cut.mesh.positions[cut.mesh.faces[f].v[std::size_t(k)]].y - height;
                QVERIFY(cut.isIn[f] ? off > -edge / 10 : off < edge / 10);
            }
        // The cap of a ball has 2 pi r h, the whole 4 pi r^2; the cut takes nothing and leaves no gap.
        const double cap = 2 * std::numbers::pi * 10 * (10 - double(height));
        QVERIFY(std::abs(areaOf(cut.mesh, cut.isIn, true) - cap) < 4 * std::numbers::pi * 100 * 0.01);
        const mesh::Measures whole = mesh::measure(cut.mesh), before = mesh::measure(ball);
        QVERIFY(isNear(whole.areaMm2, before.areaMm2, 2e-3));
        QVERIFY(isNear(whole.volumeMm3, before.volumeMm3, 5e-3));
        QVERIFY(whole.closed && whole.genus == 0 && whole.components == 1);
    }
    void islandsAsSearched()
    {
        mesh::PolyMesh many;
        for (std::uint64_t k = 0; k < 12; ++k) {
            const auto at = [&](std::uint64_t n) { return 60 * randomSigned(5, 10 * k + n); };
            mesh::append(many, k % 3 == 0   ? test::torus(6, 2, 12, 8)
                               : k % 3 == 1 ? test::sphere(3, 6, 9, {at(0), at(1), at(2)})
                                            : test::plane(5, 3));
        }
        many.positions.push_back({1, 2, 3}); // one that no face uses is an island of its own
        // Faces in another order, so that islands come in pieces.
        for (std::size_t f = many.faces.size(); f-- > 1;)
            std::swap(many.faces[f], many.faces[std::size_t(randomBits(9, f) % (f + 1))]);
        std::uint32_t count = 0;
        const auto found = mesh::islandsOf(many, count);
        const auto slow = islandsSlowly(many);
        QCOMPARE(count, 13u);
        QCOMPARE(std::set<std::uint32_t>(slow.begin(), slow.end()).size(), std::size_t(13));
        std::uint32_t next = 0;
        for (std::size_t v = 0; v < found.size(); ++v) {
            QVERIFY(found[v] == found[slow[v]]); // as the first vertex of its own
            if (slow[v] == v)
                QCOMPARE(found[v], next++); // counted in the order of those
        }
    }
    void someFacesAreTakenOut()
    {
        const mesh::PolyMesh ball = test::sphere(8, 20, 30);
        std::vector<bool> wanted(ball.faces.size());
        for (std::size_t f = 0; f < wanted.size(); ++f)
            wanted[f] = randomBits(3, f) % 3 == 0;
        std::vector<std::uint32_t> from;
        const mesh::PolyMesh part = mesh::extract(ball, wanted, &from);
        QCOMPARE(part.faces.size(), std::size_t(std::count(wanted.begin(), wanted.end(), true)));
        QCOMPARE(from.size(), part.positions.size());
        QVERIFY(std::is_sorted(from.begin(), from.end()));
        std::vector<bool> isUsed(part.positions.size(), false);
        std::size_t next = 0;
        for (std::size_t f = 0; f < wanted.size(); ++f) {
            if (!wanted[f])
                continue;
            const mesh::Face &is = part.faces[next++];
            QCOMPARE(is.size(), ball.faces[f].size());
            for (int k = 0; k < is.size(); ++k) {
                const std::uint32_t v = is.v[std::size_t(k)];
                QCOMPARE(from[v], ball.faces[f].v[std::size_t(k)]);
                QVERIFY(part.positions[v] == ball.positions[from[v]]);
                isUsed[v] = true;
            }
        }
        QVERIFY(std::find(isUsed.begin(), isUsed.end(), false) == isUsed.end());
    }
    void trianglesHaveTheSameArea()
    {
        for (const mesh::PolyMesh &mesh : {test::box({-1, -2, -3}, {4, 5, 6}), test::plane(30, 9), test::sphere(7, 12, 20)}) {
            const auto triangles = mesh::triangulate(mesh);
            mesh::PolyMesh split{mesh.positions, {}};
            for (const auto &t : triangles)
                split.faces.push_back({{t[0], t[1], t[2], kNone}});
            const mesh::Measures a = mesh::measure(mesh), b = mesh::measure(split);
            QCOMPARE(triangles.size(), 2 * a.quads + a.triangles);
            QVERIFY(isNear(b.areaMm2, a.areaMm2, 1e-5));
            QCOMPARE(b.closed, a.closed);
            QVERIFY(!a.closed || isNear(b.volumeMm3, a.volumeMm3, 1e-5));
        }
        // A bent quad is split along its shorter diagonal.
        const mesh::PolyMesh kite{{{0, 0, 0}, {1, 0, 1}, {4, 0, 0}, {1, 0, -1}}, {{{0, 1, 2, 3}}}};
        for (const auto &t : mesh::triangulate(kite))
            QVERIFY(std::count(t.begin(), t.end(), 1u) == 1 && std::count(t.begin(), t.end(), 3u) == 1);
    }
    void aTwinFacesOutwards()
    {
        const mesh::PolyMesh ball = test::sphere(5, 12, 18, {9, 1, -2}), twin = mesh::mirrored(ball);
        const mesh::Measures a = mesh::measure(ball), b = mesh::measure(twin);
        QVERIFY(a.volumeMm3 > 0 && isNear(b.volumeMm3, a.volumeMm3, 1e-6)); // turned inside out it would be below 0
        QVERIFY(std::abs(b.centreOfMassMm[0] + 9) < 0.01 && std::abs(b.centreOfMassMm[1] - 1) < 0.01);
        mesh::PolyMesh both = ball;
        mesh::append(both, twin);
        const mesh::Measures m = mesh::measure(both);
        QVERIFY(m.components == 2 && m.closed && isNear(m.volumeMm3, 2 * a.volumeMm3, 1e-6));
    }
    void orderingChangesNothingButTheOrder()
    {
        const mesh::PolyMesh ring = test::torus(20, 6, 80, 40), ordered = mesh::inSpatialOrder(ring);
        const auto sorted = [](std::vector<Vec3f> p) {
            std::sort(p.begin(), p.end(), [](Vec3f a, Vec3f b) { return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z); });
            return p;
        };
        QVERIFY(sorted(ordered.positions) == sorted(ring.positions));
        const mesh::Measures a = mesh::measure(ring), b = mesh::measure(ordered);
        QVERIFY(a.genus == 1 && b.genus == 1 && b.closed && a.faces == b.faces && isNear(b.volumeMm3, a.volumeMm3, 1e-6));
    }
    // Faces of a block come by their lowest vertices, whatever order they were given in, and each is there once.
    void blocksKeepFacesTogether()
    {
        mesh::PolyMesh sheet = mesh::inSpatialOrder(test::plane(100, 130));
        for (std::size_t f = sheet.faces.size(); f-- > 1;)
            std::swap(sheet.faces[f], sheet.faces[std::size_t(randomBits(4, f) % (f + 1))]);
        const auto topology = mesh::Topology::build(sheet.positions.size(), sheet.faces);
        const std::vector<mesh::Face> faces = topology->faces();
        const auto lowest = [](const mesh::Face &f) { return *std::min_element(f.v.begin(), f.v.end()); };
        QVERIFY(std::is_sorted(faces.begin(), faces.end(),
                               [&](const mesh::Face &a, const mesh::Face &b) { return lowest(a) < lowest(b); }));
        const auto sorted = [](std::vector<mesh::Face> list) {
            std::sort(list.begin(), list.end(), [](const mesh::Face &a, const mesh::Face &b) { return a.v < b.v; });
            return list;
        };
        QVERIFY(sorted(faces) == sorted(sheet.faces));
        for (std::uint32_t b = 0; b < topology->blockCount(); ++b)
            for (const std::uint32_t c : topology->block(b).blocksBeside()) {
                const auto &back = topology->block(c).blocksBeside();
                QVERIFY(c != b && std::find(back.begin(), back.end(), b) != back.end());
            }
    }
    void whatIsSeenAsRaysTell_data()
    {
        QTest::addColumn<bool>("isParallel");
        QTest::newRow("parallel") << true;
        QTest::newRow("from an eye") << false;
    }
    void whatIsSeenAsRaysTell()
    {
        QFETCH(bool, isParallel);
        // A ball before a larger one.
        mesh::PolyMesh both = test::sphere(20, 60, 90);
        mesh::append(both, test::sphere(7, 40, 60, {6, 3, 32}));
        const mesh::Surface s = mesh::makeSurface(mesh::inSpatialOrder(both));
        mesh::Sight sight;
        sight.eye = {0, 0, 90}, sight.isParallel = isParallel;
        sight.halfWidth = sight.halfHeight = isParallel ? 30 : 0.5f;
        mesh::DepthPicture picture(sight, 600);
        picture.add(s);
        std::size_t agree = 0, tried = 0;
        for (std::size_t v = 0; v < s.positions.size(); v += 3) {
            const Vec3f p = s.positions[v], n = s.normals[v].unpack();
            const Vec3f from = isParallel ? Vec3f{p.x, p.y, 90} : sight.eye, way = normalized(p - from);
            if (std::abs(dot(n, way)) < 0.2f)
                continue; // at the outline a pixel decides
            const auto hit = mesh::castRay(s, {from, way});
            const bool isSeen = dot(n, way) < 0 && hit && hit->distance > length(p - from) - 0.2f;
            agree += isSeen == picture.sees(p, n);
            ++tried;
        }
        QVERIFY(tried > 1500);
        QVERIFY2(agree >= tried * 99 / 100, qPrintable(QString("%1 of %2").arg(agree).arg(tried)));
        QVERIFY(!picture.sees({80, 0, 0}, {0, 0, 1})); // outside the window
    }
};

BONEMOSS_TEST(TestCuts)
#include "tst_cuts.moc"
