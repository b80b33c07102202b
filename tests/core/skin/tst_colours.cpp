// Colour layers. Oracles: the formulas of W3C "Compositing and Blending Level 1" worked out by hand or in doubles, the transfer curve of
// IEC 61966-2-1, what a file gives back.
#include "support/run.h"
#include "base/random.h"
#include "command/command.h"
#include "document/creature.h"
#include "skin/colour_layers.h"
#include "store/store.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <numeric>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using skin::Channel;
using skin::ColourBlend;
using skin::LayerChannel;
using test::need;
using test::skinOf;

namespace {

Creature roundPiece()
{
    return test::withPieces({test::sphere(20, 50, 80)});
}

/// Red, green, blue and cover as they show at a vertex.
std::array<int, 4> shownAt(const Creature &c, std::uint32_t v)
{
    std::array<int, 4> out{};
    for (std::size_t k = 0; k < 4; ++k)
        out[k] = skinOf(c).paint.channels[k][v];
    return out;
}

double linearOf(double s)
{
    return s <= 0.04045 ? s / 12.92 : std::pow((s + 0.055) / 1.055, 2.4);
}
double srgbOf(double l)
{
    return l <= 0.0031308 ? 12.92 * l : 1.055 * std::pow(l, 1 / 2.4) - 0.055;
}

std::uint32_t vertexNear(const Creature &c, Vec3f at)
{
    const auto &p = skinOf(c).shown.positions;
    std::uint32_t best = 0;
    for (std::uint32_t v = 0; v < p.size(); ++v)
        if (length(p[v] - at) < length(p[best] - at))
            best = v;
    return best;
}

} // namespace

