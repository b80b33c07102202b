#include "support/run.h"
#include "base/random.h"
#include "skin/carry.h"
#include "skin/levels.h"
#include "field/knit.h"
#include "mesh/subdivide.h"
#include "support/shapes.h"

#include <QtTest>

using namespace bonemoss;

namespace {

skin::Skin ball()
{
    return skin::makeSkin(test::sphere(20, 100, 160), false);
}

std::uint32_t addLayer(skin::Skin &s, std::uint32_t id, float strength = 1)
{
    skin::Layer l(s.body.size());
    l.id = id;
    l.name = "layer";
    l.strength = strength;
    s.layers.push_back(l);
    return id;
}

/// A stroke of Raise at a point, into a layer (0: body).
void raise(skin::Skin &s, std::uint32_t layer, Vec3f at)
{
    mesh::Surface after = s.shown;
    sculpt::StrokeSettings settings;
    settings.size = 6;
    settings.strength = 1;
    settings.isMirrored = false;
    sculpt::Stroke stroke(after, s.mask, settings);
    stroke.add({at, {}, 1, 0});
    stroke.add({at + Vec3f{3, 0, 0}, {}, 1, 0});
    QVERIFY(bool(skin::takeSculpted(s, after, stroke.touched(), layer)));
}

float largest(const mesh::BlockArray<Vec3f> &a, const mesh::BlockArray<Vec3f> &b)
{
    float worst = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        worst = std::max(worst, length(a[i] - b[i]));
    return worst;
}

void remix(skin::Skin &s)
{
    std::vector<std::uint32_t> all(s.body.blockCount());
    for (std::uint32_t b = 0; b < all.size(); ++b)
        all[b] = b;
    skin::mixBlocks(s, all);
}

} // namespace

