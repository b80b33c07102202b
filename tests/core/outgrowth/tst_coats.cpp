// Masses and their cuts, maps over an area, drawn sections, eyes that look, gum lines and what stands between members. Oracles: volumes of
// prisms, binomial counts, lines and ellipses in closed form, what a file gives back.
#include "support/run.h"
#include "command/fields.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "document/ops/outgrowths.h"
#include "mesh/measures.h"
#include "outgrowth/sweep.h"
#include "store/store.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <numeric>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using outgrowth::Outgrowth;
using test::need;

namespace {

const mesh::Surface &ground() // squares of 2.5 mm
{
    static const mesh::Surface plane = mesh::makeSurface(test::plane(200, 80));
    return plane;
}

void set(Outgrowth &o, std::initializer_list<std::pair<std::string_view, float>> settings)
{
    for (const auto &[name, value] : settings) {
        std::size_t k = 0;
        while (k < o.values.size() && o.kind->settings[k].name != name)
            ++k;
        if (k == o.values.size())
            qFatal("no such setting");
        o.values[k] = value;
    }
}

Outgrowth ruleOf(const char *kind, std::initializer_list<std::pair<std::string_view, float>> settings = {})
{
    Outgrowth o = outgrowthOf(*outgrowth::kindNamed(kind));
    o.isMirrored = false;
    set(o, settings);
    return o;
}

using Bytes = mesh::BlockArray<std::uint8_t>;

template <typename Rule> Bytes bytesOn(const mesh::Surface &s, const Rule &rule)
{
    Bytes out(s.positions.size());
    for (std::size_t b = 0; b < out.blockCount(); ++b)
        for (std::size_t i = 0; i < out.countIn(b); ++i)
            out.edit(b)[i] = std::uint8_t(rule(s.positions.data(b)[i]));
    return out;
}

/// On the plane, over |x| < 20 and |z| < 12.
std::shared_ptr<const outgrowth::Made> madeOn(const Outgrowth &o, std::optional<outgrowth::Map> map = {}, int value = 128)
{
    const growth::Surroundings about;
    outgrowth::Input input{o, ground(), about, {}};
    if (o.kind->rooting == outgrowth::Rooting::Area)
        input.area = bytesOn(ground(), [](Vec3f p) { return std::abs(p.x) < 20.1f && std::abs(p.z) < 12.6f ? 255 : 0; });
    if (map)
        input.maps[std::size_t(*map)] = bytesOn(ground(), [&](Vec3f) { return value; });
    const auto made = outgrowth::make(input);
    if (!made)
        qFatal("%s", made.error().text().c_str());
    return *made;
}

std::vector<outgrowth::Root> across(float x)
{
    std::vector<outgrowth::Root> line;
    for (int k = -16; k <= 16; ++k)
        line.push_back({{x, 0, float(k)}, {0, 1, 0}});
    return line;
}

void cut(Outgrowth &o, float x)
{
    if (!o.roots.empty())
        o.starts.push_back(std::uint32_t(o.roots.size()));
    const auto line = across(x);
    o.roots.insert(o.roots.end(), line.begin(), line.end());
}

double volumeOf(const outgrowth::Made &made)
{
    double sum = 0;
    for (const auto &shape : made.shapes)
        sum += mesh::massOf(*shape).volumeMm3;
    return sum;
}

Vec3f axis(const io::Placement &p, int k)
{
    return normalized(Vec3f{p.m[3 * k], p.m[3 * k + 1], p.m[3 * k + 2]});
}
Vec3f origin(const io::Placement &p)
{
    return {p.m[9], p.m[10], p.m[11]};
}

/// A ball of 30 mm, masked about its left, with a jaw before it that is in the armature too.
Creature head()
{
    Creature c;
    for (const json &command :
         {json{{"do", "form.add"}, {"kind", "ball"}, {"radius", 30}, {"name", "skull"}},
          json{{"do", "form.add"}, {"kind", "ellipsoid"}, {"radii", {12, 5, 20}}, {"at", {0, -14, 26}}, {"name", "jaw"}},
          json{{"do", "knit.forms"}, {"spacing", 1}}}) {
        auto next = test::run(c, command);
        if (!next)
            qFatal("%s", next.error().text().c_str());
        c = *next;
    }
    return test::masked(c, [](Vec3f p) { return p.x > 16; });
}

} // namespace

