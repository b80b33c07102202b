// Fills from a place on, pictures laid over a skin, brushes that mix, strokes that shape and paint. Oracles: closed forms of the shapes,
// sums that mixing keeps, what is there before and after.
#include "support/run.h"
#include "base/colour.h"
#include "base/parallel.h"
#include "colour/accents.h"
#include "document/creature.h"
#include "document/ops/live_stroke.h"
#include "image/picture.h"
#include "skin/colour_layers.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <map>
#include <set>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using skin::LayerChannel;
using test::need;
using test::skinOf;

namespace {

int redAt(const Creature &c, std::uint32_t v)
{
    return skinOf(c).paint.channels[0][v];
}
/// Whether exactly the vertices that a rule names are painted; those where it says nothing do not count.
template <typename Rule> bool isPaintedWhere(const Creature &c, const Rule &rule)
{
    for (std::uint32_t v = 0; v < skinOf(c).body.size(); ++v)
        if (const std::optional<bool> wanted = rule(skinOf(c).shown.positions[v]); wanted && *wanted != (redAt(c, v) > 100))
            return false;
    return true;
}
mesh::PolyMesh together(mesh::PolyMesh a, const mesh::PolyMesh &b)
{
    const auto first = std::uint32_t(a.positions.size());
    a.positions.insert(a.positions.end(), b.positions.begin(), b.positions.end());
    for (mesh::Face f : b.faces) {
        for (std::uint32_t &v : f.v)
            v = v == kNone ? kNone : v + first;
        a.faces.push_back(f);
    }
    return a;
}

} // namespace

