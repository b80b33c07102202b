// Oracles: subdivision keeps straight moves, turns and scales of its points (the weights of each new point add up to 1; Catmull &
// Clark 1978); what subdivision made is found again exactly; the rest is that nothing changes which nobody changed.
#include "support/run.h"
#include "growth/growth.h"
#include "skin/levels.h"
#include "mesh/coarsen.h"
#include "mesh/subdivide.h"
#include "support/shapes.h"

#include <QtTest>

#include <numbers>
#include <numeric>

using namespace bonemoss;

namespace {

template <typename T> bool isShared(const mesh::BlockArray<T> &a, const mesh::BlockArray<T> &b)
{
    for (std::size_t k = 0; k < a.blockCount(); ++k)
        if (!a.sharesWith(b, k))
            return false;
    return a.size() == b.size();
}

void remix(skin::Skin &s)
{
    std::vector<std::uint32_t> all(s.body.blockCount());
    std::iota(all.begin(), all.end(), 0u);
    skin::mixBlocks(s, all);
}

/// Changes each value by a rule of its place.
template <typename Rule> void change(skin::Skin &s, mesh::BlockArray<Vec3f> &values, const Rule &rule)
{
    for (std::size_t b = 0; b < values.blockCount(); ++b) {
        Vec3f *p = values.edit(b);
        for (std::size_t i = 0; i < values.countIn(b); ++i)
            p[i] = rule(p[i], s.shown.positions.data(b)[i]);
    }
    remix(s);
}

/// A ball with two levels above its own, relief on the finest: bumps in the body, another pattern in a layer.
skin::Skin threeLevels()
{
    skin::Skin s = *skin::refine(*skin::refine(skin::makeSkin(test::sphere(20, 24, 36), false)));
    change(s, s.body, [](Vec3f p, Vec3f) { return p * (1 + 0.02f * std::sin(p.x * 3) * std::cos(p.z * 3)); });
    skin::Layer l(s.body.size());
    l.id = 7, l.name = "Pores", l.strength = 0.5f;
    s.layers.push_back(l);
    change(s, s.layers[0].offsets, [](Vec3f, Vec3f at) { return normalized(at) * (0.2f * std::sin(at.y * 4)); });
    return s;
}

float largest(const mesh::BlockArray<Vec3f> &a, const mesh::BlockArray<Vec3f> &b)
{
    float most = a.size() == b.size() ? 0 : 1e9f;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i)
        most = std::max(most, length(a[i] - b[i]));
    return most;
}

skin::Skin at(const skin::Skin &s, std::size_t level)
{
    const auto there = skin::atLevel(s, level);
    Q_ASSERT(there);
    return *there;
}

/// Lets a layer that is a growth have grown anew: the same offset everywhere, by another rule.
void growAnew(skin::Skin &s, Vec3f offset)
{
    s.layers[0].growth = std::make_shared<const growth::Growth>(growth::growthOf(growth::growthKinds()[0]));
    change(s, s.layers[0].offsets, [&](Vec3f, Vec3f) { return offset; });
    skin::forgetGrown(s, s.layers[0].id);
}

/// Three levels, the finest in hand, with a growth that was there before they were made.
skin::Skin grownLevels()
{
    skin::Skin s = skin::makeSkin(test::sphere(20, 24, 36), false);
    skin::Layer l(s.body.size());
    l.id = 7, l.name = "Scales";
    s.layers.push_back(l);
    growAnew(s, {0.1f, 0, 0});
    return *skin::refine(*skin::refine(s));
}

/// How far a skin is at most from showing its body moved by `offset`.
float farthest(const skin::Skin &s, Vec3f offset)
{
    float most = 0;
    for (std::size_t v = 0; v < s.body.size(); ++v)
        most = std::max(most, length(s.shown.positions[v] - s.body[v] - offset));
    return most;
}

} // namespace