class TestLayers : public QObject
{
    Q_OBJECT
private slots:
    void switchedOffIsNever()
    {
        skin::Skin s = ball();
        const auto before = s.shown.positions;
        addLayer(s, 7);
        raise(s, 7, {0, 20, 0});
        QVERIFY(largest(before, s.shown.positions) > 0.1f);
        QCOMPARE(largest(before, s.body), 0.0f); // the body took nothing
        s.layer(7)->isOn = false;
        remix(s);
        QCOMPARE(largest(before, s.shown.positions), 0.0f); // bit for bit
    }
    // Whatever is changed, in whatever blocks: what is kept is what would be made anew, and what need not change is not copied.
    void mixingTouchesOnlyWhatChanges()
    {
        skin::Skin s = skin::makeSkin(test::sphere(20, 200, 320), false);
        std::uint64_t drawn = 0;
        const auto pick = [&](std::size_t n) { return std::size_t(randomBits(11, drawn++) % n); };
        const auto between = [&](float lo, float hi) { return lo + (hi - lo) * randomUnit(11, drawn++); };
        for (std::uint32_t id = 1; id <= 6; ++id) {
            addLayer(s, id, between(-1, 2));
            skin::Layer &l = s.layers.back();
            const Vec3f centre = normalized(Vec3f{between(-1, 1), between(-1, 1), between(-1, 1)}) * 20.0f;
            const float reach = between(3, 14);
            for (std::size_t v = 0; v < s.body.size(); ++v) {
                const Vec3f p = s.body[v];
                if (length(p - centre) < reach)
                    l.offsets.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = p * between(-0.01f, 0.02f);
                if (id % 2 == 0 && p.y > centre.y)
                    l.mask.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = std::uint8_t(pick(256));
            }
        }
        remix(s);
        for (int step = 0; step < 24; ++step) {
            const skin::Skin before = s;
            skin::Layer &l = s.layers[pick(6)];
            if (step % 3 == 0)
                l.isOn = !l.isOn;
            else
                l.strength = between(-1, 2);
            if (step % 2 == 0)
                skin::mixBlocks(s, skin::blocksWith(l));
            else
                remix(s);
            // Slowly, one vertex after the other.
            mesh::BlockArray<Vec3f> wanted = s.body;
            for (std::size_t b = 0; b < wanted.blockCount(); ++b)
                for (const skin::Layer &layer : s.layers)
                    for (std::size_t i = 0; layer.offsets.has(b) && layer.isOn && i < wanted.countIn(b); ++i) {
                        const float hidden = layer.mask.has(b) ? float(layer.mask.data(b)[i]) / 255 : 0;
                        wanted.edit(b)[i] += layer.offsets.data(b)[i] * (layer.strength * (1 - hidden));
                    }
            const mesh::Surface anew = mesh::makeSurface(s.shown.topology, wanted);
            for (std::size_t b = 0; b < wanted.blockCount(); ++b) {
                QVERIFY(std::equal(wanted.data(b), wanted.data(b) + wanted.countIn(b), s.shown.positions.data(b)));
                QVERIFY(std::memcmp(anew.normals.data(b), s.shown.normals.data(b), wanted.countIn(b) * 8) == 0);
                QVERIFY(anew.bounds[b]->box.lo == s.shown.bounds[b]->box.lo
                        && anew.bounds[b]->box.hi == s.shown.bounds[b]->box.hi);
                const bool isMoved =
                    !std::equal(wanted.data(b), wanted.data(b) + wanted.countIn(b), before.shown.positions.data(b));
                QCOMPARE(!before.shown.positions.sharesWith(s.shown.positions, b), isMoved);
            }
            QVERIFY(anew.box().lo == s.shown.box().lo && anew.box().hi == s.shown.box().hi);
        }
    }
    void strengthIsLinear()
    {
        skin::Skin s = ball();
        addLayer(s, 7);
        raise(s, 7, {0, 20, 0});
        const auto full = s.shown.positions;
        s.layer(7)->strength = 0.5f;
        remix(s);
        for (std::size_t i = 0; i < full.size(); ++i)
            QVERIFY(length(s.shown.positions[i] - lerp(s.body[i], full[i], 0.5f)) < 1e-5f);
    }
    void orderDoesNotMatter()
    {
        skin::Skin s = ball();
        addLayer(s, 1, 0.7f);
        addLayer(s, 2, -0.4f);
        raise(s, 1, {0, 20, 0});
        raise(s, 2, {1, 20, 0});
        const auto one = s.shown.positions;
        std::swap(s.layers[0], s.layers[1]);
        remix(s);
        QVERIFY(largest(one, s.shown.positions) < 1e-5f);
    }
    // A stroke shows as the brush says at any strength of its layer.
    void strokeOnAWeakLayerShowsInFull()
    {
        skin::Skin full = ball(), weak = ball();
        raise(full, 0, {0, 20, 0});
        addLayer(weak, 3, 0.25f);
        raise(weak, 3, {0, 20, 0});
        QVERIFY(largest(full.shown.positions, weak.shown.positions) < 1e-4f);
    }
    void strokeOnAnInvisibleLayerIsRefused()
    {
        skin::Skin s = ball();
        addLayer(s, 3);
        s.layer(3)->isOn = false;
        const auto before = s.layers[0].offsets.isBlank();
        QVERIFY(!skin::takeSculpted(s, s.shown, {0}, 3));
        QCOMPARE(s.layers[0].offsets.isBlank(), before);
    }
    void mergeDownShowsTheSame()
    {
        skin::Skin s = ball();
        addLayer(s, 1, 0.5f);
        addLayer(s, 2, 1.5f);
        raise(s, 1, {0, 20, 0});
        raise(s, 2, {2, 20, 0});
        const auto before = s.shown.positions;
        QVERIFY(bool(skin::mergeDown(s, 2)));
        QCOMPARE(s.layers.size(), std::size_t(1));
        QVERIFY(largest(before, s.shown.positions) < 1e-4f);
        QVERIFY(bool(skin::mergeDown(s, 1)));
        QVERIFY(s.layers.empty());
        QVERIFY(largest(before, s.shown.positions) < 1e-4f);
    }
    void untouchedBlocksAreShared()
    {
        const skin::Skin before = ball();
        skin::Skin s = before;
        QVERIFY(s.body.blockCount() > 2);
        raise(s, 0, {0, 20, 0});
        int shared = 0;
        for (std::size_t b = 0; b < s.body.blockCount(); ++b)
            shared += s.body.sharesWith(before.body, b);
        QVERIFY(shared > 0 && shared < int(s.body.blockCount()));
    }
    // Catmull-Clark is linear: what is shown after refining is the refined shown surface (our subdivision is
    // checked against OpenSubdiv elsewhere), and layers stay apart.
    void refineKeepsLayers()
    {
        skin::Skin s = ball();
        addLayer(s, 1, 0.6f);
        raise(s, 1, {0, 20, 0});
        const mesh::PolyMesh want = mesh::subdivide(toPolyMesh(s.shown), 1);
        skin::Skin fine = *skin::refine(s);
        QCOMPARE(fine.body.size(), want.positions.size());
        float worst = 0;
        for (std::size_t i = 0; i < want.positions.size(); ++i)
            worst = std::max(worst, length(fine.shown.positions[i] - want.positions[i]));
        QVERIFY2(worst < 1e-4f, qPrintable(QString::number(double(worst))));
        fine.layer(1)->isOn = false;
        remix(fine);
        const mesh::PolyMesh bare = mesh::subdivide({s.body.flatten(), s.shown.topology->faces()}, 1);
        for (std::size_t i = 0; i < bare.positions.size(); ++i)
            QVERIFY(length(fine.shown.positions[i] - bare.positions[i]) < 1e-4f);
    }
    void reknitCarriesLayersAndMask()
    {
        skin::Skin s = ball();
        addLayer(s, 1, 1);
        raise(s, 1, {0, 20, 0});
        for (std::size_t b = 0; b < s.mask.blockCount(); ++b) {
            std::uint8_t *m = s.mask.edit(b);
            for (std::size_t i = 0; i < s.mask.countIn(b); ++i)
                m[i] = s.body.data(b)[i].z > 0 ? 255 : 0;
        }
        const auto k = field::knitMesh(toPolyMesh(s.shown), {0.4f, 0});
        QVERIFY(k);
        const skin::Carried carried = skin::carryOver(s, k->mesh, 0.4f);
        skin::Skin now = carried.skin;
        QCOMPARE(carried.losses.size(), std::size_t(3));
        QVERIFY(carried.losses[0].mean < 0.02 && carried.losses[0].largest < 0.4);
        for (std::size_t i = 0; i < now.shown.positions.size(); ++i)
            QVERIFY(length(now.shown.positions[i] - k->mesh.positions[i]) < 1e-4f);
        now.layer(1)->isOn = false; // the ball again
        remix(now);
        double worst = 0;
        for (std::size_t i = 0; i < now.shown.positions.size(); ++i)
            worst = std::max(worst, std::abs(double(length(now.shown.positions[i])) - 20));
        QVERIFY2(worst < 0.25, qPrintable(QString::number(worst)));
        std::size_t wrong = 0;
        for (std::size_t i = 0; i < now.mask.size(); ++i)
            if (std::abs(now.body[i].z) > 1)
                wrong += (now.mask[i] > 127) != (now.body[i].z > 0);
        QCOMPARE(wrong, std::size_t(0));
    }
    void maskInvertsClearsAndBlurs()
    {
        skin::Skin s = ball();
        s.mask.edit(0)[5] = 200;
        skin::invertMask(s);
        QCOMPARE(int(s.mask[5]), 55);
        QCOMPARE(int(s.mask[6]), 255);
        skin::invertMask(s);
        QCOMPARE(int(s.mask[5]), 200);
        skin::blurMask(s, 1);
        QVERIFY(s.mask[5] < 200 && s.mask[5] > 50);
        skin::clearMask(s);
        QVERIFY(!s.hasMask());
    }
};

BONEMOSS_TEST(TestLayers)
#include "tst_layers.moc"
