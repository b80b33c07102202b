// Ready parts, linked forms and cages.
#include "support/run.h"
#include "armature/curve_edit.h"
#include "base/space_map.h"
#include "store/part.h"
#include "store/store.h"
#include "mesh/cage_edit.h"
#include "mesh/measures.h"
#include "mesh/section.h"
#include "support/forms.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::test;

class TestParts : public QObject
{
    Q_OBJECT
    QTemporaryDir m_folder;
    std::string path(const char *name) const { return m_folder.filePath(QLatin1String(name)).toStdString(); }

private slots:
    // --- parts ---
    void shelfHoldsWhatItSays()
    {
        const auto &shelf = store::shippedParts();
        QVERIFY(shelf.size() >= 12);
        for (const char *name : {"paw", "hoof", "three-toed-foot", "hand", "beak", "jaw", "muzzle-skull", "long-skull", "ear",
                                 "eye-socket", "tail-tip", "fin"})
            QVERIFY2(std::any_of(shelf.begin(), shelf.end(), [&](const auto &e) { return e.name == name; }), name);
        for (const auto &e : shelf) { // each knits into one closed skin
            const Creature c =
                made({{{"do", "part.insert"}, {"part", e.name}, {"at", {0, 30, 0}}}, {{"do", "knit.forms"}, {"faces", 30000}}});
            const mesh::Measures m = mesh::measure(toPolyMesh(c.pieces[0]->skin.shown));
            QVERIFY2(m.closed && m.components == 1, e.name.c_str());
        }
    }
    void partsFitWhatTheySitOn()
    {
        const Creature c = chain();
        const Creature with = made(
            {{{"do", "part.insert"}, {"part", "paw"}, {"at", {0, 10, 0}}, {"parent", "lower"}, {"radius", 2}, {"mirror", true}}},
            c);
        const Form &wrist = form(with, "wrist");
        QVERIFY(near(joint(with, "wrist"), {0, 10, 0}) && wrist.parent == form(with, "lower").id && wrist.isMirrored);
        QVERIFY(std::abs(wrist.path[0].radius * with.armature.worldPlace(wrist).scale.x - 2) < 1e-3f);
        // Turned with what it hangs from, all of it goes along.
        const Vec3f toe = joint(with, "toe 1");
        const Creature turned = made({{{"do", "form.set"}, {"form", "lower"}, {"turn", {0, 90, 0}}}}, with);
        QVERIFY(near(joint(turned, "toe 1") - Vec3f{0, 20, 0}, rotate(rotationAbout({0, 1, 0}, kPi / 2), toe - Vec3f{0, 20, 0}),
                     1e-2f));
        // One that follows the normal does; one that stands upright does not.
        const Creature ear = made({{{"do", "part.insert"}, {"part", "ear"}, {"at", {0, 0, 0}}, {"normal", {1, 0, 0}}}});
        const auto tip = points(ear, "ear blade").back();
        QVERIFY(tip.x > 3 * std::abs(tip.y) && tip.x > 5);
        const Creature paw = made({{{"do", "part.insert"}, {"part", "paw"}, {"at", {0, 0, 0}}, {"normal", {1, 0, 0}}}});
        QVERIFY(std::abs(joint(paw, "palm").x) < 1e-3f);
        // Twice: names stay apart.
        const Creature twice = made({{{"do", "part.insert"}, {"part", "ear"}, {"at", {9, 0, 0}}}}, ear);
        QCOMPARE(form(twice, "ear root 2").id != form(twice, "ear root").id, true);
    }
    void branchSavedAndUsedAgain()
    {
        Creature c = made({{{"do", "form.set"}, {"form", "upper"}, {"turn", {0, 40, 0}}},
                           {{"do", "form.repeat"},
                            {"form", "foot"},
                            {"mode", "around"},
                            {"count", 4},
                            {"centre", {0, 10, 0}},
                            {"axis", {0, 1, 0}}}},
                          chain());
        const auto part = store::partFrom(c, form(c, "lower").id);
        QVERIFY(part && part->armature.forms.size() == 2);
        QVERIFY(store::writePart(path("shank.part.json"), *part));
        const Vec3f was = joint(c, "lower");
        const Creature again =
            made({{{"do", "part.insert"}, {"path", path("shank.part.json")}, {"at", {was.x + 50, was.y, was.z}}}}, c);
        const auto places = [](const Creature &x, const char *name) { return placesOf(x.armature, form(x, name)); };
        const auto before = places(c, "foot"), after = places(again, "foot 2");
        QCOMPARE(after.size(), std::size_t(4));
        for (std::size_t i = 0; i < 4; ++i)
            QVERIFY(near(after[i].translation, before[i].translation + Vec3f{50, 0, 0}, 1e-2f));
    }
    void copiesWithoutTheirGuideAreKept()
    {
        const Creature c =
            made({{{"do", "form.add"}, {"kind", "tube"}, {"name", "rail"}, {"path", {{0, 0, 0, 1}, {0, 0, 40, 1}}}},
                  {{"do", "form.add"}, {"kind", "ball"}, {"name", "knob"}, {"at", {3, 5, 0}}, {"radius", 2}},
                  {{"do", "form.repeat"}, {"form", "knob"}, {"mode", "along"}, {"guide", "rail"}, {"count", 5}}});
        const auto part = store::partFrom(c, form(c, "knob").id); // the rail is not of its branch
        QVERIFY(part && part->armature.forms.size() == 5);
        const auto was = placesOf(c.armature, form(c, "knob"));
        for (std::size_t i = 0; i < 5; ++i)
            QVERIFY(
                near(part->armature.worldPlace(part->armature.forms[i]).translation, was[i].translation - was[0].translation));
        QVERIFY(store::writePart(path("knobs.part.json"), *part) && store::readPart(path("knobs.part.json")));
    }
    void linkedFormsFollowTogether()
    {
        Creature c = made({{{"do", "form.duplicate"}, {"form", "head"}, {"linked", true}}}, chain());
        c = made({{{"do", "forms.set"}, {"forms", {"head"}}, {"melt", 9}}}, c);
        QCOMPARE(form(c, "head 2").melt, 9.0f);
    }
    void badPartFiles_data()
    {
        QTest::addColumn<QByteArray>("text");
        QTest::newRow("empty") << QByteArray();
        QTest::newRow("not JSON") << QByteArray("paw");
        QTest::newRow("something else") << QByteArray(R"({"format":"bonemoss-recipe","version":1})");
        QTest::newRow("newer") << QByteArray(R"({"format":"bonemoss-part","version":99})");
        QTest::newRow("no forms") << QByteArray(
            R"({"format":"bonemoss-part","version":1,"title":"x","outward":[0,1,0],"turnsToNormal":true,"fitsRadius":1,"forms":[]})");
        QTest::newRow("broken form") << QByteArray(
            R"({"format":"bonemoss-part","version":1,"title":"x","outward":[0,1,0],"turnsToNormal":true,"fitsRadius":1,"forms":[{"id":1}]})");
    }
    void badPartFiles()
    {
        QFETCH(QByteArray, text);
        QFile f(QString::fromStdString(path("bad.part.json")));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(text);
        f.close();
        QVERIFY(!store::readPart(path("bad.part.json")));
        QVERIFY(!run({}, {{"do", "part.insert"}, {"path", path("bad.part.json")}, {"at", {0, 0, 0}}}));
    }
    void partsAreNamedRight()
    {
        QVERIFY(!run({}, {{"do", "part.insert"}, {"at", {0, 0, 0}}}));
        QVERIFY(!run({}, {{"do", "part.insert"}, {"part", "wheel"}, {"at", {0, 0, 0}}}));
        QVERIFY(!run({}, {{"do", "part.insert"}, {"path", path("none.part.json")}, {"at", {0, 0, 0}}}));
    }

