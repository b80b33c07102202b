#include "support/run.h"
#include "command/command.h"
#include "document/ops/rebuild.h"
#include "skin/symmetry.h"
#include "field/knit.h"
#include "mesh/measures.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>
#include <nlohmann/json.hpp>

#include <cmath>
#include <numbers>
#include <set>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using test::isSaid;
using test::masked;
using test::notes;
using test::run;
using test::withPieces;

namespace {

mesh::Measures measured(const Creature &c, std::size_t piece = 0)
{
    return measure(toPolyMesh(c.pieces[piece]->skin.shown));
}

bool isNear(double a, double b, double share)
{
    return std::abs(a - b) <= share * std::abs(b);
}

const double kBall = 4.0 / 3 * std::numbers::pi * 8000; // of 20 mm

} // namespace

class TestRebuild : public QObject
{
    Q_OBJECT
private slots:
    void joinKeepsLayersAndTellsLosses()
    {
        const Creature c = withPieces({test::sphere(20, 60, 90), test::sphere(20, 60, 90, {24, 0, 0})});
        const auto joined = run(c, {{"do", "pieces.combine"}, {"pieces", {"a", "b"}}, {"how", "join"}});
        QVERIFY(bool(joined));
        QCOMPARE(joined->pieces.size(), std::size_t(1));
        const skin::Skin &s = joined->pieces[0]->skin;
        QCOMPARE(s.layers.size(), std::size_t(1)); // both were called relief
        QCOMPARE(s.layers[0].strength, 0.5f);
        for (std::size_t v = 0; v < s.body.size(); ++v)
            QVERIFY(length(s.layers[0].offsets[v] - Vec3f{0.2f, 0, 0}) < 1e-4f);
        QVERIFY(isSaid("relief") && isSaid("skin"));
        for (const std::string &note : notes) // what lay inside of the other is no loss
            if (note.starts_with("skin: "))
                QVERIFY2(std::stod(note.substr(6)) < 0.02, note.c_str());
        QVERIFY(measured(*joined).closed);
        QCOMPARE(c.pieces.size(), std::size_t(2)); // the creature before is as it was
    }
    // A ball's offset is a ball; a box grown by r has the volume of Steiner's formula: V + r A + pi r^2 (a + b + c) + 4/3 pi r^3.
    void offsetCopies()
    {
        const Creature ball = withPieces({test::sphere(20, 60, 90)});
        for (const double by : {3.0, -4.0}) {
            const auto copy = run(ball, {{"do", "piece.offset"}, {"by", by}, {"spacing", 0.7}});
            QVERIFY2(bool(copy), copy ? "" : copy.error().text().c_str());
            QCOMPARE(copy->pieces.size(), std::size_t(2));
            QVERIFY(measured(*copy, 1).closed && measured(*copy, 1).genus == 0);
            QVERIFY(isNear(measured(*copy, 1).volumeMm3, 4.0 / 3 * std::numbers::pi * std::pow(20 + by, 3), 0.02));
            // A ball has 1.5 quads for each square of the lattice (mean of |nx| + |ny| + |nz|).
            const auto forecast = document::offsetForecast(*ball.pieces[0], float(by), 0.7f);
            QVERIFY(forecast);
            QVERIFY(isNear(double(*forecast), 1.5 * 4 * std::numbers::pi * std::pow((20 + by) / 0.7, 2), 0.05));
            QVERIFY(isNear(double(*forecast), double(measured(*copy, 1).faces), 0.05));
        }
        QCOMPARE(document::offsetForecast(*ball.pieces[0], -25, 0.7f).error().code, ErrorCode::Empty);
        // Far out every vertex is still at its distance from the ball, which the layer lifts by 0.1 mm: less the bow of its faces,
        // 0.019 mm where they are widest, and that of a cell.
        const auto far = run(ball, {{"do", "piece.offset"}, {"by", 15}, {"spacing", 0.9}});
        QVERIFY2(bool(far), far ? "" : far.error().text().c_str());
        for (const Vec3f p : far->pieces[1]->skin.body.flatten())
            QVERIFY2(std::abs(length(p - Vec3f{0.1f, 0, 0}) - 35) < 0.03f, qPrintable(QString::number(double(length(p)))));
        const Creature box = withPieces({test::box({0, 0, 0}, {20, 16, 12})});
        const auto grown = run(box, {{"do", "piece.offset"}, {"by", 2}, {"spacing", 0.5}});
        QVERIFY2(bool(grown), grown ? "" : grown.error().text().c_str());
        const double steiner = 3840 + 2 * 1504 + std::numbers::pi * 4 * 48 + 4.0 / 3 * std::numbers::pi * 8;
        QVERIFY2(isNear(measured(*grown, 1).volumeMm3, steiner, 0.02),
                 qPrintable(QString::number(measured(*grown, 1).volumeMm3)));
        QVERIFY(!run(box, {{"do", "piece.offset"}, {"by", -7}, {"spacing", 0.5}})); // it is 12 mm thick
        QVERIFY(!run(box, {{"do", "piece.offset"}, {"by", 0}}));
        QVERIFY(!run(withPieces({test::plane(10, 5)}), {{"do", "piece.offset"}, {"by", 1}}));
    }
    // Only the masked cap gets new faces; every vertex of the rest is found again with the same bits.
    void reknitWhereMasked_data()
    {
        QTest::addColumn<double>("spacing");
        QTest::newRow("finer") << 0.45;
        QTest::newRow("same") << 1.3;
        QTest::newRow("coarser") << 2.2;
    }
    void reknitWhereMasked()
    {
        QFETCH(double, spacing);
        const auto inCap = [](Vec3f p) { return p.x > 6; };
        const Creature c = masked(withPieces({test::sphere(20, 60, 90)}), inCap);
        const auto done = run(c, {{"do", "piece.reknit"}, {"spacing", spacing}, {"where", "masked"}});
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        const skin::Skin &was = c.pieces[0]->skin, &is = done->pieces[0]->skin;
        const mesh::Measures m = measured(*done);
        QVERIFY(m.closed);
        QCOMPARE(m.genus, std::ptrdiff_t(0));
        QVERIFY2(isNear(m.volumeMm3, measured(c).volumeMm3, spacing > 2 ? 0.02 : 0.006),
                 qPrintable(QString::number(m.volumeMm3)));
        const auto less = [](Vec3f a, Vec3f b) { return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z); };
        std::vector<Vec3f> now = is.shown.positions.flatten();
        std::sort(now.begin(), now.end(), less);
        std::size_t kept = 0;
        for (const Vec3f p : was.shown.positions.flatten())
            if (!inCap(p)) {
                QVERIFY(std::binary_search(now.begin(), now.end(), p, less));
                ++kept;
            }
        QVERIFY(kept > 2000 && kept < was.body.size() - 1000);
        // New edges are as long as the cells, but where the strip meets the old ones.
        double sum = 0;
        std::size_t edges = 0, thin = 0, triangles = 0;
        const mesh::PolyMesh mesh = toPolyMesh(is.shown);
        for (const mesh::Face &f : mesh.faces) {
            const Vec3f a = mesh.positions[f.v[0]], b = mesh.positions[f.v[1]], d = mesh.positions[f.v[2]];
            if (a.x > 10 && b.x > 10)
                sum += double(length(a - b)), ++edges;
            if (f.size() == 3 && a.x > 4 && a.x < 12) {
                const double area = double(length(cross(b - a, d - a)));
                const double longest = double(std::max({squaredLength(b - a), squaredLength(d - b), squaredLength(a - d)}));
                ++triangles;
                thin += area < longest * 0.2; // flatter than an angle of 11 degrees at the longest edge
            }
        }
        QVERIFY2(isNear(sum / double(edges), spacing, 0.25), qPrintable(QString::number(sum / double(edges))));
        QVERIFY(triangles > 20);
        QVERIFY2(double(thin) < (spacing > 2 ? 0.06 : 0.03) * double(triangles),
                 qPrintable(QString("%1 of %2").arg(thin).arg(triangles)));
        for (std::size_t v = 0; v < is.body.size(); v += 7) // the layer came along
            QVERIFY(length(is.layers[0].offsets[v] - Vec3f{0.2f, 0, 0}) < 1e-5f);
    }
    void reknitWhereMaskedIsRefused()
    {
        const json command = {{"do", "piece.reknit"}, {"spacing", 3}, {"where", "masked"}};
        const Creature ball = withPieces({test::sphere(20, 60, 90)});
        QVERIFY(!run(ball, command));                                                    // nothing is masked
        QVERIFY(!run(masked(ball, [](Vec3f) { return true; }), command));                // all is
        QVERIFY(!run(masked(ball, [](Vec3f p) { return std::abs(p.x) < 2; }), command)); // a band of one cell
        QVERIFY(
            !run(masked(ball, [](Vec3f p) { return p.x > 0; }), {{"do", "piece.reknit"}, {"faces", 900}, {"where", "masked"}}));
    }
    // Two balls that coincide and melt over k bulge by k/4 (the blend's own definition, by hand); apart they are just
    // two. Far from the seam the surface stays where it was.
    void softJoinMelts()
    {
        const Creature c = withPieces({test::sphere(20, 60, 90), test::sphere(20, 60, 90, {30, 0, 0})});
        const json join = {{"do", "pieces.combine"}, {"pieces", {"a", "b"}}, {"how", "join"}, {"spacing", 0.8}};
        double last = 0;
        for (const double melt : {0.0, 8.0}) {
            json command = join;
            command["melt"] = melt;
            const auto joined = run(c, command);
            QVERIFY(bool(joined));
            const mesh::Measures m = measured(*joined);
            QVERIFY(m.closed && m.components == 1 && m.genus == 0);
            QCOMPARE(joined->pieces[0]->skin.layers.size(), std::size_t(1));
            // Of two balls of r at a distance d: both less the lens.
            const double d = 30, lens = std::numbers::pi * (80 + d) * std::pow(40 - d, 2) / 12;
            if (melt == 0)
                QVERIFY2(isNear(m.volumeMm3, 2 * kBall - lens, 0.006), qPrintable(QString::number(m.volumeMm3)));
            else
                QVERIFY(m.volumeMm3 > last + 100);
            last = m.volumeMm3;
            for (const Vec3f p : joined->pieces[0]->skin.shown.positions.flatten())
                if (p.x < 0)
                    QVERIFY(std::abs(length(p - Vec3f{0.1f, 0, 0}) - 20) < 0.1f);
        }
        json cut = join;
        cut["how"] = "cut", cut["melt"] = 2;
        const auto bitten = run(c, cut);
        QVERIFY(bool(bitten));
        QVERIFY(measured(*bitten).closed && measured(*bitten).volumeMm3 < kBall * 0.95);
        cut["how"] = "common", cut["melt"] = 0;
        const auto lens = run(c, cut);
        QVERIFY(bool(lens));
        QVERIFY(isNear(measured(*lens).volumeMm3, std::numbers::pi * 110 * 100 / 12, 0.02));
    }
    // Only what melts is knitted: the surface is that of the blend (its definition, by hand, of two balls), all else stays, to
    // the bit.
    void softJoinOfTheSeamAlone()
    {
        // A layer moves both by a tenth of a millimetre.
        const Creature c = withPieces({test::sphere(20, 150, 220), test::sphere(12, 90, 140, {24, 3, 1})});
        for (const char *how : {"join", "cut", "common"}) {
            const double melt = 4, spacing = 0.4;
            const auto made = run(c, {{"do", "pieces.combine"},
                                      {"pieces", {"a", "b"}},
                                      {"how", how},
                                      {"spacing", spacing},
                                      {"melt", melt},
                                      {"where", "seam"}});
            QVERIFY(bool(made));
            const mesh::Measures m = measured(*made);
            QVERIFY2(m.closed && m.components == 1 && m.genus == 0, how);
            const bool isCut = how == std::string("cut"), isJoin = how == std::string("join");
            std::set<std::array<float, 3>> places;
            double worst = 0;
            for (const Vec3f p : made->pieces[0]->skin.shown.positions.flatten()) {
                places.insert({p.x, p.y, p.z});
                double a = double(length(p - Vec3f{0.1f, 0, 0})) - 20, b = double(length(p - Vec3f{24.1f, 3, 1})) - 12;
                if (!isJoin)
                    a = -a, b = isCut ? b : -b;
                const double h = std::max(0.0, melt - std::abs(a - b));
                worst = std::max(worst, std::abs(std::min(a, b) - h * h / (4 * melt)));
            }
            QVERIFY2(worst < 0.1, qPrintable(QStringLiteral("%1: %2").arg(how).arg(worst)));
            std::size_t kept = 0;
            for (const Vec3f p : c.pieces[0]->skin.shown.positions.flatten()) {
                const double far = double(length(p - Vec3f{24.1f, 3, 1})) - 12;
                if (how == std::string("common") ? far > -melt - 4 * spacing : far < melt + 4 * spacing)
                    continue;
                ++kept;
                QVERIFY(places.count({p.x, p.y, p.z}) == 1);
            }
            QVERIFY(kept > (how == std::string("common") ? 100u : 15000u));
        }
    }
    // Both sides of a cut lie on each other, which exact joins refuse; melted they are one again, as large as before.
    void whatWasSplitMeltsTogetherAgain()
    {
        const Creature whole = withPieces({test::sphere(20, 150, 220)});
        const auto apart = run(masked(whole, [](Vec3f p) { return p.z > 5; }), {{"do", "piece.split"}, {"by", "mask"}});
        QVERIFY(apart && apart->pieces.size() == 2);
        const auto again = run(*apart, {{"do", "pieces.combine"},
                                        {"pieces", {apart->pieces[0]->id, apart->pieces[1]->id}},
                                        {"how", "join"},
                                        {"melt", 1.5},
                                        {"spacing", 0.4},
                                        {"where", "seam"}});
        QVERIFY(bool(again));
        QVERIFY(!isSaid("could not be knitted"));
        const mesh::Measures m = measured(*again);
        QVERIFY(m.closed && m.components == 1 && m.genus == 0);
        QVERIFY2(isNear(m.volumeMm3, measured(whole).volumeMm3, 0.002), qPrintable(QString::number(m.volumeMm3)));
    }
    void cutTakesTheOthersFromTheFirst()
    {
        const Creature c = withPieces({test::box({0, 0, 0}, {20, 20, 20}), test::box({10, -5, -5}, {30, 30, 30})});
        const auto cut = run(c, {{"do", "pieces.combine"}, {"pieces", {"a", "b"}}, {"how", "cut"}, {"keep", true}});
        QVERIFY(bool(cut));
        QVERIFY(isNear(measured(*cut).volumeMm3, 4000, 1e-4));
        QCOMPARE(cut->pieces.size(), std::size_t(2));
        QVERIFY(!run(c, {{"do", "pieces.combine"}, {"pieces", {"a"}}, {"how", "cut"}}));
        QVERIFY(!run(c, {{"do", "pieces.combine"}, {"pieces", {"a", "nobody"}}, {"how", "cut"}}));
    }
    void islandsBecomePieces()
    {
        mesh::PolyMesh three = test::sphere(5, 12, 18);
        append(three, test::sphere(4, 12, 18, {20, 0, 0}));
        append(three, test::sphere(3, 12, 18, {40, 0, 0}));
        const auto parts = run(withPieces({three}), {{"do", "piece.split"}, {"by", "islands"}});
        QVERIFY(bool(parts));
        QCOMPARE(parts->pieces.size(), std::size_t(3));
        for (const auto &p : parts->pieces)
            QCOMPARE(p->skin.layers.size(), std::size_t(1));
        QVERIFY(!run(*parts, {{"do", "piece.split"}, {"piece", parts->pieces[0]->id}, {"by", "islands"}}));
    }
    // A jaw from a skull: both sides are closed, and together they are what there was.
    void maskedPartComesOffClosed()
    {
        const Creature c = masked(withPieces({test::sphere(20, 100, 150)}), [](Vec3f p) { return p.y < -5; });
        const auto parts = run(c, {{"do", "piece.split"}, {"by", "mask"}, {"name", "jaw"}});
        QVERIFY(bool(parts));
        QCOMPARE(parts->pieces.size(), std::size_t(2));
        QCOMPARE(parts->pieces[1]->name, std::string("jaw"));
        const mesh::Measures skull = measured(*parts, 0), jaw = measured(*parts, 1);
        QVERIFY(skull.closed && jaw.closed);
        QVERIFY(isNear(skull.volumeMm3 + jaw.volumeMm3, measured(c).volumeMm3, 1e-3));
        const double h = 15;                                                           // spherical cap: pi h^2 (3r - h) / 3
        QVERIFY(isNear(jaw.volumeMm3, std::numbers::pi * h * h * (60 - h) / 3, 0.05)); // the cut runs between vertices
        QVERIFY(!run(withPieces({test::sphere(20, 10, 15)}), {{"do", "piece.split"}, {"by", "mask"}})); // nothing masked
    }
    void trimByALineKeepsBothOnWish()
    {
        const Creature c = withPieces({test::sphere(20, 80, 120)});
        const json line = {{"do", "piece.trim"}, {"line", {{0.1, -50, 0}, {0.1, 50, 0}}}, {"direction", {0, 0, -1}}};
        const auto half = run(c, line);
        QVERIFY(bool(half));
        QVERIFY(measured(*half).closed && isNear(measured(*half).volumeMm3, kBall / 2, 0.01));
        json both = line;
        both["keep"] = "both", both["name"] = "other";
        const auto two = run(c, both);
        QVERIFY(bool(two));
        QCOMPARE(two->pieces.size(), std::size_t(2));
        QVERIFY(isNear(measured(*two, 0).volumeMm3 + measured(*two, 1).volumeMm3, measured(c).volumeMm3, 1e-4));
        json beside = line;
        beside["line"] = {{-90, -50, 0}, {-90, 50, 0}};
        const auto whole = run(c, beside); // nothing lies to its left
        QVERIFY(bool(whole));
        QVERIFY(isNear(measured(*whole).volumeMm3, measured(c).volumeMm3, 1e-6));
    }
    void holeIsMadeAndClosed()
    {
        const Creature c = masked(withPieces({test::sphere(20, 100, 150)}), [](Vec3f p) { return p.z > 17; });
        const auto open = run(c, {{"do", "piece.open"}});
        QVERIFY(bool(open));
        QVERIFY(!measured(*open).closed);
        for (const bool smooth : {false, true}) {
            const auto closed = run(*open, {{"do", "piece.close"}, {"smooth", smooth}, {"near", {0, 0, 20}}});
            QVERIFY(bool(closed));
            QVERIFY(measured(*closed).closed);
            QVERIFY(isSaid("1 holes closed"));
            const double missing = measured(c).volumeMm3 - measured(*closed).volumeMm3;
            QVERIFY(smooth ? std::abs(missing) < 60 : missing > 400); // cap of 3 mm: 536 mm3
        }
        QVERIFY(!run(c, {{"do", "piece.close"}})); // has none
    }
    void plateFromMaskHasItsThickness()
    {
        const Creature c = masked(withPieces({test::sphere(20, 100, 150)}), [](Vec3f p) { return p.y > 10; });
        const auto plates = run(c, {{"do", "piece.shell"}, {"thickness", 1.0}, {"side", "sunk"}});
        QVERIFY(bool(plates));
        QCOMPARE(plates->pieces.size(), std::size_t(2));
        QVERIFY(measured(*plates, 1).closed);
        // Between two caps of the same opening angle (60 degrees): 2 pi (1 - cos) (R^3 - r^3) / 3.
        const double exact = 2 * std::numbers::pi * 0.5 * (8000 - std::pow(19, 3)) / 3;
        QVERIFY(isNear(measured(*plates, 1).volumeMm3, exact, 0.02));
    }
    void simplifyAndDensityKeepLayers()
    {
        const Creature c = masked(withPieces({test::sphere(20, 100, 150)}), [](Vec3f p) { return p.y > 5; });
        const auto light = run(c, {{"do", "piece.simplify"}, {"faces", 4000}});
        QVERIFY(bool(light));
        QVERIFY(isNear(double(measured(*light).triangles), 4000, 0.01));
        QCOMPARE(light->pieces[0]->skin.layers.size(), std::size_t(1));
        QVERIFY(isSaid("4,000 triangles") && isSaid("skin: "));
        const auto dense = run(c, {{"do", "piece.density"}, {"edge", 0.5}});
        QVERIFY(bool(dense));
        QVERIFY(measured(*dense).closed && measured(*dense).faces > measured(c).faces + 8000);
        QCOMPARE(dense->pieces[0]->skin.layers.size(), std::size_t(1));
        QVERIFY(!run(c, {{"do", "piece.density"}, {"edge", 0.001}})); // tens of millions
    }
    // The border between groups stays as fine as it was (against the edges of the ball itself).
    void simplifyKeepsGroupBorders()
    {
        Creature c = withPieces({test::sphere(20, 100, 150)});
        auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
        std::vector<std::uint16_t> groupOf;
        for (const Vec3f p : piece->skin.shown.positions.flatten())
            groupOf.push_back(p.x + 0.4f * p.y > 2 ? 1 : 0);
        piece->skin.groups = {{1, "cheek"}};
        piece->skin.groupOf = mesh::BlockArray<std::uint16_t>(groupOf);
        c.put(piece);
        const auto widest = [](const skin::Skin &s) { // of the edges from group to group
            float most = 0;
            for (const mesh::Face &f : s.shown.topology->faces())
                for (std::size_t k = 0, n = std::size_t(f.size()); k < n; ++k)
                    if (const auto a = f.v[k], b = f.v[(k + 1) % n]; s.groupOf[a] != s.groupOf[b])
                        most = std::max(most, length(s.shown.positions[a] - s.shown.positions[b]));
            return most;
        };
        const auto light = run(c, {{"do", "piece.simplify"}, {"faces", 2500}});
        QVERIFY(bool(light));
        const skin::Skin &now = light->pieces[0]->skin;
        QVERIFY(meanEdgeLength(now.shown) > 1.5f * meanEdgeLength(piece->skin.shown));
        QVERIFY2(widest(now) < 1.5f * widest(piece->skin),
                 qPrintable(QString("%1 %2").arg(double(widest(now))).arg(double(widest(piece->skin)))));
    }
    void repairTellsWhatItDid()
    {
        mesh::PolyMesh bad = test::sphere(20, 40, 60);
        bad.faces.erase(bad.faces.begin() + 900, bad.faces.begin() + 904);
        bad.faces.push_back(bad.faces.front());
        mesh::PolyMesh inside = test::sphere(5, 10, 15, {50, 0, 0});
        for (mesh::Face &f : inside.faces)
            std::reverse(f.v.begin(), f.v.begin() + f.size());
        append(bad, inside);
        const auto mended = run(withPieces({bad}), {{"do", "piece.repair"}, {"smooth", false}});
        QVERIFY(bool(mended));
        QVERIFY(isSaid("1 faces that stood there twice") && isSaid("1 holes were closed") && isSaid("1 shells were inside out"));
        const mesh::Measures m = measured(*mended);
        QVERIFY(m.closed && m.flippedEdges == 0);
        QVERIFY(m.faces >= bad.faces.size() - 1); // nothing reduced
        const double small = 4.0 / 3 * std::numbers::pi * 125;
        QVERIFY(isNear(m.volumeMm3, kBall + small, 0.01));
        QVERIFY(bool(run(*mended, {{"do", "piece.repair"}})) && isSaid("nothing had to be mended"));
    }
    void projectTakesShapeAndLayers()
    {
        const Creature c = withPieces({test::sphere(18, 20, 30), test::sphere(20, 80, 120)});
        const auto laid = run(c, {{"do", "piece.project"}, {"piece", "a"}, {"onto", "b"}});
        QVERIFY(bool(laid));
        const skin::Skin &s = laid->pieces[0]->skin;
        QCOMPARE(s.body.size(), c.pieces[0]->skin.body.size());
        for (std::size_t v = 0; v < s.body.size(); ++v)
            QVERIFY(std::abs(length(s.shown.positions[v] - Vec3f{0.1f, 0, 0}) - 20) < 0.05f);
        QCOMPARE(s.layers.size(), std::size_t(1));
        QVERIFY(!run(c, {{"do", "piece.project"}, {"piece", "a"}, {"onto", "a"}}));
    }
    void lockedPiecesAreRefused()
    {
        Creature c = withPieces({test::sphere(5, 10, 15), test::sphere(5, 10, 15, {3, 0, 0})});
        c = *run(c, {{"do", "piece.set"}, {"piece", "a"}, {"locked", true}});
        for (const json &command : {json{{"do", "piece.simplify"}, {"piece", "a"}, {"faces", 50}},
                                    json{{"do", "pieces.combine"}, {"pieces", {"b", "a"}}, {"how", "join"}},
                                    json{{"do", "piece.symmetrise"}, {"piece", "a"}, {"from", "left"}}})
            QVERIFY(!run(c, command));
    }
    // Partners by the mirrored faces: what a half is like does not matter, the result is exact.
    void mirroredFacesGiveExactTwins_data()
    {
        QTest::addColumn<QByteArray>("from");
        QTest::newRow("left") << QByteArray("left");
        QTest::newRow("right") << QByteArray("right");
        QTest::newRow("average") << QByteArray("average");
        QTest::newRow("layer") << QByteArray("layer");
    }
    void mirroredFacesGiveExactTwins()
    {
        QFETCH(QByteArray, from);
        Creature c = withPieces({test::sphere(20, 40, 60)});
        auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
        skin::Skin &s = piece->skin;
        s.layers.clear();
        const std::vector<Vec3f> even = s.body.flatten();
        for (std::size_t b = 0; b < s.body.blockCount(); ++b) { // a bump on the left, far larger than a face
            Vec3f *p = s.body.edit(b);
            for (std::size_t i = 0; i < s.body.countIn(b); ++i)
                if (const float d = length(p[i] - Vec3f{20, 0, 0}); d < 10)
                    p[i] += Vec3f{6, 3, 0} * (1 - d / 10);
        }
        std::vector<std::uint32_t> all(s.body.blockCount());
        for (std::uint32_t b = 0; b < all.size(); ++b)
            all[b] = b;
        skin::mixBlocks(s, all);
        bool byTopology = false;
        const auto partner = skin::mirrorPartners(s, byTopology);
        QVERIFY(byTopology);
        for (std::size_t v = 0; v < even.size(); ++v) // as the sphere had them
            QVERIFY(length(even[partner[v].corners[0]] - mirrored(even[v])) < 1e-3f);
        c.put(piece);
        const auto done = run(c, {{"do", "piece.symmetrise"}, {"from", from.toStdString()}});
        QVERIFY(bool(done));
        const skin::Skin &now = done->pieces[0]->skin;
        double widest = 0;
        for (std::size_t v = 0; v < even.size(); ++v) {
            const Vec3f twin = mirrored(now.body[partner[v].corners[0]]);
            QVERIFY(length(now.body[v] - twin) < 1e-4f);
            widest = std::max(widest, double(now.body[v].x));
        }
        QVERIFY(isNear(widest, from == "left" ? 26 : from == "right" ? 20 : 23, 0.01));
        if (from == "layer") {
            QCOMPARE(now.layers.size(), std::size_t(1));
            QCOMPARE(now.layers[0].name, std::string("Asymmetry"));
            for (std::size_t v = 0; v < even.size(); ++v) // at full strength it looks as before
                QVERIFY(length(now.shown.positions[v] - s.shown.positions[v]) < 1e-4f);
        }
    }
    void facesThatAreNotMirroredMatchByPlace()
    {
        // A knit whose lattice does not lie symmetrically about the middle.
        const auto knitted = field::knitMesh(test::sphere(20, 60, 90, {0.37f, 0, 0}), {1, 0});
        Creature c = withPieces({knitted->mesh});
        const auto done = run(c, {{"do", "piece.symmetrise"}, {"from", "average"}});
        QVERIFY(bool(done));
        QVERIFY(isSaid("not mirrored themselves"));
        skin::Skin now = done->pieces[0]->skin;
        const auto again = skin::symmetrise(now, skin::Symmetry::Average, 0);
        QVERIFY2(again.meanMm < 0.03, qPrintable(QString::number(again.meanMm))); // they were 0.9 mm apart
    }
};

BONEMOSS_TEST(TestRebuild)
#include "tst_rebuild.moc"
