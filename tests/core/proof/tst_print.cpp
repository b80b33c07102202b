// What is made for a printer, against volumes of closed forms, and distances and layers measured beside.
#include "support/run.h"
#include "support/shapes.h"

#include "field/knit.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "proof/layers.h"
#include "proof/parts.h"
#include "proof/supports.h"
#include "solid/seal.h"

#include <QtTest>

using namespace bonemoss;

class TestPrint : public QObject
{
    Q_OBJECT

    static std::vector<proof::Region> regions(const mesh::PolyMesh &m, float layer)
    {
        std::vector<proof::Triangle> triangles;
        for (const auto &t : mesh::triangulate(m))
            triangles.push_back({m.positions[t[0]], m.positions[t[1]], m.positions[t[2]]});
        return proof::regionsOf(*proof::layersOf(triangles, layer, layer));
    }
    static bool isAny(const std::vector<proof::Region> &all, proof::Region::Kind kind)
    {
        return std::any_of(all.begin(), all.end(), [&](const proof::Region &r) { return r.kind == kind; });
    }

private slots:
    void aHollowBallIsAShellThatDrains()
    {
        const mesh::PolyMesh ball = test::sphere(20, 90, 120);
        const auto closed = proof::hollow(ball, {.wall = 3, .holes = 0});
        QVERIFY(closed);
        // Volume of a shell, and its thickness everywhere.
        const double shell = 4.0 / 3 * M_PI * (20.0 * 20 * 20 - 17.0 * 17 * 17);
        QVERIFY2(std::abs(measure(closed->mesh).volumeMm3 / shell - 1) < 0.02,
                 qPrintable(QString::number(measure(closed->mesh).volumeMm3 / shell)));
        QVERIFY(isAny(regions(closed->mesh, 0.4f), proof::Region::Kind::Pocket));
        const auto open = proof::hollow(ball, {.wall = 3, .hole = 4, .makesPlugs = true});
        QVERIFY(open);
        const auto m = measure(open->mesh);
        QVERIFY(m.closed && m.nonManifoldEdges == 0);
        QCOMPARE(open->holes.size(), open->plugs.size());
        QVERIFY(!isAny(regions(open->mesh, 0.4f), proof::Region::Kind::Pocket)); // what is inside is reached from the holes
        const double plug = M_PI * 2 * 2 * 3;                                    // about what a hole takes
        QVERIFY(std::abs(m.volumeMm3 - (measure(closed->mesh).volumeMm3 - plug * double(open->holes.size()))) < 0.5 * plug);
        QCOMPARE(proof::hollow(ball, {.wall = 30}).error().code, ErrorCode::BadValue);
    }
    void partsFitWithTheirClearance_data()
    {
        QTest::addColumn<int>("peg");
        for (int k = 0; k < 4; ++k)
            QTest::addRow("%s", std::string(proof::kPegNames[std::size_t(k)]).c_str()) << k;
    }
    void partsFitWithTheirClearance()
    {
        QFETCH(int, peg);
        const mesh::PolyMesh ball = test::sphere(20, 60, 80);
        const proof::PartJob job{.point = {0, 3, 0}, .normal = {0.2f, 1, 0.1f}, .peg = proof::Peg(peg), .clearance = 0.2f};
        const auto parted = proof::part(ball, job);
        QVERIFY(parted);
        const auto low = measure(parted->pegged), high = measure(parted->socketed), whole = measure(ball);
        QVERIFY(low.closed && high.closed && low.nonManifoldEdges + high.nonManifoldEdges == 0);
        if (proof::Peg(peg) == proof::Peg::None) {
            QVERIFY(std::abs((low.volumeMm3 + high.volumeMm3) / whole.volumeMm3 - 1) < 1e-4);
            return;
        }
        QVERIFY(parted->size > 0 && low.volumeMm3 + high.volumeMm3 < whole.volumeMm3); // the gap
        // The peg's points lie as far from the socket as was said, measured from the other part.
        const Vec3f normal = normalized(job.normal);
        std::vector<Vec3f> points;
        for (const Vec3f p : parted->pegged.positions)
            if (dot(p - job.point, normal) > 1)
                points.push_back(p);
        QVERIFY(!points.empty());
        const auto far = mesh::distanceTo(parted->socketed, points, points.size());
        QVERIFY2(far.largest > 0.19 && far.mean > 0.19, qPrintable(QString::number(far.mean)));
        mesh::PolyMesh both = parted->pegged;
        mesh::append(both, parted->socketed);
        const auto joined = solid::seal(both, false);
        QVERIFY(joined);
        QVERIFY(std::abs(measure(joined->mesh).volumeMm3 / (low.volumeMm3 + high.volumeMm3) - 1) < 1e-3); // nothing overlaps
    }
    void basesAndSoles()
    {
        mesh::PolyMesh legs = test::sphere(6, 30, 40, {0, 6, 0});
        mesh::append(legs, test::sphere(6, 30, 40, {25, 6, 4}));
        for (int shape = 0; shape < 4; ++shape) {
            const auto base = proof::baseFor(legs, {.shape = proof::BaseShape(shape)});
            const auto m = measure(base);
            QVERIFY(m.closed && m.volumeMm3 > 0);
            QVERIFY(m.bounds.lo.x < 0 && m.bounds.hi.x > 25 && std::abs(m.bounds.size().y - 5) < 0.01f);
            mesh::PolyMesh all = legs;
            mesh::append(all, base);
            QCOMPARE(solid::seal(all)->left, std::size_t(1));
        }
        // Soles: what is cut off a ball is a cap of pi h^2 (3 r - h) / 3.
        const mesh::PolyMesh ball = test::sphere(10, 200, 260);
        const auto flat = proof::flattened(ball, 1);
        QVERIFY(flat);
        const double cap = measure(ball).volumeMm3 - measure(*flat).volumeMm3;
        QVERIFY2(std::abs(cap / (M_PI * (30 - 1) / 3) - 1) < 0.01, qPrintable(QString::number(cap)));
    }
    void looseBitsAreLeftOut()
    {
        mesh::PolyMesh all = test::sphere(10, 20, 30);
        mesh::append(all, test::sphere(1, 8, 12, {20, 0, 0}));
        mesh::append(all, test::sphere(4, 12, 16, {-20, 0, 0}));
        std::size_t dropped = 0;
        const auto some = proof::withoutLoose(all, 50, dropped);
        QCOMPARE(dropped, std::size_t(1)); // the ball of 4 mm3, not that of 260
        QCOMPARE(measure(some).components, std::size_t(2));
        QCOMPARE(measure(proof::withoutLoose(all, 1e6, dropped)).components, std::size_t(1)); // never all
    }
    void thinPlatesBecomeThick()
    {
        // A plate of 0.4 mm on a block of 10 mm: the plate grows to 1.2 mm, the block stays where it was.
        mesh::PolyMesh both = test::box({-10, 0, -10}, {10, 10, 10});
        mesh::append(both, test::box({9, 4, -8}, {30, 4.4f, 8}));
        mesh::PolyMesh body = solid::seal(both)->mesh;
        body = field::knitMesh(body, {0.25f, 0})->mesh;
        const auto thick = proof::thickened(body, 1.2f);
        QVERIFY(thick);
        QCOMPARE(thick->mesh.faces.size(), body.faces.size());
        Box3f plate;
        for (std::size_t v = 0; v < body.positions.size(); ++v) {
            if (body.positions[v].x < 8 && body.positions[v].y < 3)
                QVERIFY(length(thick->mesh.positions[v] - body.positions[v]) < 1e-3f);
            if (std::abs(body.positions[v].x - 20) < 2 && std::abs(body.positions[v].z) < 6)
                plate.add(thick->mesh.positions[v]);
        }
        QVERIFY2(plate.size().y > 1.15f && plate.size().y < 1.6f, qPrintable(QString::number(plate.size().y)));
        QCOMPARE(proof::thickened(test::sphere(10, 40, 60), 1).error().code, ErrorCode::Empty);
    }
    void aTableIsTurnedOverOrSupported()
    {
        // A plate on a column: its underside needs support, upside down nothing does.
        mesh::PolyMesh table = test::box({-2, 0, -2}, {2, 20.5f, 2});
        mesh::append(table, test::box({-15, 20, -15}, {15, 24, 15}));
        const mesh::PolyMesh body = solid::seal(table)->mesh;
        const auto &profile = proof::printerProfiles().front();
        const auto ways = proof::orientations(body, profile);
        QVERIFY(ways.size() > 1 && ways.front().cost <= ways.back().cost);
        QVERIFY2(ways.front().overhangMm2 < 100, qPrintable(QString::number(ways.front().overhangMm2)));
        const auto made = proof::supportsFor(body, profile);
        QVERIFY(made);
        // As it stands, the underside of 30 by 30 less the column wants one every 3 mm or so.
        QVERIFY2(made->members.size() > 40 && made->members.size() < 200, qPrintable(QString::number(made->members.size())));
        const auto m = measure(made->mesh);
        QVERIFY(m.closed && m.nonManifoldEdges == 0);
        for (const proof::Support &s : made->members) {
            QVERIFY(s.tip.y > s.foot.y && std::abs(s.foot.y) < 1e-3f);
            QVERIFY(std::hypot(s.tip.x - s.joint.x, s.tip.z - s.joint.z) <= s.tip.y - s.joint.y + 1e-3f); // 45 degrees at most
        }
        // With them nothing begins in the air.
        mesh::PolyMesh all = body;
        mesh::append(all, made->mesh);
        QVERIFY(!isAny(regions(all, 0.2f), proof::Region::Kind::Loose));
        QVERIFY(proof::supportsFor(test::box({0, 0, 0}, {5, 5, 5}), profile)->members.empty());
    }
};

BONEMOSS_TEST(TestPrint)
#include "tst_print.moc"
