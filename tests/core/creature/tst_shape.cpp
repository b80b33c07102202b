// Several forms at once, curves, deforming, joints and ready parts.
#include "armature/curve_edit.h"
#include "base/space_map.h"
#include "creature/command.h"
#include "creature/part.h"
#include "creature/store.h"
#include "mesh/cage_edit.h"
#include "mesh/measures.h"
#include "mesh/section.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

#include <numbers>

using namespace bonemoss;
using armature::Form, armature::PathPoint;
using creature::Creature;
using nlohmann::json;

namespace {

constexpr float kPi = std::numbers::pi_v<float>;

Result<Creature> run(const Creature &c, const json &command)
{
    creature::CommandContext context;
    return creature::apply(c, command, context);
}

Creature made(std::initializer_list<json> commands, Creature c = {})
{
    for (const json &command : commands) {
        auto next = run(c, command);
        if (!next)
            qFatal("%s: %s", command.dump().c_str(), next.error().text().c_str());
        c = std::move(*next);
    }
    return c;
}

const Form &form(const Creature &c, const char *name)
{
    for (const Form &f : c.armature.forms)
        if (f.name == name)
            return f;
    qFatal("no form %s", name);
}

Vec3f joint(const Creature &c, const char *name)
{
    return c.armature.worldPlace(form(c, name)).move;
}

/// Points of a form's path in creature space.
std::vector<Vec3f> points(const Creature &c, const char *name)
{
    const Form &f = form(c, name);
    std::vector<Vec3f> out;
    for (const PathPoint &p : f.path)
        out.push_back(c.armature.worldPlace(f).apply(p.at));
    return out;
}

bool near(Vec3f a, Vec3f b, float within = 1e-3f)
{
    return length(a - b) < within;
}

Creature chain()
{
    return made(
        {{{"do", "form.add"}, {"kind", "limb"}, {"name", "upper"}, {"path", {{0, 30, 0, 4}, {0, 20, 0, 3}}}},
         {{"do", "form.add"}, {"kind", "limb"}, {"name", "lower"}, {"parent", "upper"}, {"path", {{0, 20, 0, 3}, {0, 10, 0, 2}}}},
         {{"do", "form.add"}, {"kind", "ball"}, {"name", "foot"}, {"parent", "lower"}, {"at", {0, 10, 2}}, {"radius", 2}},
         {{"do", "form.add"}, {"kind", "ball"}, {"name", "head"}, {"at", {0, 40, 10}}, {"radius", 5}}});
}

} // namespace

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
        QVERIFY(near(rotate(bend.at({0, 10, 0}).turn, {0, 1, 0}), {1, 0, 0}, 1e-4f));
        float whole = 0;
        for (int i = 0; i < 400; ++i)
            whole += length(bend.at({0, float(i + 1) / 40, 0}).at - bend.at({0, float(i) / 40, 0}).at);
        QVERIFY(std::abs(whole - 10) < 1e-2f);
        QVERIFY(near(bend.at({2, 5, 1}).at - bend.at({0, 5, 0}).at, rotate(bend.at({0, 5, 0}).turn, {2, 0, 1}), 1e-4f));
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
        creature::CommandContext told;
        const auto bent = creature::apply(c,
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
        creature::CommandContext context;
        const json twist{{"do", "piece.deform"}, {"kind", "twist"}, {"from", {0, 0, 0}}, {"to", {0, 20, 0}}, {"amount", 90}};
        const auto masked = creature::apply(made({{{"do", "mask.invert"}}}, c), twist, context);
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
        QVERIFY(creature::saveAs(path("g.bonemoss"), moved));
        QVERIFY(creature::loadStore(path("g.bonemoss"))->creature.armature == moved.armature);
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
        QVERIFY(creature::saveAs(path("j.bonemoss"), c));
        QVERIFY(form(creature::loadStore(path("j.bonemoss"))->creature, "lower").joint == form(c, "lower").joint);
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

    // --- parts ---
    void shelfHoldsWhatItSays()
    {
        const auto &shelf = creature::shippedParts();
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
        QVERIFY(
            near(joint(turned, "toe 1") - Vec3f{0, 20, 0}, rotate(turnAbout({0, 1, 0}, kPi / 2), toe - Vec3f{0, 20, 0}), 1e-2f));
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
        const auto part = creature::partFrom(c, form(c, "lower").id);
        QVERIFY(part && part->armature.forms.size() == 2);
        QVERIFY(creature::writePart(path("shank.part.json"), *part));
        const Vec3f was = joint(c, "lower");
        const Creature again =
            made({{{"do", "part.insert"}, {"path", path("shank.part.json")}, {"at", {was.x + 50, was.y, was.z}}}}, c);
        const auto places = [](const Creature &x, const char *name) { return placesOf(x.armature, form(x, name)); };
        const auto before = places(c, "foot"), after = places(again, "foot 2");
        QCOMPARE(after.size(), std::size_t(4));
        for (std::size_t i = 0; i < 4; ++i)
            QVERIFY(near(after[i].move, before[i].move + Vec3f{50, 0, 0}, 1e-2f));
    }
    void copiesWithoutTheirGuideAreKept()
    {
        const Creature c =
            made({{{"do", "form.add"}, {"kind", "tube"}, {"name", "rail"}, {"path", {{0, 0, 0, 1}, {0, 0, 40, 1}}}},
                  {{"do", "form.add"}, {"kind", "ball"}, {"name", "knob"}, {"at", {3, 5, 0}}, {"radius", 2}},
                  {{"do", "form.repeat"}, {"form", "knob"}, {"mode", "along"}, {"guide", "rail"}, {"count", 5}}});
        const auto part = creature::partFrom(c, form(c, "knob").id); // the rail is not of its branch
        QVERIFY(part && part->armature.forms.size() == 5);
        const auto was = placesOf(c.armature, form(c, "knob"));
        for (std::size_t i = 0; i < 5; ++i)
            QVERIFY(near(part->armature.worldPlace(part->armature.forms[i]).move, was[i].move - was[0].move));
        QVERIFY(creature::writePart(path("knobs.part.json"), *part) && creature::readPart(path("knobs.part.json")));
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
        QVERIFY(!creature::readPart(path("bad.part.json")));
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
        QVERIFY(creature::saveAs(path("cage.bonemoss"), c));
        const auto loaded = creature::loadStore(path("cage.bonemoss"));
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
            f.place.move = {0, 1, 0};
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

QTEST_GUILESS_MAIN(TestShape)
#include "tst_shape.moc"
