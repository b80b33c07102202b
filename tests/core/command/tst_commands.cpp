#include "support/run.h"
#include "command/command.h"
#include "command/history.h"
#include "command/recipe.h"
#include "command/stroke_command.h"
#include "mesh/measures.h"
#include "support/forms.h"

#include <QtTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using test::made;
using test::run;

namespace {

const json kBall = {{"do", "form.add"}, {"kind", "ball"}, {"name", "body"}, {"radius", 20}};
const json kKnit = {{"do", "knit.forms"}, {"spacing", 1}};

} // namespace

class TestCommands : public QObject
{
    Q_OBJECT
private slots:
    void wrongCommandsChangeNothing_data()
    {
        QTest::addColumn<QByteArray>("text");
        QTest::newRow("not an object") << QByteArray("[]");
        QTest::newRow("no name") << QByteArray("{}");
        QTest::newRow("unknown") << QByteArray(R"({"do":"form.fly"})");
        QTest::newRow("missing parameter") << QByteArray(R"({"do":"form.add"})");
        QTest::newRow("unknown parameter") << QByteArray(R"({"do":"form.add","kind":"ball","smell":"sweet"})");
        QTest::newRow("unknown kind") << QByteArray(R"({"do":"form.add","kind":"banana"})");
        QTest::newRow("text for a number") << QByteArray(R"({"do":"form.add","kind":"ball","radius":"big"})");
        QTest::newRow("out of range") << QByteArray(R"({"do":"form.add","kind":"ball","radius":-1})");
        QTest::newRow("negative radii") << QByteArray(R"({"do":"form.add","kind":"ellipsoid","radii":[1,-1,1]})");
        QTest::newRow("path of one point") << QByteArray(R"({"do":"form.add","kind":"limb","path":[[0,0,0,1]]})");
        QTest::newRow("path standing still") << QByteArray(R"({"do":"form.add","kind":"limb","path":[[0,0,0,1],[0,0,0,1]]})");
        QTest::newRow("empty path") << QByteArray(R"({"do":"form.add","kind":"tube","path":[]})");
        QTest::newRow("unknown form") << QByteArray(R"({"do":"form.set","form":"nobody"})");
        QTest::newRow("parent of itself") << QByteArray(R"({"do":"form.set","form":"body","parent":"body"})");
        QTest::newRow("colour by name") << QByteArray(R"({"do":"form.set","form":"body","colour":"red"})");
        QTest::newRow("torus of a ball") << QByteArray(R"({"do":"form.add","kind":"torus","radii":[3,4,3]})");
        QTest::newRow("body without belly") << QByteArray(
            R"({"do":"form.add","kind":"body","crown":[[0,0,0],[0,1,1]],"belly":[]})");
        QTest::newRow("squash of nothing") << QByteArray(R"({"do":"form.add","kind":"tube","path":[[0,0,0,1,0],[0,0,9,1,1]]})");
        QTest::newRow("copies along nothing") << QByteArray(R"({"do":"form.repeat","form":"body","mode":"along","count":3})");
        QTest::newRow("copies along itself")
            << QByteArray(R"({"do":"form.repeat","form":"body","mode":"along","guide":"body","count":3})");
        QTest::newRow("axis without direction")
            << QByteArray(R"({"do":"form.repeat","form":"body","mode":"around","axis":[0,0,0],"count":3})");
        QTest::newRow("size of nothing") << QByteArray(
            R"({"do":"form.repeat","form":"body","mode":"around","count":3,"sizes":[1,0]})");
        QTest::newRow("too many copies") << QByteArray(R"({"do":"form.repeat","form":"body","mode":"around","count":100000})");
        QTest::newRow("copy of one") << QByteArray(R"({"do":"form.copy","form":"body","copy":0})");
        QTest::newRow("break what is whole") << QByteArray(R"({"do":"form.break","form":"body"})");
        QTest::newRow("unit that is not there") << QByteArray(R"({"do":"proportion.unit","form":"nobody"})");
        QTest::newRow("no spacing") << QByteArray(R"({"do":"knit.forms"})");
        QTest::newRow("spacing and faces") << QByteArray(R"({"do":"knit.forms","spacing":1,"faces":1000})");
        QTest::newRow("spacing far too fine") << QByteArray(R"({"do":"knit.forms","spacing":0.001})");
        QTest::newRow("no piece") << QByteArray(R"({"do":"piece.refine"})");
        QTest::newRow("stroke without a skin") << QByteArray(R"({"do":"sculpt.stroke","tool":"raise","samples":[[0,0,0]]})");
        QTest::newRow("sample of two numbers") << QByteArray(R"({"do":"sculpt.stroke","tool":"raise","samples":[[0,0]]})");
        QTest::newRow("missing file") << QByteArray(R"({"do":"piece.import","path":"/nowhere.obj"})");
    }
    void wrongCommandsChangeNothing()
    {
        QFETCH(QByteArray, text);
        const Creature before = made({kBall});
        const auto after = run(before, json::parse(text.constData()));
        QVERIFY(!after);
        QVERIFY(!after.error().text().empty());
        QCOMPARE(before.armature.forms.size(), std::size_t(1));
    }
    void everyCommandHasASchema()
    {
        const json schema = command::commandSchema();
        QCOMPARE(schema["oneOf"].size(), command::commands().size());
        for (const json &c : schema["oneOf"]) {
            QVERIFY(!c["description"].get<std::string>().empty());
            for (const auto &[name, p] : c["properties"].items())
                if (name != "do")
                    QVERIFY2(!p["description"].get<std::string>().empty(), name.c_str());
        }
    }
    void defaultsOfTheSchemaAreAccepted()
    {
        for (const command::CommandSpec &spec : command::commands())
            for (const command::ParamSpec &p : spec.params)
                if (!p.defaultJson.empty() && p.kind == command::ParamKind::Number) {
                    const double v = json::parse(p.defaultJson).get<double>();
                    QVERIFY(v >= p.min && v <= p.max);
                }
    }
    void knitMakesAClosedSkinAndKeepsTheArmature()
    {
        const Creature c = made({kBall, kKnit});
        QCOMPARE(c.pieces.size(), std::size_t(1));
        QCOMPARE(c.armature.forms.size(), std::size_t(1));
        QVERIFY(mesh::measure(toPolyMesh(c.pieces[0]->skin.shown)).closed);
    }
    void namesStayUnique()
    {
        const Creature c = made({kBall, kBall, kBall});
        QCOMPARE(QString::fromStdString(c.armature.forms[1].name), QString("body 2"));
        QCOMPARE(QString::fromStdString(c.armature.forms[2].name), QString("body 3"));
    }
    void nestingKeepsThePlace()
    {
        const Creature a = made({{{"do", "form.add"}, {"kind", "ball"}, {"name", "p"}, {"at", {5, 6, 7}}, {"turn", {10, 20, 30}}},
                                 {{"do", "form.add"}, {"kind", "ball"}, {"name", "c"}, {"at", {1, 2, 3}}}});
        const auto b = run(a, {{"do", "form.set"}, {"form", "c"}, {"parent", "p"}});
        QVERIFY(b);
        const armature::Form &f = b->armature.forms[1];
        QCOMPARE(f.parent, a.armature.forms[0].id);
        QVERIFY(length(b->armature.worldPlace(f).translation - Vec3f{1, 2, 3}) < 1e-4f);
        const auto loop = run(*b, {{"do", "form.set"}, {"form", "p"}, {"parent", "c"}});
        QVERIFY(!loop);
    }
    void removingTakesTheBranch()
    {
        const Creature c = made({kBall,
                                 {{"do", "form.add"}, {"kind", "ball"}, {"name", "a"}, {"parent", "body"}},
                                 {{"do", "form.add"}, {"kind", "ball"}, {"name", "b"}, {"parent", "a"}},
                                 {{"do", "form.remove"}, {"form", "a"}}});
        QCOMPARE(c.armature.forms.size(), std::size_t(1));
    }
    void duplicateCopiesTheBranch()
    {
        const Creature c = made({kBall,
                                 {{"do", "form.add"}, {"kind", "ball"}, {"name", "a"}, {"parent", "body"}},
                                 {{"do", "form.duplicate"}, {"form", "body"}, {"move", {50, 0, 0}}}});
        QCOMPARE(c.armature.forms.size(), std::size_t(4));
        const auto &copy = c.armature.forms[2], &child = c.armature.forms[3];
        QCOMPARE(child.parent, copy.id);
        QVERIFY(std::abs(c.armature.worldPlace(child).translation.x - 50) < 1e-4f);
    }
    void lockedIsLeftAlone()
    {
        const Creature c = made(
            {kBall, {{"do", "form.set"}, {"form", "body"}, {"locked", true}}, kKnit, {{"do", "piece.set"}, {"locked", true}}});
        QVERIFY(!run(c, {{"do", "form.set"}, {"form", "body"}, {"radius", 5}}));
        QVERIFY(!run(c, {{"do", "form.remove"}, {"form", "body"}}));
        QVERIFY(!run(c, {{"do", "piece.remove"}}));
        QVERIFY(!run(c, {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"samples", {{0, 20, 0}}}}));
        QVERIFY(run(c, {{"do", "piece.set"}, {"locked", false}}));
    }
    void fusedPiecesBecomeOne()
    {
        const Creature c = made({kBall,
                                 kKnit,
                                 {{"do", "form.set"}, {"form", "body"}, {"at", {15, 0, 0}}},
                                 kKnit,
                                 {{"do", "knit.pieces"}, {"spacing", 1}}});
        QCOMPARE(c.pieces.size(), std::size_t(1));
        QCOMPARE(mesh::measure(toPolyMesh(c.pieces[0]->skin.shown)).components, std::size_t(1));
    }
    // The command written for a stroke gives the same bits as the stroke did while it was drawn.
    void strokeReplaysToTheSameBits_data()
    {
        QTest::addColumn<int>("tool");
        for (std::size_t t = 0; t < sculpt::kToolCount; ++t) // those that change faces have their own test
            if (!changesFaces(sculpt::Tool(t)) && !paints(sculpt::Tool(t)))
                QTest::newRow(nameOf(sculpt::Tool(t)).data()) << int(t);
    }
    void strokeReplaysToTheSameBits()
    {
        QFETCH(int, tool);
        const Creature c = made({kBall, kKnit, {{"do", "layer.add"}, {"strength", 0.5}}});
        const document::Piece &piece = *c.pieces[0];
        sculpt::StrokeSettings s;
        s.tool = sculpt::Tool(tool);
        s.size = 7.3f;
        s.steadiness = 0.37f;
        s.randomRotation = 0.8f;
        s.rotation = 0.77f;
        const std::uint32_t layer = piece.skin.layers[0].id;
        document::LiveStroke live(piece.skin, s, layer);
        std::vector<sculpt::PenSample> samples;
        for (int k = 0; k < 12; ++k) {
            const Vec3f from{60, float(k) * 1.7f - 8, float(k) * 0.9f};
            samples.push_back(
                {from, normalized(Vec3f{0, 0, 0} - from + Vec3f{0, float(k), 0}), 0.1f * float(k), float(k) * 7.7f});
            live.add(samples.back());
        }
        skin::Skin drawn = piece.skin;
        QVERIFY(bool(live.finish(drawn)));
        const json command = json::parse(command::strokeCommand({piece.id, layer}, s, samples).dump());
        const auto replayed = run(c, command);
        QVERIFY2(bool(replayed), replayed ? "" : replayed.error().text().c_str());
        const skin::Skin &again = replayed->pieces[0]->skin;
        QVERIFY(drawn.shown.positions.flatten() == again.shown.positions.flatten());
        QVERIFY(drawn.mask.flatten() == again.mask.flatten());
        QVERIFY(!(drawn.shown.positions.flatten() == piece.skin.shown.positions.flatten())
                || sculpt::Tool(tool) == sculpt::Tool::Mask
                || sculpt::Tool(tool) == sculpt::Tool::Restore); // the layer is blank: there is nothing to go back from
    }
    void historyGoesBackToTheSameBlocks()
    {
        auto start = std::make_shared<Creature>(made({kBall, kKnit}));
        command::History h(start, "start");
        const json stroke = {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"samples", {{0, 20, 0}, {5, 19, 0}}}};
        h.push(*run(h.now(), stroke), stroke);
        QCOMPARE(QString::fromStdString(h.steps().back().title), QString("Raise"));
        QVERIFY(!(h.now().pieces[0] == start->pieces[0]));
        h.goTo(0);
        QVERIFY(h.now().pieces[0] == start->pieces[0]); // the very same value
        QVERIFY(h.canRedo() && !h.canUndo());
        h.push(*run(h.now(), kBall), kBall);
        QVERIFY(!h.canRedo());
        QCOMPARE(h.commands().size(), std::size_t(1));
    }
    void recipeRoundTrip()
    {
        QTemporaryDir dir;
        const auto path = dir.filePath("x.recipe.json").toStdString();
        QVERIFY(bool(command::writeRecipe(path, {kBall, kKnit})));
        const auto back = command::readRecipe(path);
        QVERIFY(back);
        QCOMPARE(back->size(), std::size_t(2));
        QVERIFY((*back)[0] == kBall);
    }
    void filesNearARecipeAreNamedFromIt()
    {
        QTemporaryDir folder;
        const std::filesystem::path top = folder.path().toStdString();
        std::filesystem::create_directories(top / "recipes");
        const auto add = [](const std::filesystem::path &file) { return json{{"do", "picture.add"}, {"path", file.string()}}; };
        QVERIFY(bool(command::writeRecipe(top / "recipes" / "a.recipe.json",
                                          {add(top / "drawings" / "left.png"), add("/usr/share/far.png"), add("near.png")})));
        const auto back = command::readRecipe(top / "recipes" / "a.recipe.json");
        QVERIFY(bool(back));
        QCOMPARE(back->at(0).at("path").get<std::string>(), std::string("../drawings/left.png"));
        QCOMPARE(back->at(2).at("path").get<std::string>(), std::string("near.png"));
        // The same recipe names the same file wherever both are moved to; a far one is named as it was, or leads there.
        const std::filesystem::path far = top / "recipes" / back->at(1).at("path").get<std::string>();
        QCOMPARE(far.lexically_normal().string(), std::string("/usr/share/far.png"));
    }
    void badRecipes_data()
    {
        QTest::addColumn<QByteArray>("text");
        QTest::newRow("empty") << QByteArray();
        QTest::newRow("no JSON") << QByteArray("{");
        QTest::newRow("other format") << QByteArray(R"({"format":"cake"})");
        QTest::newRow("no version") << QByteArray(R"({"format":"bonemoss-recipe","commands":[]})");
        QTest::newRow("newer") << QByteArray(R"({"format":"bonemoss-recipe","version":99,"commands":[]})");
        QTest::newRow("no commands") << QByteArray(R"({"format":"bonemoss-recipe","version":1})");
    }
    void badRecipes()
    {
        QFETCH(QByteArray, text);
        QTemporaryDir dir;
        QFile f(dir.filePath("x.json"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(text);
        f.close();
        QVERIFY(!command::readRecipe(f.fileName().toStdString()));
    }
    void pivotMovesAlone()
    {
        const Creature c =
            made({{{"do", "form.add"}, {"kind", "limb"}, {"name", "shank"}, {"path", {{0, 40, 0, 5}, {0, 10, 3, 3}}}},
                  {{"do", "form.add"}, {"kind", "ball"}, {"name", "foot"}, {"at", {0, 8, 5}}, {"parent", "shank"}}});
        const auto moved = run(c, {{"do", "form.pivot"}, {"form", "shank"}, {"at", {0, 44, -2}}});
        QVERIFY(moved);
        const auto &a = moved->armature;
        QVERIFY(length(a.forms[0].place.translation - Vec3f{0, 44, -2}) < 1e-4f);
        for (std::size_t i = 0; i < 2; ++i) {
            const Vec3f was = c.armature.worldPlace(c.armature.forms[0]).apply(c.armature.forms[0].path[i].at);
            QVERIFY(length(a.worldPlace(a.forms[0]).apply(a.forms[0].path[i].at) - was) < 1e-3f);
        }
        QVERIFY(length(a.worldPlace(a.forms[1]).translation - Vec3f{0, 8, 5}) < 1e-3f);
        QVERIFY(!run(made({kBall}), {{"do", "form.pivot"}, {"form", "body"}, {"at", {0, 0, 0}}}));
    }
    void linkedCopiesShareTheirShape()
    {
        const Creature c = made({kBall,
                                 {{"do", "form.duplicate"}, {"form", "body"}, {"linked", true}, {"move", {50, 0, 0}}},
                                 {{"do", "form.duplicate"}, {"form", "body"}, {"move", {90, 0, 0}}},
                                 {{"do", "form.set"}, {"form", "body 2"}, {"radius", 7}}});
        const auto &f = c.armature.forms;
        QCOMPARE(f.size(), std::size_t(3));
        QCOMPARE(f[0].radii.x, 7.0f);
        QCOMPARE(f[1].radii.x, 7.0f);
        QCOMPARE(f[1].place.translation.x, 50.0f); // places stay their own
        QCOMPARE(f[2].radii.x, 20.0f);             // a plain copy does not follow
        const auto parted = run(c, {{"do", "form.set"}, {"form", "body 2"}, {"linked", false}, {"radius", 9}});
        QVERIFY(parted);
        QCOMPARE(parted->armature.forms[0].radii.x, 7.0f);
    }
    void brokenCopiesStandWhereTheyStood()
    {
        const Creature c =
            made({kBall,
                  {{"do", "form.add"}, {"kind", "ball"}, {"name", "toe"}, {"radius", 2}, {"at", {30, 0, 0}}, {"parent", "body"}},
                  {{"do", "form.repeat"}, {"form", "toe"}, {"mode", "around"}, {"count", 4}, {"sizes", {1, 0.5}}},
                  {{"do", "form.copy"}, {"form", "toe"}, {"copy", 2}, {"move", {0, 6, 0}}}});
        const auto before = placesOf(c.armature, *c.armature.find(2));
        QCOMPARE(before.size(), std::size_t(4));
        const auto broken = run(c, {{"do", "form.break"}, {"form", "toe"}});
        QVERIFY(broken);
        QCOMPARE(broken->armature.forms.size(), std::size_t(5));
        for (std::size_t i = 0; i < 4; ++i) {
            const auto &f = broken->armature.forms[i + 1];
            QCOMPARE(f.parent, 1u);
            const Transform world = broken->armature.worldPlace(f);
            QVERIFY(length(world.translation - before[i].translation) < 1e-3f);
            QVERIFY(std::abs(world.scale.x - before[i].scale.x) < 1e-4f);
        }
    }
    void copiesStayTogetherWhenStoodOnTheFloor()
    {
        const Creature c = made({{{"do", "form.add"}, {"kind", "ball"}, {"name", "ring"}, {"radius", 2}, {"at", {0, 30, 0}}},
                                 {{"do", "form.repeat"},
                                  {"form", "ring"},
                                  {"mode", "around"},
                                  {"count", 4},
                                  {"centre", {0, 20, 0}},
                                  {"axis", {1, 0, 0}}}});
        const auto stood = run(c, {{"do", "creature.stand"}});
        QVERIFY(stood);
        const auto before = placesOf(c.armature, c.armature.forms[0]),
                   after = placesOf(stood->armature, stood->armature.forms[0]);
        for (std::size_t i = 0; i < 4; ++i) // lowest at 20 - 10 - 2 = 8: all go down by 8
            QVERIFY(length(after[i].translation - before[i].translation - Vec3f{0, -8, 0}) < 0.1f);
    }
    // Everything goes down by the height of the lowest point; skins keep their shape and their layers.
    void standOnTheFloor()
    {
        Creature c = made({kBall, kKnit, {{"do", "layer.add"}}});
        const auto sculpted = run(
            c,
            {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"layer", "Layer"}, {"size", 8}, {"samples", {{20, 0, 0}, {20, 4, 0}}}});
        if (sculpted)
            c = *sculpted;
        const auto stood = run(c, {{"do", "creature.stand"}});
        QVERIFY(stood);
        const auto &before = c.pieces[0]->skin.shown, &after = stood->pieces[0]->skin.shown;
        QVERIFY(std::abs(after.box().lo.y) < 1e-3f);
        const float by = after.box().lo.y - before.box().lo.y;
        for (std::size_t i = 0; i < before.positions.size(); i += 97)
            QVERIFY(length(after.positions[i] - before.positions[i] - Vec3f{0, by, 0}) < 1e-4f);
        QVERIFY(std::abs(stood->armature.forms[0].place.translation.y - by) < 1e-4f);
    }
};

BONEMOSS_TEST(TestCommands)
#include "tst_commands.moc"