class TestFills : public QObject
{
    Q_OBJECT
private slots:
    void islandAngleAndBorder()
    {
        const Creature two =
            test::withPieces({together(test::sphere(5, 20, 30, {-10, 0, 0}), test::sphere(5, 20, 30, {10, 0, 0}))});
        const json fill{{"do", "colour.fill"}, {"colour", {1, 0, 0}}};
        const auto with = [&](json more) {
            json c = fill;
            c.update(more);
            return c;
        };
        const Creature left = need(two, with({{"where", "island"}, {"at", {-10, 5, 0}}}));
        QVERIFY(isPaintedWhere(left, [](Vec3f p) { return std::optional<bool>(p.x < 0); }));
        // The top of a box whose edges are sharp: from there no neighbour faces more than 20 degrees another way, until the rim.
        const Creature box =
            need(test::withPieces({test::box({-8, -8, -8}, {8, 8, 8})}), {{"do", "piece.reknit"}, {"spacing", 0.8}});
        const Creature top = need(box, with({{"where", "angle"}, {"at", {0, 8, 0}}, {"limit", 12}}));
        QVERIFY(isPaintedWhere(top, [](Vec3f p) {
            const bool isTop = p.y > 7.5f && std::abs(p.x) < 6 && std::abs(p.z) < 6, isBelow = p.y < 5.5f;
            return isTop ? std::optional<bool>(true) : isBelow ? std::optional<bool>(false) : std::nullopt;
        }));
        // Up to a painted border: a ring at x = 0 of another colour.
        Creature ball = test::masked(test::withPieces({test::sphere(10, 60, 90)}), [](Vec3f p) { return std::abs(p.x) < 1; });
        ball = need(ball, {{"do", "colour.fill"}, {"colour", {0, 0, 1}}, {"where", "masked"}});
        ball = need(ball, {{"do", "mask.clear"}});
        ball = need(ball, with({{"where", "border"}, {"at", {10, 0, 0}}, {"limit", 40}}));
        QVERIFY(isPaintedWhere(ball, [](Vec3f p) { return std::optional<bool>(p.x >= 1.0f); }));
        for (const json &bad : {with({{"where", "island"}}), with({{"where", "group"}}), with({{"where", "masked"}}),
                                json{{"do", "colour.fill"}}, json{{"do", "colour.fill"}, {"colour", {0, 0, 3}}}})
            QVERIFY(!test::run(two, bad));
    }
    void aPictureIsLaidWithoutRepeat()
    {
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/p.png").toStdString();
        image::ColourPicture p{64, 64, {}};
        for (int y = 0; y < 64; ++y)
            for (int x = 0; x < 64; ++x) { // half dark, half light, in one stripe
                const auto v = std::uint8_t(x < 32 ? 40 : 220);
                p.rgba.insert(p.rgba.end(), {v, v, 60, 255});
            }
        QVERIFY(image::writePng(file, p));
        Creature flat = test::masked(test::withPieces({test::plane(120, 200)}), [](Vec3f q) { return q.z > 50; });
        const json lay{{"do", "colour.picture"}, {"path", file.native()}, {"size", 10}, {"seam", 0.2}};
        std::vector<std::uint8_t> first;
        Creature laid;
        for (const int threads : {1, 3}) {
            const ThreadLimit limit(threads);
            laid = need(flat, lay);
            const auto now = skinOf(laid).paint.channels[0].flatten();
            QVERIFY(first.empty() || first == now);
            first = now;
        }
        double sum = 0, n = 0;
        const auto &at = skinOf(laid).shown.positions;
        std::map<std::pair<int, int>, double> grid;
        for (std::uint32_t v = 0; v < at.size(); ++v) {
            if (at[v].z > 50) { // masked: nothing is laid
                QCOMPARE(int(skinOf(laid).paint.channels[3][v]), 0);
                continue;
            }
            QVERIFY(first[v] >= 39 && first[v] <= 221); // nothing that is not in the picture
            sum += first[v], n += 1;
            grid[{int(std::lround(at[v].x / 0.6f)), int(std::lround(at[v].z / 0.6f))}] = first[v];
        }
        const double mean = sum / n;
        QVERIFY2(mean > 90 && mean < 185, qPrintable(QString::number(mean))); // about as much of both
        // Shifted by its own width or any step about it, it does not agree with itself: correlation stays low.
        for (int by = 8; by < 40; by += 2) {
            double with = 0, own = 0;
            for (const auto &[k, v] : grid)
                if (const auto o = grid.find({k.first + by, k.second}); o != grid.end())
                    with += (v - mean) * (o->second - mean), own += (v - mean) * (v - mean);
            QVERIFY2(std::abs(with) < 0.25 * own, qPrintable(QStringLiteral("%1: %2").arg(by).arg(with / own)));
        }
        for (const char *bad : {"/nowhere.png", ""})
            QVERIFY(!test::run(flat, {{"do", "colour.picture"}, {"path", bad}}));
    }
    void softeningKeepsTheSumAndSmearingMovesIt()
    {
        Creature c = test::masked(test::withPieces({test::plane(40, 100)}), [](Vec3f p) { return p.x < 0.1f; });
        c = need(c, {{"do", "colour.fill"}, {"colour", {1, 1, 1}}});
        c = need(need(c, {{"do", "colour.add"}}), {{"do", "colour.remove"}, {"layer", "Colour 2"}});
        c = need(c, {{"do", "colour.fill"}, {"colour", {1, 1, 1}}, {"where", "masked"}});
        c = need(c, {{"do", "colour.fill"}, {"colour", {0, 0, 0}}, {"where", "free"}});
        c = need(c, {{"do", "mask.clear"}});
        const auto stroke = [](const char *tool, double from, double to) {
            json samples = json::array();
            for (int k = 0; k <= 10; ++k)
                samples.push_back({from + (to - from) * k / 10, 0, 0, 0, 0, 0, 1, k * 8});
            return json{{"do", "sculpt.stroke"}, {"tool", tool},    {"size", 6},
                        {"strength", 0.8},       {"mirror", false}, {"samples", samples}};
        };
        const auto light = [](const Creature &of) { // linear, over all vertices
            double sum = 0;
            for (std::uint32_t v = 0; v < skinOf(of).body.size(); ++v)
                sum += double(fromSrgb(float(redAt(of, v)) / 255));
            return sum;
        };
        const auto mixedCount = [](const Creature &of) {
            int n = 0;
            for (std::uint32_t v = 0; v < skinOf(of).body.size(); ++v)
                n += redAt(of, v) > 20 && redAt(of, v) < 235;
            return n;
        };
        QCOMPARE(mixedCount(c), 0);
        const Creature soft = need(c, stroke("soften", -3, 3));
        QVERIFY(mixedCount(soft) > 30);
        QVERIFY2(std::abs(light(soft) - light(c)) < 0.02 * light(c), qPrintable(QString::number(light(soft) / light(c))));
        const Creature dragged = need(c, stroke("smear", -6, 8)); // white is drawn into the black
        QVERIFY2(light(dragged) > light(c) + 20, qPrintable(QString::number(light(dragged) - light(c))));
        // What is masked stays, bit for bit.
        Creature masked = test::masked(c, [](Vec3f p) { return p.z > 0; });
        const Creature kept = need(masked, stroke("smear", -6, 8));
        for (std::uint32_t v = 0; v < skinOf(c).body.size(); ++v)
            if (skinOf(c).shown.positions[v].z > 0.01f)
                QCOMPARE(redAt(kept, v), redAt(c, v));
    }
    void sprayLaysDotsOfSeveralShades()
    {
        const Creature c = need(test::withPieces({test::plane(60, 150)}),
                                {{"do", "sculpt.stroke"},
                                 {"tool", "spray"},
                                 {"size", 10},
                                 {"strength", 1},
                                 {"scatter", 1},
                                 {"falloff", "plateau"},
                                 {"sizeScatter", 0.7},
                                 {"colour", {0.6, 0.3, 0.2}},
                                 {"colourScatter", 0.6},
                                 {"spacing", 0.1},
                                 {"mirror", false},
                                 {"samples", {{-15, 0, 0, 0, 0, 0, 1, 0}, {15, 0, 0, 0, 0, 0, 1, 9}}}});
        std::set<int> shades;
        int covered = 0, within = 0;
        for (std::uint32_t v = 0; v < skinOf(c).body.size(); ++v) {
            const Vec3f p = skinOf(c).shown.positions[v];
            const int cover = skinOf(c).paint.channels[3][v];
            if (std::abs(p.z) < 9 && std::abs(p.x) < 14)
                ++within, covered += cover > 200;
            if (cover > 250)
                shades.insert(redAt(c, v));
            if (std::abs(p.z) > 14)
                QCOMPARE(cover, 0);
        }
        QVERIFY(shades.size() > 8);
        QVERIFY(covered > within / 20 && covered < within * 19 / 20); // dots, and skin between them
    }
    void aStrokeBringsItsPaletteColourAlong()
    {
        // As the window does it: begun on a copy that knows the colour, finished on a skin that does not.
        for (const sculpt::Tool tool : {sculpt::Tool::Paint, sculpt::Tool::Spray}) {
            skin::Skin plain = skin::makeSkin(test::plane(20, 40), false);
            std::uint32_t nextId = 1;
            const std::uint32_t layer = skin::addColourLayer(plain, "Colour", nextId);
            skin::Skin knowing = plain;
            skin::usePaletteColour(knowing, {77, "moss", {0.8f, 0.2f, 0.1f}});
            sculpt::StrokeSettings s;
            s.tool = tool, s.size = 5, s.strength = 1, s.entry = 77, s.isMirrored = false, s.falloff = sculpt::Falloff::Plateau;
            document::LiveStroke live(knowing, s, layer);
            live.add({{0, 0, 0}, {}, 1, 0});
            QVERIFY(live.finish(plain));
            skin::composeColours(plain);
            int most = 0;
            for (std::uint32_t v = 0; v < plain.body.size(); ++v)
                most = std::max<int>(most, plain.paint.channels[0][v]);
            QCOMPARE(most, 204); // 0.8, and not black
        }
    }
    void oneStrokeShapesAndPaints()
    {
        const Creature ball = test::withPieces({test::sphere(20, 60, 90)});
        json stroke{{"do", "sculpt.stroke"},
                    {"tool", "raise"},
                    {"size", 5},
                    {"strength", 1},
                    {"mirror", false},
                    {"tint", true},
                    {"colour", {0.8, 0.1, 0.1}},
                    {"samples", {{20, 0, 0, 0, 0, 0, 1, 0}}}};
        const Creature both = need(ball, stroke);
        stroke["tint"] = false;
        const Creature plain = need(ball, stroke);
        QVERIFY(skinOf(both).shown.positions.flatten() == skinOf(plain).shown.positions.flatten());
        QVERIFY(skinOf(plain).colourLayers.empty() && skinOf(both).colourLayers.size() == 1);
        int red = 0;
        for (std::uint32_t v = 0; v < skinOf(both).body.size(); ++v)
            if (skinOf(both).paint.channels[3][v] > 0) {
                ++red;
                QVERIFY(length(skinOf(both).shown.positions[v] - Vec3f{20, 0, 0}) < 8);
            }
        QVERIFY(red > 10);
    }
    void accentsAreSettingsOfPaint()
    {
        for (const colour::Accent &a : colour::kAccents) {
            sculpt::StrokeSettings s;
            s.tool = sculpt::Tool::Paint;
            colour::takeAccent(s, a, 360);
            QVERIFY(s.size == 2 * a.size && s.colour == a.colour && s.laysColour && s.finish[2] == a.wet);
            QVERIFY(std::min({a.colour.x, a.colour.y, a.colour.z}) >= 0 && std::max({a.colour.x, a.colour.y, a.colour.z}) <= 1);
        }
    }
};

BONEMOSS_TEST(TestFills)
#include "tst_fills.moc"
