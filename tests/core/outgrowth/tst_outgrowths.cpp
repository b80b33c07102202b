// Outgrowths. Oracles: Raup 1966 for coils; closed forms of arc length on circles; the blocks and shapes that states share; what a file
// gives back; and distances to the skin.
#include "support/run.h"
#include "document/items.h"
#include "document/ops/outgrowths.h"
#include "mesh/measures.h"
#include "outgrowth/sweep.h"
#include "store/store.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using outgrowth::Outgrowth;

namespace {

/// A ball of 30 mm with no layer, masked about its left.
Creature ball()
{
    Creature c = test::withPieces({test::sphere(30, 64, 128)});
    auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
    piece->skin = skin::makeSkin(test::sphere(30, 64, 128), false);
    c.pieces[0] = piece;
    return test::masked(c, [](Vec3f p) { return p.x > 20; });
}

const Outgrowth &only(const Creature &c)
{
    return *c.outgrowths.at(0);
}

/// Points on the ball's equator between two angles, in degrees from its front.
json arc(float from, float to, int n = 24)
{
    json out = json::array();
    for (int k = 0; k <= n; ++k) {
        const float a = (from + (to - from) * float(k) / float(n)) * kRadiansPerDegree;
        out.push_back({30 * std::sin(a), 0, 30 * std::cos(a)});
    }
    return out;
}

/// One of a kind on the ball, with these settings besides the usual ones.
json rooted(const outgrowth::Kind &kind, json settings = json::object())
{
    settings["do"] = "outgrow." + std::string(kind.name);
    if (kind.rooting == outgrowth::Rooting::Line)
        settings["points"] = arc(20, 110);
    else if (kind.rooting == outgrowth::Rooting::Lines) {
        settings["points"] = arc(20, 80);
        for (const auto &p : arc(20, 80))
            settings["points"].push_back({p[0].get<double>() * 0.8, 18, p[2].get<double>() * 0.8});
        settings["starts"] = {25};
    } else if (kind.rooting == outgrowth::Rooting::Point)
        settings["at"] = {18, 24, 0};
    return settings;
}

float distanceToSkin(const document::Piece &piece, Vec3f p)
{
    const auto hit = mesh::nearestPoint(piece.skin.shown, p);
    return hit ? length(hit->point - p) : 1e9f;
}

} // namespace

