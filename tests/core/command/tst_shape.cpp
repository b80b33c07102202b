// Several forms at once, curves, deforming, joints and ready parts.
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

class TestShape : public QObject
{
    Q_OBJECT
    QTemporaryDir m_folder;
    std::string path(const char *name) const { return m_folder.filePath(QLatin1String(name)).toStdString(); }

private slots:
    // --- curves ---
    void softDragFollowsACosine()
    {
        std::vector<PathPoint> path;
        for (int i = 0; i <= 10; ++i)
            path.push_back({{0, 0, float(i)}, 1});
        const auto moved = softMoved(path, 5, {2, 0, 0}, 4);
        for (int i = 0; i <= 10; ++i) { // the raised cosine by hand: 1, 0.854, 0.5, 0.146, 0
            const float away = std::abs(float(i) - 5);
            const float share = away < 4 ? 0.5f + 0.5f * std::cos(kPi * away / 4) : 0;
            QVERIFY(std::abs(moved[std::size_t(i)].at.x - 2 * share) < 1e-5f);
            QCOMPARE(moved[std::size_t(i)].at.z, path[std::size_t(i)].at.z);
        }
        const auto alone = softMoved(path, 0, {0, 3, 0}, 0);
        QVERIFY(alone[0].at.y == 3 && alone[1].at.y == 0);
    }
    void arcLiesOnTheCircle()
    {
        // Thales: an angle in a half circle is right, so (-3, 0), (0, 3), (3, 0) lie on a circle of 3 about the origin.
        std::vector<PathPoint> path{{{-3, 0, 0}, 1}, {{-2, 1, 0}, 1}, {{0, 3, 0}, 1}, {{1, 1, 0}, 1}, {{3, 0, 0}, 1}};
        path[1].at = {-1.5f, 1.5f, 0}, path[3].at = {1.5f, 1.5f, 0};
        const auto arc = laidOnArc(path, 0, 4);
        for (const PathPoint &p : arc)
            QVERIFY(std::abs(length(p.at) - 3) < 1e-4f && std::abs(p.at.z) < 1e-5f);
        for (std::size_t i = 1; i < 5; ++i) // evenly spread: chords of a half circle in four
            QVERIFY(std::abs(length(arc[i].at - arc[i - 1].at) - 6 * std::sin(kPi / 8)) < 1e-3f);
        std::vector<PathPoint> line{{{0, 0, 0}, 1}, {{1, 0, 0}, 1}, {{5, 0, 0}, 1}};
        QVERIFY(near(laidOnArc(line, 0, 2)[1].at, {1, 0, 0})); // no circle goes through points on a line
    }
    void straightenKeepsShares()
    {
        const std::vector<PathPoint> path{{{0, 0, 0}, 1}, {{0, 3, 4}, 1}, {{0, 3, 9}, 1}, {{0, 9, 9}, 2}};
        const auto s = straightened(path, 0, 3); // lengths 5, 5 and 6 of 16
        QVERIFY(near(s[1].at, Vec3f{0, 9, 9} * (5.0f / 16)) && near(s[2].at, Vec3f{0, 9, 9} * (10.0f / 16)));
        QCOMPARE(s[3], path[3]);
        const auto part = straightened(path, 1, 3);
        QCOMPARE(part[0], path[0]);
    }
    void roundTakesCornersOut()
    {
        std::vector<PathPoint> path{{{0, 0, 0}, 2}, {{0, 6, 0}, 2}, {{0, 0, 3}, 6}, {{0, 6, 6}, 2}, {{0, 0, 9}, 2}};
        const auto bend = [](const std::vector<PathPoint> &p) {
            float sum = 0;
            for (std::size_t i = 1; i + 1 < p.size(); ++i)
                sum +=
                    std::acos(std::clamp(dot(normalized(p[i].at - p[i - 1].at), normalized(p[i + 1].at - p[i].at)), -1.0f, 1.0f));
            return sum;
        };
        const auto soft = rounded(path, 0, 4);
        QVERIFY(bend(soft) < 0.5f * bend(path));
        QVERIFY(soft.front() == path.front() && soft.back() == path.back());
        QVERIFY(soft[2].radius < 6 && soft[2].radius > 2);
    }
    void insertLiesOnTheCurve()
    {
        const std::vector<PathPoint> path{{{0, 0, 0}, 3}, {{0, 4, 5}, 2}, {{0, 1, 9}, 1}};
        const auto more = inserted(path, 0);
        QCOMPARE(more.size(), std::size_t(4));
        float nearest = 1e9f; // against the curve itself, sampled finely
        for (const PathPoint &p : smoothPath(path, 200))
            nearest = std::min(nearest, length(p.at - more[1].at));
        QVERIFY(nearest < 0.02f);
        QCOMPARE(armature::inserted({{{0, 0, 0}, 3}, {{0, 0, 4}, 1}}, 0)[1].at, (Vec3f{0, 0, 2}));
        QCOMPARE(inserted(path, 2).back().at, (Vec3f{0, -2, 13})); // beyond the end by the last span
    }
    void curveCommands()
    {
        const Creature c = made({{{"do", "form.add"},
                                  {"kind", "tube"},
                                  {"name", "tail"},
                                  {"at", {5, 0, 0}},
                                  {"scale", {2, 2, 2}},
                                  {"path", {{5, 0, 0, 2}, {5, 0, 4, 2}, {5, 0, 8, 1}}}}});
        const Creature moved =
            made({{{"do", "form.curve"}, {"form", "tail"}, {"edit", "move"}, {"point", 1}, {"by", {0, 3, 0}}}}, c);
        QVERIFY(near(points(moved, "tail")[1], {5, 3, 4}) && near(points(moved, "tail")[2], {5, 0, 8})); // mm of the creature
        QCOMPARE(
            made({{{"do", "form.curve"}, {"form", "tail"}, {"edit", "remove"}, {"point", 1}}}, c).armature.forms[0].path.size(),
            std::size_t(2));
        QVERIFY(!run(c, {{"do", "form.curve"}, {"form", "tail"}, {"edit", "move"}, {"point", 3}, {"by", {0, 1, 0}}}));
        QVERIFY(!run(c, {{"do", "form.curve"}, {"form", "tail"}, {"edit", "move"}, {"point", 1}}));
        QVERIFY(!run(chain(), {{"do", "form.curve"}, {"form", "upper"}, {"edit", "insert"}, {"point", 0}}));
        QVERIFY(!run(chain(), {{"do", "form.curve"}, {"form", "head"}, {"edit", "round"}}));
        const Creature two = made({{{"do", "form.curve"}, {"form", "tail"}, {"edit", "remove"}, {"point", 0}}}, c);
        QVERIFY(!run(two, {{"do", "form.curve"}, {"form", "tail"}, {"edit", "remove"}, {"point", 0}}));
    }

