// What each tool must and must not do, on planes, balls and thin sheets.
#include "support/run.h"
#include "base/random.h"
#include "mesh/subdivide.h"
#include "sculpt/kelvinlet.h"
#include "sculpt/symmetry.h"
#include "support/bed.h"
#include "support/shapes.h"

#include <QtTest>

#include <cstring>
#include <map>

using namespace bonemoss;
using sculpt::StrokeSettings;
using sculpt::Tool;
using test::Bed;
using test::plainSettings;
using test::stroke;

namespace {

mesh::PolyMesh shaped(mesh::PolyMesh m, const std::function<float(float, float)> &height)
{
    for (Vec3f &p : m.positions)
        p.y = height(p.x, p.z);
    return m;
}

/// Positions before and after a stroke.
struct Change {
    std::vector<Vec3f> before, after;
    Change(Bed &bed, const StrokeSettings &s, const std::vector<Vec3f> &points) : before(bed.surface.positions.flatten())
    {
        stroke(bed, s, points);
        after = bed.surface.positions.flatten();
    }
    template <typename Use> void each(const Use &use) const
    {
        for (std::size_t i = 0; i < before.size(); ++i)
            use(before[i], after[i]);
    }
};

double volumeOf(const Bed &bed)
{
    return mesh::measure(toPolyMesh(bed.surface)).volumeMm3;
}

struct Vec3d {
    double x, y, z;
};

} // namespace

