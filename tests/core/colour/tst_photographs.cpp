// Photographs thrown on a skin, colour layers on other pieces, finish in pictures, outgrowths coloured by their skin. Oracles: the
// projective map in closed form, what lay there before, the colour under each root.
#include "base/colour.h"
#include "document/creature.h"
#include "document/items.h"
#include "export/shown_scene.h"
#include "image/picture.h"
#include "outgrowth/outgrowth.h"
#include "portrait/studio.h"
#include "skin/colour_layers.h"
#include "store/store.h"
#include "support/pieces.h"
#include "support/run.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using test::need;
using test::skinOf;

namespace {

json row(Vec3f p)
{
    return {p.x, p.y, p.z};
}
/// Left to right from black to full red, top to bottom from black to full green.
std::filesystem::path gradient(const QTemporaryDir &folder)
{
    const std::filesystem::path file = (folder.path() + "/gradient.png").toStdString();
    image::ColourPicture p{256, 256, {}};
    for (int y = 0; y < 256; ++y)
        for (int x = 0; x < 256; ++x)
            p.rgba.insert(p.rgba.end(), {std::uint8_t(x), std::uint8_t(y), 0, 255});
    if (!image::writePng(file, p))
        qFatal("no picture");
    return file;
}
/// A point of the unit square in the plane of the ground, by the projective map of its own numbers.
Vec3f mapped(float u, float v)
{
    const float w = 0.5f * u + 0.3f * v + 1; // (Heckbert 1989, equation 2.3, with numbers chosen here)
    return {(-20 + 44 * u + 3 * v) / w, 0, (-18 + 2 * u + 40 * v) / w};
}
float colourAt(const skin::Skin &s, std::size_t channel, Vec3f at)
{
    std::uint32_t best = 0;
    for (std::uint32_t v = 0; v < s.body.size(); ++v)
        if (squaredLength(s.shown.positions[v] - at) < squaredLength(s.shown.positions[best] - at))
            best = v;
    const float cover = float(s.paint.channels[3][best]);
    return cover > 0 ? float(s.paint.channels[channel][best]) / cover * 255 : -1;
}

} // namespace