    // --- change of space ---
    void bendKeepsLengthsOnItsAxis()
    {
        SpaceMap bend{SpaceMapKind::Bend, {0, 0, 0}, {0, 10, 0}, {1, 0, 0}, kPi / 2};
        // A quarter circle of length 10 has a radius of 20 / pi; its end lies at (r, r) and points along +x.
        const float r = 20 / kPi;
        QVERIFY(near(bend.at({0, 10, 0}).at, {r, r, 0}, 1e-4f));
        QVERIFY(near(bend.at({0, 14, 0}).at, {r + 4, r, 0}, 1e-4f)); // goes straight on
        QVERIFY(near(bend.at({0, -5, 0}).at, {0, -5, 0}, 1e-4f));    // nothing happens before
        QVERIFY(near(rotate(bend.at({0, 10, 0}).rotation, {0, 1, 0}), {1, 0, 0}, 1e-4f));
        float whole = 0;
        for (int i = 0; i < 400; ++i)
            whole += length(bend.at({0, float(i + 1) / 40, 0}).at - bend.at({0, float(i) / 40, 0}).at);
        QVERIFY(std::abs(whole - 10) < 1e-2f);
        QVERIFY(near(bend.at({2, 5, 1}).at - bend.at({0, 5, 0}).at, rotate(bend.at({0, 5, 0}).rotation, {2, 0, 1}), 1e-4f));
    }
    void twistTurnsEvenly()
    {
        const SpaceMap twist{SpaceMapKind::Twist, {0, 0, 0}, {0, 0, 8}, {}, kPi};
        QVERIFY(near(twist.at({3, 0, 4}).at, {0, 3, 4}, 1e-4f)); // half of a half turn about +z takes x to y
        QVERIFY(near(twist.at({3, 0, 12}).at, {-3, 0, 12}, 1e-4f));
    }
    void stretchKeepsVolume()
    {
        // Barr 1984: the share of volume is the determinant of the derivative; here by differences in the middle.
        const SpaceMap stretch{SpaceMapKind::Stretch, {0, 0, 0}, {0, 20, 0}, {}, 1.7f};
        const Vec3f p{2, 10, 1};
        const float d = 0.02f;
        const auto slope = [&](Vec3f by) { return (stretch.at(p + by).at - stretch.at(p - by).at) * (1 / (2 * d)); };
        QVERIFY(std::abs(dot(slope({d, 0, 0}), cross(slope({0, d, 0}), slope({0, 0, d}))) - 1) < 2e-3f);
        QVERIFY(near(stretch.at({0, 20, 0}).at, {0, 34, 0}, 1e-4f));
        QVERIFY(near(stretch.at({1, 0, 0}).at, {1, 0, 0}, 1e-4f));
    }
    void taperScalesAcross()
    {
        const SpaceMap taper{SpaceMapKind::Taper, {0, 0, 0}, {0, 0, 10}, {}, 0.5f};
        QVERIFY(near(taper.at({4, 0, 5}).at, {3, 0, 5}, 1e-5f) && near(taper.at({4, 0, 15}).at, {2, 0, 15}, 1e-5f));
        QCOMPARE(taper.at({4, 0, 5}).across, 0.75f);
    }
    void branchBends()
    {
        const Creature c = chain();
        const Creature bent = made({{{"do", "forms.deform"},
                                     {"forms", {"upper"}},
                                     {"kind", "bend"},
                                     {"from", {0, 30, 0}},
                                     {"to", {0, 10, 0}},
                                     {"side", {0, 0, 1}},
                                     {"amount", 90}}},
                                   c);
        const float r = 40 / kPi; // a quarter circle of length 20, from straight down to straight ahead
        QVERIFY(near(joint(bent, "upper"), {0, 30, 0}));
        QVERIFY(near(points(bent, "lower").back(), {0, 30 - r, r}, 1e-2f));
        QVERIFY(near(joint(bent, "foot"), {0, 30 - r + 2, r}, 1e-2f)); // was 2 ahead of the end, is 2 above it
        QCOMPARE(joint(bent, "head"), joint(c, "head"));
        const Creature alone = made({{{"do", "forms.deform"},
                                      {"forms", {"upper"}},
                                      {"kind", "bend"},
                                      {"from", {0, 30, 0}},
                                      {"to", {0, 10, 0}},
                                      {"side", {0, 0, 1}},
                                      {"amount", 90},
                                      {"branch", false}}},
                                    c);
        QVERIFY(near(joint(alone, "foot"), joint(c, "foot"), 1e-2f));
    }
    void solidsBecomeTubesToBend()
    {
        const Creature c =
            made({{{"do", "form.add"}, {"kind", "ellipsoid"}, {"name", "barrel"}, {"at", {0, 20, 0}}, {"radii", {6, 8, 20}}}});
        command::CommandContext told;
        const auto bent = command::apply(c,
                                         {{"do", "forms.deform"},
                                          {"forms", {"barrel"}},
                                          {"kind", "twist"},
                                          {"from", {0, 20, -20}},
                                          {"to", {0, 20, 20}},
                                          {"amount", 0.001}},
                                         told);
        QVERIFY(bent && form(*bent, "barrel").kind == armature::FormKind::Tube);
        QVERIFY(told.notes.size() == 1 && told.notes[0].text.find("barrel") != std::string::npos);
        // Hardly twisted it is nearly what it was: volume and size of the knitted skins within a tenth.
        const auto knitted = [](const Creature &x) {
            return mesh::measure(toPolyMesh(made({{{"do", "knit.forms"}, {"spacing", 0.6}}}, x).pieces[0]->skin.shown));
        };
        const mesh::Measures was = knitted(c), is = knitted(*bent);
        QVERIFY2(std::abs(is.volumeMm3 / was.volumeMm3 - 1) < 0.1, qPrintable(QString::number(is.volumeMm3 / was.volumeMm3)));
        const Vec3f a = was.bounds.size(), b = is.bounds.size();
        QVERIFY2(std::abs(b.x / a.x - 1) < 0.1f && std::abs(b.y / a.y - 1) < 0.1f && std::abs(b.z / a.z - 1) < 0.1f,
                 qPrintable(QStringLiteral("%1 %2 %3").arg(double(b.x / a.x)).arg(double(b.y / a.y)).arg(double(b.z / a.z))));
    }
    void badMaps()
    {
        const Creature c = chain();
        const json bend = {{"do", "forms.deform"}, {"forms", {"upper"}}, {"kind", "bend"}, {"from", {0, 0, 0}},
                           {"to", {0, 9, 0}},      {"side", {1, 0, 0}},  {"amount", 30}};
        for (const auto &[key, value] : std::initializer_list<std::pair<const char *, json>>{
                 {"to", {0, 0, 0}}, {"side", {0, 5, 0}}, {"forms", json::array()}, {"forms", {"nobody"}}, {"amount", 1e9}}) {
            json bad = bend;
            bad[key] = value;
            QVERIFY2(!run(c, bad), key);
        }
        json squash = bend;
        squash["kind"] = "stretch", squash["amount"] = 0;
        QVERIFY(!run(c, squash));
        const Creature locked = made({{{"do", "forms.set"}, {"forms", {"foot"}}, {"locked", true}}}, c);
        QVERIFY(!run(locked, bend)); // one of its branch is locked
    }
    void pieceDeformsWithItsLayers()
    {
        Creature c =
            made({{{"do", "form.add"}, {"kind", "limb"}, {"path", {{0, 0, 0, 4}, {0, 20, 0, 4}}}},
                  {{"do", "knit.forms"}, {"spacing", 0.8}},
                  {{"do", "layer.add"}, {"name", "lump"}},
                  {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"layer", "lump"}, {"size", 3}, {"samples", {{4, 20, 0}}}}});
        const auto shown = [](const Creature &x) { return mesh::measure(toPolyMesh(x.pieces[0]->skin.shown)); };
        const Creature bent = made({{{"do", "piece.deform"},
                                     {"kind", "bend"},
                                     {"from", {0, 0, 0}},
                                     {"to", {0, 20, 0}},
                                     {"side", {1, 0, 0}},
                                     {"amount", 60}}},
                                   c);
        QVERIFY(shown(bent).closed);
        // Bending moves the sections' middles along the axis it keeps: volume stays (Pappus, for a section whose
        // centroid lies on the axis).
        QVERIFY(std::abs(shown(bent).volumeMm3 / shown(c).volumeMm3 - 1) < 0.01);
        // The lump turns along: with the layer off the skin is the bent body alone.
        const Creature off = made({{{"do", "layer.set"}, {"layer", "lump"}, {"on", false}}}, bent);
        const auto lump = [](const Creature &with, const Creature &without) {
            const auto a = with.pieces[0]->skin.shown.positions.flatten(), b = without.pieces[0]->skin.shown.positions.flatten();
            Vec3f most;
            for (std::size_t i = 0; i < a.size(); ++i)
                if (length(a[i] - b[i]) > length(most))
                    most = a[i] - b[i];
            return most;
        };
        const Creature plain = made({{{"do", "layer.set"}, {"layer", "lump"}, {"on", false}}}, c);
        const Vec3f before = lump(c, plain), after = lump(bent, off);
        QVERIFY(std::abs(length(after) - length(before)) < 0.02f * length(before));
        const float turned = std::acos(dot(normalized(before), normalized(after))) * 180 / kPi;
        QVERIFY2(std::abs(turned - 60) < 4, qPrintable(QString::number(double(turned))));
        // Where a mask keeps all of it there is nothing to do, and that is said.
        command::CommandContext context;
        const json twist{{"do", "piece.deform"}, {"kind", "twist"}, {"from", {0, 0, 0}}, {"to", {0, 20, 0}}, {"amount", 90}};
        const auto masked = command::apply(made({{{"do", "mask.invert"}}}, c), twist, context);
        QVERIFY(!masked && masked.error().text().find("masked") != std::string::npos);
    }

    // --- several ---
    void severalMoveAsOne()
    {
        const Creature c = chain();
        const Creature moved = made({{{"do", "forms.move"}, {"forms", {"upper", "lower", "head"}}, {"move", {1, 2, 3}}}}, c);
        for (const char *name : {"upper", "lower", "foot", "head"}) // what hangs from a moved one moves once
            QVERIFY(near(joint(moved, name), joint(c, name) + Vec3f{1, 2, 3}));
        const Creature turned = made(
            {{{"do", "forms.move"}, {"forms", {"upper", "head"}}, {"turn", {0, 180, 0}}, {"scale", 2}, {"about", {0, 30, 0}}}},
            c);
        QVERIFY(near(joint(turned, "head"), {0, 50, -20})); // (0, 10, 10) from there, doubled and turned
        QVERIFY(near(points(turned, "lower").back(), {0, -10, 0}));
    }
    void groupsCarryAndBreakUp()
    {
        const Creature c = chain();
        Creature g = made({{{"do", "form.group"}, {"forms", {"lower", "head"}}, {"name", "bundle"}}}, c);
        for (const char *name : {"upper", "lower", "foot", "head"})
            QVERIFY(near(joint(g, name), joint(c, name)));
        QVERIFY(form(g, "bundle").parent == form(g, "upper").id && form(g, "head").parent == form(g, "bundle").id);
        const Vec3f middle = (joint(c, "lower") + joint(c, "head")) * 0.5f;
        QVERIFY(near(joint(g, "bundle"), middle));
        const Creature moved = made({{{"do", "form.set"}, {"form", "bundle"}, {"at", {middle.x + 5, middle.y, middle.z}}}}, g);
        QVERIFY(near(joint(moved, "foot"), joint(c, "foot") + Vec3f{5, 0, 0}));
        // A group has no shape: the field is the same with and without it.
        const auto a = armature::makeDistance(c.armature), b = armature::makeDistance(g.armature);
        const std::vector<Vec3f> probes{{0, 15, 3}, {4, 38, 9}, {1, 22, -5}};
        std::vector<float> da(3), db(3);
        a->sample(a->bounds(), probes, da);
        b->sample(b->bounds(), probes, db);
        for (int i = 0; i < 3; ++i)
            QVERIFY(std::abs(da[std::size_t(i)] - db[std::size_t(i)]) < 1e-4f);
        g = made({{{"do", "form.ungroup"}, {"form", "bundle"}}}, moved);
        QVERIFY(g.armature.forms.size() == 4 && near(joint(g, "foot"), joint(moved, "foot")));
        QVERIFY(!run(g, {{"do", "form.ungroup"}, {"form", "head"}}));
        QVERIFY(store::saveAs(path("g.bonemoss"), moved));
        QVERIFY(store::loadStore(path("g.bonemoss"))->creature.armature == moved.armature);
    }
    void severalAreSetAndRemoved()
    {
        const Creature c = chain();
        const Creature set =
            made({{{"do", "forms.set"}, {"forms", {"foot", "head"}}, {"melt", 7}, {"colour", "#204060"}, {"mirror", true}}}, c);
        for (const char *name : {"foot", "head"})
            QVERIFY(form(set, name).melt == 7 && form(set, name).colour == 0x204060 && form(set, name).isMirrored);
        QVERIFY(!form(set, "upper").isMirrored);
        const Creature nested = made({{{"do", "forms.set"}, {"forms", {"head"}}, {"parent", "lower"}}}, c);
        QVERIFY(form(nested, "head").parent == form(nested, "lower").id && near(joint(nested, "head"), joint(c, "head")));
        QVERIFY(!run(c, {{"do", "forms.set"}, {"forms", {"upper"}}, {"parent", "foot"}})); // under its own child
        QCOMPARE(made({{{"do", "forms.remove"}, {"forms", {"lower", "foot", "head"}}}}, c).armature.forms.size(), std::size_t(1));
        const Creature locked = made({{{"do", "forms.set"}, {"forms", {"foot"}}, {"locked", true}}}, c);
        QVERIFY(!run(locked, {{"do", "forms.remove"}, {"forms", {"lower"}}}));
        QVERIFY(!run(locked, {{"do", "forms.move"}, {"forms", {"foot"}}, {"move", {1, 0, 0}}}));
    }
    void jointsKeepTheirLimits()
    {
        Creature c = chain();
        c = made({{{"do", "form.set"}, {"form", "lower"}, {"turn", {30, 0, 0}}},
                  {{"do", "form.joint"}, {"form", "lower"}, {"here", true}, {"low", {-10, 0, 0}}, {"high", {120, 0, 0}}}},
                 c);
        QVERIFY(near(form(c, "lower").joint.rest, {30, 0, 0}, 0.01f));
        QVERIFY(!run(c, {{"do", "form.joint"}, {"form", "lower"}, {"low", {5, 0, 0}}}));
        QVERIFY(!run(c, {{"do", "form.joint"}, {"form", "lower"}, {"high", {181, 0, 0}}}));
        QVERIFY(store::saveAs(path("j.bonemoss"), c));
        QVERIFY(form(store::loadStore(path("j.bonemoss"))->creature, "lower").joint == form(c, "lower").joint);
    }

    // --- girth ---
    void girthOfATorus()
    {
        // A plane across the tube of a torus cuts two circles of 2 pi r; one along the ring two of 2 pi (R +- r).
        const mesh::Surface s = mesh::makeSurface(test::torus(10, 3, 400, 200));
        const auto across = mesh::sections(s, {0, 0, 0}, {1, 0, 0});
        QCOMPARE(across.size(), std::size_t(2));
        for (const mesh::Section &line : across) {
            QVERIFY(line.isClosed);
            QVERIFY(std::abs(line.length - 6 * kPi) < 0.01f * 6 * kPi);
            QVERIFY(std::abs(line.area - 9 * kPi) < 0.01f * 9 * kPi);
        }
        const auto along = mesh::sections(s, {0, 0, 0}, {0, 1, 0});
        QCOMPARE(along.size(), std::size_t(2));
        const auto [low, high] = std::minmax(along[0].length, along[1].length);
        QVERIFY(std::abs(low - 14 * kPi) < 0.1f && std::abs(high - 26 * kPi) < 0.2f);
        QVERIFY(std::abs(mesh::nearestSection(along, {7, 0, 0})->length - low) < 1e-4f);
        QVERIFY(mesh::sections(s, {0, 4, 0}, {0, 1, 0}).empty());
    }
    void girthOfAnOpenSheet()
    {
        mesh::PolyMesh sheet;
        for (int z = 0; z <= 10; ++z)
            for (int x = 0; x <= 10; ++x)
                sheet.positions.push_back({float(x), 0, float(z)});
        for (std::uint32_t z = 0; z < 10; ++z)
            for (std::uint32_t x = 0; x < 10; ++x)
                sheet.faces.push_back({{z * 11 + x, (z + 1) * 11 + x, (z + 1) * 11 + x + 1, z * 11 + x + 1}});
        const auto lines = mesh::sections(mesh::makeSurface(sheet), {3.5f, 0, 5}, {1, 0, 0});
        QVERIFY(lines.size() == 1 && !lines[0].isClosed && std::abs(lines[0].length - 10) < 1e-4f && lines[0].area == 0);
        // Through a row of vertices it is one line still.
        const auto on = mesh::sections(mesh::makeSurface(sheet), {4, 0, 5}, {1, 0, 0});
        QVERIFY(on.size() == 1 && std::abs(on[0].length - 10) < 1e-3f);
    }
};

BONEMOSS_TEST(TestShape)
#include "tst_shape.moc"