class TestLevels : public QObject
{
    Q_OBJECT
private slots:
    void stepsWithoutChangeShareEverything()
    {
        const skin::Skin s = threeLevels();
        const skin::Skin again = at(at(at(at(s, 1), 0), 1), 2);
        QCOMPARE(again.level, std::size_t(2));
        QVERIFY(isShared(again.body, s.body) && isShared(again.layers[0].offsets, s.layers[0].offsets));
        QVERIFY(isShared(again.shown.positions, s.shown.positions));
    }
    void downFollowsTheFineForm()
    {
        skin::Skin s = threeLevels();
        const skin::Skin before = at(s, 0);
        change(s, s.body, [](Vec3f p, Vec3f) { return p * 1.5f + Vec3f{3, 4, 5}; });
        const skin::Skin low = at(s, 0);
        float worst = 0;
        for (std::size_t v = 0; v < low.body.size(); ++v)
            worst = std::max(worst, length(low.body[v] - (before.body[v] * 1.5f + Vec3f{3, 4, 5})));
        QVERIFY2(worst < 0.02f, qPrintable(QString::number(double(worst)))); // the ball became 30 mm
        QVERIFY(isShared(at(low, 2).body, s.body));                          // and back up comes what was sculpted
    }
    void detailTurnsWithTheLargeForm_data()
    {
        QTest::addColumn<float>("turn");
        QTest::addColumn<float>("scale");
        QTest::newRow("moved") << 0.0f << 1.0f;
        QTest::newRow("a quarter turn") << 90.0f << 1.0f;
        QTest::newRow("nearly all round") << 175.0f << 1.0f;
    }
    void detailTurnsWithTheLargeForm()
    {
        QFETCH(float, turn);
        QFETCH(float, scale);
        const skin::Skin fine = threeLevels();
        const Quat q = rotationAbout(normalized(Vec3f{1, 2, 0.5f}), turn / 180 * float(std::numbers::pi));
        const auto place = [&](Vec3f p) { return rotate(q, p) * scale + Vec3f{10, -4, 2}; };
        skin::Skin low = at(fine, 0);
        change(low, low.body, [&](Vec3f p, Vec3f) { return place(p); });
        for (std::size_t b = 0; b < low.layers[0].offsets.blockCount();
             ++b) // the layer's own large form, as a deformation does it
            if (low.layers[0].offsets.has(b)) {
                Vec3f *o = low.layers[0].offsets.edit(b);
                for (std::size_t i = 0; i < low.layers[0].offsets.countIn(b); ++i)
                    o[i] = rotate(q, o[i]);
            }
        remix(low);
        const skin::Skin up = at(low, 2);
        float body = 0, shown = 0;
        for (std::size_t v = 0; v < fine.body.size(); ++v) {
            body = std::max(body, length(up.body[v] - place(fine.body[v])));
            shown = std::max(shown, length(up.shown.positions[v] - place(fine.shown.positions[v])));
        }
        QVERIFY2(body < 2e-3f, qPrintable(QString::number(double(body))));
        QVERIFY2(shown < 2e-3f, qPrintable(QString::number(double(shown))));
    }
    void aLocalChangeStaysLocal()
    {
        const skin::Skin fine = threeLevels();
        skin::Skin low = at(fine, 0);
        change(low, low.body, [](Vec3f p, Vec3f) { return p.y > 17 ? p * 1.2f : p; });
        const skin::Skin up = at(low, 2);
        bool isMoved = false;
        for (std::size_t v = 0; v < fine.body.size(); ++v) {
            if (fine.body[v].y < 5)
                QVERIFY(up.body[v] == fine.body[v]);
            isMoved = isMoved || length(up.body[v] - fine.body[v]) > 2;
        }
        QVERIFY(isMoved);
    }
    void layersChangeOnAllLevels()
    {
        const skin::Skin fine = threeLevels();
        skin::Skin low = at(fine, 0);
        low.layers[0].strength = 1;
        remix(low);
        const skin::Skin stronger = at(low, 2);
        for (std::size_t v = 0; v < fine.body.size(); v += 97)
            QVERIFY(length(stronger.shown.positions[v] - fine.body[v] - fine.layers[0].offsets[v]) < 1e-4f);
        skin::Skin merged = at(fine, 0), wanted = fine;
        QVERIFY(bool(skin::mergeDown(merged, 7)));
        const skin::Skin up = at(merged, 2);
        QVERIFY(up.layers.empty());
        QVERIFY(largest(up.shown.positions, fine.shown.positions) < 1e-3f);
        low.layers.clear();
        remix(low);
        const skin::Skin without = at(low, 2);
        QVERIFY(without.layers.empty());
        QVERIFY(isShared(without.shown.positions, without.body) && isShared(without.body, fine.body));
    }
    void growthsComeToALevelAsAWhole()
    {
        const skin::Skin before = grownLevels();
        const Vec3f grown{0, 0.3f, 0.2f};
        skin::Skin fine = before;
        growAnew(fine, grown);
        QVERIFY(fine.links[1].fine->layers[0].offsets.isBlank()); // no copy of the old one is held
        QVERIFY(isShared(before.links[1].fine->layers[0].offsets, before.layers[0].offsets));
        skin::Skin low = at(fine, 0);
        QVERIFY(farthest(low, grown) < 1e-4f); // the same everywhere is the same on each level (weights add up to 1)
        QVERIFY(largest(low.body, at(before, 0).body) == 0);
        const skin::Skin again = at(low, 2);
        QVERIFY(isShared(again.layers[0].offsets, fine.layers[0].offsets)
                && isShared(again.shown.positions, fine.shown.positions));
        // And grown on the coarsest it comes up in place of what was there.
        growAnew(low, {-0.4f, 0, 0});
        const skin::Skin up = at(low, 2);
        QVERIFY(farthest(up, {-0.4f, 0, 0}) < 1e-4f && isShared(up.body, fine.body));
    }
    void whatGrewAnewIsMergedOnce_data()
    {
        QTest::addColumn<int>("level");
        for (const int level : {0, 1, 2})
            QTest::addRow("level %d in hand", level + 1) << level;
    }
    void whatGrewAnewIsMergedOnce()
    {
        QFETCH(int, level);
        const skin::Skin before = grownLevels();
        const Vec3f grown{0, 0.3f, 0.2f};
        skin::Skin merged = at(before, std::size_t(level));
        growAnew(merged, grown);
        QVERIFY(bool(skin::mergeDown(merged, 7)));
        for (const std::size_t other : {0, 1, 2}) {
            const skin::Skin there = at(merged, other), was = at(before, other);
            QVERIFY(there.layers.empty());
            float most = 0;
            for (std::size_t v = 0; v < there.body.size(); ++v)
                most = std::max(most, length(there.shown.positions[v] - was.body[v] - grown));
            QVERIFY2(most < 1e-3f, qPrintable(QString("level %1: %2").arg(other).arg(double(most))));
        }
    }
    void masksGroupsAndHiddenPartsFollow()
    {
        skin::Skin fine = threeLevels();
        for (std::size_t b = 0; b < fine.mask.blockCount(); ++b) {
            std::uint8_t *m = fine.mask.edit(b), *h = fine.shown.hidden.edit(b);
            std::uint16_t *g = fine.groupOf.edit(b);
            for (std::size_t i = 0; i < fine.mask.countIn(b); ++i) {
                const Vec3f p = fine.body.data(b)[i];
                m[i] = p.x > 4 ? 255 : 0, h[i] = p.y > 10, g[i] = p.z > 0 ? 3 : 0;
            }
        }
        fine.groups.push_back({3, "front"});
        fine.masks.push_back({"side", fine.mask});
        const skin::Skin low = at(fine, 0);
        for (std::size_t v = 0; v < low.body.size(); ++v) {
            const Vec3f p = low.body[v]; // lies a little outside of what it stands for
            if (std::abs(p.x - 4) > 1)
                QCOMPARE(low.mask[v] > 127, p.x > 4);
            if (std::abs(p.y - 10) > 1)
                QCOMPARE(low.shown.hidden[v] != 0, p.y > 10);
            if (std::abs(p.z) > 1)
                QCOMPARE(int(low.groupOf[v]), p.z > 0 ? 3 : 0);
        }
        QVERIFY(low.group("front") && low.keptMask("side"));
        skin::Skin cleared = low;
        skin::clearMask(cleared);
        const skin::Skin up = at(cleared, 2);
        QVERIFY(!up.hasMask());
        QVERIFY(isShared(up.groupOf, fine.groupOf) && isShared(up.shown.hidden, fine.shown.hidden));
        QVERIFY(isShared(up.keptMask("side")->values, fine.masks[0].values));
        // What is hidden is the same skin on every level.
        const auto shownFaces = [](const skin::Skin &s) {
            const auto faces = s.shown.topology->faces();
            return std::count_if(faces.begin(), faces.end(), [&](const mesh::Face &f) { return !isHidden(s.shown, f); });
        };
        skin::Skin one = skin::makeSkin(test::torus(20, 5, 24, 16), false);
        for (std::size_t v = 0; v < one.body.size(); ++v)
            one.shown.hidden.edit(0)[v] = one.body[v].x > 3;
        QCOMPARE(shownFaces(*skin::refine(one)), 4 * shownFaces(one));
    }
    void levelsAreDropped()
    {
        skin::Skin s = at(threeLevels(), 1);
        QVERIFY(!skin::refine(s)); // there is a finer one
        QVERIFY(!skin::atLevel(s, 3));
        skin::dropHigher(s);
        QCOMPARE(s.links.size(), std::size_t(1));
        skin::dropLower(s);
        QVERIFY(s.links.empty() && s.level == 0);
        QVERIFY(skin::refine(s).value().level == 1);
    }
    void lowerLevelsAreFound_data()
    {
        QTest::addColumn<int>("shape");
        QTest::addColumn<int>("levels");
        for (int levels = 1; levels <= 3; ++levels) {
            QTest::addRow("ball with triangles at its poles, %d", levels) << 0 << levels;
            QTest::addRow("ring without a special point, %d", levels) << 1 << levels;
            QTest::addRow("open sheet, %d", levels) << 2 << levels;
            QTest::addRow("two islands, %d", levels) << 3 << levels;
        }
    }
    void lowerLevelsAreFound()
    {
        QFETCH(int, shape);
        QFETCH(int, levels);
        // Odd counts, so that the cage itself is of no other.
        mesh::PolyMesh cage = shape == 1 ? test::torus(20, 5, 13, 7) : shape == 2 ? test::plane(30, 7) : test::sphere(20, 7, 9);
        if (shape == 3)
            mesh::append(cage, test::sphere(5, 5, 7, {40, 0, 0}));
        const mesh::PolyMesh fine = inSpatialOrder(mesh::subdivide(cage, levels)); // another order, as from a file
        const auto found = skin::findLower(skin::makeSkin(fine, true), 6);
        QVERIFY2(bool(found), found ? "" : found.error().text().c_str());
        QCOMPARE(found->links.size(), std::size_t(levels));
        QCOMPARE(found->level, std::size_t(levels));
        // The finest: the same points, bit for bit, in the same faces.
        const auto sorted = [](std::vector<Vec3f> p) {
            std::sort(p.begin(), p.end(), [](Vec3f a, Vec3f b) { return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z); });
            return p;
        };
        QCOMPARE(sorted(found->body.flatten()), sorted(fine.positions));
        const auto areas = [](const mesh::PolyMesh &m) {
            double sum = 0;
            for (const mesh::Face &f : m.faces)
                sum +=
                    double(length(cross(m.positions[f.v[2]] - m.positions[f.v[0]], m.positions[f.v[3]] - m.positions[f.v[1]])));
            return sum;
        };
        QVERIFY(std::abs(areas(toPolyMesh(found->shown)) / areas(fine) - 1) < 1e-6);
        // The lowest: as many points and faces as the cage, and near it.
        const skin::Skin low = at(*found, 0);
        QCOMPARE(low.body.size(), cage.positions.size());
        QCOMPARE(low.shown.topology->faceCount(), cage.faces.size());
        // A ring in which all points are alike came from four cages as well as from one: only that there is one counts.
        for (const Vec3f p : shape == 1 ? std::vector<Vec3f>{} : low.body.flatten()) {
            float nearest = 1e9f;
            for (const Vec3f q : cage.positions)
                nearest = std::min(nearest, length(p - q));
            QVERIFY2(nearest < 0.8f, qPrintable(QString::number(double(nearest)))); // of edges 5 to 15 mm long
        }
        QCOMPARE(at(low, found->links.size()).body.flatten(), found->body.flatten());
    }
    void noLowerLevelsAreMadeUp()
    {
        QVERIFY(!mesh::coarsen(test::sphere(9, 7, 9).positions.size(), test::sphere(9, 7, 9).faces)); // has triangles
        const mesh::PolyMesh odd = test::plane(9, 7); // 7 by 7 quads: no two to a side
        QVERIFY(!mesh::coarsen(odd.positions.size(), odd.faces));
        const mesh::PolyMesh ring = test::torus(20, 5, 13, 8);
        QVERIFY(!mesh::coarsen(ring.positions.size(), ring.faces));
        mesh::PolyMesh loose = mesh::subdivide(test::plane(9, 4), 1);
        loose.positions.push_back({1, 2, 3});
        QVERIFY(!mesh::coarsen(loose.positions.size(), loose.faces));
    }
};

BONEMOSS_TEST(TestLevels)
#include "tst_levels.moc"
