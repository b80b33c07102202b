#include "support/run.h"
#include "base/parallel.h"
#include "base/random.h"
#include "skin/carry.h"
#include "field/knit.h"
#include "support/shapes.h"

#include <QtTest>

#include <cmath>

using namespace bonemoss;
using mesh::BlockArray;

namespace {

constexpr float kRadius = 100;
constexpr std::size_t kLayers = 12;

/// Layer k of a ball lifts it along its radius by a wave over directions, so that what the ball looks like with any
/// of them off is known in closed form.
struct Wave {
    Vec3f across; // waves per radian, times 2 pi
    float height; // mm
    float at(Vec3f direction) const { return height * std::sin(dot(across, direction)); }
};

std::array<Wave, kLayers> waves()
{
    std::array<Wave, kLayers> out;
    for (std::size_t k = 0; k < kLayers; ++k) {
        const Vec3f way = normalized(Vec3f{std::sin(float(k)), std::cos(2.3f * float(k)), std::sin(1.7f * float(k) + 1)});
        out[k] = {way * (6 + 5 * float(k)), 0.6f - 0.03f * float(k)};
    }
    return out;
}

/// Strengths, one of them above 1, one below 0.
float strengthOf(std::size_t k)
{
    return k == 3 ? 1.5f : k == 5 ? -0.5f : 1;
}

/// Radius of the ball in a direction without layer `off`.
float radiusAt(Vec3f direction, std::size_t off = kLayers)
{
    static const auto all = waves();
    float r = kRadius;
    for (std::size_t k = 0; k < kLayers; ++k)
        if (k != off)
            r += strengthOf(k) * all[k].at(direction);
    return r;
}

std::vector<std::uint32_t> allBlocks(const skin::Skin &s)
{
    std::vector<std::uint32_t> out(s.body.blockCount());
    for (std::uint32_t b = 0; b < out.size(); ++b)
        out[b] = b;
    return out;
}

skin::Skin layeredBall(float spacing)
{
    const auto knitted = field::knitMesh(test::sphere(kRadius, 400, 800), {spacing, 0});
    skin::Skin s = skin::makeSkin(knitted->mesh, true);
    const auto all = waves();
    for (std::size_t k = 0; k < kLayers; ++k) {
        skin::Layer l(s.body.size());
        l.id = std::uint32_t(k + 1), l.name = std::string("wave ") + std::to_string(k), l.strength = strengthOf(k);
        for (std::size_t b = 0; b < s.body.blockCount(); ++b) {
            Vec3f *o = l.offsets.edit(b);
            for (std::size_t i = 0; i < s.body.countIn(b); ++i) {
                const Vec3f d = normalized(s.body.data(b)[i]);
                o[i] = d * all[k].at(d);
            }
        }
        s.layers.push_back(std::move(l));
    }
    for (std::size_t b = 0; b < s.mask.blockCount(); ++b) {
        std::uint8_t *m = s.mask.edit(b);
        for (std::size_t i = 0; i < s.mask.countIn(b); ++i)
            m[i] = std::uint8_t(std::clamp(128 + 4 * s.body.data(b)[i].y, 0.0f, 255.0f));
    }
    skin::mixBlocks(s, allBlocks(s));
    return s;
}

/// Mean distance of shown vertices from the closed form, along the radius.
double meanOff(const skin::Skin &s, std::size_t off = kLayers)
{
    constexpr std::size_t kStep = 31; // enough of them
    const std::size_t n = s.shown.positions.size() / kStep;
    const double sum = sumBlocks<double>(n, 4096, [&](BlockRange r) {
        double part = 0;
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const Vec3f p = s.shown.positions[i * kStep];
            part += std::abs(double(length(p) - radiusAt(normalized(p), off)));
        }
        return part;
    });
    return sum / double(n);
}

} // namespace

