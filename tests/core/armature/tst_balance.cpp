#include "support/run.h"
#include "armature/balance.h"
#include "armature/proportions.h"
#include "base/random.h"
#include "mesh/measures.h"
#include "support/beasts.h"
#include "support/shapes.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/convex_hull_2.h>
#include <QtTest>

#include <numbers>

using namespace bonemoss;
using armature::Balance;

class TestBalance : public QObject
{
    Q_OBJECT
private slots:
    // Oracle: CGAL's convex_hull_2 on the same points.
    void hullAsCgal_data()
    {
        QTest::addColumn<int>("count");
        QTest::addColumn<bool>("onGrid"); // many points on one line, many twice
        for (const int n : {3, 4, 10, 200, 5000})
            for (const bool grid : {false, true})
                QTest::addRow("%d %s", n, grid ? "on a grid" : "anywhere") << n << grid;
    }
    void hullAsCgal()
    {
        QFETCH(int, count);
        QFETCH(bool, onGrid);
        using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
        std::vector<Vec3f> points;
        std::vector<Kernel::Point_2> theirs, hull;
        for (std::uint64_t i = 0; i < std::uint64_t(count); ++i) {
            Vec3f p{randomSigned(1, i * 2) * 5, 0, randomSigned(1, i * 2 + 1) * 5};
            if (onGrid)
                p = {std::round(p.x), 0, std::round(p.z)};
            points.push_back(p);
            theirs.emplace_back(double(p.z), double(p.x)); // our plane has x to the left of z
        }
        CGAL::convex_hull_2(theirs.begin(), theirs.end(), std::back_inserter(hull));
        const std::vector<Vec3f> ours = armature::floorHull(points);
        QCOMPARE(ours.size(), hull.size());
        for (const Vec3f p : ours)
            QVERIFY(std::any_of(hull.begin(), hull.end(),
                                [&](const auto &q) { return q.x() == double(p.z) && q.y() == double(p.x); }));
    }
    // A creature in a pose: what lies on the floor, its hull and whether the weight falls inside, as CGAL has them.
    void aPosedCreatureAsCgal()
    {
        using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
        document::Creature c =
            test::need(test::beast(6000), {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 0, -70}}});
        c = test::need(c, {{"do", "pose.turn"}, {"bone", "arm right"}, {"angles", {0, 10, 60}}});
        const mesh::PolyMesh body = toPolyMesh(test::skinOf(posed(c)).shown);
        const Vec3f weight = mesh::massOf(body).centre;
        for (const float tolerance : {0.3f, 2.0f, 8.0f}) {
            const Balance b = armature::balanceOf(body.positions, weight, tolerance);
            float low = body.positions[0].y;
            for (const Vec3f p : body.positions)
                low = std::min(low, p.y);
            std::vector<Kernel::Point_2> on, hull;
            for (const Vec3f p : body.positions)
                if (p.y <= low + tolerance)
                    on.emplace_back(double(p.z), double(p.x));
            CGAL::convex_hull_2(on.begin(), on.end(), std::back_inserter(hull));
            QCOMPARE(b.contact.size(), hull.size());
            for (const Vec3f p : b.contact)
                QVERIFY(std::any_of(hull.begin(), hull.end(),
                                    [&](const auto &q) { return q.x() == double(p.z) && q.y() == double(p.x); }));
            const Kernel::Point_2 foot(double(weight.z), double(weight.x));
            bool isInside = hull.size() > 2;
            for (std::size_t k = 0; k < hull.size(); ++k)
                isInside = isInside && CGAL::orientation(hull[k], hull[(k + 1) % hull.size()], foot) != CGAL::RIGHT_TURN;
            QCOMPARE(b.stands(), isInside);
        }
    }
    // A box of sides 4 x 6 stands on its whole floor: the nearest edge is half the short side away.
    void boxStandsByHalfItsShortSide()
    {
        const mesh::PolyMesh box = test::box({-2, 0, -3}, {2, 10, 3});
        const Balance b = armature::balanceOf(box.positions, mesh::massOf(box).centre, 0.01f);
        QVERIFY(b.stands());
        QCOMPARE(b.contact.size(), std::size_t(4));
        QVERIFY(length(b.weightPoint - Vec3f{0, 5, 0}) < 1e-4f);
        QVERIFY(std::abs(b.margin - 2) < 1e-4f);
        QVERIFY(std::abs(std::abs(b.tip.x) - 1) < 1e-4f);
    }
    // A leaning tower h high tips once its top hangs over by more than its width: for the middle of mass of an
    // oblique prism lies over the middle of its height, shifted by half the overhang (Mirtich 1996: affine maps
    // carry centres of mass).
    void obliquePrismTipsWhereItShould_data()
    {
        QTest::addColumn<float>("overhang");
        QTest::addColumn<float>("margin");
        QTest::newRow("upright") << 0.0f << 2.0f;
        QTest::newRow("leaning") << 3.0f << 0.5f;
        QTest::newRow("on the edge") << 4.0f << 0.0f;
        QTest::newRow("tips") << 5.0f << -0.5f;
    }
    void obliquePrismTipsWhereItShould()
    {
        QFETCH(float, overhang);
        QFETCH(float, margin);
        mesh::PolyMesh tower = test::box({-2, 0, -2}, {2, 10, 2});
        for (Vec3f &p : tower.positions)
            p.x += overhang * p.y / 10;
        const Balance b = armature::balanceOf(tower.positions, mesh::massOf(tower).centre, 0.01f);
        QVERIFY2(std::abs(b.margin - margin) < 1e-3f, qPrintable(QString::number(double(b.margin))));
        if (margin < 0) {
            QVERIFY(!b.stands());
            QVERIFY(b.tip.x > 0.99f);
        }
    }
    // A hemisphere's centre of mass lies 3/8 of its radius from its flat side (standard tables).
    void hemisphereWeighsAtThreeEighths()
    {
        mesh::PolyMesh ball = test::sphere(8, 160, 320);
        for (Vec3f &p : ball.positions)
            p.y = std::max(p.y, 0.0f);
        QVERIFY(std::abs(mesh::massOf(ball).centre.y - 3) < 0.01f);
        QVERIFY(std::abs(mesh::massOf(ball).volumeMm3 / (2.0 / 3 * std::numbers::pi * 512) - 1) < 1e-3);
    }
    // Lengths by the definition of each form: diameter, longest axis, path with its round ends.
    void lengthsOfForms()
    {
        armature::Form ball, limb, tube;
        ball.id = 1;
        ball.radii = {7, 7, 7};
        limb.id = 2;
        limb.kind = armature::FormKind::Limb;
        limb.path = {{{0, 0, 0}, 4}, {{3, 4, 0}, 2}};
        tube.id = 3;
        tube.kind = armature::FormKind::Tube;
        for (int k = 0; k <= 32; ++k) { // half a circle of radius 10
            const float a = std::numbers::pi_v<float> * float(k) / 32;
            tube.path.push_back({{10 * std::cos(a), 10 * std::sin(a), 0}, 1});
        }
        armature::Armature a{{ball, limb, tube}};
        a.unitForm = 1;
        a.targets = {{2, 1, 0.1f}, {3, 2.3f, 0.05f}};
        const auto list = proportionsOf(a);
        QCOMPARE(list.size(), std::size_t(3));
        QCOMPARE(list[2].form, 1u); // wanted ones come first
        QCOMPARE(list[2].lengthMm, 14.0f);
        QVERIFY(std::abs(list[0].lengthMm - 11) < 1e-4f);
        QVERIFY(std::abs(list[1].lengthMm - (10 * std::numbers::pi_v<float> + 2)) < 0.02f);
        QVERIFY(list[0].isMissed && list[0].miss < 0); // 11 of 14: 21 % short
        QVERIFY(!list[1].isMissed);                    // 33.4 of 14 is 2.39: 4 % long
        a.unitForm = 0;
        QVERIFY(!proportionsOf(a)[0].isMissed);
    }
    void onePointOfContactNeverStands()
    {
        const mesh::PolyMesh ball = test::sphere(8, 40, 80);
        QVERIFY(!armature::balanceOf(ball.positions, {0, 0, 0}, 1e-4f).stands());
        QVERIFY(!armature::balanceOf({}, {0, 0, 0}, 1).stands());
    }
};

BONEMOSS_TEST(TestBalance)
#include "tst_balance.moc"
