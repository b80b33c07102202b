// Masks by name, groups, hidden parts and levels as commands, through rebuilding and through the file. Oracles: closed forms of the
// shapes; that what is put by comes back as it was.
#include "support/run.h"
#include "store/store.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "sculpt/stroke.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using test::isSaid;
using test::masked;
using test::run;
using test::skinOf;

namespace {

/// A ball of 20 mm with its +X half masked, the mask kept, +Y beyond 5 mm a group, and -Z beyond 10 mm hidden.
Creature marked()
{
    Creature c = masked(test::withPieces({test::sphere(20, 60, 90)}), [](Vec3f p) { return p.y > 5; });
    c = *run(c, {{"do", "group.make"}, {"name", "top"}});
    c = *run(masked(c, [](Vec3f p) { return p.z < -10; }), {{"do", "piece.hide"}, {"what", "masked"}});
    c = *run(masked(c, [](Vec3f p) { return p.x > 0; }), {{"do", "mask.keep"}, {"name", "side"}});
    c = *run(c, {{"do", "piece.paint"}, {"colour", {1, 0.2, 0.1}}, {"gloss", 0.8}, {"where", "masked"}});
    return *run(c, {{"do", "mask.clear"}});
}

/// Share of vertices on the ball, away from the borders and the knife, whose marks are not what marked() gave to their place.
double wrongShare(const skin::Skin &s, float slack)
{
    std::size_t wrong = 0, all = 0;
    for (std::size_t v = 0; v < s.body.size(); ++v) {
        const Vec3f p = s.body[v];
        if (std::abs(length(p) - 20) > 0.3f || length(p - Vec3f{0, 20, 0}) < 4.5f || std::abs(p.x) < slack
            || std::abs(p.y - 5) < slack || std::abs(p.z + 10) < slack)
            continue;
        ++all;
        wrong += (s.keptMask("side")->values[v] > 127) != (p.x > 0) || (s.groupOf[v] == s.group("top")->number) != (p.y > 5)
                 || (s.shown.hidden[v] != 0) != (p.z < -10) || (s.paint.of(skin::Channel::Red)[v] > 127) != (p.x > 0)
                 || (s.paint.of(skin::Channel::Gloss)[v] > 102) != (p.x > 0);
    }
    return double(wrong) / double(std::max<std::size_t>(1, all));
}

} // namespace