class TestOutgrowths : public QObject
{
    Q_OBJECT
private slots:
    void everyKindMakesClosedSolidsWithTwins()
    {
        for (const outgrowth::Kind &kind : outgrowth::kinds()) {
            const auto c = test::run(ball(), rooted(kind));
            QVERIFY2(bool(c), kind.name.data());
            const Outgrowth &o = only(*c);
            const bool isFur = kind.rooting == outgrowth::Rooting::Area;                     // which is uneven at the middle
            QVERIFY(!o.made->members.empty() && (isFur || o.made->members.size() % 2 == 0)); // with twins
            for (const auto &shape : o.made->shapes) {
                const mesh::Measures m = mesh::measure(*shape);
                QVERIFY2(m.closed && m.volumeMm3 > 0 && (kind.is(outgrowth::Bundle) || (m.components == 1 && m.genus == 0)),
                         kind.name.data());
                QVERIFY(m.triangles == 0 || kind.is(outgrowth::IsCut)); // borders run through faces of the skin
            }
            for (std::size_t k = 0; !isFur && k < o.made->members.size(); k += 2) {
                const auto &a = o.made->members[k], &b = o.made->members[k + 1];
                QVERIFY(!a.isTwin && b.isTwin && a.number == b.number && a.shape == b.shape);
                const Vec3f p = a.place.apply({1, 2, 3}), q = b.place.apply({1, 2, 3});
                QVERIFY(length(q - mirrored(p)) < 1e-4f);
            }
        }
    }
    // The centres of a made horn's sections, laid against Raup's three numbers by curvature and torsion.
    void hornsKeepRaupsNumbers_data()
    {
        QTest::addColumn<double>("w");
        QTest::addColumn<double>("d");
        QTest::addColumn<double>("t");
        for (const double w : {3.0, 10.0, 60.0})
            for (const double d : {0.4, 0.7})
                for (const double t : {0.0, 1.2})
                    QTest::addRow("W %g D %g T %g", w, d, t) << w << d << t;
    }
    void hornsKeepRaupsNumbers()
    {
        QFETCH(double, w);
        QFETCH(double, d);
        QFETCH(double, t);
        constexpr double kRadius = 2;
        const double of = std::log(w) / (2 * M_PI); // the b of below; a little more than half of all that the coil can be is made
        const double mm = 0.55 * kRadius * (1 + d) / (1 - d) * std::sqrt(1 + of * of * (1 + t * t)) / of;
        const auto c = test::run(ball(), rooted(*outgrowth::kindNamed("horn"), {{"expansion", w},
                                                                                {"distance", d},
                                                                                {"drift", t},
                                                                                {"length", mm},
                                                                                {"radius", kRadius},
                                                                                {"rings", 0},
                                                                                {"bulges", 0},
                                                                                {"wear", 0},
                                                                                {"flatness", 0},
                                                                                {"section", "round"}}));
        QVERIFY(bool(c));
        const mesh::PolyMesh &shape = *only(*c).made->shapes[0];
        constexpr std::size_t kAround = 24; // corners of a ring where there are no grooves
        std::vector<Vec3f> centres;
        for (std::size_t k = 2 * kAround; k + 4 * kAround < shape.positions.size();
             k += kAround) { // without root and rounded tip
            Vec3f sum;
            for (std::size_t j = 0; j < kAround; ++j)
                sum += shape.positions[k + j] * (1.0f / kAround);
            centres.push_back(sum);
        }
        // Of r = r0 exp(-b phi), z = T r, with k^2 = 1 + b^2 (1 + T^2), the formulas of Frenet give curvature sqrt(1 + b^2) / (r k^2)
        // and torsion b T / (r k^2): the radius of curvature falls evenly along the line.
        constexpr std::size_t kStride = 2;
        const auto step = [&](std::size_t i) { return centres[i + kStride] - centres[i]; };
        std::vector<double> along, bend, twist;
        double gone = 0;
        for (std::size_t i = 0; i + 3 * kStride < centres.size(); ++i) {
            const Vec3f x = step(i), y = step(i + kStride), z = step(i + 2 * kStride);
            // Of three points: four times the area of their triangle over the product of its sides (Menger).
            const double area = double(length(cross(x, y)));
            bend.push_back(2 * area / double(length(x) * length(y) * length(x + y)));
            const Vec3f first = normalized(cross(x, y)), second = normalized(cross(y, z));
            twist.push_back(std::asin(std::min(1.0, double(length(cross(first, second))))) / double(length(y)));
            along.push_back(gone);
            gone += double(length(centres[i + 1] - centres[i]));
        }
        double slope = 0, ratio = 0;
        const std::size_t n = along.size();
        slope = (1 / bend.front() - 1 / bend.back()) / (along.back() - along.front());
        for (std::size_t i = 0; i < n; ++i)
            ratio += twist[i] / bend[i] / double(n);
        const double b = slope / std::sqrt(1 + ratio * ratio), k2 = (1 + b * b) * (1 + ratio * ratio);
        const double bestW = std::exp(2 * M_PI * b), bestT = ratio * std::sqrt(1 + b * b) / b;
        // At the second point of the first triangle, so many steps on from the root.
        const double r = std::sqrt(1 + b * b) / (bend.front() * k2);
        const double r0 = r + double(kStride) * double(length(centres[1] - centres[0])) * b / std::sqrt(k2);
        const double bestD = (r0 - kRadius) / (r0 + kRadius);
        QVERIFY2(std::abs(bestW / w - 1) < 0.08, qPrintable(QString("W %1").arg(bestW)));
        QVERIFY2(std::abs(bestD - d) < 0.03, qPrintable(QString("D %1").arg(bestD)));
        QVERIFY2(std::abs(bestT - t) < 0.06 * std::max(1.0, t), qPrintable(QString("T %1").arg(bestT)));
    }
    void rowsStandAtEvenArcLengths() // on a circle: at even angles
    {
        for (const int n : {2, 7, 20}) {
            const auto c =
                test::run(ball(), {{"do", "outgrow.plates"}, {"points", arc(10, 100, 60)}, {"count", n}, {"jitter", 0}});
            QVERIFY(bool(c));
            const auto &members = only(*c).made->members;
            QCOMPARE(members.size(), std::size_t(2 * n));
            for (int k = 0; k < n; ++k) {
                const Vec3f p = members[std::size_t(2 * k)].root;
                const float angle = std::atan2(p.x, p.z) / kRadiansPerDegree;
                QVERIFY(std::abs(angle - (10 + 90 * float(k) / float(n - 1))) < 0.15f);
                QVERIFY(std::abs(length(p) - 30) < 0.05f && std::abs(p.y) < 0.05f);
            }
        }
        // By spacing: as many as fit into the arc of 30 * pi / 2 = 47.12 mm.
        const auto c = test::run(ball(), {{"do", "outgrow.spikes"}, {"points", arc(10, 100, 60)}, {"spacing", 5}, {"jitter", 0}});
        QVERIFY(bool(c));
        QCOMPARE(only(*c).made->members.size(), std::size_t(2 * 10));
    }
    void aLineOnTheMiddlePlaneHasNoTwins()
    {
        json points = json::array();
        for (int k = 0; k <= 20; ++k) {
            const float a = (80 - 8 * float(k)) * kRadiansPerDegree;
            points.push_back({0, 30 * std::sin(a), -30 * std::cos(a)});
        }
        const auto one = test::run(ball(), {{"do", "outgrow.plates"}, {"points", points}, {"count", 9}});
        QCOMPARE(only(*one).made->members.size(), std::size_t(9));
        const auto two = test::run(ball(), {{"do", "outgrow.plates"}, {"points", points}, {"count", 9}, {"lines", "two"}});
        QCOMPARE(only(*two).made->members.size(), std::size_t(18));
        const auto staggered =
            test::run(ball(), {{"do", "outgrow.plates"}, {"points", points}, {"count", 9}, {"lines", "staggered"}});
        QCOMPARE(only(*staggered).made->members.size(), std::size_t(9));
        for (std::size_t k = 0; k < 9; ++k) // in turn
            QVERIFY((only(*staggered).made->members[k].root.x > 0)
                    == ((only(*staggered).made->members[0].root.x > 0) == (k % 2 == 0)));
    }
    void membersThatAreAlikeShareOneMesh()
    {
        const auto c = test::run(ball(), {{"do", "outgrow.fangs"}, {"points", arc(10, 100)}, {"count", 250}, {"variants", 1}});
        QVERIFY(bool(c));
        const Outgrowth &o = only(*c);
        QCOMPARE(o.made->members.size(), std::size_t(500));
        QCOMPARE(o.made->shapes.size(), std::size_t(1));
        io::Scene scene;
        o.show(scene);
        QCOMPARE(scene.shapes.size(), std::size_t(1));
        QCOMPARE(scene.objects.at(0).places.size(), std::size_t(500));
        const std::size_t one = o.made->shapes[0]->positions.size() * 12 + o.made->shapes[0]->faces.size() * 16;
        QVERIFY(o.made->memoryBytes() <= one * 12 / 10 + 128 * 500); // as the figure outgrowth.memory has it
        const auto bent = test::run(*c, {{"do", "outgrowth.correct"}, {"outgrowth", o.name}, {"member", 3}, {"bend", 30}});
        QCOMPARE(only(*bent).made->shapes.size(), std::size_t(2)); // its own, and the other still shared
    }
    void correctionsStayWhenTheLineMoves()
    {
        auto c = test::run(ball(),
                           {{"do", "outgrow.plates"}, {"points", arc(10, 100)}, {"count", 12}, {"jitter", 0}, {"variants", 1}});
        c = test::run(*c,
                      {{"do", "outgrowth.correct"}, {"outgrowth", "Plates"}, {"member", 4}, {"size", 2}, {"turn", {0, 40, 0}}});
        c = test::run(*c,
                      {{"do", "outgrowth.correct"}, {"outgrowth", "Plates"}, {"member", 7}, {"twin", true}, {"missing", true}});
        QVERIFY(bool(c));
        QCOMPARE(only(*c).made->members.size(), std::size_t(23));
        const auto sizeOf = [](const outgrowth::Member &m) { return length(Vec3f{m.place.m[3], m.place.m[4], m.place.m[5]}); };
        const auto moved = test::run(*c, {{"do", "outgrowth.root"}, {"outgrowth", "Plates"}, {"points", arc(30, 140)}});
        QVERIFY(bool(moved));
        QCOMPARE(only(*moved).made->members.size(), std::size_t(23));
        for (std::size_t k = 0; k < 23; ++k) {
            const auto &was = only(*c).made->members[k], &is = only(*moved).made->members[k];
            QVERIFY(was.number == is.number && was.isTwin == is.isTwin);
            QVERIFY(std::abs(sizeOf(was) - sizeOf(is)) < 1e-4f);
            QVERIFY(length(was.root - is.root) > 1);
        }
        const auto reset =
            test::run(*moved, {{"do", "outgrowth.correct"}, {"outgrowth", "Plates"}, {"member", 4}, {"reset", true}});
        QCOMPARE(only(*reset).corrections.size(), std::size_t(1));
    }
    void rootsRideOnStrokesKnitsAndLevels()
    {
        auto c = test::run(
            ball(), {{"do", "form.add"}, {"kind", "limb"}, {"name", "leg"}, {"path", {{0, 10, -40, 14}, {0, -22, 8, 12}}}});
        c = test::run(*c, {{"do", "outgrow.plates"}, {"points", arc(20, 110)}, {"count", 10}});
        c = test::run(*c, {{"do", "outgrow.horn"}, {"at", {18, 24, 0}}});
        QVERIFY(bool(c));
        const auto check = [](const Creature &now, float within) {
            for (const auto &o : now.outgrowths)
                for (const outgrowth::Root &r : o->roots)
                    if (distanceToSkin(*now.pieces[0], r.at) > within)
                        return false;
            return true;
        };
        QVERIFY(check(*c, 0.01f));
        const Vec3f before = c->outgrowths[1]->roots[0].at;
        const json lift{{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 9},
                        {"strength", 1},         {"mirror", false}, {"samples", {{18, 24, 0}, {18.5, 23.5, 1}, {18, 24, 0}}}};
        const auto stroke = test::run(*c, lift);
        QVERIFY(bool(stroke));
        QVERIFY(length(stroke->outgrowths[1]->roots[0].at - before) > 0.2f); // it was lifted with the skin
        QVERIFY(check(*stroke, 0.05f));
        QVERIFY(stroke->outgrowths[0] == c->outgrowths[0]); // far from the stroke: the same, nothing made anew
        for (const json &command : {json{{"do", "piece.reknit"}, {"spacing", 1.3}}, json{{"do", "piece.refine"}}}) {
            const auto next = test::run(*stroke, command);
            QVERIFY2(bool(next), command.dump().c_str());
            QVERIFY(check(*next, 0.02f));
            float farthest = 0;
            for (std::size_t k = 0; k < 2; ++k)
                for (std::size_t r = 0; r < next->outgrowths[k]->roots.size(); ++r)
                    farthest = std::max(farthest, length(next->outgrowths[k]->roots[r].at - stroke->outgrowths[k]->roots[r].at));
            QVERIFY2(farthest < 0.5f, command.dump().c_str());
        }
    }
    void oneOfSeveralRootsMovesAndTheOthersStay()
    {
        auto c = test::run(
            ball(), {{"do", "form.add"}, {"kind", "limb"}, {"name", "leg"}, {"path", {{0, 10, -40, 14}, {0, -22, 8, 12}}}});
        c = test::run(*c, {{"do", "form.add"},
                           {"kind", "limb"},
                           {"name", "toe"},
                           {"parent", "leg"},
                           {"path", {{6, -24, 8, 3}, {7, -28, 29, 2}}},
                           {"melt", 1}});
        c = test::run(*c, {{"do", "form.add"},
                           {"kind", "limb"},
                           {"name", "toe 2"},
                           {"parent", "leg"},
                           {"path", {{12, -20, 6, 3}, {16, -24, 25, 2}}},
                           {"melt", 1}});
        c = test::run(*c, {{"do", "knit.forms"}, {"spacing", 1}});
        QVERIFY(bool(c));
        const auto claws = test::run(*c, {{"do", "outgrow.claw"}, {"piece", c->pieces.back()->id}, {"tips", 1}});
        QVERIFY2(bool(claws), claws ? "" : claws.error().text().c_str());
        QCOMPARE(only(*claws).roots.size(), std::size_t(2)); // each at the end of its toe, the way it runs
        for (const auto &[end, way] : {std::pair{Vec3f{7, -28, 29}, Vec3f{1, -4, 21}}, {Vec3f{16, -24, 25}, Vec3f{4, -4, 19}}})
            QVERIFY(std::any_of(only(*claws).roots.begin(), only(*claws).roots.end(), [&](const outgrowth::Root &r) {
                return length(r.at - end) < 3 && dot(r.normal, normalized(way)) > 0.9f;
            }));
        const Vec3f at = only(*claws).roots[0].at;
        const auto moved =
            test::run(*claws, {{"do", "outgrowth.root"}, {"outgrowth", "Claw"}, {"at", {at.x, at.y + 1, at.z - 2}}});
        QVERIFY(bool(moved));
        QCOMPARE(only(*moved).roots.size(), std::size_t(2));
        QVERIFY(!(only(*moved).roots[0] == only(*claws).roots[0]));
        QVERIFY(only(*moved).roots[1] == only(*claws).roots[1]);
    }
    void aFileGivesTheSameBack()
    {
        auto c = test::run(ball(), {{"do", "outgrow.plates"}, {"points", arc(20, 110)}, {"profile", {0.4, 1, 0.6}}, {"seed", 7}});
        c = test::run(*c, {{"do", "outgrow.horn"}, {"at", {18, 24, 0}}, {"path", {{0, 0, 0}, {0, 10, 2}, {3, 22, -4}}}});
        c = test::run(*c, {{"do", "outgrowth.correct"}, {"outgrowth", "Horn"}, {"member", 0}, {"twin", true}, {"broken", 0.4}});
        QVERIFY(bool(c));
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("a.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(path, *c)));
        const auto back = store::loadStore(path);
        QVERIFY(bool(back) && back->damage.empty());
        for (std::size_t k = 0; k < 2; ++k) {
            const Outgrowth &a = *c->outgrowths[k], &b = *back->creature.outgrowths[k];
            QVERIFY(static_cast<const Item &>(a) == static_cast<const Item &>(b));
            QVERIFY(a.kind == b.kind && a.values == b.values && a.seed == b.seed && a.isMirrored == b.isMirrored
                    && a.roots == b.roots && a.path == b.path && a.profile == b.profile && a.corrections == b.corrections
                    && a.item == b.item);
            QCOMPARE(a.made->members.size(), b.made->members.size());
            for (std::size_t m = 0; m < a.made->members.size(); ++m)
                QVERIFY(a.made->members[m].place == b.made->members[m].place);
            for (std::size_t s = 0; s < a.made->shapes.size(); ++s)
                QVERIFY(a.made->shapes[s]->positions == b.made->shapes[s]->positions);
        }
    }
    void furKeepsItsMaskBesideOthersAndItsRuleWithoutIt()
    {
        const auto own = test::run(ball(), {{"do", "mask.keep"}, {"name", "Locks"}});
        const auto fur = test::run(*own, {{"do", "outgrow.locks"}});
        QVERIFY(bool(fur));
        QCOMPARE(only(*fur).mask, std::string("Locks 2"));
        QVERIFY(fur->pieces[0]->skin.keptMask("Locks")->values.flatten()
                == own->pieces[0]->skin.keptMask("Locks")->values.flatten());
        const auto bare = test::run(*fur, {{"do", "mask.forget"}, {"name", "Locks 2"}});
        QVERIFY(bool(bare));
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("a.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(path, *bare)));
        const auto back = store::loadStore(path);
        QVERIFY(bool(back));
        QCOMPARE(back->damage.size(), std::size_t(1)); // told
        QVERIFY(only(back->creature).values == only(*fur).values && only(back->creature).mask == "Locks 2");
    }
    void anItemStandsForMembers()
    {
        auto c = test::run(ball(),
                           {{"do", "form.add"}, {"kind", "block"}, {"name", "brick"}, {"radii", {2, 1, 2}}, {"at", {80, 0, 0}}});
        c = test::run(*c, {{"do", "outgrow.plates"}, {"points", arc(20, 110)}, {"count", 5}, {"item", "brick"}});
        QVERIFY(bool(c));
        QCOMPARE(only(*c).made->shapes.size(), std::size_t(1));
        const Box3f box = mesh::boundsOf(only(*c).made->shapes[0]->positions);
        QVERIFY(std::abs(box.lo.y) < 1e-4f && std::abs(box.centre().x) < 1e-3f); // its foot at the root
    }
    void withoutItsSkinItStaysAsItIs()
    {
        const auto c = test::run(ball(), {{"do", "outgrow.horn"}, {"at", {18, 24, 0}}});
        const auto gone = test::run(*c, {{"do", "items.remove"}, {"items", {"a"}}});
        QVERIFY(bool(gone) && test::isSaid("stands on no skin"));
        QCOMPARE(only(*gone).parent, 0u);
        QVERIFY(only(*gone).made == only(*c).made);
    }
    void becomesAPieceOrPartOfTheSkin()
    {
        const auto c = test::run(ball(), {{"do", "outgrow.tusk"}, {"at", {18, 24, 0}}, {"length", 20}});
        const auto piece = test::run(*c, {{"do", "outgrowth.piece"}, {"outgrowth", "Tusk"}});
        QVERIFY(bool(piece));
        QVERIFY(piece->outgrowths.empty() && piece->pieces.size() == 2);
        QCOMPARE(piece->pieces[1]->skin.shown.topology->faceCount(), only(*c).made->faceCount());
        const auto melted = test::run(*c, {{"do", "outgrowth.melt"}, {"outgrowth", "Tusk"}, {"flare", 2}});
        QVERIFY(bool(melted));
        QVERIFY(only(*melted).isMelted && only(*melted).isHidden && melted->pieces.size() == 1);
        QVERIFY(test::run(*c, {{"do", "outgrowth.melt"}, {"outgrowth", "Tusk"}, {"keep", false}})->outgrowths.empty());
        const mesh::Measures m = mesh::measure(toPolyMesh(melted->pieces[0]->skin.shown));
        QVERIFY(m.closed && m.components == 1);
        const double was = mesh::measure(toPolyMesh(c->pieces[0]->skin.shown)).volumeMm3;
        QVERIFY(m.volumeMm3 > was + 50); // both tusks
        // Taken out again: the ball as it was, within the skin that had to be closed anew, and the tusks beside it.
        QVERIFY(!test::run(*melted, {{"do", "outgrowth.melt"}, {"outgrowth", "Tusk"}}));
        QVERIFY(!test::run(*melted, {{"do", "outgrow.tusk"}, {"outgrowth", "Tusk"}, {"length", 40}})); // it tells where it is
        const auto back = test::run(*melted, {{"do", "outgrowth.unmelt"}, {"outgrowth", "Tusk"}});
        QVERIFY(bool(back));
        QVERIFY(!only(*back).isMelted && !only(*back).isHidden);
        const mesh::PolyMesh closed = toPolyMesh(back->pieces[0]->skin.shown);
        QVERIFY(mesh::measure(closed).closed);
        QVERIFY2(std::abs(mesh::measure(closed).volumeMm3 - was) < 0.004 * was,
                 qPrintable(QString::number(mesh::measure(closed).volumeMm3 / was)));
        for (const Vec3f p : closed.positions)
            QVERIFY(std::abs(length(p) - 30) < 1.2f);
        QVERIFY(length(only(*back).roots[0].at - only(*c).roots[0].at) < 1);
        QVERIFY(!test::run(*back, {{"do", "outgrowth.unmelt"}, {"outgrowth", "Tusk"}}));
    }
    void badInputIsRefusedInWords_data()
    {
        QTest::addColumn<QByteArray>("command");
        QTest::addColumn<QByteArray>("words");
        const auto row = [](const char *name, const json &command, const char *words) {
            QTest::newRow(name) << QByteArray(command.dump().c_str()) << QByteArray(words);
        };
        row("line off the skin", {{"do", "outgrow.plates"}, {"points", {{300, 0, 0}, {300, 50, 0}}}}, "mm from there");
        row("root off the skin", {{"do", "outgrow.horn"}, {"at", {0, 200, 0}}}, "mm from there");
        row("no root", {{"do", "outgrow.horn"}}, "say where");
        row("no line", {{"do", "outgrow.plates"}}, "say where");
        row("a line for one root", {{"do", "outgrow.horn"}, {"points", {{30, 0, 0}, {0, 30, 0}}}}, "points");
        row("a line of one point", {{"do", "outgrow.plates"}, {"points", {{30, 0, 0}, {30, 0, 0}}}}, "two points");
        row("too many", {{"do", "outgrow.plates"}, {"points", {{30, 0, 0}, {0, 30, 0}}}, {"count", 10000}}, "count");
        row("a size that is none", {{"do", "outgrow.horn"}, {"at", {30, 0, 0}}, {"profile", {1, -2}}}, "profile");
        row("a path of one point", {{"do", "outgrow.horn"}, {"at", {30, 0, 0}}, {"path", {{0, 0, 0}}}}, "path");
        row("no such item", {{"do", "outgrow.plates"}, {"points", {{30, 0, 0}, {0, 30, 0}}}, {"item", "nobody"}}, "nobody");
        row("no such member", {{"do", "outgrowth.correct"}, {"outgrowth", "there"}, {"member", 99}}, "no member 99");
        row("no such outgrowth", {{"do", "outgrowth.root"}, {"outgrowth", "nobody"}, {"at", {30, 0, 0}}}, "nobody");
    }
    void badInputIsRefusedInWords()
    {
        QFETCH(QByteArray, command);
        QFETCH(QByteArray, words);
        const auto c = test::run(ball(), {{"do", "outgrow.tusk"}, {"at", {18, 24, 0}}, {"name", "there"}});
        const auto after = test::run(*c, json::parse(command.toStdString()));
        QVERIFY(!after);
        QVERIFY2(after.error().text().find(words.toStdString()) != std::string::npos, after.error().text().c_str());
    }
    void aPathThatDoublesBackAndHugeSizesStayClosed()
    {
        const auto back = test::run(
            ball(), {{"do", "outgrow.horn"}, {"at", {18, 24, 0}}, {"path", {{0, 0, 0}, {0, 20, 0}, {0.1, 1, 0}, {0, 25, 0}}}});
        QVERIFY(bool(back));
        QVERIFY(mesh::measure(*only(*back).made->shapes[0]).closed);
        const auto huge = test::run(ball(), {{"do", "outgrow.horn"}, {"at", {18, 24, 0}}, {"length", 400}, {"radius", 100}});
        QVERIFY(bool(huge));
        QVERIFY(mesh::measure(*only(*huge).made->shapes[0]).closed);
    }
};

BONEMOSS_TEST(TestOutgrowths)
#include "tst_outgrowths.moc"
