// Hair as curves, thin feathers with a layout, the water of an eye, and a rim that goes along to another piece. Oracles: the tubes that
// thicken the same hairs, elementary geometry, what a file gives back.
#include "support/run.h"
#include "command/command.h"
#include "document/creature.h"
#include "growth/darts.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "outgrowth/riders.h"
#include "store/store.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using outgrowth::Outgrowth;

namespace {

Creature ball30()
{
    return test::masked(test::withPieces({test::sphere(30, 60, 90)}), [](Vec3f p) { return p.y > 20; });
}

/// A ball of 30 mm, masked above, with that command run on it.
Creature grown(const json &command)
{
    const auto c = test::run(ball30(), command);
    if (!c)
        qFatal("%s", c.error().text().c_str());
    return *c;
}

io::Scene shownBy(const Outgrowth &o)
{
    io::Scene scene;
    o.show(scene);
    return scene;
}

} // namespace

class TestStrands : public QObject
{
    Q_OBJECT
private slots:
    void curvesAreTheMiddlesOfTheTubes()
    {
        const Creature c = grown({{"do", "outgrow.fibres"}, {"spacing", 4}, {"strands", 9}, {"curl", 0.4}, {"hair", 0.3}});
        const auto &made = *c.outgrowths[0]->made;
        QVERIFY(made.shapes.size() > 3);
        for (std::size_t k = 0; k < made.shapes.size(); ++k) {
            const mesh::Curves &hair = *made.curves[k];
            const std::vector<Vec3f> &tube = made.shapes[k]->positions; // four corners about each point
            QCOMPARE(hair.count(), std::size_t(9));
            QCOMPARE(tube.size(), 4 * hair.points.size());
            for (std::size_t i = 0; i < hair.points.size(); ++i) {
                Vec3f middle;
                for (std::size_t j = 0; j < 4; ++j)
                    middle += tube[4 * i + j] * 0.25f;
                QVERIFY(length(middle - hair.points[i]) < 1e-4f);
                QVERIFY(std::abs(length(tube[4 * i] - middle) - hair.radii[i]) < 1e-4f);
            }
            for (std::size_t h = 0; h < hair.count(); ++h) { // thinner towards the tip
                QCOMPARE(hair.end(h) - hair.begin(h), 7u);
                for (std::uint32_t i = hair.begin(h) + 1; i < hair.end(h); ++i)
                    QVERIFY(hair.radii[i] < hair.radii[i - 1]);
            }
        }
        // Where curves are shown they share the shapes' copies; files and checks still find closed tubes.
        const io::Scene scene = shownBy(*c.outgrowths[0]);
        QCOMPARE(scene.shapes[0].curves.get(), made.curves[0].get());
        QVERIFY(mesh::measure(*made.shapes[0]).closed);
        QVERIFY(made.memoryBytes() > made.curves.size() * made.curves[0]->memoryBytes());
    }
    void aBentTuftBendsItsCurves()
    {
        const Creature c = grown({{"do", "outgrow.fibres"}, {"spacing", 6}, {"strands", 1}, {"curve", 0}});
        const std::uint32_t member = c.outgrowths[0]->made->members[0].number;
        const auto bent = test::run(c, {{"do", "outgrowth.correct"}, {"outgrowth", "Fibres"}, {"member", member}, {"bend", 80}});
        QVERIFY(bool(bent));
        const auto &made = *bent->outgrowths[0]->made;
        const std::size_t own = made.members[0].shape;
        QVERIFY(made.variations[own].bend == 80);
        const mesh::Curves &hair = *made.curves[own];
        for (std::size_t i = 0; i < hair.points.size(); ++i) { // as the tube is
            Vec3f middle;
            for (std::size_t j = 0; j < 4; ++j)
                middle += made.shapes[own]->positions[4 * i + j] * 0.25f;
            QVERIFY2(length(middle - hair.points[i]) < 0.05f, qPrintable(QString::number(length(middle - hair.points[i]))));
        }
    }
    void hairHasARootAndATipColour()
    {
        const json colours{{0.2, 0.1, 0.05}, {0.9, 0.8, 0.5}};
        const Creature c = grown({{"do", "outgrow.fibres"}, {"spacing", 5}, {"colours", colours}});
        const auto near = [](Vec3f a, Vec3f b) { return length(a - b) < 1e-4f; };
        // sRGB 0.2 and 0.9 in linear light, by IEC 61966-2-1: ((s + 0.055) / 1.055) ^ 2.4
        const io::Material &hair = c.outgrowths[0]->made->materials[0];
        QVERIFY(near(*hair.colour, {0.033105f, 0.010023f, 0.003936f}));
        QVERIFY(near(*hair.tipColour, {0.787412f, 0.603827f, 0.214041f}));
        // A solid has one colour: the mean.
        const Creature horned = grown({{"do", "outgrow.horn"}, {"at", {0, 30, 0}}, {"colours", colours}});
        const io::Material &horn = horned.outgrowths[0]->made->materials[0];
        QVERIFY(near(*horn.colour, {0.410259f, 0.306925f, 0.108989f}) && !horn.tipColour);
        QVERIFY(!test::run(ball30(), {{"do", "outgrow.eye"}, {"at", {0, 30, 0}}, {"colours", colours}})); // it has its own
        // What is not said stays; none at all is the hair's own again.
        const auto longer = test::run(c, {{"do", "outgrow.fibres"}, {"outgrowth", "Fibres"}, {"height", 9}});
        QVERIFY(bool(longer) && longer->outgrowths[0]->colours == c.outgrowths[0]->colours);
        const auto plain = test::run(c, {{"do", "outgrow.fibres"}, {"outgrowth", "Fibres"}, {"colours", json::array()}});
        QVERIFY(bool(plain) && !plain->outgrowths[0]->made->materials[0].colour);
        for (const json &bad : {json{{0.2, 0.1, 0.05}}, json{{2, 0, 0}, {0, 0, 0}}, json{{0, 0, 0}, {0, -1, 0}}}) {
            const auto refused = test::run(c, {{"do", "outgrow.fibres"}, {"outgrowth", "Fibres"}, {"colours", bad}});
            QVERIFY(!refused && refused.error().text().find("colours") != std::string::npos);
        }
        QTemporaryDir dir;
        const auto file = std::filesystem::path(dir.filePath("c.bonemoss").toStdString());
        QVERIFY(bool(store::saveAs(file, c)));
        const auto again = store::loadStore(file);
        QVERIFY(bool(again));
        QCOMPARE(again->creature.outgrowths[0]->colours, c.outgrowths[0]->colours);
    }
    void thinFeathersHaveALayout_data()
    {
        QTest::addColumn<bool>("isBroken");
        QTest::newRow("whole") << false;
        QTest::newRow("broken off") << true;
    }
    void thinFeathersHaveALayout()
    {
        QFETCH(bool, isBroken);
        Creature c = grown({{"do", "outgrow.feathers"}, {"spacing", 9}, {"body", "thin"}, {"notches", 0.6}});
        if (isBroken) {
            const std::uint32_t member = c.outgrowths[0]->made->members[0].number;
            c = *test::run(c, {{"do", "outgrowth.correct"}, {"outgrowth", "Feathers"}, {"member", member}, {"broken", 0.4}});
        }
        const io::Scene scene = shownBy(*c.outgrowths[0]);
        float highest = 1;
        for (const io::Shape &feather : scene.shapes) {
            QVERIFY(!mesh::measure(feather.toPolyMesh()).closed);
            const io::Attribute *texture = feather.attribute(io::kTexture);
            QVERIFY(texture);
            QCOMPARE(texture->values.size(), 2 * feather.pointCount());
            const auto at = [&](std::uint32_t v) { return std::array{texture->values[2 * v], texture->values[2 * v + 1]}; };
            double whole = 0;
            float top = 0;
            feather.eachFace([&](const mesh::Face &f) { // no face is turned over or without area, so none covers another
                double area = 0;
                for (int k = 0; k < 4; ++k) {
                    const auto a = at(f.v[std::size_t(k)]), b = at(f.v[std::size_t((k + 1) % 4)]);
                    area += 0.5 * (double(a[0]) * double(b[1]) - double(b[0]) * double(a[1]));
                    QVERIFY(a[0] >= 0 && a[0] <= 1 && a[1] >= 0 && a[1] <= 1);
                    top = std::max(top, a[1]);
                }
                QVERIFY(area > 0);
                whole += area;
            });
            QVERIFY(std::abs(whole - double(top)) < 1e-4); // a rectangle, from side to side and as far up as it goes
            highest = std::min(highest, top);
        }
        QVERIFY(isBroken ? highest < 0.7f : highest == 1);
    }
    void aThinFeatherReachesFilesWithItsLayout()
    {
        const Creature c = grown({{"do", "outgrow.feathers"}, {"spacing", 12}, {"body", "thin"}});
        QTemporaryDir dir;
        const auto file = std::filesystem::path(dir.filePath("f.glb").toStdString());
        QVERIFY(bool(io::writeScene(file, shownBy(*c.outgrowths[0]))));
        const auto back = io::readScene(file);
        QVERIFY(bool(back));
        QVERIFY(back->scene.shapes.at(0).attribute(io::kTexture));
    }
    void whatIsThinDoesNotMelt()
    {
        const Creature c = grown({{"do", "outgrow.feathers"}, {"spacing", 12}, {"body", "thin"}});
        const auto melted = test::run(c, {{"do", "outgrowth.melt"}, {"outgrowth", "Feathers"}});
        QVERIFY(!melted && melted.error().text().find("solid") != std::string::npos);
        const auto solid = test::run(c, {{"do", "outgrow.feathers"}, {"outgrowth", "Feathers"}, {"body", "solid"}});
        QVERIFY(bool(solid) && mesh::measure(*solid->outgrowths[0]->made->shapes[0]).closed);
    }
    // Discs thrown at random until none has room cover 0.547 of a plane (J. Feder, "Random sequential adsorption", 1980), which is 0.603
    // of what the densest lattice covers; a few gaps are left here.
    void hairKeepsApart_data()
    {
        QTest::addColumn<bool>("isBall");
        QTest::newRow("plane") << false;
        QTest::newRow("ball") << true;
    }
    void hairKeepsApart()
    {
        QFETCH(bool, isBall);
        const mesh::Surface skin = mesh::makeSurface(isBall ? test::sphere(20, 90, 180) : test::plane(120, 60));
        mesh::BlockArray<std::uint8_t> area(skin.positions.size());
        std::vector<std::uint32_t> blocks;
        for (std::uint32_t b = 0; b < area.blockCount(); ++b) {
            blocks.push_back(b);
            for (std::size_t i = 0; i < area.countIn(b); ++i)
                area.edit(b)[i] = isBall || length(skin.positions.data(b)[i]) < 40 ? 255 : 0;
        }
        const growth::DartSettings settings{1.5f, 6, 4, {}, {}};
        const auto darts = growth::dartsOn(skin, area, blocks, settings);
        const double size = isBall ? 4 * M_PI * 400 : M_PI * 1600, densest = size / (std::sqrt(3.0) / 2 * 1.5 * 1.5);
        const double share = double(darts.size()) / densest;
        QVERIFY2(share > 0.48 && share < 0.603, qPrintable(QString::number(share)));
        for (std::size_t i = 0; i < darts.size(); ++i) {
            for (std::size_t j = i + 1; j < darts.size(); ++j)
                QVERIFY(length(darts[i].at - darts[j].at) >= 1.5f);
            const Vec3f at = darts[i].at;
            QVERIFY(std::abs(isBall ? length(at) - 20 : at.y) < 0.02f);
            QVERIFY(dot(darts[i].normal, isBall ? normalized(at) : Vec3f{0, 1, 0}) > 0.999f);
            // The mask ends within two faces of 40 mm from the middle.
            const float inner = isBall ? 1 : std::clamp((40 - length(at)) / 6, 0.0f, 1.0f);
            QVERIFY2(std::abs(darts[i].inner - inner) < 4.1f / 6, qPrintable(QString::number(double(darts[i].inner - inner))));
        }
        const auto again = growth::dartsOn(skin, area, blocks, settings);
        QVERIFY(std::equal(darts.begin(), darts.end(), again.begin(), again.end(),
                           [](const auto &a, const auto &b) { return a.at == b.at && a.number == b.number; }));
    }
    void bothSidesOfAThinSheetAreFull()
    {
        mesh::PolyMesh sheet = test::plane(60, 30), back = sheet;
        for (Vec3f &p : back.positions)
            p.y -= 0.3f;
        for (mesh::Face &f : back.faces)
            f = io::flipped(f);
        const auto countOn = [](const mesh::PolyMesh &m) {
            const mesh::Surface skin = mesh::makeSurface(mesh::inSpatialOrder(m));
            mesh::BlockArray<std::uint8_t> area(skin.positions.size());
            std::vector<std::uint32_t> blocks;
            for (std::uint32_t b = 0; b < area.blockCount(); ++b) {
                blocks.push_back(b);
                std::fill_n(area.edit(b), area.countIn(b), std::uint8_t(255));
            }
            return double(growth::dartsOn(skin, area, blocks, {2, 0, 1, {}, {}}).size());
        };
        const double one = countOn(sheet);
        mesh::append(sheet, back);
        QVERIFY2(std::abs(countOn(sheet) / one - 2) < 0.1, qPrintable(QString::number(countOn(sheet) / one)));
    }
    // During a stroke a member goes as far as the skin at its root does: here along a slope that is known at each place.
    void membersGoAlongWithTheSkin()
    {
        const mesh::Surface before = mesh::makeSurface(test::plane(200, 80)); // squares of 2.5 mm
        Outgrowth o = outgrowthOf(*outgrowth::kindNamed("spikes"));
        o.isMirrored = false;
        for (int k = 0; k <= 30; ++k)
            o.roots.push_back({{-75 + 5 * float(k), 0, 0.4f}, {0, 1, 0}});
        const growth::Surroundings about;
        const auto made = outgrowth::make({o, before, about, {}});
        QVERIFY(bool(made));
        const auto rise = [](Vec3f p) { return p.x > 0 ? 0.1f * p.x : 0.0f; };
        mesh::Surface now = before;
        std::vector<std::uint32_t> touched;
        for (std::uint32_t b = 0; b < now.positions.blockCount(); ++b) {
            bool isTouched = false;
            for (std::size_t i = 0; i < now.positions.countIn(b); ++i)
                isTouched = isTouched || before.positions.data(b)[i].x > 0;
            if (!isTouched)
                continue;
            touched.push_back(b);
            Vec3f *p = now.positions.edit(b);
            for (std::size_t i = 0; i < now.positions.countIn(b); ++i)
                p[i].y += rise(p[i]);
        }
        outgrowth::Riders riders(*made);
        QVERIFY(riders.follow(before, now, touched) && riders.isMoved());
        QVERIFY(!riders.follow(before, now, touched)); // nothing new
        QVERIFY((*made)->members.size() > 10);
        for (std::size_t k = 0; k < (*made)->members.size(); ++k) {
            const Vec3f root = (*made)->members[k].root, by = riders.offset(k);
            QVERIFY(by.x == 0 && by.z == 0);
            QVERIFY2(std::abs(by.y - rise(root)) <= 0.1f * 1.3f, qPrintable(QString::number(double(by.y - rise(root)))));
        }
        QVERIFY(riders.follow(before, before, touched) && !riders.isMoved()); // given up
    }
    // The water lies in the corner between the lower lid and the clear ball: it touches both, wherever the lid stands.
    void waterStandsAlongTheLowerLid_data()
    {
        QTest::addColumn<double>("shut");
        for (const double shut : {0.0, 0.3, 0.7})
            QTest::addRow("%g", shut) << shut;
    }
    void waterStandsAlongTheLowerLid()
    {
        QFETCH(double, shut);
        const Creature c = grown(
            {{"do", "outgrow.eye"}, {"at", {0, 30, 0}}, {"mirror", false}, {"radius", 8}, {"lowerLid", shut}, {"wet", 0.6}});
        const auto &made = *c.outgrowths[0]->made;
        const auto part = [&](const char *name, std::size_t which = 0) {
            for (std::size_t k = 0; k < made.shapes.size(); ++k)
                if (made.materials[k].name == name && which-- == 0)
                    return made.shapes[k];
            qFatal("no such part");
        };
        const mesh::PolyMesh &water = *part("wet rim");
        QVERIFY(made.materials.back().name != "wet rim" || made.materials.back().isGlossy);
        QVERIFY(mesh::measure(water).closed);
        const mesh::Surface lid = mesh::makeSurface(*part("lid", 1)), clear = mesh::makeSurface(*part("clear"));
        float toLid = 1, toBall = 1, far = 0;
        for (const Vec3f p : water.positions) {
            const float away = length(nearestPoint(lid, p)->point - p);
            toLid = std::min(toLid, away), far = std::max(far, away);
            toBall = std::min(toBall, length(nearestPoint(clear, p)->point - p));
        }
        QVERIFY2(toLid < 0.05f && toBall < 0.05f && far < 1.2f,
                 qPrintable(QStringLiteral("%1 %2 %3").arg(toLid).arg(toBall).arg(far)));
        const auto dry = test::run(c, {{"do", "outgrow.eye"}, {"outgrowth", "Eye"}, {"wet", 0}});
        QVERIFY(bool(dry));
        QCOMPARE(dry->outgrowths[0]->made->shapes.size(), made.shapes.size() - 1);
    }
    void aRimGoesAlongToAnotherPiece()
    {
        const Creature two = test::withPieces({test::sphere(30, 60, 90), test::sphere(30, 60, 90, {100, 0, 0})});
        const auto layers = [](const Creature &c, std::size_t piece) {
            std::vector<std::string> names;
            for (const auto &l : c.pieces[piece]->skin.layers)
                names.push_back(l.name);
            return names;
        };
        auto c = test::run(two, {{"do", "outgrow.horn"}, {"piece", "a"}, {"at", {0, 30, 0}}, {"mirror", false}});
        c = test::run(*c, {{"do", "outgrowth.rim"}, {"outgrowth", "Horn"}, {"height", 1}});
        QVERIFY(bool(c));
        QCOMPARE(layers(*c, 0), (std::vector<std::string>{"relief", "Rim of Horn"}));
        const float before = c->pieces[1]->skin.shown.box().hi.y;
        const auto moved = test::run(*c, {{"do", "outgrowth.root"}, {"outgrowth", "Horn"}, {"piece", "b"}, {"at", {100, 30, 0}}});
        QVERIFY(bool(moved));
        QCOMPARE(layers(*moved, 0), std::vector<std::string>{"relief"});
        QCOMPARE(layers(*moved, 1), (std::vector<std::string>{"relief", "Rim of Horn"}));
        QCOMPARE(moved->outgrowths[0]->rim.layer, moved->pieces[1]->skin.layers.back().id);
        QVERIFY(moved->pieces[1]->skin.shown.box().hi.y > before + 0.5f); // it rises there
        QVERIFY(std::abs(moved->pieces[0]->skin.shown.box().hi.y - two.pieces[0]->skin.shown.box().hi.y) < 1e-4f);
        const auto gone = test::run(*moved, {{"do", "outgrowth.remove"}, {"outgrowth", "Horn"}});
        QCOMPARE(layers(*gone, 1), std::vector<std::string>{"relief"});
    }
};

BONEMOSS_TEST(TestStrands)
#include "tst_strands.moc"