class TestMarks : public QObject
{
    Q_OBJECT
    QTemporaryDir m_dir;

private slots:
    void paintIsLaid()
    {
        const Creature c = masked(test::withPieces({test::sphere(20, 40, 60)}), [](Vec3f p) { return p.y > 0; });
        const Creature red = *run(c, {{"do", "piece.paint"}, {"colour", {1, 0, 0}}, {"where", "masked"}});
        const Creature both =
            *run(red, {{"do", "piece.paint"}, {"colour", {0, 0, 1}}, {"cover", 0.5}, {"wet", 1}, {"where", "free"}});
        using skin::Channel;
        for (std::size_t v = 0; v < skinOf(both).body.size(); ++v) {
            const skin::Paint &p = skinOf(both).paint;
            const bool isUp = skinOf(both).mask[v] > 127;
            QCOMPARE(int(p.of(Channel::Red)[v]), isUp ? 255 : 0);
            QCOMPARE(int(p.of(Channel::Blue)[v]), isUp ? 0 : 128); // times the cover
            QCOMPARE(int(p.of(Channel::Cover)[v]), isUp ? 255 : 128);
            QCOMPARE(int(p.of(Channel::Clearcoat)[v]), isUp ? 0 : 255);
            QCOMPARE(int(p.of(Channel::Gloss)[v]), 0);
        }
        QVERIFY(skinOf(c).paint.isBlank());
        QVERIFY(!run(c, {{"do", "piece.paint"}}));
        QVERIFY(!run(c, {{"do", "piece.paint"}, {"colour", {2, 0, 0}}}));
        QVERIFY(!run(c, {{"do", "piece.paint"}, {"gloss", 1}, {"where", "group"}, {"group", "none"}}));
    }
    void marksAreMade()
    {
        const Creature c = marked();
        QVERIFY(!skinOf(c).hasMask());
        QCOMPARE(wrongShare(skinOf(c), 0.6f), 0.0);
    }
    void masksAreTakenBack()
    {
        const Creature c = masked(marked(), [](Vec3f p) { return p.z > 0; });
        const auto count = [](const Creature &x) {
            const auto m = skinOf(x).mask.flatten();
            return std::count(m.begin(), m.end(), 255);
        };
        const auto recalled = [&](const char *how) {
            return count(*run(c, {{"do", "mask.recall"}, {"name", "side"}, {"how", how}}));
        };
        const auto all = std::ptrdiff_t(skinOf(c).body.size());
        const auto side = recalled("replace"), add = recalled("add"), common = recalled("common"), rest = recalled("subtract");
        QVERIFY(side > all * 4 / 10 && side < all * 6 / 10);
        QCOMPARE(add + common, side + count(c)); // |A or B| + |A and B| = |A| + |B|
        QCOMPARE(common + rest, count(c));
        const Creature without = *run(c, {{"do", "mask.forget"}, {"name", "side"}});
        QVERIFY(skinOf(without).masks.empty());
        QVERIFY(!run(without, {{"do", "mask.recall"}, {"name", "side"}}));
        QVERIFY(!run(without, {{"do", "mask.forget"}, {"name", "side"}}));
        QVERIFY(!run(marked(), {{"do", "mask.keep"}, {"name", "nothing"}}));
    }
    void groupsAndIslands()
    {
        mesh::PolyMesh two = test::sphere(5, 20, 30);
        mesh::append(two, test::sphere(5, 20, 30, {20, 0, 0}));
        Creature c = *run(test::withPieces({two}), {{"do", "group.make"}, {"of", "islands"}, {"name", "orb"}});
        QCOMPARE(skinOf(c).groups.size(), std::size_t(2));
        c = *run(c, {{"do", "mask.group"}, {"name", "orb 2"}});
        std::ptrdiff_t count = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v)
            if (skinOf(c).mask[v] > 127) {
                ++count;
                QCOMPARE(skinOf(c).groupOf[v], skinOf(c).group("orb 2")->number);
            }
        QCOMPARE(count, std::ptrdiff_t(two.positions.size() / 2));
        c = *run(c, {{"do", "group.remove"}, {"name", "orb 2"}});
        QCOMPARE(skinOf(c).groups.size(), std::size_t(1));
        QVERIFY(!run(c, {{"do", "mask.group"}, {"name", "orb 2"}}));
        const auto parts = run(c, {{"do", "piece.split"}, {"by", "groups"}});
        QVERIFY2(bool(parts), parts ? "" : parts.error().text().c_str());
        QCOMPARE(parts->pieces.size(), std::size_t(2)); // the group and the rest
    }
    void splitByGroupsClosesBothSides()
    {
        const Creature c = marked();
        const auto parts = run(c, {{"do", "piece.split"}, {"by", "groups"}});
        QVERIFY2(bool(parts), parts ? "" : parts.error().text().c_str());
        QCOMPARE(parts->pieces.size(), std::size_t(2));
        double volume = 0;
        for (const auto &p : parts->pieces) {
            const mesh::Measures m = measure(toPolyMesh(p->skin.shown));
            QVERIFY(m.closed);
            volume += m.volumeMm3;
        }
        QVERIFY(std::abs(volume / measure(toPolyMesh(skinOf(c).shown)).volumeMm3 - 1) < 0.01);
        QCOMPARE(parts->pieces[1]->name, std::string("top"));
    }
    void hiddenSkinIsLeftAlone()
    {
        const Creature c = marked();
        const mesh::Surface &shown = skinOf(c).shown;
        const mesh::Ray ray{{0, 2, -100}, {0, 0, 1}};
        const auto hit = castRay(shown, ray);
        QVERIFY(hit && hit->point.z > 15); // the far side, from within
        mesh::Surface whole = shown;
        whole.hidden = mesh::BlockArray<std::uint8_t>(whole.positions.size());
        QVERIFY(castRay(whole, ray)->point.z < -15);
        const auto done = run(c, {{"do", "sculpt.stroke"},
                                  {"tool", "raise"},
                                  {"size", 12},
                                  {"mirror", false},
                                  {"samples", {{0, 17, -9}, {2, 17, -8}}}});
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        bool isMoved = false;
        for (std::size_t v = 0; v < shown.positions.size(); ++v) {
            if (shown.hidden[v])
                QCOMPARE(skinOf(*done).shown.positions[v], shown.positions[v]);
            isMoved = isMoved || !(skinOf(*done).shown.positions[v] == shown.positions[v]);
        }
        QVERIFY(isMoved);
        const Creature swapped = *run(c, {{"do", "piece.hide"}, {"what", "swap"}});
        QVERIFY(castRay(skinOf(swapped).shown, ray)->point.z < -15);
        QVERIFY(!skinOf(*run(swapped, {{"do", "piece.hide"}, {"what", "nothing"}})).hasHidden());
        QVERIFY(!run(masked(c, [](Vec3f) { return true; }), {{"do", "piece.hide"}, {"what", "masked"}})); // all of it
        QVERIFY(!run(c, {{"do", "piece.hide"}, {"what", "group"}, {"group", "none such"}}));
    }
    void marksSurviveRebuilding_data()
    {
        QTest::addColumn<QByteArray>("command");
        QTest::newRow("re-knit") << QByteArray(R"({"do":"piece.reknit","spacing":0.8})");
        QTest::newRow("simplify") << QByteArray(R"({"do":"piece.simplify","faces":6000})");
        QTest::newRow("density") << QByteArray(R"({"do":"piece.density","edge":1,"where":"all"})");
        QTest::newRow("refine") << QByteArray(R"({"do":"piece.refine"})");
        QTest::newRow("levels by knitting") << QByteArray(R"({"do":"piece.levels.find","count":2})");
        QTest::newRow("knit pieces") << QByteArray(R"({"do":"knit.pieces","spacing":0.8})");
        QTest::newRow("cut") << QByteArray(R"({"do":"pieces.combine","pieces":["a","b"],"how":"cut"})");
        QTest::newRow("soft join") << QByteArray(R"({"do":"pieces.combine","pieces":["a","b"],"how":"cut","melt":1})");
    }
    void marksSurviveRebuilding()
    {
        QFETCH(QByteArray, command);
        Creature c = marked();
        Creature with = test::withPieces({test::sphere(1, 10, 10), test::sphere(4, 20, 30, {0, 20, 0})});
        auto knife = std::make_shared<document::Piece>(*with.pieces[1]);
        knife->id = c.nextId++;
        knife->skin.layers.clear();
        if (command.contains("pieces.combine"))
            c.pieces.push_back(knife);
        const auto after = run(c, json::parse(command.toStdString()));
        QVERIFY2(bool(after), after ? "" : after.error().text().c_str());
        const double wrong = wrongShare(skinOf(*after), 1.2f);
        QVERIFY2(wrong < 0.002, qPrintable(QString::number(wrong)));
        QCOMPARE(skinOf(*after).layers.size(), std::size_t(1));
        if (!command.contains("refine"))
            QVERIFY(isSaid("groups:") && isSaid("hidden parts:") && isSaid("mask side:"));
    }
    void levelsAsCommands()
    {
        Creature c = test::withPieces({test::sphere(20, 20, 30)});
        c = *run(*run(c, {{"do", "piece.refine"}}), {{"do", "piece.refine"}});
        QVERIFY(isSaid("level 3 of 3"));
        QVERIFY(!run(c, {{"do", "piece.level"}, {"to", "finer"}}));
        QVERIFY(!run(c, {{"do", "piece.level"}}));
        QVERIFY(!run(c, {{"do", "piece.level"}, {"number", 4}}));
        const Creature low = *run(c, {{"do", "piece.level"}, {"number", 1}});
        QCOMPARE(skinOf(low).body.size(), skinOf(*run(low, {{"do", "piece.level"}, {"to", "coarsest"}})).body.size());
        QVERIFY(!run(low, {{"do", "piece.refine"}}));
        const Creature up = *run(low, {{"do", "piece.level"}, {"to", "finest"}});
        QCOMPARE(skinOf(up).body.flatten(), skinOf(c).body.flatten());
        const Creature one =
            *run(*run(c, {{"do", "piece.level"}, {"to", "coarser"}}), {{"do", "piece.levels.drop"}, {"which", "higher"}});
        QVERIFY(isSaid("level 2 of 2"));
        QVERIFY(!run(*run(one, {{"do", "piece.levels.drop"}, {"which", "lower"}}),
                     {{"do", "piece.levels.drop"}, {"which", "lower"}}));
        // New faces are made from the finest level, and that is said.
        const Creature again = *run(low, {{"do", "piece.reknit"}, {"spacing", 1}});
        QVERIFY(isSaid("3 levels") && skinOf(again).links.empty());
        const Creature found = *run(*run(c, {{"do", "piece.levels.drop"}, {"which", "lower"}}), {{"do", "piece.levels.find"}});
        QCOMPARE(skinOf(found).links.size(), std::size_t(2));
        QVERIFY(!run(*run(again, {{"do", "piece.level"}, {"to", "coarsest"}}), {{"do", "piece.levels.find"}, {"how", "faces"}}));
    }
    void knittedLevelsKeepTheShape()
    {
        Creature c = test::withPieces({test::torus(20, 6, 120, 60)});
        c = *run(c, {{"do", "piece.reknit"}, {"spacing", 0.4}});
        const auto found = run(c, {{"do", "piece.levels.find"}, {"count", 2}});
        QVERIFY2(bool(found), found ? "" : found.error().text().c_str());
        QVERIFY(isSaid("levels were knitted"));
        QCOMPARE(skinOf(*found).links.size(), std::size_t(2));
        const mesh::PolyMesh was = toPolyMesh(skinOf(c).shown), is = toPolyMesh(skinOf(*found).shown);
        QVERIFY(measure(is).closed && measure(is).genus == 1);
        QVERIFY(distanceTo(was, is.positions, 20000).largest < 0.02); // every point was laid on it
        QVERIFY(distanceTo(is, was.positions, 20000).mean < 0.05);
        const double share = double(is.faces.size()) / double(was.faces.size());
        QVERIFY2(share > 0.6 && share < 1.7, qPrintable(QString::number(share)));
    }
    void allOfItIsSaved()
    {
        Creature c = marked();
        c = *run(*run(c, {{"do", "piece.refine"}}), {{"do", "piece.level"}, {"to", "coarser"}});
        const std::string path = m_dir.filePath("marks.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(path, c)));
        const auto back = store::loadStore(path);
        QVERIFY(back && back->damage.empty());
        const skin::Skin &was = skinOf(c), &is = skinOf(back->creature);
        QCOMPARE(is.groupOf.flatten(), was.groupOf.flatten());
        QCOMPARE(is.shown.hidden.flatten(), was.shown.hidden.flatten());
        QCOMPARE(is.keptMask("side")->values.flatten(), was.masks[0].values.flatten());
        QCOMPARE(is.group("top")->number, was.groups[0].number);
        QCOMPARE(is.links.size(), std::size_t(1));
        QCOMPARE(is.level, std::size_t(0));
        const auto up = run(c, {{"do", "piece.level"}, {"to", "finer"}}),
                   upAgain = run(back->creature, {{"do", "piece.level"}, {"to", "finer"}});
        QCOMPARE(skinOf(*upAgain).shown.positions.flatten(), skinOf(*up).shown.positions.flatten());
        QCOMPARE(skinOf(*upAgain).groupOf.flatten(), skinOf(*up).groupOf.flatten());
        // What the states share in the file they share in memory.
        QVERIFY(is.body.sharesWith(is.links[0].coarse->body, 0));
    }
};

BONEMOSS_TEST(TestMarks)
#include "tst_marks.moc"
