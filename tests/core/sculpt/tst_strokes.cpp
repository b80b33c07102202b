#include "support/run.h"
#include "base/parallel.h"
#include "image/picture.h"
#include "mesh/measures.h"
#include "sculpt/dab.h"
#include "sculpt/kelvinlet.h"
#include "support/bed.h"
#include "support/shapes.h"

#include <QtTest>

#include <numbers>

using namespace bonemoss;
using sculpt::StrokeSettings;
using sculpt::Tool;

using test::Bed;
using test::plainSettings;
using test::stroke;

namespace {

bool sameBits(const mesh::Surface &a, const mesh::Surface &b)
{
    return a.positions.flatten() == b.positions.flatten();
}

} // namespace

class TestStrokes : public QObject
{
    Q_OBJECT
private slots:
    // One print of Raise on a plane is the falloff itself: (1 - t^2)^2 times its height, straight up.
    void raiseFollowsItsFormula()
    {
        Bed bed(test::plane(20, 100));
        stroke(bed, plainSettings(Tool::Raise), {{0, 0, 0}});
        float top = 0;
        for (std::size_t i = 0; i < bed.surface.positions.size(); ++i)
            top = std::max(top, bed.surface.positions[i].y);
        QVERIFY(top > 0.1f);
        for (std::size_t i = 0; i < bed.surface.positions.size(); ++i) {
            const Vec3f p = bed.surface.positions[i];
            const float t = std::hypot(p.x, p.z) / 4, q = 1 - t * t;
            QVERIFY(std::abs(p.y - (t < 1 ? top * q * q : 0)) < 1e-4f);
        }
    }
    void reversedIsTheOpposite()
    {
        Bed up(test::plane(20, 60)), down(test::plane(20, 60));
        StrokeSettings s = plainSettings(Tool::Raise);
        stroke(up, s, {{0, 0, 0}});
        s.isReversed = true;
        stroke(down, s, {{0, 0, 0}});
        for (std::size_t i = 0; i < up.surface.positions.size(); ++i)
            QVERIFY(std::abs(up.surface.positions[i].y + down.surface.positions[i].y) < 1e-6f);
    }
    void outsideTheRingNothingMoves_data()
    {
        QTest::addColumn<int>("tool");
        for (std::size_t t = 0; t < sculpt::kToolCount; ++t) // those that change faces have their own test
            if (!changesFaces(sculpt::Tool(t)) && !paints(sculpt::Tool(t)))
                QTest::newRow(nameOf(Tool(t)).data()) << int(t);
    }
    void outsideTheRingNothingMoves()
    {
        QFETCH(int, tool);
        Bed bed(test::sphere(20, 100, 200));
        const mesh::Surface before = bed.surface;
        StrokeSettings s = plainSettings(Tool(tool));
        stroke(bed, s, {{0, 20, 0}, {2, 20, 0}, {2, 20, 1}});
        bool moved = Tool(tool) == Tool::Mask ? !bed.mask.isBlank() : false;
        for (std::size_t i = 0; i < before.positions.size(); ++i) {
            if (before.positions[i] == bed.surface.positions[i])
                continue;
            moved = true;
            const float ring = Tool(tool) == Tool::Knead ? 4 * sculpt::Kelvinlet::kReach : 4;
            QVERIFY(length(before.positions[i] - Vec3f{1.5f, 20, 0}) < ring + 4); // ring, and the way of the stroke
        }
        if (Tool(tool) != Tool::Smooth) // a sphere is smooth already
            QVERIFY(moved);
    }
    void maskedVerticesKeepTheirBits_data() { outsideTheRingNothingMoves_data(); }
    void maskedVerticesKeepTheirBits()
    {
        QFETCH(int, tool);
        if (Tool(tool) == Tool::Mask)
            return;
        Bed bed(test::sphere(20, 100, 200));
        for (std::size_t b = 0; b < bed.mask.blockCount(); ++b) {
            std::uint8_t *m = bed.mask.edit(b);
            for (std::size_t i = 0; i < bed.mask.countIn(b); ++i)
                m[i] = bed.surface.positions.data(b)[i].x > 0 ? 255 : 0;
        }
        const mesh::Surface before = bed.surface;
        stroke(bed, plainSettings(Tool(tool)), {{-2, 20, 0}, {0, 20, 0}, {2, 20, 0}, {0, 20, 3}});
        for (std::size_t i = 0; i < before.positions.size(); ++i)
            if (before.positions[i].x > 0)
                QVERIFY(before.positions[i] == bed.surface.positions[i]);
    }
    void mirroredStrokeIsSymmetric_data() { outsideTheRingNothingMoves_data(); }
    void mirroredStrokeIsSymmetric()
    {
        QFETCH(int, tool);
        Bed bed(test::plane(40, 80));
        StrokeSettings s = plainSettings(Tool(tool));
        s.isMirrored = true;
        s.stamp = "pebbles";
        stroke(bed, s, {{3, 0, 0}, {6, 0, 2}, {5, 0.5f, 6}});
        std::map<std::pair<long, long>, float> height;
        const auto key = [](float v) { return std::lround(v * 1000); };
        const auto start = mesh::makeSurface(inSpatialOrder(test::plane(40, 80)));
        for (std::size_t i = 0; i < start.positions.size(); ++i)
            height[{key(start.positions[i].x), key(start.positions[i].z)}] =
                Tool(tool) == Tool::Mask ? float(bed.mask[i]) : bed.surface.positions[i].y;
        for (const auto &[at, y] : height)
            QVERIFY(std::abs(y - height.at({-at.first, at.second})) < 2e-4f);
    }
    // Across the seam a stroke and its twin must not add up to twice the height.
    void seamDoesNotDouble()
    {
        Bed single(test::plane(40, 160)), twin(test::plane(40, 160));
        StrokeSettings s = plainSettings(Tool::Raise);
        stroke(single, s, {{0, 0, -3}, {0, 0, 3}});
        s.isMirrored = true;
        stroke(twin, s, {{0, 0, -3}, {0, 0, 3}});
        const float a = mesh::boundsOf(single.surface.positions.flatten()).hi.y,
                    b = mesh::boundsOf(twin.surface.positions.flatten()).hi.y;
        QVERIFY2(std::abs(a / b - 1) < 0.01f, qPrintable(QString("%1 %2").arg(double(a)).arg(double(b))));
    }
    void sameBitsOnAnyThreadCount_data() { outsideTheRingNothingMoves_data(); }
    void sameBitsOnAnyThreadCount()
    {
        QFETCH(int, tool);
        const mesh::PolyMesh ball = test::sphere(20, 300, 400);
        Bed all(ball), one(ball);
        const StrokeSettings s = plainSettings(Tool(tool));
        stroke(all, s, {{0, 20, 0}, {8, 18, 2}, {12, 15, 5}});
        const ThreadLimit limit(1);
        stroke(one, s, {{0, 20, 0}, {8, 18, 2}, {12, 15, 5}});
        QVERIFY(sameBits(all.surface, one.surface));
        QVERIFY(all.mask.flatten() == one.mask.flatten());
    }
    // The far side of a sheet 1 mm thick stays, bit for bit, though it lies within the ring.
    void farSideOfAFinStays()
    {
        mesh::PolyMesh fin = test::plane(30, 60);
        const auto n = std::uint32_t(fin.positions.size());
        for (std::uint32_t i = 0; i < n; ++i)
            fin.positions.push_back(fin.positions[i] - Vec3f{0, 1, 0});
        const std::size_t faces = fin.faces.size();
        for (std::size_t f = 0; f < faces; ++f) {
            mesh::Face b = fin.faces[f];
            for (std::uint32_t &v : b.v)
                v += n;
            std::swap(b.v[1], b.v[3]);
            fin.faces.push_back(b);
        }
        for (const Tool tool : {Tool::Raise, Tool::Swell, Tool::Crease, Tool::Stamp}) {
            Bed bed(fin);
            const mesh::Surface before = bed.surface;
            stroke(bed, plainSettings(tool), {{0, 0.1f, 0}, {3, 0.1f, 0}});
            for (std::size_t i = 0; i < before.positions.size(); ++i)
                if (before.positions[i].y < -0.5f)
                    QVERIFY2(before.positions[i] == bed.surface.positions[i], nameOf(tool).data());
        }
    }
    // G. Taubin 1995: two-step smoothing leaves low frequencies; its gain there is at most 1.0011 a pass. After
    // 40 passes a ball keeps its volume within 2 %, where plain averaging would lose a tenth and more.
    void smoothKeepsVolume()
    {
        Bed bed(test::sphere(10, 40, 80));
        const double before = mesh::measure(toPolyMesh(bed.surface)).volumeMm3;
        StrokeSettings s = plainSettings(Tool::Smooth);
        s.size = 100;
        s.falloff = sculpt::Falloff::Plateau;
        for (int k = 0; k < 10; ++k)
            stroke(bed, s, {{0, 10, 0}});
        const double share = mesh::measure(toPolyMesh(bed.surface)).volumeMm3 / before;
        QVERIFY2(std::abs(share - 1) < 0.02, qPrintable(QString::number(share)));
    }
    // Transfer function of Taubin 1995, f(k) = ((1 - lambda k)(1 - mu k))^N with lambda 0.6307, mu -0.6732: on a
    // regular quad grid the sine of wavelength w has eigenvalue k = (1 - cos(2 pi / w)) / 2 under the mean of 4.
    void smoothMatchesItsTransferFunction()
    {
        constexpr int kWave = 4;
        mesh::PolyMesh m = test::plane(64, 64);
        for (Vec3f &p : m.positions)
            p.y = 0.1f * std::cos(p.x * 2 * std::numbers::pi_v<float> / kWave);
        Bed bed(m);
        StrokeSettings s = plainSettings(Tool::Smooth);
        s.falloff = sculpt::Falloff::Plateau;
        sculpt::Dab dab;
        dab.radius = 1000; // the weight is 1 all over
        dab.amount = 1;
        std::vector<std::uint32_t> blocks(bed.surface.positions.blockCount());
        for (std::uint32_t b = 0; b < blocks.size(); ++b)
            blocks[b] = b;
        const mesh::Surface start = bed.surface;
        const sculpt::StrokeNeeds needs;
        const std::vector<sculpt::Isometry> places(1);
        sculpt::DabWork work{bed.surface, bed.mask, s, start, needs, places};
        applySmooth(work, {dab}, blocks, 2);
        const double k = (1 - std::cos(2 * std::numbers::pi / kWave)) / 2;
        const double want = std::pow((1 - 0.6307 * k) * (1 + 0.6732 * k), 2);
        for (std::size_t i = 0; i < bed.surface.positions.size(); ++i) {
            const Vec3f p = bed.surface.positions[i];
            if (std::abs(p.z) < 20 && std::abs(p.x) < 12 && std::abs(std::remainder(p.x, float(kWave))) < 0.01f)
                QVERIFY2(std::abs(double(p.y) / 0.1 - want) < 0.01,
                         qPrintable(QString("%1 %2").arg(double(p.y) / 0.1).arg(want)));
        }
    }
    // Two sheets a millimetre apart, facing the same way: by the ball alone both would move. The strip
    // that joins them far outside the ball does not count; one inside it does.
    void onlyConnectedSkinMoves_data()
    {
        QTest::addColumn<int>("tool");
        QTest::addColumn<bool>("isConnected");
        QTest::addColumn<int>("cells");
        for (const Tool tool : {Tool::Raise, Tool::Smooth}) // many blocks, most of them without any border
            QTest::addRow("%s, wide sheets", nameOf(tool).data()) << int(tool) << true << 480;
        for (std::size_t t = 0; t < sculpt::kToolCount; ++t) // those that change faces have their own test
            if (!changesFaces(sculpt::Tool(t)) && !paints(sculpt::Tool(t)))
                for (const bool on : {true, false})
                    QTest::addRow("%s, %s", nameOf(Tool(t)).data(), on ? "connected" : "all") << int(t) << on << 160;
    }
    void onlyConnectedSkinMoves()
    {
        QFETCH(int, tool);
        QFETCH(bool, isConnected);
        QFETCH(int, cells);
        mesh::PolyMesh two = test::plane(0.25f * float(cells), std::uint32_t(cells));
        for (Vec3f &p : two.positions) // bumps, so that Smooth has something to do
            p.y = 0.05f * std::sin(9 * p.x) * std::sin(7 * p.z);
        const auto n = std::uint32_t(two.positions.size());
        const mesh::PolyMesh lower = two;
        for (const Vec3f p : lower.positions)
            two.positions.push_back(p - Vec3f{0, 1, 0});
        for (mesh::Face f : lower.faces) {
            for (std::uint32_t &v : f.v)
                v += v == kNone ? 0 : n;
            two.faces.push_back(f);
        }
        Bed bed(cells > 160 ? inSpatialOrder(two) : two);
        const mesh::Surface before = bed.surface;
        StrokeSettings s = plainSettings(Tool(tool));
        s.isConnected = isConnected;
        if (Tool(tool) == Tool::Gouge)
            s.strength = 0.1f; // or the upper sheet would go through the lower
        stroke(bed, s, {{0, 0, 0}, {1, 0.1f, 0}, {2, 0.1f, 0}, {2, 0.1f, 1}});
        std::size_t upper = 0, below = 0;
        for (std::size_t i = 0; i < before.positions.size(); ++i)
            if (Tool(tool) == Tool::Mask ? bed.mask[i] > 0 : !(before.positions[i] == bed.surface.positions[i]))
                ++(before.positions[i].y > -0.5f ? upper : below);
        QVERIFY(upper > 100);
        QCOMPARE(below > 0, !isConnected);
    }
    // The far bank of a fold belongs to the stroke where the ball holds the bottom of the fold as well.
    void aFoldWithinTheBallIsConnected()
    {
        mesh::PolyMesh m = test::plane(40, 200);
        for (Vec3f &p : m.positions) // a valley 2 mm deep and steep along x = 1.5
            p.y = -2 * std::exp(-(p.x - 1.5f) * (p.x - 1.5f) * 4);
        Bed bed(m);
        const mesh::Surface before = bed.surface;
        stroke(bed, plainSettings(Tool::Raise), {{0, 0, 0}});
        bool beyond = false;
        for (std::size_t i = 0; i < before.positions.size(); ++i)
            beyond = beyond || (before.positions[i].x > 2.8f && !(before.positions[i] == bed.surface.positions[i]));
        QVERIFY(beyond);
    }
    void tugMovesTheGrabbedPointByTheDrag()
    {
        Bed bed(test::plane(40, 80));
        stroke(bed, plainSettings(Tool::Tug), {{0, 0, 0}, {0, 1, 0}, {1, 3, 0}});
        float nearest = 1e9f;
        for (std::size_t i = 0; i < bed.surface.positions.size(); ++i)
            nearest = std::min(nearest, length(bed.surface.positions[i] - Vec3f{1, 3, 0}));
        QVERIFY(nearest < 0.05f);
    }
    // A second sheet close by is not joined to the one taken hold of: it stays.
    void tugHoldsOnlyWhatIsConnected()
    {
        mesh::PolyMesh m = test::plane(20, 40);
        const auto n = std::uint32_t(m.positions.size());
        for (std::uint32_t i = 0; i < n; ++i)
            m.positions.push_back(m.positions[i] + Vec3f{0, -1.5f, 0});
        const std::size_t faces = m.faces.size();
        for (std::size_t f = 0; f < faces; ++f) {
            mesh::Face b = m.faces[f];
            for (std::uint32_t &v : b.v)
                v += n;
            m.faces.push_back(b);
        }
        Bed bed(m);
        const mesh::Surface before = bed.surface;
        stroke(bed, plainSettings(Tool::Tug), {{0, 0, 0}, {0, 5, 0}});
        for (std::size_t i = 0; i < before.positions.size(); ++i)
            if (before.positions[i].y < -1)
                QVERIFY(before.positions[i] == bed.surface.positions[i]);
    }
    void creaseIsDeepestOnItsLine()
    {
        Bed bed(test::plane(30, 150));
        stroke(bed, plainSettings(Tool::Crease), {{-6, 0, 0}, {6, 0, 0}});
        const auto depth = [&](float z) {
            float d = 0, nearest = 1e9f;
            for (std::size_t i = 0; i < bed.surface.positions.size(); ++i) {
                const Vec3f p = bed.surface.positions[i];
                if (const float off = std::hypot(p.x, p.z - z); off < nearest)
                    nearest = off, d = p.y;
            }
            return d;
        };
        QVERIFY(depth(0) < -0.3f);
        QVERIFY(depth(0) < depth(1) && depth(1) < depth(2) && depth(2) <= 0.01f);
        QVERIFY(std::abs(depth(1.5f) - depth(-1.5f)) < 0.03f);
    }
    // A stamp is its picture times depth, sampled slowly here with the picture's own values.
    void stampPressesItsPicture()
    {
        Bed bed(test::plane(20, 200));
        StrokeSettings s = plainSettings(Tool::Stamp);
        s.stamp = "pebbles";
        s.falloff = sculpt::Falloff::Plateau;
        s.depth = 0.5f;
        stroke(bed, s, {{0, 0, 0}});
        const image::HeightPicture *picture = image::builtInStamp("pebbles");
        double same = 0, ours = 0, theirs = 0;
        for (std::size_t i = 0; i < bed.surface.positions.size(); ++i) {
            const Vec3f p = bed.surface.positions[i];
            if (std::hypot(p.x, p.z) > 2) // the plateau is nearly 1 here
                continue;
            // Flat on the floor the picture's top lies towards the nose and its right towards the right flank.
            const float want = (picture->at(0.5f - 0.5f * p.x / 4, 0.5f - 0.5f * p.z / 4) - 0.5f);
            same += double(want) * double(p.y), ours += double(p.y) * double(p.y), theirs += double(want) * double(want);
        }
        QVERIFY2(same / std::sqrt(ours * theirs) > 0.97, qPrintable(QString::number(same / std::sqrt(ours * theirs))));
    }
    void sizeOfFacesHardlyMatters()
    {
        Bed coarse(test::plane(40, 80)), fine(test::plane(40, 320));
        const StrokeSettings s = plainSettings(Tool::Raise);
        for (Bed *b : {&coarse, &fine})
            stroke(*b, s, {{-5, 0, 0}, {5, 0, 0}});
        const float a = mesh::boundsOf(coarse.surface.positions.flatten()).hi.y,
                    b = mesh::boundsOf(fine.surface.positions.flatten()).hi.y;
        QVERIFY2(std::abs(a / b - 1) < 0.05f, qPrintable(QString("%1 %2").arg(double(a)).arg(double(b))));
    }
    void speedOfThePenDoesNotMatter()
    {
        Bed slow(test::plane(40, 160)), fast(test::plane(40, 160));
        const StrokeSettings s = plainSettings(Tool::Raise);
        std::vector<Vec3f> many;
        for (int k = 0; k <= 100; ++k)
            many.push_back({-5 + 0.1f * float(k), 0, 0});
        const auto fromAbove = [&](Bed &bed, const std::vector<Vec3f> &points) {
            sculpt::Stroke stroke(bed.surface, bed.mask, s);
            for (const Vec3f p : points)
                stroke.add({p + Vec3f{0, 50, 0}, {0, -1, 0}, 1, 0});
        };
        fromAbove(slow, many);
        fromAbove(fast, {{-5, 0, 0}, {5, 0, 0}});
        float worst = 0;
        for (std::size_t i = 0; i < slow.surface.positions.size(); ++i)
            worst = std::max(worst, length(slow.surface.positions[i] - fast.surface.positions[i]));
        QVERIFY2(worst < 0.05f, qPrintable(QString::number(double(worst))));
    }
    void falloffsFadeToTheRim_data()
    {
        QTest::addColumn<int>("falloff");
        for (int i = 0; i < int(sculpt::kFalloffNames.size()); ++i)
            QTest::newRow(sculpt::kFalloffNames[std::size_t(i)].data()) << i;
    }
    void falloffsFadeToTheRim()
    {
        QFETCH(int, falloff);
        float last = 1;
        QVERIFY(std::abs(weightOf(sculpt::Falloff(falloff), 0) - 1) < 1e-6f);
        for (int k = 1; k <= 100; ++k) {
            const float w = weightOf(sculpt::Falloff(falloff), float(k) / 100);
            QVERIFY(w <= last + 1e-6f && w >= -1e-6f);
            last = w;
        }
        QCOMPARE(last, 0.0f);
    }
};

BONEMOSS_TEST(TestStrokes)
#include "tst_strokes.moc"