    // --- cages ---
    void cageGrowsFromASheet()
    {
        // A sheet extruded by its only face is a box without its floor: volume by its own closed form once it is shut.
        Creature c = made(
            {{{"do", "cage.add"}, {"kind", "sheet"}, {"name", "plate"}, {"at", {0, 10, 0}}, {"size", {8, 1, 6}}, {"smooth", 0}}});
        const auto &plate = [](const Creature &x) -> const mesh::PolyMesh & { return x.cages[0]->mesh; };
        QVERIFY(near(mesh::meanNormal(plate(c), std::vector<std::uint32_t>{0}), {0, 1, 0}));
        c = made({{{"do", "cage.faces"}, {"cage", "plate"}, {"edit", "extrude"}, {"faces", {0}}, {"width", 5}}}, c);
        const mesh::Measures open = mesh::measure(plate(c));
        QCOMPARE(open.faces, std::size_t(5));
        QCOMPARE(open.boundaryEdges, std::size_t(4));
        QVERIFY(open.nonManifoldEdges == 0 && std::abs(open.areaMm2 - (48 + 2 * 5 * (8 + 6))) < 1e-3);
        // Its rim, as the side faces run along it, is drawn out into a skirt.
        json rim = json::array();
        for (int i = 0; i < 4; ++i)
            rim.push_back(i), rim.push_back((i + 1) % 4);
        const Creature skirt =
            made({{{"do", "cage.edges"}, {"cage", "plate"}, {"edit", "extend"}, {"edges", rim}, {"by", {0, -2, 0}}}}, c);
        const mesh::Measures wide = mesh::measure(plate(skirt));
        QVERIFY(wide.faces == 9 && wide.boundaryEdges == 4 && wide.nonManifoldEdges == 0);
        QVERIFY(std::abs(wide.areaMm2 - open.areaMm2 - 2 * 28) < 1e-3);
        json wrong = rim;
        std::swap(wrong[0], wrong[1]); // against the way its face runs
        QVERIFY(!run(c, {{"do", "cage.edges"}, {"cage", "plate"}, {"edit", "extend"}, {"edges", wrong}, {"by", {0, -2, 0}}}));
    }
    void cageBoxIsEdited()
    {
        const Creature box =
            made({{{"do", "cage.add"}, {"kind", "box"}, {"name", "brick"}, {"size", {10, 20, 30}}, {"smooth", 0}}});
        const auto of = [](const Creature &x) { return mesh::measure(x.cages[0]->mesh); };
        QVERIFY(of(box).closed && std::abs(of(box).volumeMm3 - 6000) < 1e-2);
        // Face 3 is the top: drawn up by 5 it adds 10 * 30 * 5.
        const Creature tall =
            made({{{"do", "cage.faces"}, {"cage", "brick"}, {"edit", "extrude"}, {"faces", {3}}, {"width", 5}}}, box);
        QVERIFY(of(tall).closed && of(tall).faces == 10 && std::abs(of(tall).volumeMm3 - 7500) < 1e-2);
        // An inset changes neither volume nor area, and its ring is 2 mm wide all round: 10 by 30 less 6 by 26.
        const Creature rim =
            made({{{"do", "cage.faces"}, {"cage", "brick"}, {"edit", "inset"}, {"faces", {3}}, {"width", 2}}}, box);
        QVERIFY(of(rim).closed && of(rim).faces == 10 && std::abs(of(rim).volumeMm3 - 6000) < 1e-2);
        QVERIFY(std::abs(of(rim).areaMm2 - of(box).areaMm2) < 1e-2);
        mesh::PolyMesh inner = rim.cages[0]->mesh;
        const mesh::Face top = inner.faces[3];
        inner.faces = {top};
        QVERIFY(std::abs(mesh::measure(inner).areaMm2 - 6 * 26) < 1e-2);
        // A bevel of 2 mm takes a frustum's difference away from the top 2 mm: 600 less h/3 (A + a + sqrt(A a)) (Heron).
        const Creature cut =
            made({{{"do", "cage.faces"}, {"cage", "brick"}, {"edit", "bevel"}, {"faces", {3}}, {"width", 2}}}, box);
        // Its corners are cut by planes through other points than a frustum's, whose volume is by the prismatoid formula
        // h/6 (A + 4 M + a): A = 300, a = 6 * 26, middle section 8 * 28.
        const double frustum = 2.0 / 6 * (300 + 4 * 8 * 28 + 6 * 26);
        QVERIFY2(of(cut).closed && std::abs(of(cut).volumeMm3 - (6000 - 600 + frustum)) < 0.5,
                 qPrintable(QString::number(of(cut).volumeMm3 - (6000 - 600 + frustum))));
        // A ring around the box over a long edge: four quads more, nothing else changed.
        const mesh::Face side = box.cages[0]->mesh.faces[5];
        const Creature ring = made(
            {{{"do", "cage.edges"}, {"cage", "brick"}, {"edit", "ring"}, {"edges", {side.v[0], side.v[1]}}, {"share", 0.25}}},
            box);
        QVERIFY(of(ring).closed && of(ring).faces == 10 && of(ring).vertices == 12 && std::abs(of(ring).volumeMm3 - 6000) < 1e-2);
        const Creature open = made({{{"do", "cage.faces"}, {"cage", "brick"}, {"edit", "delete"}, {"faces", {3}}}}, box);
        QVERIFY(of(open).faces == 5 && of(open).boundaryEdges == 4 && of(open).vertices == 8);
        // Points move softly: the cosine at half the reach is a half.
        const Creature pulled =
            made({{{"do", "cage.move"}, {"cage", "brick"}, {"points", {7}}, {"by", {0, 4, 0}}, {"reach", 20}}}, box);
        const auto y = [&](std::size_t v) { return pulled.cages[0]->mesh.positions[v].y - box.cages[0]->mesh.positions[v].y; };
        QVERIFY(std::abs(y(7) - 4) < 1e-4f && std::abs(y(6) - 2) < 1e-3f && std::abs(y(3)) < 1e-4f); // 10 and 30 mm away
    }
    void cageHalvesShareTheMiddle()
    {
        Creature c = made({{{"do", "cage.add"},
                            {"kind", "box"},
                            {"name", "half"},
                            {"at", {5, 0, 0}},
                            {"size", {10, 10, 10}},
                            {"smooth", 1},
                            {"mirror", true}}});
        for (std::uint32_t f = 0; f < 6; ++f) { // without the wall on the middle plane both halves are one shape
            const Vec3f n = mesh::meanNormal(c.cages[0]->mesh, std::vector<std::uint32_t>{f});
            if (n.x < -0.9f) {
                c = made({{{"do", "cage.faces"}, {"cage", "half"}, {"edit", "delete"}, {"faces", {f}}}}, c);
                break;
            }
        }
        const mesh::Measures m = mesh::measure(shownCage(*c.cages[0]));
        QVERIFY(m.closed && m.components == 1 && std::abs(m.centreOfMassMm[0]) < 1e-4);
        const Creature piece = made({{{"do", "cage.piece"}, {"cage", "half"}}}, c);
        QVERIFY(piece.cages.empty() && piece.pieces.size() == 1 && piece.pieces[0]->name == "half");
        QVERIFY(std::abs(mesh::measure(toPolyMesh(piece.pieces[0]->skin.shown)).volumeMm3 - m.volumeMm3) < 1e-2);
    }
    void cagesAreKeptAndRefuseNonsense()
    {
        const Creature c = made({{{"do", "cage.add"},
                                  {"kind", "strip"},
                                  {"name", "strap"},
                                  {"size", {4, 1, 1}},
                                  {"points", {{0, 0, 0}, {0, 0, 10}, {0, 0, 10}, {0, 3, 18}}}}});
        QCOMPARE(c.cages[0]->mesh.faces.size(), std::size_t(2)); // the doubled point is one
        QVERIFY(store::saveAs(path("cage.bonemoss"), c));
        const auto loaded = store::loadStore(path("cage.bonemoss"));
        QVERIFY(loaded && loaded->damage.empty());
        QVERIFY(loaded->creature.cages[0]->mesh.positions == c.cages[0]->mesh.positions
                && loaded->creature.cages[0]->mesh.faces == c.cages[0]->mesh.faces && loaded->creature.cages[0]->name == "strap");
        for (const json &bad : std::initializer_list<json>{
                 {{"do", "cage.faces"}, {"cage", "strap"}, {"edit", "extrude"}, {"faces", {2}}, {"width", 1}},
                 {{"do", "cage.faces"}, {"cage", "strap"}, {"edit", "extrude"}, {"faces", {0.5}}, {"width", 1}},
                 {{"do", "cage.faces"}, {"cage", "strap"}, {"edit", "inset"}, {"faces", {0}}, {"width", 0}},
                 {{"do", "cage.faces"}, {"cage", "strap"}, {"edit", "delete"}, {"faces", {0, 1}}},
                 {{"do", "cage.faces"}, {"cage", "belt"}, {"edit", "delete"}, {"faces", {0}}},
                 {{"do", "cage.edges"}, {"cage", "strap"}, {"edit", "ring"}, {"edges", {0, 5}}},
                 {{"do", "cage.edges"}, {"cage", "strap"}, {"edit", "ring"}, {"edges", {0}}},
                 {{"do", "cage.move"}, {"cage", "strap"}, {"points", {99}}, {"by", {1, 0, 0}}},
                 {{"do", "cage.add"}, {"kind", "strip"}, {"points", {{0, 0, 0}}}},
                 {{"do", "cage.add"}, {"kind", "box"}, {"size", {0, 1, 1}}}})
            QVERIFY2(!run(c, bad), bad.dump().c_str());
        const Creature locked = made({{{"do", "cage.set"}, {"cage", "strap"}, {"locked", true}}}, c);
        QVERIFY(!run(locked, {{"do", "cage.remove"}, {"cage", "strap"}}));
        QVERIFY(run(locked, {{"do", "cage.set"}, {"cage", "strap"}, {"locked", false}}));
    }

    // --- many ---
    void twoThousandForms()
    {
        // A long chain and a wide brood: branches are found and places worked out without trouble.
        Creature c;
        armature::Armature &a = c.armature;
        for (std::uint32_t i = 1; i <= 2000; ++i) {
            Form f;
            f.id = i, f.name = std::string("f").append(std::to_string(i)), f.parent = i <= 40 ? i - 1 : 1 + i % 40;
            f.place.translation = {0, 1, 0};
            a.forms.push_back(f);
        }
        c.nextId = 2001;
        QCOMPARE(a.branch(1).size(), std::size_t(2000));
        const auto moved = run(c, {{"do", "forms.move"}, {"forms", {"f1", "f20", "f1999"}}, {"move", {3, 0, 0}}});
        QVERIFY(moved);
        QVERIFY(near(joint(*moved, "f1999"), joint(c, "f1999") + Vec3f{3, 0, 0}));
        QVERIFY(run(*moved, {{"do", "forms.remove"}, {"forms", {"f2"}}})->armature.forms.size() < 1999);
    }
};

BONEMOSS_TEST(TestParts)
#include "tst_parts.moc"