class TestColours : public QObject
{
    Q_OBJECT
private slots:
    void formulas()
    {
        const auto grey = [](ColourBlend blend, float below, float above) {
            return blended(blend, {below, below, below}, {above, above, above}).x;
        };
        const auto is = [](float a, double b) { return std::abs(double(a) - b) < 1e-6; };
        QVERIFY(is(grey(ColourBlend::Mix, 0.2f, 0.7f), 0.7));
        QVERIFY(is(grey(ColourBlend::Darken, 0.2f, 0.7f), 0.2) && is(grey(ColourBlend::Darken, 0.9f, 0.7f), 0.7));
        QVERIFY(is(grey(ColourBlend::Lighten, 0.2f, 0.7f), 0.7) && is(grey(ColourBlend::Lighten, 0.9f, 0.7f), 0.9));
        QVERIFY(is(grey(ColourBlend::Multiply, 0.5f, 0.6f), 0.3));
        QVERIFY(is(grey(ColourBlend::Screen, 0.5f, 0.6f), 0.8));
        QVERIFY(is(grey(ColourBlend::Overlay, 0.25f, 0.8f), 0.4) && is(grey(ColourBlend::Overlay, 0.75f, 0.4f), 0.7));
        QVERIFY(is(grey(ColourBlend::Add, 0.3f, 0.4f), 0.7) && is(grey(ColourBlend::Add, 0.8f, 0.4f), 1));
        // "color": hue and saturation of the one above, luminosity of the one below.
        const Vec3f mixed = blended(ColourBlend::Colour, {0.5f, 0.5f, 0.5f}, {0.6f, 0.2f, 0.3f});
        const double by = 0.5 - (0.3 * 0.6 + 0.59 * 0.2 + 0.11 * 0.3);
        QVERIFY(is(mixed.x, 0.6 + by) && is(mixed.y, 0.2 + by) && is(mixed.z, 0.3 + by));
        const Vec3f clipped = blended(ColourBlend::Colour, {0.9f, 0.9f, 0.9f}, {1, 0, 0});
        QVERIFY(is(0.3f * clipped.x + 0.59f * clipped.y + 0.11f * clipped.z, 0.9) && clipped.x <= 1.0001f);
    }
    void halfOfWhiteOverBlackIsMixedInLinearLight()
    {
        Creature c = need(roundPiece(), {{"do", "colour.fill"}, {"colour", {0, 0, 0}}});
        c = need(c, {{"do", "colour.add"}, {"name", "white"}, {"opacity", 0.5}});
        c = need(c, {{"do", "colour.fill"}, {"layer", "white"}, {"colour", {1, 1, 1}}});
        const auto shown = shownAt(c, 7);
        QVERIFY2(std::abs(shown[0] - 188) <= 1, qPrintable(QString::number(shown[0]))); // half the light, in sRGB: 187.5
        QCOMPARE(shown[3], 255);
        c = need(c, {{"do", "colour.set"}, {"layer", "white"}, {"on", false}});
        QCOMPARE(shownAt(c, 7), (std::array{0, 0, 0, 255}));
        c = need(c, {{"do", "colour.set"}, {"layer", "white"}, {"on", true}, {"opacity", 1}, {"blend", "multiply"}});
        QCOMPARE(shownAt(c, 7)[0], 0);
    }
    void manyLayersAreWithinOneOfTheExactSum()
    {
        skin::Skin s = skin::makeSkin(test::plane(20, 30), false);
        std::uint32_t nextId = 1;
        for (int k = 0; k < 8; ++k) {
            const std::uint32_t id = skin::addColourLayer(s, "layer", nextId);
            s.colourLayers.back().opacity = randomUnit(3, std::uint64_t(k));
            s.colourLayers.back().blend = ColourBlend(std::size_t(k) % skin::kColourBlendNames.size());
            for (std::uint32_t v = 0; v < s.body.size(); ++v) {
                const auto random = [&](std::uint64_t what) { return randomUnit(std::uint64_t(k) * 100 + what, v); };
                const int cover = random(9) < 0.2f ? 0 : int(random(0) * 255);
                layerValuesOf(s, id, LayerChannel::Cover).edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = std::uint8_t(cover);
                for (std::size_t c = 0; c < 3; ++c)
                    layerValuesOf(s, id, LayerChannel(c)).edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] =
                        std::uint8_t(random(1 + c) * float(cover));
                layerValuesOf(s, id, LayerChannel::Mask).edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] =
                    std::uint8_t(random(5) * 255);
            }
        }
        composeColours(s);
        double worst = 0;
        for (std::uint32_t v = 0; v < s.body.size(); ++v) {
            std::array<double, 3> sum{};
            double cover = 0;
            for (const skin::ColourLayer &l : s.colourLayers) {
                const auto at = [&](LayerChannel c) { return double((*layerValues(s, l.id, c))[v]); };
                const double own = at(LayerChannel::Cover);
                if (own == 0)
                    continue;
                const double a = double(l.opacity) * (1 - at(LayerChannel::Mask) / 255) * own / 255;
                std::array<double, 3> above{};
                for (std::size_t c = 0; c < 3; ++c) // bytes, as a layer's own colour is one
                    above[c] =
                        linearOf(std::min(255.0, std::floor((at(LayerChannel(c)) * 255 + std::floor(own / 2)) / own)) / 255);
                Vec3f below;
                if (cover > 0)
                    below = Vec3f{float(sum[0] / cover), float(sum[1] / cover), float(sum[2] / cover)};
                const Vec3f b = blended(l.blend, below, {float(above[0]), float(above[1]), float(above[2])});
                const std::array<double, 3> mixed{double(b.x), double(b.y), double(b.z)};
                for (std::size_t c = 0; c < 3; ++c) // co = as (1 - ab) Cs + as ab B + (1 - as) ab Cb
                    sum[c] = a * (1 - cover) * above[c] + a * cover * mixed[c] + (1 - a) * sum[c];
                cover = a + cover - a * cover;
            }
            for (std::size_t c = 0; c < 3; ++c)
                worst = std::max(
                    worst, std::abs(double(s.paint.channels[c][v]) - (cover > 0 ? srgbOf(sum[c] / cover) * cover * 255 : 0)));
            worst = std::max(worst, std::abs(double(s.paint.channels[3][v]) - cover * 255));
        }
        QVERIFY2(worst <= 1, qPrintable(QString::number(worst)));
    }
    void whatWasPaintedBecomesTheLowestLayer()
    {
        const Creature painted =
            need(roundPiece(), {{"do", "piece.paint"}, {"colour", {0.2, 0.5, 0.8}}, {"cover", 0.7}, {"gloss", 0.6}});
        Creature c = need(painted, {{"do", "colour.add"}, {"name", "more"}});
        QCOMPARE(skinOf(c).colourLayers.size(), std::size_t(2));
        QVERIFY(skinOf(c).colourLayers[0].name == "Paint");
        c = need(c, {{"do", "colour.fill"}, {"layer", "more"}, {"colour", {1, 0, 0}}, {"amount", 0.5}});
        c = need(c, {{"do", "colour.remove"}, {"layer", "more"}});
        for (std::size_t k = 0; k < skin::kSeenChannels; ++k)
            QVERIFY(std::abs(int(skinOf(c).paint.channels[k][5]) - int(skinOf(painted).paint.channels[k][5])) <= 1);
        // And what is painted evenly from then on goes there too.
        const Creature again = need(c, {{"do", "piece.paint"}, {"colour", {0, 1, 0}}});
        QVERIFY(shownAt(again, 5)[1] > 250 && shownAt(again, 5)[0] < 3);
    }
    void aStrokePaintsWhereItGoesAndKeepsTheMask()
    {
        const Creature masked = test::masked(roundPiece(), [](Vec3f p) { return p.z > 0; });
        const json stroke{{"do", "sculpt.stroke"},
                          {"tool", "paint"},
                          {"size", 6},
                          {"strength", 1},
                          {"mirror", false},
                          {"colour", {1, 0, 0}},
                          {"connected", false},
                          {"samples", {{20, 0, -3}, {20, 0, 0}, {20, 0, 3}}}};
        const Creature c = need(masked, stroke);
        QCOMPARE(skinOf(c).colourLayers.size(), std::size_t(1)); // the first is made
        QVERIFY(skinOf(c).shown.positions.flatten() == skinOf(masked).shown.positions.flatten());
        const auto on = shownAt(c, vertexNear(c, {20, 0, -3}));
        QVERIFY2(on[0] > 200 && on[1] == 0 && on[3] > 200, qPrintable(QString::number(on[0])));
        for (std::uint32_t v = 0; v < skinOf(c).body.size(); ++v) {
            const Vec3f p = skinOf(c).shown.positions[v];
            if (p.z > 0 || length(p - Vec3f{20, 0, 0}) > 10)
                QCOMPARE(shownAt(c, v), (std::array{0, 0, 0, 0}));
        }
        json wipe = stroke;
        wipe["tool"] = "wipe";
        const Creature bare = need(c, wipe);
        QVERIFY(shownAt(bare, vertexNear(bare, {20, 0, -3}))[3] < on[3] / 3);
        const Creature locked = need(c, {{"do", "colour.set"}, {"layer", "Colour"}, {"locked", true}});
        const auto refused = test::run(locked, stroke);
        QVERIFY(!refused && refused.error().text().find("locked") != std::string::npos);
        QVERIFY(!test::run(locked, {{"do", "colour.fill"}, {"colour", {1, 1, 1}}}));
        QVERIFY(!test::run(locked, {{"do", "colour.remove"}, {"layer", "Colour"}}));
        json nowhere = stroke;
        nowhere["layer"] = "no such";
        QVERIFY(!test::run(masked, nowhere) && !test::run(c, nowhere));
    }
    void layersAreCarriedAndKept()
    {
        Creature c = need(test::masked(roundPiece(), [](Vec3f p) { return p.y > 0; }),
                          {{"do", "colour.fill"}, {"colour", {0.8, 0.3, 0.1}}, {"where", "masked"}});
        c = need(c, {{"do", "colour.add"}, {"name", "finish"}, {"blend", "overlay"}, {"opacity", 0.4}});
        c = need(c, {{"do", "colour.fill"}, {"layer", "finish"}, {"wet", 0.9}, {"colour", {0.1, 0.2, 0.9}}, {"where", "free"}});
        const Creature knit = need(c, {{"do", "piece.reknit"}, {"spacing", 0.8}});
        QVERIFY(test::isSaid("colour"));
        QVERIFY(skinOf(knit).colourLayers == skinOf(c).colourLayers);
        for (const Vec3f at : {Vec3f{0, 20, 0}, {0, -20, 0}, {14.1f, 14.1f, 0}, {0, -14.1f, 14.1f}}) { // flat parts
            const auto was = shownAt(c, vertexNear(c, at)), is = shownAt(knit, vertexNear(knit, at));
            for (std::size_t k = 0; k < 4; ++k)
                QVERIFY2(std::abs(was[k] - is[k]) <= 2, qPrintable(QStringLiteral("%1 %2").arg(was[k]).arg(is[k])));
        }
        QVERIFY(skinOf(knit).paint.of(Channel::Clearcoat)[vertexNear(knit, {0, -20, 0})] > 80);
        QTemporaryDir dir;
        const auto file = std::filesystem::path(dir.filePath("c.bonemoss").toStdString());
        QVERIFY(bool(store::saveAs(file, c)));
        const auto back = store::loadStore(file);
        QVERIFY(bool(back));
        QVERIFY(skinOf(back->creature).colourLayers == skinOf(c).colourLayers);
        for (const skin::KeptMask &m : skinOf(c).colourValues) {
            const auto &all = skinOf(back->creature).colourValues;
            const auto at = std::find_if(all.begin(), all.end(), [&](const auto &o) { return o.name == m.name; });
            QVERIFY(at != all.end() && at->values.flatten() == m.values.flatten());
        }
        for (std::size_t k = 0; k < skin::kSeenChannels; ++k)
            QVERIFY(skinOf(back->creature).paint.channels[k].flatten() == skinOf(c).paint.channels[k].flatten());
    }
    void orderMergeMaskAndAlone()
    {
        Creature c = need(roundPiece(), {{"do", "colour.fill"}, {"colour", {1, 0, 0}}});
        c = need(c, {{"do", "colour.add"}, {"name", "blue"}});
        c = need(c, {{"do", "colour.fill"}, {"layer", "blue"}, {"colour", {0, 0, 1}}, {"amount", 0.6}});
        const auto before = shownAt(c, 3);
        const Creature merged = need(c, {{"do", "colour.merge"}, {"layer", "blue"}});
        QCOMPARE(skinOf(merged).colourLayers.size(), std::size_t(1));
        for (std::size_t k = 0; k < 4; ++k)
            QVERIFY(std::abs(shownAt(merged, 3)[k] - before[k]) <= 1);
        QVERIFY(!test::run(merged, {{"do", "colour.merge"}, {"layer", "Colour"}}));
        const Creature under = need(c, {{"do", "colour.order"}, {"layer", "blue"}, {"to", 0}});
        QCOMPARE(shownAt(under, 3), (std::array{255, 0, 0, 255}));
        const Creature alone = need(c, {{"do", "colour.solo"}, {"layer", "blue"}});
        QCOMPARE(shownAt(alone, 3)[0], 0);
        const Creature rest = need(alone, {{"do", "colour.remove"}, {"layer", "blue"}});
        QCOMPARE(shownAt(rest, 3), (std::array{255, 0, 0, 255})); // the others show again
        const Creature off = need(c, {{"do", "colour.set"}, {"layer", "blue"}, {"on", false}});
        QVERIFY(!test::run(off, {{"do", "colour.merge"}, {"layer", "blue"}})); // it would come to light
        QCOMPARE(shownAt(need(alone, {{"do", "colour.solo"}, {"layer", "blue"}, {"on", false}}), 3), before);
        const Creature masked =
            need(test::masked(c, [](Vec3f p) { return p.x > 0; }), {{"do", "colour.mask"}, {"layer", "blue"}});
        QCOMPARE(shownAt(masked, vertexNear(masked, {20, 0, 0})), (std::array{255, 0, 0, 255}));
        QCOMPARE(shownAt(masked, vertexNear(masked, {-20, 0, 0})), before);
        for (const json &bad : {json{{"do", "colour.fill"}}, json{{"do", "colour.fill"}, {"colour", {2, 0, 0}}},
                                json{{"do", "colour.set"}, {"layer", "none"}},
                                json{{"do", "colour.fill"}, {"where", "masked"}, {"colour", {1, 1, 1}}},
                                json{{"do", "colour.mask"}, {"layer", "blue"}, {"mask", "none"}}})
            QVERIFY(!test::run(c, bad));
    }
};

BONEMOSS_TEST(TestColours)
#include "tst_colours.moc"
