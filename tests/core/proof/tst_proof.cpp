// What a printer will make of a body. Oracles: areas and volumes of balls, rings, boxes and cones in closed form (I. Bronshtein & K.
// Semendyayev, "Handbook of Mathematics", 3.3); walls, gaps, cups, pockets and islands that were built in; how a body stands.
#include "proof/layers.h"
#include "proof/proof.h"
#include "proof/walls.h"
#include "support/run.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <fstream>

using namespace bonemoss;
using namespace bonemoss::proof;

namespace {

mesh::PolyMesh moved(mesh::PolyMesh m, Vec3f by)
{
    for (Vec3f &p : m.positions)
        p = p + by;
    return m;
}
mesh::PolyMesh turnedOver(mesh::PolyMesh m)
{
    for (mesh::Face &f : m.faces)
        f = io::flipped(f);
    return m;
}
std::vector<Triangle> trianglesOf(const mesh::PolyMesh &m)
{
    std::vector<Triangle> out;
    for (const auto &t : mesh::triangulate(m))
        out.push_back({m.positions[t[0]], m.positions[t[1]], m.positions[t[2]]});
    return out;
}
mesh::PolyMesh together(std::initializer_list<mesh::PolyMesh> parts)
{
    mesh::PolyMesh all;
    for (const mesh::PolyMesh &p : parts)
        append(all, p);
    return all;
}
/// A box that stands on four walls, open above or below.
mesh::PolyMesh tub(bool opensUp)
{
    const float lid = opensUp ? 0.0f : 18.0f;
    return together({test::box({-10, 0, -10}, {-8, 20, 10}), test::box({8, 0, -10}, {10, 20, 10}),
                     test::box({-8, 0, -10}, {8, 20, -8}), test::box({-8, 0, 8}, {8, 20, 10}),
                     test::box({-9, lid, -9}, {9, lid + 2, 9})});
}
Report provedOf(const io::Scene &scene, ProofJob job = {})
{
    if (job.profile.id.empty())
        job.profile = printerProfiles().front();
    auto made = prove(scene, job);
    if (!made)
        qFatal("%s", made.error().text().c_str());
    return *made;
}
Report provedOf(const mesh::PolyMesh &m, ProofJob job = {})
{
    io::Scene scene;
    scene.add({"body", m});
    return provedOf(scene, std::move(job));
}
const Finding *find(const Report &r, std::string_view kind)
{
    for (const Finding &f : r.findings)
        if (f.kind->id == kind)
            return &f;
    return nullptr;
}
std::size_t countOf(const std::vector<Region> &all, Region::Kind kind)
{
    return std::size_t(std::count_if(all.begin(), all.end(), [&](const Region &r) { return r.kind == kind; }));
}

} // namespace