class TestTools : public QObject
{
    Q_OBJECT
private slots:
    // Common practice, no source: passes of clay have flat tops, and fill what lies low before they build.
    void daubFillsHollowsAndStaysFlat()
    {
        Bed bed(shaped(test::plane(40, 200), [](float, float z) { return std::abs(z) < 1 ? -0.4f : 0.0f; }));
        StrokeSettings s = plainSettings(Tool::Daub);
        s.falloff = sculpt::Falloff::Plateau;
        const Change c(bed, s, {{-8, 0, 0}, {8, 0, 0}});
        float groove = -10, low = 10, high = -10;
        c.each([&](Vec3f was, Vec3f is) {
            if (std::abs(was.x) > 3 || std::abs(was.z) > 2)
                return;
            if (was.y < -0.2f)
                groove = std::max(groove, is.y);
            low = std::min(low, is.y), high = std::max(high, is.y);
        });
        QVERIFY(groove > 0);                                                           // filled, and built over
        QVERIFY2(high - low < 0.08f, qPrintable(QString::number(double(high - low)))); // the step of 0.4 is nearly gone
        QVERIFY2(high < 0.13f * s.size, qPrintable(QString::number(double(high))));    // and nothing piles up along the way
    }
    void slabLaysItsThicknessAndNeverMore()
    {
        Bed once(test::plane(40, 160)), thrice(test::plane(40, 160));
        StrokeSettings s = plainSettings(Tool::Slab);
        s.falloff = sculpt::Falloff::Plateau;
        s.depth = 0.7f;
        stroke(once, s, {{-5, 0, 0}, {5, 0, 0}});
        stroke(thrice, s, {{-5, 0, 0}, {5, 0, 0}, {-5, 0, 0}, {5, 0, 0}});
        const float a = mesh::boundsOf(once.surface.positions.flatten()).hi.y;
        const float b = mesh::boundsOf(thrice.surface.positions.flatten()).hi.y;
        QVERIFY(std::abs(a - 0.7f) < 1e-3f);
        QVERIFY(std::abs(b - 0.7f) < 1e-3f);
        s.isReversed = true;
        stroke(once, s, {{-5, 0, 12}, {5, 0, 12}});
        QVERIFY(std::abs(mesh::boundsOf(once.surface.positions.flatten()).lo.y + 0.7f) < 1e-3f);
    }
    void planeFlattensAndItsSidesHold_data()
    {
        QTest::addColumn<int>("side");
        QTest::newRow("both") << 0;
        QTest::newRow("tops") << 1;
        QTest::newRow("hollows") << 2;
    }
    void planeFlattensAndItsSidesHold()
    {
        QFETCH(int, side);
        Bed bed(shaped(test::plane(40, 200), [](float x, float z) { return 0.3f * std::sin(3 * x) * std::sin(3 * z); }));
        StrokeSettings s = plainSettings(Tool::Plane);
        s.falloff = sculpt::Falloff::Plateau;
        s.planeSide = sculpt::PlaneSide(side);
        const Change c(bed, s, {{-6, 0, 0}, {6, 0, 0}});
        double before = 0, after = 0;
        c.each([&](Vec3f was, Vec3f is) {
            if (side == 1)
                QVERIFY(is.y <= was.y + 2e-3f); // the plane of each dab tilts a little
            if (side == 2)
                QVERIFY(is.y >= was.y - 2e-3f);
            if (std::abs(was.x) < 4 && std::abs(was.z) < 2)
                before += double(was.y) * double(was.y), after += double(is.y) * double(is.y);
        });
        QVERIFY2(after < (side == 0 ? 0.01 : 0.7) * before, qPrintable(QString::number(after / before)));
    }
    void aLockedPlaneIsTheOneGiven()
    {
        Bed bed(shaped(test::plane(40, 200), [](float x, float) { return 0.1f * x; }));
        StrokeSettings s = plainSettings(Tool::Plane);
        s.falloff = sculpt::Falloff::Plateau;
        s.planeFrom = sculpt::PlaneFrom::Locked;
        s.planePoint = {0, 0.05f, 0}, s.planeNormal = {0, 1, 0};
        const Change c(bed, s, {{-5, 0, 0}, {5, 0, 0}, {-5, 0, 0}});
        c.each([&](Vec3f was, Vec3f is) {
            if (std::abs(was.x) < 4 && std::abs(was.z) < 2)
                QVERIFY2(std::abs(is.y - 0.05f) < 0.01f, qPrintable(QString::number(double(is.y))));
        });
    }
    void pinchDrawsTogetherWithinTheSkin()
    {
        Bed bed(test::plane(40, 200));
        const Change c(bed, plainSettings(Tool::Pinch), {{-8, 0, 0}, {8, 0, 0}});
        c.each([](Vec3f was, Vec3f is) {
            QVERIFY(std::abs(is.y) < 1e-4f);
            QVERIFY(std::abs(is.z) <= std::abs(was.z) + 1e-5f);
            if (std::abs(was.x) < 3 && std::abs(was.z) > 0.5f && std::abs(was.z) < 2)
                QVERIFY(std::abs(is.z) < 0.9f * std::abs(was.z));
        });
    }
    // Where nothing is masked vertices are pushed four at a time, where anything is one by one: the same bits.
    void pushedTogetherAsOneByOne_data()
    {
        QTest::addColumn<int>("tool");
        QTest::newRow("raise") << int(Tool::Raise);
        QTest::newRow("gouge") << int(Tool::Gouge);
    }
    void pushedTogetherAsOneByOne()
    {
        QFETCH(int, tool);
        const auto wavy = shaped(test::plane(40, 101), [](float x, float z) { return std::sin(x * 0.7f) * std::cos(z * 0.4f); });
        Bed free(wavy), masked(wavy);
        for (std::size_t b = 0; b < masked.mask.blockCount(); ++b)
            masked.mask.edit(b)[0] = 0; // there, and nothing is masked
        StrokeSettings s = plainSettings(Tool(tool));
        s.size = 7;
        const std::vector<Vec3f> way{{-6, 0, 1}, {0, 0, 3}, {7, 0, -2}};
        const Change a(free, s, way), b(masked, s, way);
        QVERIFY(a.after != a.before);
        QVERIFY(std::memcmp(a.after.data(), b.after.data(), a.after.size() * sizeof(Vec3f)) == 0);
    }
    void gougeCutsAlongTheView()
    {
        Bed bed(test::plane(40, 200));
        const std::vector<Vec3f> before = bed.surface.positions.flatten();
        const Vec3f way = normalized(Vec3f{0.3f, -1, 0.2f});
        sculpt::Stroke live(bed.surface, bed.mask, plainSettings(Tool::Gouge));
        for (const float x : {-3.0f, 3.0f})
            live.add({Vec3f{x, 0, 0} - way * 50, way, 1, 0});
        float deepest = 0;
        for (std::size_t i = 0; i < before.size(); ++i) {
            const Vec3f gone = bed.surface.positions[i] - before[i];
            QVERIFY(length(gone - way * dot(gone, way)) < 1e-4f);
            deepest = std::max(deepest, dot(gone, way));
        }
        QVERIFY(deepest > 0.5f);
    }
    // A quarter of the way round turns the middle by a quarter; the rim stays, and every point keeps its radius.
    void twistTurnsByThePensWay()
    {
        Bed bed(test::plane(40, 400));
        std::vector<Vec3f> way{{0, 0, 0}};
        for (int k = 0; k <= 20; ++k)
            way.push_back({2 * std::cos(float(k) * kPi / 40), 0, -2 * std::sin(float(k) * kPi / 40)});
        StrokeSettings s = plainSettings(Tool::Twist);
        s.falloff = sculpt::Falloff::Plateau;
        const Change c(bed, s, way);
        c.each([](Vec3f was, Vec3f is) {
            QVERIFY(std::abs(length(is) - length(was)) < 1e-3f);
            if (length(was) < 1 && length(was) > 0.3f) {
                const float turned = std::atan2(cross(was, is).y, dot(was, is));
                QVERIFY2(std::abs(turned - kPi / 2) < 0.02f, qPrintable(QString::number(double(turned))));
            }
            if (length(was) > 4)
                QVERIFY(was == is);
        });
    }
    // F. de Goes & D. L. James 2017: equation 6 with v = 1/2, three spreads in the ratio 1.1 with the weights of their
    // section 6, scaled so that the origin moves by the whole load; worked out here in double.
    void kneadFollowsThePaper()
    {
        const sculpt::Kelvinlet solid(2);
        const double e[3] = {2, 2.2, 2.42};
        const double w[3] = {1, -(e[2] * e[2] - e[0] * e[0]) / (e[2] * e[2] - e[1] * e[1]),
                             (e[1] * e[1] - e[0] * e[0]) / (e[2] * e[2] - e[1] * e[1])};
        const Vec3d f{0.3, 1, -0.2};
        const auto field = [&](Vec3d r) {
            Vec3d sum{0, 0, 0};
            double origin = 0;
            for (int k = 0; k < 3; ++k) {
                const double re = std::sqrt(r.x * r.x + r.y * r.y + r.z * r.z + e[k] * e[k]);
                const double plain = 0.5 / re + e[k] * e[k] / (2 * re * re * re);
                const double outer = 0.5 / (re * re * re) * (r.x * f.x + r.y * f.y + r.z * f.z);
                sum.x += w[k] * (plain * f.x + outer * r.x);
                sum.y += w[k] * (plain * f.y + outer * r.y);
                sum.z += w[k] * (plain * f.z + outer * r.z);
                origin += w[k] / e[k];
            }
            return Vec3d{sum.x / origin, sum.y / origin, sum.z / origin};
        };
        for (std::uint64_t i = 0; i < 200; ++i) {
            const Vec3f r{randomSigned(1, i * 3) * 6, randomSigned(1, i * 3 + 1) * 6, randomSigned(1, i * 3 + 2) * 6};
            const Vec3d want = field({double(r.x), double(r.y), double(r.z)});
            const Vec3f is = solid.dragged(r, {0.3f, 1, -0.2f});
            QVERIFY(std::abs(double(is.x) - want.x) < 1e-4 && std::abs(double(is.y) - want.y) < 1e-4
                    && std::abs(double(is.z) - want.z) < 1e-4);
        }
        QVERIFY(length(solid.dragged({}, {0, 1, 0}) - Vec3f{0, 1, 0}) < 1e-5f);
        QVERIFY(length(solid.dragged({2 * sculpt::Kelvinlet::kReach, 0, 0}, {0, 1, 0})) < 1.0f / 500);
    }
    // Their incompressible fields have no divergence anywhere; the swelling one has.
    void kneadKeepsVolumeWhereItSays()
    {
        const sculpt::Kelvinlet solid(2);
        const auto divergence = [](const std::function<Vec3f(Vec3f)> &u, Vec3f p) {
            constexpr float h = 0.02f;
            return (u(p + Vec3f{h, 0, 0}).x - u(p - Vec3f{h, 0, 0}).x + u(p + Vec3f{0, h, 0}).y - u(p - Vec3f{0, h, 0}).y
                    + u(p + Vec3f{0, 0, h}).z - u(p - Vec3f{0, 0, h}).z)
                   / (2 * h);
        };
        for (std::uint64_t i = 0; i < 100; ++i) {
            const Vec3f p{randomSigned(2, i * 3) * 4, randomSigned(2, i * 3 + 1) * 4, randomSigned(2, i * 3 + 2) * 4};
            QVERIFY(std::abs(divergence([&](Vec3f r) { return solid.dragged(r, {0, 1, 0}); }, p)) < 2e-3f);
            QVERIFY(std::abs(divergence([&](Vec3f r) { return solid.turned(r, {0.2f, 1, 0}); }, p)) < 2e-3f);
            QVERIFY(std::abs(divergence([&](Vec3f r) { return solid.squeezed(r, {0, 0, 1}, 0.5f); }, p)) < 2e-3f);
        }
        QVERIFY(divergence([&](Vec3f r) { return solid.swollen(r, 0.1f); }, {}) > 0.2f);
        QVERIFY(length(solid.squeezed({0, 0, 0.01f}, {0, 0, 1}, 0.5f) - Vec3f{0, 0, 0.005f}) < 1e-5f);
        Bed bed(test::sphere(10, 60, 120));
        const double before = volumeOf(bed);
        stroke(bed, plainSettings(Tool::Knead), {{0, 10, 0}, {3, 13, 0}, {4, 16, 2}});
        QVERIFY2(std::abs(volumeOf(bed) / before - 1) < 0.004, qPrintable(QString::number(volumeOf(bed) / before)));
    }
    void relaxEvensFacesAndKeepsTheShape()
    {
        mesh::PolyMesh ball = test::sphere(10, 60, 120);
        for (std::size_t i = 0; i < ball.positions.size(); ++i) { // jittered within the ball's skin
            const Vec3f by{randomSigned(3, i * 3), randomSigned(3, i * 3 + 1), randomSigned(3, i * 3 + 2)};
            ball.positions[i] = normalized(ball.positions[i] + by * 0.12f) * 10;
        }
        Bed bed(ball);
        StrokeSettings s = plainSettings(Tool::Relax);
        s.falloff = sculpt::Falloff::Plateau;
        // Common practice, no source: faces are even when the sums over edges of squared lengths go down at equal area.
        const auto roughness = [&] {
            double sum = 0;
            for (const mesh::Face &f : bed.surface.topology->faces())
                for (std::size_t k = 0; k < std::size_t(f.size()); ++k) {
                    const Vec3f a = bed.surface.positions[f.v[k]],
                                b = bed.surface.positions[f.v[(k + 1) % std::size_t(f.size())]];
                    if (length(a - Vec3f{0, 0, 10}) < 3)
                        sum += double(squaredLength(a - b));
                }
            return sum;
        };
        const double before = roughness();
        for (int k = 0; k < 4; ++k)
            stroke(bed, s, {{0, 0, 10}, {0.7f, 0, 10}});
        const double after = roughness();
        const std::vector<Vec3f> relaxed = bed.surface.positions.flatten();
        bed = Bed(test::sphere(10, 60, 120));
        const double even = roughness();
        QVERIFY2(after - even < 0.4 * (before - even), qPrintable(QString("%1 %2 %3").arg(before).arg(after).arg(even)));
        for (const Vec3f p : relaxed)
            QVERIFY2(std::abs(length(p) - 10) < 0.05f, qPrintable(QString::number(double(length(p)))));
    }
    void restoreGoesBackToTheSkinWithoutTheLayer()
    {
        Bed bed(shaped(test::plane(40, 160), [](float, float) { return 0.2f; }));
        sculpt::StrokeNeeds needs = test::liftedBy(bed.surface);
        StrokeSettings s = plainSettings(Tool::Restore);
        s.falloff = sculpt::Falloff::Plateau;
        sculpt::Stroke live(bed.surface, bed.mask, s, needs);
        for (const float x : {-5.0f, 5.0f})
            live.add({{x, 0.2f, 0}, {}, 1, 0});
        for (const Vec3f p : bed.surface.positions.flatten()) {
            QVERIFY(p.y > -1e-5f && p.y < 0.2f + 1e-5f);
            if (std::abs(p.x) < 4 && std::abs(p.z) < 1)
                QVERIFY(p.y < 0.01f);
        }
    }
    // A bump 8 mm wide on faces of 0.2 mm: smoothing over the ring of neighbours hardly reaches it, over cells it does,
    // and a ball keeps its volume where one that may shrink does not.
    void broadSmoothingTakesWideBumps()
    {
        const mesh::PolyMesh bump =
            shaped(test::plane(60, 300), [](float x, float z) { return 1.5f * std::exp(-(x * x + z * z) / 9); });
        StrokeSettings s = plainSettings(Tool::Smooth);
        s.size = 15;
        s.falloff = sculpt::Falloff::Plateau;
        Bed ring(bump), broad(bump);
        for (int k = 0; k < 8; ++k)
            stroke(ring, s, {{0, 1.5f, 0}});
        s.reach = 0.15f;
        for (int k = 0; k < 8; ++k)
            stroke(broad, s, {{0, 1.0f, 0}});
        const float left = mesh::boundsOf(broad.surface.positions.flatten()).hi.y;
        QVERIFY(mesh::boundsOf(ring.surface.positions.flatten()).hi.y > 1.35f);
        QVERIFY2(left < 0.75f, qPrintable(QString::number(double(left))));
        for (const bool shrinks : {false, true}) {
            Bed ball(test::sphere(10, 80, 160));
            const double before = volumeOf(ball);
            s.size = 50;
            s.reach = 0.06f; // cells of 3 mm on a ball of 10
            s.shrinks = shrinks;
            for (int k = 0; k < 3; ++k)
                stroke(ball, s, {{0, 10, 0}});
            const double share = volumeOf(ball) / before;
            QVERIFY2(shrinks ? share < 0.9 : std::abs(share - 1) < 0.05, qPrintable(QString::number(share)));
        }
    }
    void limitHoldsEveryTool_data()
    {
        QTest::addColumn<int>("tool");
        for (const Tool t : {Tool::Raise, Tool::Daub, Tool::Swell, Tool::Slab, Tool::Tug, Tool::Knead, Tool::Crease, Tool::Gouge,
                             Tool::Smooth, Tool::Restore})
            QTest::newRow(nameOf(t).data()) << int(t);
    }
    void limitHoldsEveryTool()
    {
        QFETCH(int, tool);
        Bed bed(shaped(test::plane(40, 100), [](float x, float z) { return 0.4f * std::sin(5 * x) * std::sin(5 * z); }));
        StrokeSettings s = plainSettings(Tool(tool));
        s.limit = 0.15f;
        s.depth = 0.5f;
        const Change c(bed, s, {{0, 0, 0}, {2, 1, 0}, {-2, 1, 0}, {2, 2, 0}});
        float most = 0;
        c.each([&](Vec3f was, Vec3f is) { most = std::max(most, length(is - was)); });
        QVERIFY2(most > 0.05f && most < 0.1502f, qPrintable(QString::number(double(most))));
    }
    void limitHoldsBroadSmoothing()
    {
        Bed bed(shaped(test::plane(40, 160), [](float x, float z) { return 2 * std::exp(-(x * x + z * z) / 8); }));
        StrokeSettings s = plainSettings(Tool::Smooth);
        s.size = 12, s.reach = 0.15f, s.limit = 0.1f;
        const Change c(bed, s, {{0, 2, 0}, {2, 1, 0}, {-2, 1, 0}});
        float most = 0;
        c.each([&](Vec3f was, Vec3f is) { most = std::max(most, length(is - was)); });
        QVERIFY2(most > 0.09f && most < 0.1002f, qPrintable(QString::number(double(most))));
    }
    // Five places about an axis: the same print five times, turned by 72 degrees each; with a plane ten times.
    void symmetryAboutAnAxis()
    {
        sculpt::Symmetry about;
        about.hasPlane = false;
        about.around = 5;
        about.axisPoint = {1, 0, -1};
        QCOMPARE(about.places().size(), std::size_t(5));
        Bed bed(test::plane(60, 600));
        StrokeSettings s = plainSettings(Tool::Raise);
        s.isMirrored = true;
        s.symmetry = about;
        s.size = 3;
        stroke(bed, s, {{11, 0, -1}});
        for (int k = 0; k < 5; ++k) {
            const float a = 2 * kPi * float(k) / 5;
            const Vec3f at = about.axisPoint + Vec3f{10 * std::cos(a), 0, -10 * std::sin(a)};
            float top = 0;
            for (const Vec3f p : bed.surface.positions.flatten())
                if (std::hypot(p.x - at.x, p.z - at.z) < 0.2f)
                    top = std::max(top, p.y);
            QVERIFY2(std::abs(top - 0.07f * 3) < 0.005f, qPrintable(QString("%1 %2").arg(k).arg(double(top))));
        }
        about.hasPlane = true;
        QCOMPARE(about.places().size(), std::size_t(10));
        about.around = 1;
        QVERIFY(about.places()[1].apply({3, 4, 5}) == (Vec3f{-3, 4, 5})); // the middle plane to the bit
    }
    void twinsOfAnyPlaneAndTheirTurns()
    {
        sculpt::Symmetry slanted;
        slanted.point = {0, 0, 2};
        slanted.normal = normalized(Vec3f{1, 0, 1});
        const sculpt::Isometry mirror = slanted.places()[1];
        for (std::uint64_t i = 0; i < 50; ++i) {
            const Vec3f p{randomSigned(4, i * 3) * 9, randomSigned(4, i * 3 + 1) * 9, randomSigned(4, i * 3 + 2) * 9};
            const Vec3f q = mirror.apply(p);
            QVERIFY(length(mirror.apply(q) - p) < 1e-4f);
            QVERIFY(std::abs(dot(p - slanted.point, slanted.normal) + dot(q - slanted.point, slanted.normal)) < 1e-4f);
            QVERIFY(length(cross(q - p, slanted.normal)) < 1e-4f);
        }
        // A twist and its twin turn against each other.
        Bed bed(test::plane(40, 160));
        StrokeSettings s = plainSettings(Tool::Twist);
        s.isMirrored = true;
        s.size = 3;
        const Change c(bed, s, {{6, 0, 0}, {8, 0, 0}, {8, 0, -1}, {7, 0, -2}, {6, 0, -2}});
        std::map<std::pair<long, long>, Vec3f> moved;
        const auto key = [](Vec3f p) { return std::pair(std::lround(p.x * 1000), std::lround(p.z * 1000)); };
        c.each([&](Vec3f was, Vec3f is) { moved[key(was)] = is - was; });
        float most = 0;
        c.each([&](Vec3f was, Vec3f is) {
            most = std::max(most, length(is - was));
            QVERIFY(length(mirrored(is - was) - moved.at(key(mirrored(was)))) < 1e-4f);
        });
        QVERIFY(most > 0.5f);
    }
    // Fritsch & Carlson 1980: the curve passes its heights and never leaves the range of those beside it.
    void aDrawnFalloffKeepsToItsHeights()
    {
        const sculpt::DrawnFalloff drawn{0.2f, 1, 1, 0.3f, 0.8f, 0.1f, 0};
        for (std::size_t k = 0; k + 1 < drawn.size(); ++k) {
            QVERIFY(std::abs(sculpt::weightOf(drawn, float(k) / 6) - drawn[k]) < 1e-5f);
            for (int i = 0; i <= 10; ++i) {
                const float w = sculpt::weightOf(drawn, (float(k) + float(i) / 10) / 6);
                QVERIFY(w >= std::min(drawn[k], drawn[k + 1]) - 1e-5f && w <= std::max(drawn[k], drawn[k + 1]) + 1e-5f);
            }
        }
        QCOMPARE(sculpt::weightOf(drawn, 1), 0.0f);
        Bed bed(test::plane(20, 100));
        StrokeSettings s = plainSettings(Tool::Raise);
        s.falloff = sculpt::Falloff::Drawn;
        s.drawn = drawn;
        stroke(bed, s, {{0, 0, 0}});
        for (const Vec3f p : bed.surface.positions.flatten())
            QVERIFY(std::abs(p.y - 0.07f * 4 * sculpt::weightOf(drawn, std::hypot(p.x, p.z) / 4)) < 0.01f);
    }
    void frontOnlyLeavesTheFarSideOfAFin_data()
    {
        QTest::addColumn<int>("tool");
        for (const Tool t : {Tool::Tug, Tool::Knead, Tool::Smooth, Tool::Relax})
            QTest::newRow(nameOf(t).data()) << int(t);
    }
    void frontOnlyLeavesTheFarSideOfAFin()
    {
        QFETCH(int, tool);
        mesh::PolyMesh fin = test::box({-6, -0.4f, -6}, {6, 0.4f, 6}); // its rim lies inside the ball: connected
        Bed bed(mesh::subdivide(fin, 5));
        StrokeSettings s = plainSettings(Tool(tool));
        s.size = 9;
        s.isFrontOnly = true;
        const Change c(bed, s, {{0, 0.4f, 0}, {0, 1.4f, 0}});
        float moved = 0;
        for (std::size_t i = 0; i < c.before.size(); ++i) {
            const Vec3f was = c.before[i];
            if (was.y < -0.3f && std::abs(was.x) < 5 && std::abs(was.z) < 5)
                QVERIFY(was == c.after[i]);
            moved = std::max(moved, length(c.after[i] - was));
        }
        QVERIFY(moved > 0);
    }
    // Prints fall within the spray's disc, on both sides of the way, and the same seed sprays the same.
    void sprayScattersPrints()
    {
        Bed a(test::plane(60, 300)), b(test::plane(60, 300));
        StrokeSettings s = plainSettings(Tool::Raise);
        s.size = 1;
        s.spacing = 1;
        s.scatter = 6;
        s.sizeScatter = 0.6f;
        const std::vector<Vec3f> way{{-15, 0, 0}, {15, 0, 0}};
        const Change c(a, s, way);
        stroke(b, s, way);
        QVERIFY(a.surface.positions.flatten() == b.surface.positions.flatten());
        std::size_t left = 0, right = 0, far = 0;
        c.each([&](Vec3f was, Vec3f is) {
            if (is == was)
                return;
            ++(was.z > 0 ? left : right);
            far += std::abs(was.z) > 2.5f;
            QVERIFY(std::abs(was.z) < 7.01f && std::abs(was.x) < 22.01f);
        });
        QVERIFY(left > 20 && right > 20 && far > 20);
    }
    void pressureCurvesBendThePressure()
    {
        const auto height = [](float pressure, float power) {
            Bed bed(test::plane(20, 60));
            StrokeSettings s = plainSettings(Tool::Raise);
            s.strengthCurve = power;
            sculpt::Stroke live(bed.surface, bed.mask, s);
            live.add({{0, 0, 0}, {}, pressure, 0});
            return mesh::boundsOf(bed.surface.positions.flatten()).hi.y;
        };
        const float full = height(1, 1);
        QVERIFY(std::abs(height(0.5f, 1) / full - 0.5f) < 0.01f);
        QVERIFY(std::abs(height(0.5f, 2) / full - 0.25f) < 0.01f);
        QVERIFY(std::abs(height(1, 3) / full - 1) < 0.01f);
    }
    // The same stroke on faces a quarter the size: wherever both have a vertex it went the same way, within 8 % of the
    // farthest move. (The bound is ours.)
    void faceSizeHardlyMatters_data()
    {
        QTest::addColumn<int>("tool");
        for (std::size_t t = 0; t <= std::size_t(Tool::Gouge); ++t)
            if (!changesFaces(Tool(t)))
                QTest::newRow(nameOf(Tool(t)).data()) << int(t);
    }
    void faceSizeHardlyMatters()
    {
        QFETCH(int, tool);
        const auto hills = [](float x, float z) { return 0.5f * std::sin(0.4f * x) * std::cos(0.3f * z); };
        Bed coarse(shaped(test::plane(40, 160), hills)), fine(shaped(test::plane(40, 320), hills));
        StrokeSettings s = plainSettings(Tool(tool));
        s.depth = 0.5f;
        const std::vector<Vec3f> way{{-3, 0.2f, 0}, {0, 0, 0.5f}, {2, 0.3f, 2}};
        const Change a(coarse, s, way), b(fine, s, way);
        std::map<std::pair<long, long>, Vec3f> moved;
        const auto key = [](Vec3f p) { return std::pair(std::lround(p.x * 1000), std::lround(p.z * 1000)); };
        b.each([&](Vec3f was, Vec3f is) { moved[key(was)] = is - was; });
        float most = 0, apart = 0;
        a.each([&](Vec3f was, Vec3f is) {
            most = std::max(most, length(is - was));
            apart = std::max(apart, length(is - was - moved.at(key(was))));
        });
        QVERIFY2(most > 0.05f && apart < 0.08f * most, qPrintable(QString("%1 of %2").arg(double(apart)).arg(double(most))));
    }
};

BONEMOSS_TEST(TestTools)
#include "tst_tools.moc"