class TestCoats : public QObject
{
    Q_OBJECT
private slots:
    // A flat mass is a prism: n cuts take n slots out of it and nothing else. The slot's sides may be drawn to points of the skin that lie
    // within a twelfth of an edge, which these do not.
    void cutsTakeTheirWidthAlone()
    {
        Outgrowth o = ruleOf("mass", {{"thickness", 4}, {"sink", 1}, {"soft", 0}, {"lumps", 0}, {"cut", 2}, {"flare", 0}});
        const double whole = volumeOf(*madeOn(o));
        const auto uncut = madeOn(o);
        QCOMPARE(uncut->members.size(), std::size_t(1));
        const Vec3f size = mesh::boundsOf(uncut->shapes[0]->positions).size();
        QVERIFY(std::abs(whole - double(size.x * size.z * size.y)) < 0.08 * whole); // the prism itself, with rounded corners
        QVERIFY(std::abs(size.y - 5) < 1e-3f);
        int cuts = 0;
        for (const float x : {1.25f, -8.75f, 11.25f}) {
            cut(o, x), ++cuts;
            const auto made = madeOn(o);
            QCOMPARE(made->members.size(), std::size_t(cuts + 1));
            for (const auto &shape : made->shapes)
                QVERIFY(mesh::measure(*shape).closed);
            const double taken = cuts * 2.0 * double(size.z) * 5;
            QVERIFY2(std::abs(whole - volumeOf(*made) - taken) < 0.02 * taken,
                     qPrintable(QStringLiteral("%1 of %2").arg(whole - volumeOf(*made)).arg(taken)));
        }
    }
    void aFurtherCutLeavesTheOthersTheirNumbers()
    {
        Outgrowth o = ruleOf("mass", {{"cut", 2}});
        cut(o, 1.25f);
        const auto two = madeOn(o);
        cut(o, -8.75f);
        const auto three = madeOn(o);
        QCOMPARE(three->members.size(), std::size_t(3));
        std::vector<std::uint32_t> numbers;
        for (const auto &m : three->members)
            numbers.push_back(m.number);
        QCOMPARE(numbers, (std::vector<std::uint32_t>{0, 1, 2}));
        QVERIFY(two->shapes[1]->positions == three->shapes[1]->positions); // the part that was not cut
        QVERIFY(two->members[1].place == three->members[1].place);
    }
    void cutsAreMadeTakenBackAndRefusedInWords()
    {
        Creature c = need(head(), {{"do", "outgrow.mass"}, {"mask", "hand"}, {"name", "Coat"}});
        const json line{{25, 0, -20}, {30, 0, 0}, {25, 0, 20}};
        c = need(c, {{"do", "outgrowth.cut"}, {"outgrowth", "Coat"}, {"points", line}});
        QCOMPARE(c.outgrowths[0]->made->members.size(), std::size_t(2));
        c = need(c, {{"do", "outgrowth.correct"}, {"outgrowth", "Coat"}, {"member", 1}, {"pull", {0, 2, 6}}, {"thin", 0.8}});
        const auto moved = c.outgrowths[0]->made->shapes[1]->positions;
        // It stays through a stroke beside it, and through another cut of the other part.
        c = need(c, {{"do", "outgrowth.cut"}, {"outgrowth", "Coat"}, {"points", {{24, 18, -2}, {28, 10, 0}, {29.5, 2, 1}}}});
        QCOMPARE(c.outgrowths[0]->made->members.size(), std::size_t(3));
        QCOMPARE(c.outgrowths[0]->corrections.size(), std::size_t(1));
        c = need(c, {{"do", "outgrowth.cut"}, {"outgrowth", "Coat"}, {"remove", 1}});
        QVERIFY(c.outgrowths[0]->made->shapes[1]->positions == moved);
        const auto refused = [&](const json &command, const char *words) {
            const auto after = test::run(c, command);
            QVERIFY(!after);
            QVERIFY2(after.error().text().find(words) != std::string::npos, after.error().text().c_str());
        };
        refused({{"do", "outgrowth.cut"}, {"outgrowth", "Coat"}, {"points", {{-25, 0, -10}, {-25, 0, 10}}}},
                "does not run through");
        refused({{"do", "outgrowth.cut"}, {"outgrowth", "Coat"}, {"remove", 5}}, "counted from 0");
        refused({{"do", "outgrowth.cut"}, {"outgrowth", "Coat"}}, "say where");
        refused({{"do", "outgrowth.brush"}, {"outgrowth", "Coat"}, {"what", "length"}, {"points", {{30, 0, 0}}}}, "no length");
        c = need(c, {{"do", "outgrow.horn"}, {"at", {0, 30, 0}}});
        refused({{"do", "outgrowth.cut"}, {"outgrowth", "Horn"}, {"points", line}}, "no mass");
    }
    // Half of a map at half: of n places about n/2 stay (binomial: four standard deviations).
    void aDensityMapThinsByItsShare()
    {
        const Outgrowth o = ruleOf("quills", {{"spacing", 1.2f}, {"border", 0}});
        const double all = double(madeOn(o)->members.size()),
                     half = double(madeOn(o, outgrowth::Map::Density, 64)->members.size());
        QVERIFY(all > 300);
        QVERIFY2(std::abs(half - 0.502 * all) < 4 * std::sqrt(0.25 * all),
                 qPrintable(QStringLiteral("%1 of %2").arg(half).arg(all)));
        // More than half brings back, at the border, what half a mask of the area left out.
        QVERIFY(double(madeOn(o, outgrowth::Map::Density, 255)->members.size()) >= all);
    }
    void aLengthMapScalesMembers()
    {
        for (const char *kind : {"quills", "locks"}) {
            const Outgrowth o = ruleOf(kind);
            const auto lengthOf = [](const outgrowth::Made &made) { // of all together, as they stand
                double sum = 0;
                for (const auto &m : made.members) {
                    const Vec3f size = mesh::boundsOf(made.shapes[m.shape]->positions).size();
                    sum += double(std::max(size.y, size.z) * length(Vec3f{m.place.m[0], m.place.m[1], m.place.m[2]}));
                }
                return sum;
            };
            const double as = lengthOf(*madeOn(o)), set = lengthOf(*madeOn(o, outgrowth::Map::Length, 128)),
                         less = lengthOf(*madeOn(o, outgrowth::Map::Length, 64));
            QVERIFY(std::abs(set / as - 1) < 0.02);
            QVERIFY2(std::abs(less / as - 0.5) < 0.1, qPrintable(QStringLiteral("%1: %2").arg(kind).arg(less / as)));
            QVERIFY(std::abs(lengthOf(*madeOn(o, outgrowth::Map::Length, 0)) / as - 1) < 1e-6); // 0: never touched
        }
    }
    void aLiftMapTurnsQuillsUp() // by 70 degrees from half to whole
    {
        const Outgrowth o = ruleOf("quills", {{"lift", 10}, {"variation", 0}});
        const auto angle = [](const outgrowth::Made &made) {
            double sum = 0;
            for (const auto &m : made.members)
                sum += std::asin(double(axis(m.place, 1).y));
            return sum / double(made.members.size()) / double(kRadiansPerDegree);
        };
        QVERIFY(std::abs(angle(*madeOn(o)) - 10) < 0.5);
        QVERIFY(std::abs(angle(*madeOn(o, outgrowth::Map::Lift, 192)) - (10 + 70 * (2 * 192 / 255.0 - 1))) < 0.7);
    }
    void strokesPaintTheirMapOnBothSides()
    {
        Creature c = test::masked(head(), [](Vec3f p) { return p.y > 12; });
        c = need(c, {{"do", "outgrow.locks"}, {"mask", "hand"}, {"name", "Crest"}});
        c = need(c, {{"do", "outgrowth.brush"},
                     {"outgrowth", "Crest"},
                     {"what", "length"},
                     {"points", {{16, 25, 0}}},
                     {"radius", 10},
                     {"amount", -1}});
        const skin::KeptMask *map = c.pieces[0]->skin.keptMask("Crest length");
        QVERIFY(map);
        QVERIFY(c.outgrowths[0]->maps[0] == "Crest length");
        const mesh::Surface &skin = c.pieces[0]->skin.shown;
        for (std::uint32_t v = 0; v < skin.positions.size(); ++v) {
            const Vec3f p = skin.positions[v], to{16, 25, 0};
            const float near = std::min(length(p - to), length(p - Vec3f{-16, 25, 0})), d = near / 10;
            if (!map->values.has(v / mesh::kBlockSize))
                continue;
            const float share = d < 1 ? (1 - d * d) * (1 - d * d) : 0;
            QVERIFY2(std::abs(float(map->values[v]) - std::max(128 - 127 * share, 1.0f)) < 1.01f,
                     qPrintable(QStringLiteral("%1 at %2 mm").arg(map->values[v]).arg(near)));
        }
        QVERIFY(!test::run(
            c,
            {{"do", "outgrowth.brush"}, {"outgrowth", "Crest"}, {"what", "length"}, {"points", {{0, -30, 0}}}, {"radius", 5}}));
        // It is there again from a file, and in the recipe of the same outgrowth.
        QVERIFY(!test::run(c, {{"do", "outgrow.locks"}, {"outgrowth", "Crest"}, {"lengthMap", "nobody"}}));
        c = need(c, {{"do", "outgrow.locks"}, {"outgrowth", "Crest"}, {"lengthMap", ""}});
        QVERIFY(c.outgrowths[0]->maps[0].empty());
    }
    void aPartingLaysLocksToBothSides()
    {
        Creature c = test::masked(head(), [](Vec3f p) { return p.y > 10; });
        c = need(c, {{"do", "outgrow.locks"}, {"mask", "hand"}, {"name", "Crest"}, {"variation", 0}, {"push", 0}, {"clump", 0}});
        c = need(c, {{"do", "outgrowth.part"},
                     {"outgrowth", "Crest"},
                     {"points", {{0, 28, -12}, {0, 30, 0}, {0, 28, 12}}},
                     {"reach", 9}});
        std::size_t out = 0, all = 0; // those beside it point away from it
        for (const auto &m : c.outgrowths[0]->made->members)
            if (const Vec3f at = m.root; std::abs(at.x) > 1.5f && std::abs(at.x) < 8 && std::abs(at.z) < 10)
                ++all, out += axis(m.place, 2).x * at.x > 0;
        QVERIFY(all > 10);
        QVERIFY2(double(out) > 0.9 * double(all), qPrintable(QStringLiteral("%1 of %2").arg(out).arg(all)));
    }
    void aDrawnSectionIsTheHornsOwn()
    {
        Outgrowth o = ruleOf("horn", {{"section", 4}, {"flatness", 0}, {"rings", 0}, {"bulges", 0}, {"wear", 0}, {"twist", 0}});
        o.roots = {{}};
        o.path = {{0, 0, 0}, {0, 20, 0}, {0, 40, 0}};
        o.section = {1, 0.8f, 0.5f, 0.8f, 1, 0.8f, 0.5f, 0.8f};
        const auto made = madeOn(o);
        const mesh::PolyMesh &shape = *made->shapes[0];
        const std::vector<Vec3f> middle = outgrowth::middleLine(shape);
        const std::size_t around = shape.positions.size() / middle.size(), ring = middle.size() / 2;
        float most = 0;
        std::vector<float> radii;
        for (std::size_t j = 0; j < around; ++j) {
            radii.push_back(length(shape.positions[ring * around + j] - Vec3f{0, middle[ring].y, 0}));
            most = std::max(most, radii.back());
        }
        for (std::size_t k = 0; k < o.section.size(); ++k) // through the drawn radii at the drawn angles
            QVERIFY(std::abs(radii[k * around / o.section.size()] / most - o.section[k]) < 0.02f);
    }
    void bothEyesLookAtThePoint()
    {
        const json look{0, 10, 90};
        Creature c = need(head(), {{"do", "outgrow.eye"}, {"at", {10, 12, 25.5}}, {"radius", 4}, {"look", look}});
        const Outgrowth &o = *c.outgrowths[0];
        for (const auto &m : o.made->members) {
            if (const auto &name = o.made->materials[m.shape].name; name == "lid" || name == "wet rim") // they keep with the head
                continue;
            QVERIFY(dot(axis(m.place, 1), normalized(Vec3f{0, 10, 90} - origin(m.place))) > 0.99999f);
        }
        // One that lies behind is not reached: the ball turns by 55 degrees and no more.
        c = need(c, {{"do", "outgrow.eye"}, {"outgrowth", "Eye"}, {"look", {0, 10, -300}}});
        const auto &ball = c.outgrowths[0]->made->members[0];
        const float turn = std::acos(dot(axis(ball.place, 1), c.outgrowths[0]->roots[0].normal)) / kRadiansPerDegree;
        QVERIFY2(std::abs(turn - 55) < 0.5f, qPrintable(QString::number(turn)));
        c = need(c, {{"do", "outgrow.eye"}, {"outgrowth", "Eye"}, {"looks", false}});
        QVERIFY(!c.outgrowths[0]->look);
    }
    // The clear ball has the same middle as the eye, and is a sphere but where it bulges.
    void theClearBallIsConcentric()
    {
        Outgrowth o = ruleOf("eye", {{"bulge", 1}, {"radius", 5}});
        o.roots = {{}};
        const auto made = madeOn(o);
        std::size_t clear = 0;
        while (made->materials[clear].name != "clear")
            ++clear;
        const auto of = [&](std::size_t shape) {
            return std::find_if(made->members.begin(), made->members.end(), [&](const auto &m) { return m.shape == shape; })
                ->place;
        };
        QVERIFY(origin(of(clear)) == origin(of(0)));
        for (const Vec3f p : made->shapes[clear]->positions)
            if (p.y < 0) // behind
                QVERIFY(std::abs(length(p) - 5 * 1.07f) < 1e-3f);
            else
                QVERIFY(length(p) > 5 * 1.07f - 1e-3f);
    }
    void aStackStandsApart()
    {
        Outgrowth o = ruleOf("eye", {{"stack", 4}, {"apart", 1.5f}, {"radius", 3}, {"lids", 0}});
        o.roots = {{}};
        o.profile = {1, 0.5f};
        const auto made = madeOn(o);
        std::vector<Vec3f> at;
        for (const auto &m : made->members)
            if (m.shape == 0)
                at.push_back(m.root);
        QCOMPARE(at.size(), std::size_t(4));
        for (std::size_t k = 0; k + 1 < 4; ++k) { // radii times 1.5 between two of them, sizes falling evenly
            const float sizes = (1 - 0.5f * float(k) / 3) + (1 - 0.5f * float(k + 1) / 3);
            QVERIFY(std::abs(length(at[k + 1] - at[k]) - 3 * 1.5f * sizes) < 1e-3f);
        }
    }
    // The edge of an ellipsoid from above is an ellipse; the gum lies a little inside it, on the skin, from the front back on the left.
    void theGumLineIsTheEdgeOfTheJaw()
    {
        const Creature c = head();
        const auto line = document::gumLine(c, *c.pieces[0], c.armature.forms[1].id, false);
        QVERIFY(bool(line));
        QVERIFY(line->size() > 8);
        for (const auto &r : *line) {
            const float q = std::hypot(r.at.x / 12, (r.at.z - 26) / 20);
            QVERIFY2(q > 0.6f && q < 1.1f, qPrintable(QString::number(q)));
            QVERIFY(r.at.x > -0.5f && r.normal.y > 0.6f);
            const auto hit = mesh::nearestPoint(c.pieces[0]->skin.shown, r.at);
            QVERIFY(hit && length(hit->point - r.at) < 1e-3f);
        }
        QVERIFY(line->front().at.z > 40 && line->front().at.x < 4); // begins in front
        const Creature teeth = need(c, {{"do", "outgrow.fangs"}, {"jaw", "jaw"}});
        std::size_t twins = 0;
        for (const auto &m : teeth.outgrowths[0]->made->members)
            twins += m.isTwin;
        QVERIFY(twins > 4 && 2 * twins >= teeth.outgrowths[0]->made->members.size() - 1);
    }
    void aMembraneFollowsTheHornsItStandsBetween()
    {
        Creature c = head();
        c = need(c, {{"do", "outgrow.horn"}, {"name", "One"}, {"at", {6, 29, 4}}, {"length", 20}, {"expansion", 900}});
        c = need(c, {{"do", "outgrow.horn"}, {"name", "Two"}, {"at", {8, 28, -8}}, {"length", 16}, {"expansion", 900}});
        c = need(c, {{"do", "outgrow.membrane"}, {"between", {"One", "Two"}}, {"sag", 0}, {"scallop", 0}, {"torn", 0}});
        const auto tipOf = [&](std::size_t k) {
            const auto &m = c.outgrowths[k]->made->members[0];
            return m.place.apply(outgrowth::middleLine(*c.outgrowths[k]->made->shapes[m.shape]).back());
        };
        const auto distance = [&](Vec3f p) { // from the membrane's points
            const auto &m = c.outgrowths[2]->made->members[0];
            float least = 1e9f;
            for (const Vec3f q : c.outgrowths[2]->made->shapes[m.shape]->positions)
                least = std::min(least, length(m.place.apply(q) - p));
            return least;
        };
        QCOMPARE(c.outgrowths[2]->made->members.size(), std::size_t(2)); // one on each side
        QVERIFY(mesh::measure(*c.outgrowths[2]->made->shapes[0]).closed);
        QVERIFY(distance(tipOf(0)) < 1.5f && distance(tipOf(1)) < 1.5f);
        c = need(c, {{"do", "outgrow.horn"}, {"outgrowth", "One"}, {"length", 33}});
        QVERIFY(distance(tipOf(0)) < 1.5f);
        c = need(c, {{"do", "outgrowth.root"}, {"outgrowth", "Two"}, {"at", {10, 26, -10}}});
        QVERIFY(distance(tipOf(1)) < 1.5f);
        // A pair alone has one between its two, which is its own twin.
        Creature pair = need(head(), {{"do", "outgrow.horn"}, {"name", "One"}, {"at", {9, 28, 4}}, {"length", 20}});
        pair = need(pair, {{"do", "outgrow.membrane"}, {"between", {"One"}}});
        QCOMPARE(pair.outgrowths[1]->made->members.size(), std::size_t(1));
        // Without what it stands between it stays as it is.
        const auto box = c.outgrowths[2]->made->box;
        c = need(c, {{"do", "outgrowth.remove"}, {"outgrowth", "One"}});
        c = need(c, {{"do", "outgrowth.root"}, {"outgrowth", "Two"}, {"at", {10, 26, -12}}});
        const Outgrowth &left = *c.outgrowths[1];
        QVERIFY(left.made->box.lo == box.lo && left.made->box.hi == box.hi);
        QVERIFY(!test::run(c, {{"do", "outgrow.membrane"}, {"outgrowth", "Membrane"}, {"between", {"Membrane", "Two"}}}));
    }
    void correctionsThinAndPull()
    {
        Creature c = need(head(), {{"do", "outgrow.horn"}, {"at", {6, 29, 4}}});
        const mesh::PolyMesh before = *c.outgrowths[0]->made->shapes[0];
        c = need(c, {{"do", "outgrowth.correct"}, {"outgrowth", "Horn"}, {"member", 0}, {"pull", {1, 7, -2}}});
        const mesh::PolyMesh &after = *c.outgrowths[0]->made->shapes[0];
        std::size_t tip = 0;
        for (std::size_t v = 0; v < before.positions.size(); ++v)
            if (length(before.positions[v]) > length(before.positions[tip]))
                tip = v;
        QVERIFY(length(after.positions[tip] - before.positions[tip] - Vec3f{1, 7, -2}) < 1e-3f);
        for (std::size_t v = 0; v < before.positions.size(); ++v)
            if (before.positions[v].y < 0)
                QVERIFY(length(after.positions[v] - before.positions[v]) < 0.1f); // its root stays
        QVERIFY(c.outgrowths[0]->made->shapes[1]->positions == before.positions); // its twin is as it was
        c = need(c, {{"do", "outgrowth.correct"}, {"outgrowth", "Horn"}, {"member", 0}, {"pull", {0, 0, 0}}, {"thin", 0.5}});
        const std::vector<Vec3f> line = outgrowth::middleLine(before);
        const std::size_t around = before.positions.size() / line.size();
        for (std::size_t v = 0; v < before.positions.size(); ++v) // half as far from its middle line
            QVERIFY(length(c.outgrowths[0]->made->shapes[0]->positions[v] - (line[v / around] + before.positions[v]) * 0.5f)
                    < 1e-3f);
    }
    void usualLengthsAreInProportion()
    {
        const outgrowth::Kind &horn = *outgrowth::kindNamed("horn");
        const Outgrowth usual = outgrowthOf(horn), small = outgrowthOf(horn, 45);
        for (std::size_t k = 0; k < usual.values.size(); ++k)
            if (horn.settings[k].unit == "mm" && usual.values[k] > 0)
                QVERIFY(std::abs(small.values[k] / usual.values[k] - 0.25f) < 0.013f); // two digits
            else
                QCOMPARE(small.values[k], usual.values[k]);
    }
    void settingsGoFromOneToAnother()
    {
        Outgrowth o = ruleOf("tusk", {{"length", 77}, {"bearing", 40}});
        o.profile = {1, 2, 0.5f}, o.path = {{0, 0, 0}, {0, 5, 0}, {1, 9, 0}}, o.seed = 5, o.parent = 3;
        const auto back = command::pastedRule(command::copiedRule(o));
        QVERIFY(back.has_value());
        QVERIFY(back->kind == o.kind && back->values == o.values && back->profile == o.profile && back->path == o.path
                && back->seed == 5 && !back->isMirrored && back->parent == 0);
        for (const json &bad :
             {json(), json(3), json::array(), json{{"format", "bonemoss-recipe"}},
              json{{"format", "bonemoss-recipe"}, {"commands", {{{"do", "outgrow.nothing"}}}}},
              json{{"format", "bonemoss-recipe"}, {"commands", {{{"do", 4}}}}},
              json{{"format", "bonemoss-recipe"}, {"commands", {{{"do", "outgrow.horn"}, {"length", "long"}}}}}})
            QVERIFY(!command::pastedRule(bad));
    }
    void aFileGivesAllOfItBack()
    {
        Creature c = need(head(), {{"do", "outgrow.mass"}, {"mask", "hand"}, {"name", "Coat"}});
        c = need(c, {{"do", "outgrowth.cut"}, {"outgrowth", "Coat"}, {"points", {{25, 0, -20}, {30, 0, 0}, {25, 0, 20}}}});
        c = need(c, {{"do", "outgrowth.correct"}, {"outgrowth", "Coat"}, {"member", 1}, {"pull", {0, 2, 6}}, {"thin", 0.8}});
        c = need(c, {{"do", "outgrow.horn"},
                     {"name", "One"},
                     {"at", {6, 29, 4}},
                     {"section", "drawn"},
                     {"sectionCurve", {1, 0.5, 1, 0.5}}});
        c = need(c, {{"do", "outgrow.horn"}, {"name", "Two"}, {"at", {8, 28, -8}}});
        c = need(c, {{"do", "outgrow.membrane"}, {"between", {"One", "Two"}}});
        c = need(c, {{"do", "outgrow.eye"}, {"at", {18, 12, 20}}, {"look", {0, 10, 90}}, {"stack", 2}});
        c = test::masked(c, [](Vec3f p) { return p.y > 12; });
        c = need(c, {{"do", "outgrow.locks"}, {"mask", "hand"}, {"name", "Crest"}});
        c = need(
            c, {{"do", "outgrowth.brush"}, {"outgrowth", "Crest"}, {"what", "lift"}, {"points", {{10, 28, 0}}}, {"radius", 10}});
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("a.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(path, c)));
        const auto back = store::loadStore(path);
        QVERIFY(bool(back) && back->damage.empty());
        QCOMPARE(back->creature.outgrowths.size(), c.outgrowths.size());
        for (std::size_t k = 0; k < c.outgrowths.size(); ++k) {
            const Outgrowth &a = *c.outgrowths[k], &b = *back->creature.outgrowths[k];
            QVERIFY(a.roots == b.roots && a.starts == b.starts && a.between == b.between && a.section == b.section
                    && a.look == b.look && a.maps == b.maps && a.corrections == b.corrections && a.values == b.values);
            QCOMPARE(a.made->members.size(), b.made->members.size());
            for (std::size_t m = 0; m < a.made->members.size(); ++m)
                QVERIFY(a.made->members[m].place == b.made->members[m].place);
            for (std::size_t s = 0; s < a.made->shapes.size(); ++s)
                QVERIFY2(a.made->shapes[s]->positions == b.made->shapes[s]->positions, a.name.c_str());
        }
    }
    // On a ball seen from far along +x, hair stands where its normal looks there, and a little beyond the rim; of twins each is looked at
    // by itself.
    void onlyWhatIsSeenGrows()
    {
        Creature c = test::masked(head(), [](Vec3f p) { return p.y > 12; });
        c = need(c, {{"do", "outgrow.quills"}, {"mask", "hand"}, {"height", 2}, {"spacing", 2}});
        const std::size_t all = c.outgrowths[0]->made->members.size();
        c = need(c, {{"do", "outgrow.quills"}, {"outgrowth", "Quills"}, {"seenFrom", {400, 20, 0}}});
        const auto &members = c.outgrowths[0]->made->members;
        QVERIFY(members.size() > all / 5 && members.size() < 3 * all / 4);
        for (const auto &m : members)
            QVERIFY2(normalized(m.root).x > -0.38f, qPrintable(QString::number(m.root.x)));
        std::size_t own = 0, twins = 0;
        for (const auto &m : members)
            ++(m.isTwin ? twins : own);
        QVERIFY(own > 20 && twins < own / 3 + 10);
        QVERIFY(!test::run(c, {{"do", "outgrow.quills"}, {"outgrowth", "Quills"}, {"seenFrom", {0, -900, 0}}}));
        c = need(c, {{"do", "outgrow.quills"}, {"outgrowth", "Quills"}, {"everywhere", true}});
        QCOMPARE(c.outgrowths[0]->made->members.size(), all);
    }
    // What takes long is left as it was by a stroke in the window, and is then the same as if it had been made at once.
    void staleOnesAreMadeAfterwards()
    {
        const Creature before = need(head(), {{"do", "outgrow.locks"}, {"mask", "hand"}, {"name", "Coat"}});
        Creature after = before;
        auto piece = std::make_shared<document::Piece>(*after.pieces[0]);
        skin::Skin other = piece->skin;
        for (std::uint32_t b = 0; b < other.body.blockCount(); ++b)
            for (std::size_t i = 0; i < other.body.countIn(b); ++i)
                other.body.edit(b)[i].y += 1;
        std::vector<std::uint32_t> all(other.body.blockCount());
        std::iota(all.begin(), all.end(), 0u);
        skin::mixBlocks(other, all);
        piece->skin = other;
        after.put(piece);
        Operation context;
        const Creature now = withOutgrowthsRiding(before, after, context),
                       later = withOutgrowthsRiding(before, after, context, document::Slow::Later);
        QVERIFY(!hasStaleOutgrowths(now) && hasStaleOutgrowths(later));
        QVERIFY(later.outgrowths[0]->made == before.outgrowths[0]->made);
        const Creature fresh = withFreshOutgrowths(later, context);
        QVERIFY(!hasStaleOutgrowths(fresh));
        QCOMPARE(fresh.outgrowths[0]->made->members.size(), now.outgrowths[0]->made->members.size());
        for (std::size_t k = 0; k < now.outgrowths[0]->made->members.size(); ++k)
            QVERIFY(fresh.outgrowths[0]->made->members[k].place == now.outgrowths[0]->made->members[k].place);
        // A command comes after it has been made.
        const Creature changed = need(later, {{"do", "outgrow.locks"}, {"outgrowth", "Coat"}, {"seed", 2}});
        QVERIFY(!hasStaleOutgrowths(changed));
    }
    void whatAnAreaStandsOnIsItsOwnBlocks()
    {
        // A stroke far from it makes nothing anew; the skin it remembers is the area's alone.
        Creature c = need(head(), {{"do", "outgrow.locks"}, {"mask", "hand"}, {"name", "Coat"}});
        const auto before = c.outgrowths[0];
        c = need(c, {{"do", "sculpt.stroke"},
                     {"tool", "swell"},
                     {"size", 6},
                     {"strength", 0.6},
                     {"samples", {{0, 0, -30}, {0, 5, -29}}}});
        QVERIFY(c.outgrowths[0] == before);
    }
};

BONEMOSS_TEST(TestCoats)
#include "tst_coats.moc"