class TestPhotographs : public QObject
{
    Q_OBJECT
private slots:
    void aPhotographIsWarpedByItsCorners()
    {
        QTemporaryDir folder;
        const json lay{{"do", "colour.project"},
                       {"path", gradient(folder).native()},
                       {"soft", 0},
                       {"corners", {row(mapped(0, 0)), row(mapped(1, 0)), row(mapped(1, 1)), row(mapped(0, 1))}}};
        const Creature c = need(test::withPieces({test::plane(60, 240)}), lay);
        for (const float u : {0.1f, 0.35f, 0.6f, 0.9f})
            for (const float v : {0.15f, 0.5f, 0.85f}) {
                const float red = colourAt(skinOf(c), 0, mapped(u, v)), green = colourAt(skinOf(c), 1, mapped(u, v));
                QVERIFY2(std::abs(red - 255 * u) < 4 && std::abs(green - 255 * v) < 4,
                         qPrintable(QStringLiteral("%1 %2: %3 %4").arg(u).arg(v).arg(red).arg(green)));
            }
        QCOMPARE(colourAt(skinOf(c), 0, {-29, 0, -29}), -1.0f); // beside it nothing
        // Held nearer to an eye by half the way, it covers the same.
        const Vec3f eye{0, 100, 0};
        json near = lay;
        near["eye"] = row(eye);
        for (json &corner : near["corners"])
            corner = row(lerp(eye, Vec3f{corner[0], corner[1], corner[2]}, 0.5f));
        const Creature seen = need(test::withPieces({test::plane(60, 240)}), near);
        for (const float u : {0.2f, 0.7f})
            QVERIFY(std::abs(colourAt(skinOf(seen), 0, mapped(u, 0.5f)) - 255 * u) < 5);
        // From behind nothing is laid; what is masked stays; corners in a hollow quadrilateral are refused.
        json back = lay;
        std::reverse(back["corners"].begin(), back["corners"].end());
        QVERIFY(!test::run(test::withPieces({test::plane(60, 40)}), back));
        const Creature masked = need(test::masked(test::withPieces({test::plane(60, 60)}), [](Vec3f) { return true; }), lay);
        QVERIFY(skinOf(masked).paint.of(skin::Channel::Cover).isBlank() || colourAt(skinOf(masked), 0, mapped(0.5f, 0.5f)) == -1);
        json hollow = lay;
        hollow["corners"][2] = row(mapped(0.1f, 0.1f));
        QVERIFY(!test::run(test::withPieces({test::plane(60, 40)}), hollow));
        hollow["corners"].erase(3);
        QVERIFY(!test::run(test::withPieces({test::plane(60, 40)}), hollow));
        json nowhere = lay;
        nowhere["path"] = "/nowhere.png";
        QVERIFY(!test::run(c, nowhere));
    }
    void whatIsHiddenFromTheViewerStays()
    {
        QTemporaryDir folder;
        const Creature c = need(test::withPieces({test::sphere(10, 60, 80)}),
                                {{"do", "colour.project"},
                                 {"path", gradient(folder).native()},
                                 {"corners", {{-12, 12, 30}, {12, 12, 30}, {12, -12, 30}, {-12, -12, 30}}}});
        const auto &s = skinOf(c);
        for (std::uint32_t v = 0; v < s.body.size(); ++v) {
            const int cover = s.paint.channels[3][v];
            if (s.shown.positions[v].z < 0.5f)
                QCOMPARE(cover, 0);
            if (s.shown.positions[v].z > 6)
                QVERIFY(cover > 250);
        }
    }
    void aLayerLiesOnAnotherPieceAndComesFromAFile()
    {
        Creature c = test::masked(test::withPieces({test::plane(40, 100), test::plane(60, 70)}), [](Vec3f p) { return p.x < 0; });
        c = need(c, {{"do", "palette.add"}, {"colour", {0.9, 0.1, 0.1}}, {"name", "Rust"}});
        c = need(c, {{"do", "colour.fill"}, {"piece", c.pieces[0]->id}, {"entry", "Rust"}, {"where", "masked"}});
        const std::string layer = skinOf(c).colourLayers[0].name;
        const json copy{{"do", "colour.copy"}, {"piece", c.pieces[0]->id}, {"layer", layer}, {"to", c.pieces[1]->id}};
        const auto check = [](const skin::Skin &s, int red) {
            for (std::uint32_t v = 0; v < s.body.size(); ++v) {
                const Vec3f p = s.shown.positions[v];
                const int cover = s.paint.channels[3][v];
                if (std::abs(p.x) < 1.2f || std::abs(std::max(std::abs(p.x), std::abs(p.z)) - 20) < 8)
                    continue;
                const bool isUnder = p.x < 0 && std::max(std::abs(p.x), std::abs(p.z)) < 20;
                if (std::abs(cover - (isUnder ? 255 : 0)) > 1)
                    return false;
                if (isUnder && std::abs(int(s.paint.channels[0][v]) - red) > 2)
                    return false;
            }
            return true;
        };
        Creature both = need(c, copy);
        QVERIFY(check(skinOf(both, 1), 230));
        both = need(both, {{"do", "palette.set"}, {"entry", "Rust"}, {"colour", {0.2, 0.1, 0.1}}});
        QVERIFY(check(skinOf(both, 1), 51)); // still by the palette
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/other.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(file, c)));
        const Creature other = test::withPieces({test::plane(60, 70)});
        const json take{{"do", "colour.take"}, {"path", file.native()}, {"layer", layer}};
        const Creature taken = need(other, take);
        QVERIFY(check(skinOf(taken), 230));
        QVERIFY(skinOf(taken).palette.empty());
        json none = take;
        none["layer"] = "No such layer";
        QVERIFY(!test::run(other, none));
        json itself = copy;
        itself["to"] = c.pieces[0]->id;
        QVERIFY(!test::run(c, itself));
    }
    void grainIsSeenInPicturesAndKeptInFiles()
    {
        const Creature ball = test::withPieces({test::sphere(20, 60, 80)});
        const Creature c = need(ball, {{"do", "colour.fill"}, {"grain", 1}, {"wet", 0.5}});
        QVERIFY(skinOf(c).shown.positions.sharesWith(skinOf(ball).shown.positions, 0)); // no shape changes
        portrait::Camera camera;
        camera = portrait::framing(camera, skinOf(c).shown.positions.flatten(), 1);
        const auto spread = [&](const io::Scene &scene) { // differences of neighbours in the lit middle
            const auto p = portrait::studioPicture(scene, camera, 96, 96, 16);
            double sum = 0;
            for (int y = 36; y < 60; ++y)
                for (int x = 36; x < 60; ++x) {
                    const auto at = [&](int i) { return double(p->rgba[(std::size_t(y) * 96 + std::size_t(i)) * 4]); };
                    sum += std::abs(at(x) - at(x - 1));
                }
            return sum;
        };
        QVERIFY(spread(exporting::pictureScene(c)) > 1.5 * spread(exporting::pictureScene(ball)));
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/c.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(file, c)));
        const auto back = store::loadStore(file);
        QVERIFY(bool(back));
        for (const skin::Channel channel : {skin::Channel::Grain, skin::Channel::Clearcoat})
            QVERIFY(skinOf(back->creature).paint.of(channel).flatten() == skinOf(c).paint.of(channel).flatten());
        QCOMPARE(int(skinOf(back->creature).paint.of(skin::Channel::Grain)[7]), 255);
    }
    void outgrowthsTakeTheColourUnderThem()
    {
        Creature c = test::masked(test::withPieces({test::plane(60, 100)}), [](Vec3f p) { return p.x < 0; });
        c = need(c, {{"do", "colour.fill"}, {"colour", {0.8, 0.2, 0.1}}, {"where", "masked"}});
        c = test::masked(c, [](Vec3f p) { return std::abs(p.x) < 6 && std::abs(p.z) < 6; });
        c = need(
            c,
            {{"do", "outgrow.locks"}, {"skinColour", 1}, {"colours", {{0.5, 0.5, 0.5}, {0.25, 0.25, 0.25}}}, {"mirror", false}});
        io::Scene scene = exporting::pictureScene(c);
        int left = 0, right = 0;
        for (const io::Object &o : scene.objects) {
            if (o.tints.empty())
                continue;
            QCOMPARE(o.tints.size(), o.places.size());
            const float own = fromSrgb(0.5f);
            for (std::size_t k = 0; k < o.places.size(); ++k) {
                const float x = o.places[k].apply({}).x;
                if (std::abs(x) < 2)
                    continue;
                const Vec3f now = o.tints[k] * own,
                            wanted = x < 0 ? Vec3f{fromSrgb(0.8f), fromSrgb(0.2f), fromSrgb(0.1f)} : Vec3f{0.60f, 0.555f, 0.475f};
                QVERIFY2(length(now - wanted) < 0.02f, qPrintable(QString::number(double(x))));
                ++(x < 0 ? left : right);
            }
        }
        QVERIFY(left > 5 && right > 5);
        // From root to tip the points of a solid go from the one colour to the other.
        const Creature horn =
            need(test::withPieces({test::plane(60, 40)}),
                 {{"do", "outgrow.horn"}, {"at", {0, 0, 0}}, {"colours", {{1, 1, 1}, {0, 0, 0}}}, {"finish", "wetNose"}});
        scene = exporting::pictureScene(horn);
        bool isFound = false;
        for (const io::Object &o : scene.objects) {
            const io::Attribute *colours = scene.shapeOf(o).attribute(io::kColour);
            if (!colours)
                continue;
            isFound = true;
            QVERIFY(scene.materialOf(o).finish[2] == 0.8f);
            std::vector<Vec3f> points;
            scene.shapeOf(o).eachPoint([&](Vec3f p) { points.push_back(p); });
            float first = 1, last = 1; // lightness of the points nearest to and farthest from the root
            float near = 1e9f, far = 0;
            for (std::size_t i = 0; i < points.size(); ++i) {
                if (length(points[i]) < near)
                    near = length(points[i]), first = colours->values[i * 3];
                if (length(points[i]) > far)
                    far = length(points[i]), last = colours->values[i * 3];
            }
            QVERIFY(first > 0.9f && last < 0.1f);
        }
        QVERIFY(isFound);
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/c.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(file, horn)));
        const auto back = store::loadStore(file);
        QVERIFY(bool(back) && back->creature.outgrowths[0]->finish == horn.outgrowths[0]->finish);
    }
};

BONEMOSS_TEST(TestPhotographs)
#include "tst_photographs.moc"