class TestProof : public QObject
{
    Q_OBJECT
private slots:
    void layersHaveTheAreasOfTheirShapes()
    {
        const auto ball = layersOf(trianglesOf(test::sphere(10, 200, 400)), 0.1f, 0.1f);
        QVERIFY(bool(ball));
        QCOMPARE(ball->count, 200);
        QVERIFY(std::abs(ball->volume() / (4.0 / 3 * std::numbers::pi * 1000) - 1) < 2e-3);
        for (const int k : {20, 100, 160}) {
            const double y = -10 + (k + 0.5) * 0.1;
            QVERIFY(std::abs(ball->area[std::size_t(k)] / (std::numbers::pi * (100 - y * y)) - 1) < 5e-3);
        }
        const auto ring = layersOf(trianglesOf(test::torus(10, 3, 300, 150)), 0.1f, 0.1f);
        QVERIFY(bool(ring) && std::abs(ring->volume() / (2 * std::numbers::pi * std::numbers::pi * 10 * 9) - 1) < 3e-3);
        const auto box = layersOf(trianglesOf(test::box({0, 0, 0}, {4, 6, 8})), 0.1f, 0.1f);
        QVERIFY(bool(box) && std::abs(box->volume() - 192) < 1e-2);
        // The same on one thread, and bodies within bodies are one.
        const auto doubled =
            layersOf(trianglesOf(together({test::box({0, 0, 0}, {4, 6, 8}), test::box({1, 1, 1}, {3, 5, 7})})), 0.1f, 0.1f);
        QVERIFY(bool(doubled) && std::abs(doubled->volume() - 192) < 1e-2);
        double overlap = 0;
        for (const double a : doubled->overlap)
            overlap += a * 0.1;
        QVERIFY(std::abs(overlap - 2 * 4 * 6) < 1e-2);
        QCOMPARE(layersOf({}, 0.1f, 0.1f).error().code, ErrorCode::Empty);
        QCOMPARE(layersOf(trianglesOf(test::box({0, 0, 0}, {4000, 6000, 8000})), 0.001f, 0.001f).error().code,
                 ErrorCode::TooLarge);
    }
    void whatLiesTogether()
    {
        const auto regions = [](const mesh::PolyMesh &m) { return regionsOf(*layersOf(trianglesOf(m), 0.2f, 0.2f)); };
        // Balls within balls: two hollows, one of them in the ball inside the other.
        const auto hollow = regions(together({test::sphere(20, 60, 120), turnedOver(test::sphere(15, 60, 120)),
                                              test::sphere(10, 60, 120), turnedOver(test::sphere(6, 60, 120))}));
        QCOMPARE(countOf(hollow, Region::Kind::Pocket), std::size_t(2));
        const auto volume = [](double r) { return 4.0 / 3 * std::numbers::pi * r * r * r; };
        for (const Region &r : hollow)
            if (r.kind == Region::Kind::Pocket)
                QVERIFY(std::abs(r.volume / (volume(15) - volume(10)) - 1) < 0.02 || std::abs(r.volume / volume(6) - 1) < 0.03);
        QCOMPARE(countOf(hollow, Region::Kind::Loose), std::size_t(1)); // the ball within touches nothing
        // A tub that opens upwards closes towards the plate; one that stands upside down is closed by the plate itself, and is no
        // pocket, since it is open once it is taken off.
        QCOMPARE(countOf(regions(tub(true)), Region::Kind::Cup), std::size_t(1));
        QVERIFY(std::abs(regions(tub(true)).front().area - 256) < 8);
        QCOMPARE(countOf(regions(tub(false)), Region::Kind::Cup), std::size_t(1));
        QCOMPARE(countOf(regions(tub(false)), Region::Kind::Pocket), std::size_t(0));
        // An arm that hangs from a beam begins in the air.
        const auto gallows = regions(together(
            {test::box({0, 0, 0}, {4, 30, 4}), test::box({0, 26, 0}, {20, 30, 4}), test::box({16, 10, 1}, {18, 27, 3})}));
        QCOMPARE(countOf(gallows, Region::Kind::Island), std::size_t(1));
        QVERIFY(std::abs(gallows.front().at.y - 10) < 0.3f && std::abs(gallows.front().area - 4) < 0.5f);
        QCOMPARE(countOf(gallows, Region::Kind::Loose), std::size_t(0));
    }
    void wallsAreAsThickAsBuilt()
    {
        const auto least = [](const mesh::PolyMesh &m, float near) {
            io::Scene scene;
            scene.add({"body", m});
            const portrait::TracedScene traced(scene);
            float out = 1e30f;
            for (const WallPlace &w : wallsOf(traced, trianglesOf(m), 1, near, 1))
                out = std::min(out, w.thickness);
            return out;
        };
        QVERIFY(std::abs(least(test::box({0, 0, 0}, {30, 30, 0.8f}), 2) - 0.8f) < 0.01f);                         // slab
        QVERIFY(std::abs(least(test::torus(10, 1, 200, 60), 4) / 2 - 1) < 0.08f);                                 // ring
        const mesh::PolyMesh shell = together({test::sphere(10, 60, 120), turnedOver(test::sphere(9, 60, 120))}); // shell
        QVERIFY(std::abs(least(shell, 2) - 1) < 0.05f);
        // A tooth sunk into a jaw: the wall of the jaw within it does not count.
        QVERIFY(least(together({test::box({0, 0, 0}, {20, 20, 20}), test::box({8, 19.5f, 8}, {12, 26, 12})}), 1) > 3.9f);
    }
    void findingsOfBodiesThatWereBuiltWrong()
    {
        const Report sound = provedOf(test::box({0, 0, 0}, {20, 30, 20}));
        QVERIFY(sound.isSound() && sound.stands && std::abs(sound.marginMm - 10) < 0.1f && sound.pockets == 0);
        QVERIFY(std::abs(sound.volumeMm3 / 12000 - 1) < 0.01 && std::abs(sound.weightG - 12 * 1.12) < 0.2 && sound.layers == 600);
        QVERIFY(!find(sound, "wall") && !find(sound, "island") && !find(sound, "overhang"));
        // The size of the print scales what is told.
        const Report larger = provedOf(test::box({0, 0, 0}, {20, 30, 20}), {.heightMm = 60});
        QVERIFY(std::abs(larger.volumeMm3 / 96000 - 1) < 0.01 && std::abs(larger.size.x - 40) < 1e-3f && larger.layers == 1200);
        const Finding *size = nullptr;
        const Report huge = provedOf(test::box({0, 0, 0}, {20, 30, 20}), {.heightMm = 300});
        QVERIFY((size = find(huge, "size")) && std::abs(size->value - 140) < 0.1 && !huge.isSound());
        // A wall of 0.6 mm; the same at three times the size is thick enough.
        const mesh::PolyMesh sheet = together({test::box({0, 0, 0}, {20, 4, 10}), test::box({0, 3.9f, 4.7f}, {20, 20, 5.3f})});
        const Report thin = provedOf(sheet);
        QVERIFY(find(thin, "wall") && std::abs(find(thin, "wall")->value - 0.6) < 0.05
                && std::abs(thin.leastThicknessMm - 0.6f) < 0.05f);
        QVERIFY(!find(provedOf(sheet, {.heightMm = 60}), "wall"));
        // Faults of the mesh.
        mesh::PolyMesh open = test::box({0, 0, 0}, {10, 10, 10});
        open.faces.pop_back();
        QVERIFY(find(provedOf(open), "open") && find(provedOf(open), "open")->value == 4);
        QVERIFY(find(provedOf(turnedOver(test::sphere(10, 20, 40))), "inverted"));
        QVERIFY(find(provedOf(together({test::sphere(10, 40, 80), moved(test::sphere(10, 40, 80), {8, 0, 0})})), "crossing"));
        // Lens of two balls: pi (4 r + d) (2 r - d)^2 / 12.
        const Finding *overlap =
            find(provedOf(together({test::sphere(10, 60, 120), moved(test::sphere(10, 60, 120), {8, 0, 0})})), "overlap");
        QVERIFY(overlap);
        io::Scene two;
        two.add({"one", test::sphere(10, 60, 120)}), two.add({"other", moved(test::sphere(10, 60, 120), {8, 0, 0})});
        QVERIFY(std::abs(provedOf(two).overlapMm3 / (std::numbers::pi * 48 * 144 / 12) - 1) < 0.02);
        // A T leans to where its arm is; a plank on a post has an overhang.
        const mesh::PolyMesh leaning = together({test::box({0, 0, 0}, {4, 20, 4}), test::box({3, 16, 0}, {40, 20, 4})});
        const Report tips = provedOf(leaning);
        QVERIFY(!tips.stands && find(tips, "stance"));
        QVERIFY(find(tips, "overhang") && std::abs(find(tips, "overhang")->value - 36 * 4) < 4);
        QVERIFY(!find(provedOf(tub(true), {.profile = *printerProfile("filament")}), "cup") && find(provedOf(tub(true)), "cup"));
        QVERIFY(find(provedOf(together({test::box({0, 0, 0}, {10, 10, 10}), test::box({10.2f, 0, 0}, {20, 10, 10})})), "gap"));
        QCOMPARE(prove({}, {.profile = printerProfiles().front()}).error().code, ErrorCode::Empty);
    }
    void printersAreReadFromFiles()
    {
        for (const PrinterProfile &p : printerProfiles())
            QVERIFY(printerProfile(p.id)->title == p.title && p.layer > 0);
        QVERIFY(printerProfile("lathe").error().text().find("filament") != std::string::npos);
        QTemporaryDir folder;
        const std::string file = (folder.path() + "/own.json").toStdString();
        const auto given = [&](const char *text) {
            std::ofstream(file) << text;
            return printerProfile(file);
        };
        const auto own = given(R"({"like": "filament", "title": "Mine", "layer": 0.3, "width": 300})");
        QVERIFY(bool(own) && !own->isResin && own->layer == 0.3f && own->build.x == 300
                && own->wall == printerProfile("filament")->wall);
        std::ofstream(file) << toJson(*own);
        QVERIFY(printerProfile(file)->layer == 0.3f && !printerProfile(file)->isResin);
        QVERIFY(given(R"({"layer": -1})").error().text().find("layer") != std::string::npos);
        QVERIFY(!given(R"({"layer": "thin"})") && !given("[]") && !given("{") && !given(R"({"like": "lathe"})")
                && !given(R"({"resin": 1})"));
        QCOMPARE(printerProfile("no/such.json").error().code, ErrorCode::Unreadable);
    }
};

BONEMOSS_TEST(TestProof)
#include "tst_proof.moc"
