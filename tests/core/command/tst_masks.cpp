// Masks from shape and from outlines, their borders, and the maps they are made of.
#include "support/run.h"
#include "store/store.h"
#include "skin/skin_maps.h"
#include "mesh/measures.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>

#include <numbers>

using namespace bonemoss;
using nlohmann::json;
using test::skinOf;

namespace {

/// A creature of one piece without layers.
document::Creature alone(const mesh::PolyMesh &mesh)
{
    document::Creature c;
    auto piece = std::make_shared<document::Piece>();
    piece->id = c.nextId++;
    piece->name = "skin";
    piece->skin = skin::makeSkin(mesh, false);
    c.pieces.push_back(piece);
    return c;
}

document::Creature after(const document::Creature &c, const json &command)
{
    const auto next = test::run(c, command);
    if (!next)
        qFatal("%s", next.error().text().c_str());
    return *next;
}

std::size_t halfMasked(const skin::Skin &skin)
{
    std::size_t n = 0;
    for (std::size_t i = 0; i < skin.mask.size(); ++i)
        n += skin.mask[i] > 127;
    return n;
}

} // namespace

class TestMasks : public QObject
{
    Q_OBJECT
private slots:
    // Two rings about one vertex of a grid of quads: the 13 within two edges. Shrinking by as many gives it back.
    void growsAndShrinksByRings()
    {
        document::Creature c = alone(test::plane(20, 20));
        auto piece = std::make_shared<document::Piece>(*c.pieces.front());
        std::size_t middle = 0;
        for (std::size_t i = 0; i < piece->skin.body.size(); ++i)
            if (length(piece->skin.body[i]) < 0.1f)
                middle = i;
        piece->skin.mask.edit(0)[middle] = 255;
        c.put(piece);
        const document::Creature grown = after(c, {{"do", "mask.grow"}, {"rings", 2}});
        QCOMPARE(halfMasked(skinOf(grown)), std::size_t(13));
        const document::Creature back = after(grown, {{"do", "mask.grow"}, {"rings", -2}});
        QCOMPARE(halfMasked(skinOf(back)), std::size_t(1));
        QVERIFY(!skinOf(after(back, {{"do", "mask.grow"}, {"rings", -1}})).hasMask());
    }
    void sharpensToAHardEdge()
    {
        document::Creature c = alone(test::plane(20, 20));
        auto piece = std::make_shared<document::Piece>(*c.pieces.front());
        for (std::size_t i = 0; i < 200; ++i)
            piece->skin.mask.edit(0)[i] = std::uint8_t(i);
        c.put(piece);
        const document::Creature hard = after(c, {{"do", "mask.sharpen"}, {"amount", 1}});
        const document::Creature half = after(c, {{"do", "mask.sharpen"}, {"amount", 0.5}});
        for (std::size_t i = 0; i < 200; ++i) {
            QCOMPARE(int(skinOf(hard).mask[i]), i > 127 ? 255 : 0);
            QVERIFY(std::abs(double(skinOf(half).mask[i]) - std::clamp((double(i) - 127.5) * 2 + 127.5, 0.0, 255.0)) <= 1);
        }
    }
    // A ball's mean curvature is one over its radius everywhere; the map is that times the width, below 0 outside.
    void curvatureOfABall()
    {
        const skin::Skin skin = skin::makeSkin(test::sphere(10, 60, 120), false);
        skin::MapSettings settings;
        settings.width = 0.1f; // nothing is evened out first
        const auto map = skin::mapOf(skin, skin::SkinMap::MeanCurvature, settings);
        for (std::size_t i = 0; i < map.size(); ++i)
            if (std::abs(skin.body[i].y) < 5) // its poles have long thin faces
                QVERIFY2(std::abs(map[i] / settings.width + 0.1f) < 0.01f, qPrintable(QString::number(double(map[i]))));
    }
    void hollowsAndRidgesOfADent()
    {
        mesh::PolyMesh dent = test::plane(40, 160);
        for (Vec3f &p : dent.positions)
            p.y = -3 * std::exp(-(p.x * p.x + p.z * p.z) / 8);
        const document::Creature c = alone(dent);
        const document::Creature hollow = after(c, {{"do", "mask.shape"}, {"what", "hollows"}, {"width", 2}});
        const document::Creature ridge = after(c, {{"do", "mask.shape"}, {"what", "ridges"}, {"width", 2}});
        for (std::size_t i = 0; i < skinOf(c).body.size(); ++i) {
            const Vec3f p = skinOf(c).body[i];
            const float far = std::hypot(p.x, p.z);
            if (far < 1)
                QVERIFY(skinOf(hollow).mask[i] > 200 && skinOf(ridge).mask[i] == 0);
            if (far > 8)
                QVERIFY(skinOf(hollow).mask[i] == 0);
        }
        QVERIFY(halfMasked(skinOf(ridge)) > 0); // the lip of the dent
    }
    void slopeThicknessAndMirror()
    {
        const skin::Skin ball = skin::makeSkin(test::sphere(10, 60, 120), false);
        const auto slope = skin::mapOf(ball, skin::SkinMap::Slope, {});
        const auto through = skin::mapOf(ball, skin::SkinMap::Thickness, {});
        for (std::size_t i = 0; i < slope.size(); ++i) {
            const float want = std::acos(ball.body[i].y / 10) * 180 / std::numbers::pi_v<float>;
            QVERIFY2(std::abs(slope[i] - want) < 2, qPrintable(QString("%1 %2").arg(double(slope[i])).arg(double(want))));
            QVERIFY2(std::abs(through[i] - 20) < 0.1f, // across the middle of a ball
                     qPrintable(QString("%1 at height %2").arg(double(through[i])).arg(double(ball.body[i].y))));
        }
        mesh::PolyMesh lopsided = test::sphere(10, 60, 120);
        for (Vec3f &p : lopsided.positions)
            if (p.x > 9)
                p.x += 1;
        const skin::Skin skin = skin::makeSkin(lopsided, false);
        const auto differs = skin::mapOf(skin, skin::SkinMap::Mirror, {});
        for (std::size_t i = 0; i < differs.size(); ++i)
            if (skin.body[i].x > 9.9f)
                QVERIFY(differs[i] > 0.5f);
            else if (std::abs(skin.body[i].x) < 7)
                QVERIFY(differs[i] < 0.02f);
    }
    void workIsCountedWhereStrokesWent()
    {
        document::Creature c = alone(test::plane(40, 80));
        for (int k = 0; k < 3; ++k)
            c = after(c, {{"do", "sculpt.stroke"},
                          {"tool", "raise"},
                          {"size", 5},
                          {"mirror", false},
                          {"samples", {{8, 0, 0}, {10, 0, 0}}}});
        const auto work = skin::mapOf(skinOf(c), skin::SkinMap::Work, {});
        for (std::size_t i = 0; i < work.size(); ++i) {
            const Vec3f p = skinOf(c).body[i];
            if (std::hypot(p.x - 9, p.z) < 3)
                QCOMPARE(work[i], 3.0f);
            if (p.x < 0)
                QCOMPARE(work[i], 0.0f);
        }
        const document::Creature left = after(c, {{"do", "mask.shape"}, {"what", "neglected"}});
        for (std::size_t i = 0; i < work.size(); ++i)
            QCOMPARE(skinOf(left).mask[i] > 127, work[i] < 0.5f);
    }
    // Straight from above, a square of 10 mm takes what lies in it on both sides, or on the upper side alone.
    void anOutlineMasksWhatItHolds()
    {
        const document::Creature c = alone(test::sphere(10, 60, 120));
        json command{
            {"do", "mask.area"}, {"outline", {{-5, 30, -5}, {5, 30, -5}, {5, 30, 5}, {-5, 30, 5}}}, {"direction", {0, -1, 0}}};
        const document::Creature both = after(c, command);
        command["frontOnly"] = true;
        const document::Creature front = after(c, command);
        command["how"] = "subtract";
        const document::Creature back = after(both, command);
        for (std::size_t i = 0; i < skinOf(c).body.size(); ++i) {
            const Vec3f p = skinOf(c).body[i];
            if (std::max(std::abs(p.x), std::abs(p.z)) > 4.99f && std::max(std::abs(p.x), std::abs(p.z)) < 5.01f)
                continue;
            const bool inside = std::max(std::abs(p.x), std::abs(p.z)) < 5;
            QCOMPARE(skinOf(both).mask[i] == 255, inside);
            QCOMPARE(skinOf(front).mask[i] == 255, inside && p.y > 0);
            QCOMPARE(skinOf(back).mask[i] == 255, inside && p.y < 0);
        }
        // Seen from an eye 20 mm above the middle the same outline at 10 mm is twice as wide on the floor below.
        const document::Creature flat = alone(test::plane(40, 80));
        const document::Creature seen =
            after(flat, {{"do", "mask.area"},
                         {"outline", {{-4.1, 10, -4.1}, {4.1, 10, -4.1}, {4.1, 10, 4.1}, {-4.1, 10, 4.1}}},
                         {"direction", {0, -1, 0}},
                         {"eye", {0, 20, 0}}});
        for (std::size_t i = 0; i < skinOf(flat).body.size(); ++i) {
            const Vec3f p = skinOf(flat).body[i];
            QCOMPARE(skinOf(seen).mask[i] == 255, std::max(std::abs(p.x), std::abs(p.z)) < 8.2f);
        }
    }
    // Where strokes are repeated and how often a place was worked belong to the piece: through rebuilding and the file.
    void symmetryAndWorkStay()
    {
        QTemporaryDir dir;
        document::Creature c = alone(test::sphere(10, 60, 120));
        c = after(c, {{"do", "piece.symmetry"}, {"plane", false}, {"around", 5}, {"axis", {0, 0, 2}}, {"axisPoint", {1, 0, 0}}});
        c = after(c, {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 3}, {"samples", {{0, 10, 0}, {1, 10, 0}}}});
        const sculpt::Symmetry given = c.pieces.front()->symmetry;
        QVERIFY(!given.hasPlane && given.around == 5 && given.axis == (Vec3f{0, 0, 1}) && given.axisPoint == (Vec3f{1, 0, 0}));
        const auto worked = [](const document::Creature &is) {
            const auto work = skin::mapOf(skinOf(is), skin::SkinMap::Work, {});
            return std::count_if(work.begin(), work.end(), [](float w) { return w > 0.5f; });
        };
        const auto before = worked(c);
        QVERIFY(before > 100);
        const document::Creature again = after(c, {{"do", "piece.reknit"}, {"spacing", mesh::meanEdgeLength(skinOf(c).shown)}});
        QVERIFY(again.pieces.front()->symmetry == given);
        QVERIFY(worked(again) > 100);
        const std::string path = dir.filePath("s.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(path, c)));
        const auto back = store::loadStore(path);
        QVERIFY(bool(back));
        QVERIFY(back->creature.pieces.front()->symmetry == given);
        QCOMPARE(worked(back->creature), before);
        QVERIFY(!test::run(c, {{"do", "piece.symmetry"}, {"axis", {0, 0, 0}}}));
        QVERIFY(!test::run(c, {{"do", "piece.symmetry"}, {"around", 0}}));
    }
};

BONEMOSS_TEST(TestMasks)
#include "tst_masks.moc"