class TestCarry : public QObject
{
    Q_OBJECT
private slots:
    // Oracle: the closed form of the layered ball; the bound of a quarter of a spacing is the product's own.
    void twelveLayersSurviveAKnit_data()
    {
        QTest::addColumn<float>("factor");
        QTest::newRow("same spacing") << 1.0f;
        QTest::newRow("half the spacing") << 0.5f;
    }
    void twelveLayersSurviveAKnit()
    {
        QFETCH(float, factor);
        const float spacing = 0.355f; // a million faces
        const skin::Skin old = layeredBall(spacing);
        QVERIFY(old.shown.topology->faceCount() > 950'000);
        QVERIFY(meanOff(old) < 0.05 * double(spacing)); // what there was
        const auto knitted = field::knitMesh(toPolyMesh(old.shown), {spacing * factor, 0});
        QVERIFY(bool(knitted));
        skin::Carried carried = skin::carryOver(old, knitted->mesh, spacing);
        skin::Skin &now = carried.skin;
        QCOMPARE(now.layers.size(), kLayers);
        QVERIFY2(meanOff(now) < 0.25 * double(spacing), qPrintable(QString::number(meanOff(now))));
        for (const std::size_t k : {0u, 3u, 5u, 11u}) {
            QCOMPARE(now.layers[k].strength, strengthOf(k));
            now.layers[k].isOn = false;
            skin::mixBlocks(now, allBlocks(now));
            const double off = meanOff(now, k);
            QVERIFY2(off < 0.25 * double(spacing), qPrintable(QStringLiteral("without %1: %2").arg(k).arg(off)));
            QVERIFY(meanOff(now) > 0.08); // it was switched off indeed
            now.layers[k].isOn = true;
        }
        for (std::size_t i = 0; i < now.mask.size(); i += 97) { // the mask was a ramp over height
            const float y = normalized(now.shown.positions[i]).y * kRadius;
            QVERIFY(std::abs(float(now.mask[i]) - std::clamp(128 + 4 * y, 0.0f, 255.0f)) < 4);
        }
        QCOMPARE(carried.losses.size(), kLayers + 2); // skin, layers, mask
        for (const skin::CarryLoss &loss : carried.losses)
            QVERIFY2(loss.mean < 0.1 * double(spacing) && loss.mean <= loss.largest, loss.text().c_str());
    }
    // Unlike what a knit gives: far off, jumping through space, and with nothing near.
    void sameOnAnyNumberOfThreads()
    {
        const skin::Skin old = layeredBall(3);
        const auto knitted = field::knitMesh(toPolyMesh(old.shown), {2, 0});
        const skin::Carried many = skin::carryOver(old, knitted->mesh, 3);
        const ThreadLimit one(1);
        const skin::Carried single = skin::carryOver(old, knitted->mesh, 3);
        for (std::size_t k = 0; k < kLayers; ++k)
            QVERIFY(many.skin.layers[k].offsets.flatten() == single.skin.layers[k].offsets.flatten());
        QVERIFY(many.skin.body.flatten() == single.skin.body.flatten());
        QVERIFY(many.skin.mask.flatten() == single.skin.mask.flatten());
    }
    void lossIsSeenWhereANarrowLayerIsKnittedTooCoarse()
    {
        const skin::Skin old = layeredBall(1);
        const auto knitted = field::knitMesh(toPolyMesh(old.shown), {12, 0}); // shortest wave: 10 mm
        const skin::Carried carried = skin::carryOver(old, knitted->mesh, 12);
        QVERIFY(carried.losses[0].mean > 0.2);                          // the skin
        QVERIFY(carried.losses[kLayers].mean > 0.05);                   // the finest layer
        QVERIFY(carried.losses[1].mean < carried.losses[kLayers].mean); // the widest fares better
    }
    // A mask's edge does not melt away while one works: knitted again twenty times (no outside source: what is not touched
    // stays). Before vertices kept their places its edge grew with each knit.
    void aMaskStaysSharp()
    {
        const float spacing = 0.8f;
        const auto again = [&](const skin::Skin &s) {
            const mesh::PolyMesh shown = toPolyMesh(s.shown);
            const auto k = field::knitAgain(shown, spacing);
            return skin::carryOver(s, k->mesh, 1.2f, {}, {false, false, k->near, k->kept, &shown}).skin;
        };
        skin::Skin s = skin::makeSkin(test::sphere(20, 80, 160), false);
        for (int i = 0; i < 6; ++i) // to its lattice
            s = skin::makeSkin(field::knitAgain(toPolyMesh(s.shown), spacing)->mesh, true);
        std::vector<std::uint8_t> mask;
        for (const Vec3f p : s.body.flatten())
            mask.push_back(p.x > 0.3f * p.y ? 255 : 0);
        s.mask = BlockArray<std::uint8_t>(mask);
        skin::Layer layer(s.body.size());
        layer.id = 1, layer.name = "ripple";
        std::vector<Vec3f> offsets;
        for (const Vec3f p : s.body.flatten())
            offsets.push_back(normalized(p) * (0.05f * std::sin(3 * p.y)));
        layer.offsets = BlockArray<Vec3f>(offsets);
        s.layers.push_back(layer);
        std::vector<std::uint32_t> all = allBlocks(s);
        skin::mixBlocks(s, all);
        s = again(s); // the layer moved it a little
        const auto partly = [](const skin::Skin &x) {
            const auto m = x.mask.flatten();
            return std::count_if(m.begin(), m.end(), [](std::uint8_t v) { return v > 0 && v < 255; });
        };
        const auto first = partly(s);
        skin::Skin later = s;
        for (int i = 0; i < 20; ++i)
            later = again(later);
        QVERIFY2(partly(later) <= first + first / 10 + 2, qPrintable(QString("%1 %2").arg(first).arg(partly(later))));
        double most = 0;
        for (std::size_t v = 0; v < std::min(s.body.size(), later.body.size()); ++v)
            most = std::max(most, double(length(later.layers[0].offsets[v])));
        QVERIFY2(most > 0.0495, qPrintable(QString::number(most))); // 0.05 mm high still
    }
    void nothingLiesOnABareSkin()
    {
        const skin::Skin old = skin::makeSkin(test::sphere(20, 40, 80), false);
        const auto knitted = field::knitMesh(toPolyMesh(old.shown), {1, 0});
        const skin::Carried carried = skin::carryOver(old, knitted->mesh, 1.5f);
        QVERIFY(carried.skin.isBare());
        QVERIFY(carried.skin.body.flatten() == knitted->mesh.positions);
        QCOMPARE(carried.losses.size(), std::size_t(1));
        QVERIFY(carried.losses[0].largest > 0 && carried.losses[0].largest < 0.5);
    }
    void layersOfOneNameBecomeOne()
    {
        skin::Skin a = skin::makeSkin(test::sphere(5, 20, 30), false),
                   b = skin::makeSkin(test::sphere(5, 20, 30, {20, 0, 0}), false);
        const auto give = [](skin::Skin &s, std::uint32_t id, const char *name, float strength, Vec3f by) {
            skin::Layer l(s.body.size());
            l.id = id, l.name = name, l.strength = strength;
            l.offsets = BlockArray<Vec3f>(std::vector<Vec3f>(s.body.size(), by));
            s.layers.push_back(l);
            skin::mixBlocks(s, allBlocks(s));
        };
        give(a, 1, "folds", 1, {1, 0, 0});
        give(b, 2, "folds", 1, {2, 0, 0});
        give(b, 3, "pores", 0.5f, {0, 1, 0});
        const skin::Skin *both[] = {&a, &b};
        const skin::Skin all = skin::together(both);
        QCOMPARE(all.layers.size(), std::size_t(2));
        const std::size_t n = a.body.size();
        QVERIFY(all.layers[0].offsets[n - 1] == (Vec3f{1, 0, 0}) && all.layers[0].offsets[n] == (Vec3f{2, 0, 0}));
        QVERIFY(all.layers[1].offsets[0] == Vec3f{} && all.layers[1].offsets[n] == (Vec3f{0, 1, 0}));
        for (std::size_t i = 0; i < n; ++i) {
            QCOMPARE(all.shown.positions[i], a.shown.positions[i]);
            QCOMPARE(all.shown.positions[n + i], b.shown.positions[i]);
        }
    }
};

BONEMOSS_TEST(TestCarry)
#include "tst_carry.moc"
