#include "armature/form.h"
#include "base/random.h"
#include "field/knit.h"
#include "mesh/measures.h"

#include <QtTest>

#include <numbers>

using namespace bonemoss;
using armature::Form;
using armature::FormKind;

namespace {

constexpr double kPi = std::numbers::pi;

armature::Armature one(Form f)
{
    f.id = 1;
    f.melt = 0;
    return {{f}};
}

float distanceAt(const armature::Armature &a, Vec3f p)
{
    float d = 0;
    armature::makeDistance(a)->sample({p, p}, {&p, 1}, {&d, 1});
    return d;
}

} // namespace

class TestForms : public QObject
{
    Q_OBJECT
private slots:
    // Volumes from standard tables: ball, capsule, frustum of a cone, ellipsoid, box.
    void knittedVolumes_data()
    {
        QTest::addColumn<int>("kind");
        QTest::addColumn<double>("volume");
        QTest::newRow("ball 10") << int(FormKind::Ball) << 4.0 / 3 * kPi * 1000;
        QTest::newRow("ellipsoid 12, 8, 5") << int(FormKind::Ellipsoid) << 4.0 / 3 * kPi * 480;
        QTest::newRow("capsule 5, 20") << int(FormKind::Limb) << kPi * 25 * 20 + 4.0 / 3 * kPi * 125;
        QTest::newRow("frustum 8, 3, 20") << int(FormKind::Cone) << kPi * 20 / 3 * (64 + 24 + 9);
        QTest::newRow("box 24 x 16 x 10") << int(FormKind::Block) << 24.0 * 16 * 10;
        QTest::newRow("straight tube 5") << int(FormKind::Tube) << kPi * 25 * 20 + 4.0 / 3 * kPi * 125;
    }
    void knittedVolumes()
    {
        QFETCH(int, kind);
        QFETCH(double, volume);
        Form f;
        f.kind = FormKind(kind);
        f.radii = f.kind == FormKind::Ball ? Vec3f{10, 10, 10} : f.kind == FormKind::Block ? Vec3f{12, 8, 5} : Vec3f{12, 8, 5};
        f.rounding = 0;
        if (f.kind == FormKind::Cone)
            f.path = {{{0, 0, 0}, 8}, {{0, 0, 20}, 3}};
        else if (f.kind == FormKind::Tube)
            f.path = {{{0, 0, 0}, 5}, {{0, 0, 8}, 5}, {{0, 0, 20}, 5}};
        else
            f.path = {{{0, 0, 0}, 5}, {{0, 0, 20}, 5}};
        f.place = {{3, -4, 5}, fromEulerDeg({20, 35, -50}), {1, 1, 1}};
        const auto k = field::knitSource(*armature::makeDistance(one(f)), {0.25f, 0});
        QVERIFY(k);
        const mesh::Measures r = mesh::measure(k->mesh);
        QVERIFY(r.closed);
        QVERIFY2(std::abs(r.volumeMm3 / volume - 1) < 6e-3, qPrintable(QString::number(r.volumeMm3 / volume)));
        // What is drawn is what is knitted: the same volume from the form's own surface.
        QVERIFY(std::abs(std::abs(mesh::measure(tessellate(f, f.place)).volumeMm3) / volume - 1) < 0.04);
    }
    // A round cone is the union of balls whose radius runs along a segment: brute force over 20,000 balls.
    void roundConeIsAnEnvelopeOfBalls()
    {
        Form f;
        f.kind = FormKind::Limb;
        f.path = {{{1, 2, 3}, 6}, {{4, 15, -8}, 2}};
        const armature::Armature a = one(f);
        for (std::uint64_t i = 0; i < 400; ++i) {
            const Vec3f p = Vec3f{randomSigned(1, i * 3), randomSigned(1, i * 3 + 1), randomSigned(1, i * 3 + 2)} * 25.0f;
            float brute = 1e9f;
            for (int k = 0; k <= 20000; ++k) {
                const float t = float(k) / 20000;
                brute = std::min(brute, length(p - lerp(f.path[0].at, f.path[1].at, t)) - (6 + (2 - 6) * t));
            }
            if (brute > 0)
                QVERIFY2(std::abs(distanceAt(a, p) - brute) < 2e-3f,
                         qPrintable(QString("%1 %2").arg(double(distanceAt(a, p))).arg(double(brute))));
            else
                QVERIFY(distanceAt(a, p) < 1e-3f);
        }
    }
    void twinIsMirrored()
    {
        Form f;
        f.kind = FormKind::Limb;
        f.isMirrored = true;
        f.path = {{{8, 0, 0}, 3}, {{15, 9, 4}, 2}};
        const armature::Armature a = one(f);
        for (std::uint64_t i = 0; i < 100; ++i) {
            const Vec3f p = Vec3f{randomSigned(2, i * 3), randomSigned(2, i * 3 + 1), randomSigned(2, i * 3 + 2)} * 20.0f;
            QVERIFY(std::abs(distanceAt(a, p) - distanceAt(a, mirrored(p))) < 1e-5f);
        }
    }
    void meltingOnlyAdds()
    {
        Form a, b;
        a.id = 1, b.id = 2;
        b.place.move = {14, 0, 0};
        b.melt = 0;
        const armature::Armature hard{{a, b}};
        b.melt = 8;
        const armature::Armature soft{{a, b}};
        const auto h = field::knitSource(*armature::makeDistance(hard), {0.4f, 0});
        const auto s = field::knitSource(*armature::makeDistance(soft), {0.4f, 0});
        QVERIFY(h && s);
        QVERIFY(mesh::measure(s->mesh).volumeMm3 > mesh::measure(h->mesh).volumeMm3 * 1.01);
        QVERIFY(distanceAt(soft, {-9.9f, 0, 0}) < 0 && distanceAt(soft, {-10.1f, 0, 0}) > 0); // far from the joint nothing moves
    }
    void cutTakesAway()
    {
        Form a, b;
        a.id = 1, b.id = 2;
        b.place.move = {10, 0, 0};
        b.radii = {5, 5, 5};
        b.role = armature::FormRole::Cut;
        b.melt = 0;
        const armature::Armature arm{{a, b}};
        QVERIFY(distanceAt(arm, {8, 0, 0}) > 0);
        QVERIFY(distanceAt(arm, {-8, 0, 0}) < 0);
    }
    void apartAndHiddenStayOut()
    {
        Form a, b, c;
        a.id = 1, b.id = 2, c.id = 3;
        b.place.move = {100, 0, 0};
        b.role = armature::FormRole::Apart;
        c.place.move = {-100, 0, 0};
        c.isHidden = true;
        const Box3f box = armature::makeDistance({{a, b, c}})->bounds();
        QVERIFY(box.hi.x < 20 && box.lo.x > -20);
    }
    void smoothPathPassesThroughItsPoints()
    {
        const std::vector<armature::PathPoint> path{{{0, 0, 0}, 3}, {{5, 9, 0}, 2}, {{12, 3, 4}, 4}, {{20, 0, 0}, 1}};
        const auto fine = armature::smoothPath(path, 8);
        QCOMPARE(fine.size(), std::size_t(25));
        for (std::size_t i = 0; i < path.size(); ++i)
            QVERIFY(length(fine[i * 8].at - path[i].at) < 1e-4f);
    }
    void childFollowsItsParent()
    {
        Form a, b;
        a.id = 1, b.id = 2, b.parent = 1;
        b.place.move = {10, 0, 0};
        armature::Armature arm{{a, b}};
        arm.forms[0].place.turn = fromEulerDeg({0, 0, 90});
        const Vec3f p = arm.worldPlace(arm.forms[1]).move;
        QVERIFY(length(p - Vec3f{0, 10, 0}) < 1e-5f);
    }
};

QTEST_APPLESS_MAIN(TestForms)
#include "tst_forms.moc"
