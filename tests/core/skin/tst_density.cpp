// Edge lengths within a spot of skin. Oracles: Euler's formula and edge counts (closed, manifold, genus); the sphere and the
// torus in closed form; angles and lengths measured by hand on the faces; that what is outside keeps its bits. The bounds on
// edge lengths are those of M. Botsch, L. Kobbelt, "A Remeshing Approach to Multiresolution Modeling", 2004, section 4.
#include "support/run.h"
#include "base/random.h"
#include "command/stroke_command.h"
#include "skin/levels.h"
#include "skin/local_density.h"
#include "mesh/even_patch.h"
#include "mesh/measures.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>

#include <algorithm>
#include <numbers>

using namespace bonemoss;
using nlohmann::json;
using skin::Evening;
using skin::Skin;
using test::run;

namespace {

constexpr double kDegrees = 180 / std::numbers::pi;

/// Smallest angle of a triangle, in degrees.
double smallestAngle(Vec3f a, Vec3f b, Vec3f c)
{
    const auto angle = [](Vec3f at, Vec3f p, Vec3f q) {
        const Vec3f u = p - at, v = q - at;
        return std::atan2(double(length(cross(u, v))), double(dot(u, v)));
    };
    return kDegrees * std::min({angle(a, b, c), angle(b, c, a), angle(c, a, b)});
}

struct Look {
    double thin = 0;                  ///< share of triangles with an angle under 15 degrees
    double shortest = 0, longest = 0; ///< edges, mm
    double mean = 0;
    std::size_t triangles = 0;
};

/// The triangles that lie within a ball.
Look lookAt(const Skin &s, Vec3f centre, float radius)
{
    Look out;
    out.shortest = 1e9;
    std::size_t edges = 0;
    const mesh::PolyMesh m = toPolyMesh(s.shown);
    for (const mesh::Face &f : m.faces) {
        if (f.size() != 3)
            continue;
        const Vec3f p[3] = {m.positions[f.v[0]], m.positions[f.v[1]], m.positions[f.v[2]]};
        if (std::any_of(p, p + 3, [&](Vec3f q) { return length(q - centre) > radius; }))
            continue;
        ++out.triangles;
        out.thin += smallestAngle(p[0], p[1], p[2]) < 15;
        for (int k = 0; k < 3; ++k) {
            const double l = double(length(p[k] - p[(k + 1) % 3]));
            out.shortest = std::min(out.shortest, l), out.longest = std::max(out.longest, l);
            out.mean += l, ++edges;
        }
    }
    out.thin /= double(std::max<std::size_t>(1, out.triangles));
    out.mean /= double(std::max<std::size_t>(1, edges));
    return out;
}

mesh::Measures measured(const Skin &s)
{
    return mesh::measure(toPolyMesh(s.shown));
}

/// Whether a spot whose edges were changed makes a closed ball with what was left about it.
bool isClosedBall(const mesh::EvenedPatch &spot, mesh::PolyMesh rest)
{
    for (const auto &t : spot.triangles)
        rest.faces.push_back({{t[0], t[1], t[2], kNone}});
    rest.positions = spot.positions;
    const mesh::Measures m = mesh::measure(rest);
    return spot.isChanged && m.closed && m.genus == 0;
}

/// A ball of 20 mm under a layer that lifts it along x in proportion to y, half masked by name.
Skin layeredBall()
{
    Skin s = skin::makeSkin(test::sphere(20, 60, 90), false);
    skin::Layer l(s.body.size());
    l.id = 7, l.name = "relief", l.strength = 0.5f;
    std::vector<Vec3f> offsets;
    std::vector<std::uint8_t> side;
    for (const Vec3f p : s.body.flatten())
        offsets.push_back({0.1f * p.y, 0, 0}), side.push_back(p.y > 0 ? 255 : 0);
    l.offsets = mesh::BlockArray<Vec3f>(offsets);
    s.layers.push_back(l);
    s.masks.push_back({"upper", mesh::BlockArray<std::uint8_t>(side)});
    std::vector<std::uint32_t> all(s.body.blockCount());
    std::iota(all.begin(), all.end(), 0u);
    skin::mixBlocks(s, all);
    return s;
}

} // namespace

class TestDensity : public QObject
{
    Q_OBJECT

private slots:
    void spotsGetTheLengthAskedFor_data()
    {
        QTest::addColumn<int>("how");
        QTest::addColumn<float>("edge");
        QTest::newRow("finer") << int(Evening::Finer) << 0.4f;
        QTest::newRow("much finer") << int(Evening::Finer) << 0.15f;
        QTest::newRow("coarser") << int(Evening::Coarser) << 2.5f;
        QTest::newRow("both") << int(Evening::Both) << 0.8f;
    }
    void spotsGetTheLengthAskedFor()
    {
        QFETCH(int, how);
        QFETCH(float, edge);
        Skin s = skin::makeSkin(test::sphere(20, 60, 90), false);
        const double volume = measured(s).volumeMm3;
        const Skin before = s;
        const Vec3f at{14.2f, 14.0f, 0};
        std::vector<std::uint32_t> changed;
        for (int k = 0; k < 3; ++k) // a brush passes over a spot more than once
            if (const auto c = skin::evenOut(s, std::vector<skin::Spot>{{at, normalized(at), 8}}, edge, Evening(how)); !c.empty())
                changed = c;
        QVERIFY(!changed.empty());
        skin::compact(s);
        const mesh::Measures m = measured(s);
        QVERIFY(m.closed);
        QCOMPARE(m.genus, std::ptrdiff_t(0));
        QCOMPARE(m.components, std::size_t(1));
        // New vertices lie on the faces that were there, so the volume changes by less than the faces' flatness.
        QVERIFY2(std::abs(m.volumeMm3 / volume - 1) < 0.004, qPrintable(QString::number(m.volumeMm3 / volume)));
        const Look in = lookAt(s, at, 8 * 0.55f);
        QVERIFY(in.triangles > 10);
        QVERIFY2(in.thin < 0.01, qPrintable(QString::number(in.thin)));
        // Splits end under 4/3, collapses over 4/5 of the length; turning and relaxing stretch some by a part of that.
        if (Evening(how) != Evening::Coarser)
            QVERIFY2(in.longest < 1.7 * double(edge), qPrintable(QString::number(in.longest)));
        QVERIFY2(in.mean > 0.7 * double(edge) && in.mean < 1.35 * double(edge), qPrintable(QString::number(in.mean)));
        // The creature before is a value: nothing of it changed.
        QCOMPARE(before.body.size(), std::size_t(59 * 90 + 2));
        QVERIFY(before.shown.topology->unusedCount() == 0);
    }
    void whatIsFineEnoughIsLeftAlone()
    {
        Skin s = skin::makeSkin(test::sphere(20, 60, 90), false); // edges of 1 to 1.4 mm
        const auto topology = s.shown.topology;
        const std::vector<skin::Spot> spot{{{20, 0, 0}, {1, 0, 0}, 7}};
        QVERIFY(skin::evenOut(s, spot, 5, Evening::Finer).empty());
        QVERIFY(skin::evenOut(s, spot, 0.3f, Evening::Coarser).empty());
        QCOMPARE(s.shown.topology, topology);
    }
    void whatIsOutsideOrMaskedKeepsItsBits()
    {
        Skin s = layeredBall();
        for (std::size_t b = 0; b < s.mask.blockCount(); ++b)
            for (std::size_t i = 0; i < s.mask.countIn(b); ++i)
                s.mask.edit(b)[i] = s.body.data(b)[i].z > 2 ? 255 : 0;
        const Skin before = s;
        const Vec3f at{20, 0, 0};
        skin::evenOut(s, std::vector<skin::Spot>{{at, {1, 0, 0}, 7}}, 0.3f, Evening::Finer);
        std::size_t masked = 0;
        for (std::size_t v = 0; v < before.body.size(); ++v) {
            const bool isOut = length(before.shown.positions[v] - at) > 7;
            if (!isOut && before.mask[v] < 128)
                continue;
            masked += !isOut;
            QCOMPARE(s.shown.positions[v], before.shown.positions[v]);
            QCOMPARE(s.body[v], before.body[v]);
            QCOMPARE(s.layers[0].offsets[v], before.layers[0].offsets[v]);
            QCOMPARE(s.masks[0].values[v], before.masks[0].values[v]);
        }
        QVERIFY(masked > 20 && s.body.size() > before.body.size());
    }
    // The layer is 0.1 y along x: linear, so on any new vertex it must be that of its place on the old faces.
    void layersAndMasksComeAlong()
    {
        Skin s = layeredBall();
        Skin off = s; // switched off before
        const Vec3f at{20.0f, 0, 0};
        skin::evenOut(s, std::vector<skin::Spot>{{at, {1, 0, 0}, 7}}, 0.25f, Evening::Both);
        QVERIFY(s.body.size() > off.body.size());
        skin::compact(s);
        std::size_t wrong = 0;
        for (std::size_t v = 0; v < s.body.size(); ++v) {
            const Vec3f b = s.body[v], o = s.layers[0].offsets[v];
            QVERIFY2(length(o - Vec3f{0.1f * b.y, 0, 0}) < 2e-5f * 20, qPrintable(QString::number(double(o.x))));
            QVERIFY(length(s.shown.positions[v] - (b + o * 0.5f)) < 1e-5f * 20);
            // Without the layer the ball is as round as its faces were flat.
            QVERIFY(std::abs(length(b) - 20) < 0.05f);
            wrong += std::abs(b.y) > 1 && (s.masks[0].values[v] > 127) != (b.y > 0);
        }
        QCOMPARE(wrong, std::size_t(0));
    }
    void thinPartsKeepTheirFarSide()
    {
        // A plate of 1 mm: its lower side is well inside the ball, but not connected within it.
        mesh::PolyMesh plate;
        const mesh::PolyMesh top = test::plane(60, 60);
        plate = top;
        mesh::PolyMesh below = top;
        for (Vec3f &p : below.positions)
            p.y = -1;
        for (mesh::Face &f : below.faces)
            std::reverse(f.v.begin(), f.v.end());
        mesh::append(plate, below);
        Skin s = skin::makeSkin(plate, false);
        const Skin before = s;
        skin::evenOut(s, std::vector<skin::Spot>{{{0, 0, 0}, {0, 1, 0}, 6}}, 0.3f, Evening::Finer);
        for (std::size_t v = before.body.size(); v < s.body.size(); ++v)
            QCOMPARE(s.shown.positions[v].y, 0.0f);
        std::size_t lower = 0;
        for (std::size_t b = 0; b < s.shown.topology->blockCount(); ++b)
            for (std::size_t i = 0; i < s.shown.topology->block(b).drawnFaces; ++i)
                lower += s.shown.positions[s.shown.topology->faceOf(b, i).v[0]].y < -0.5f;
        QCOMPARE(lower, std::size_t(3600));
    }
    void compactingKeepsEverything()
    {
        Skin s = layeredBall();
        const Vec3f at{0, 20, 0};
        skin::evenOut(s, std::vector<skin::Spot>{{at, {0, 1, 0}, 9}}, 3, Evening::Coarser);
        QVERIFY(s.shown.topology->unusedCount() > 0);
        const mesh::Measures before = measured(s);
        Skin c = s;
        skin::compact(c);
        QCOMPARE(c.shown.topology->unusedCount(), std::size_t(0));
        QCOMPARE(c.body.size(), s.body.size() - s.shown.topology->unusedCount());
        const mesh::Measures after = measured(c);
        QCOMPARE(after.faces, before.faces);
        QVERIFY(std::abs(after.volumeMm3 - before.volumeMm3) < 1e-9 * before.volumeMm3);
        QCOMPARE(after.closed, true);
        // Faces follow each other in block order in both; the same corners at the same places.
        std::vector<Vec3f> a, b;
        for (const auto &[skin, out] : {std::pair{&s, &a}, {&c, &b}}) {
            const mesh::PolyMesh m = toPolyMesh(skin->shown);
            for (const mesh::Face &f : m.faces)
                for (int k = 0; k < f.size(); ++k)
                    out->push_back(m.positions[f.v[std::size_t(k)]]);
        }
        const auto less = [](Vec3f p, Vec3f q) { return std::tie(p.x, p.y, p.z) < std::tie(q.x, q.y, q.z); };
        std::sort(a.begin(), a.end(), less), std::sort(b.begin(), b.end(), less);
        QVERIFY(a == b);
    }
    // A spot of any outline, its edges made longer or shorter, fits what is about it.
    void raggedSpotsFitTheRest()
    {
        const mesh::PolyMesh ball = test::sphere(20, 24, 36);
        const std::vector<std::array<std::uint32_t, 3>> triangles = triangulate(ball);
        for (std::uint64_t k = 0; k < 60; ++k) {
            mesh::EdgePatch patch{ball.positions, {}, {}, {}};
            mesh::PolyMesh rest;
            for (std::size_t t = 0; t < triangles.size(); ++t)
                if (randomSigned(k, t) < 0.9f - 0.1f * float(k % 6))
                    patch.triangles.push_back(triangles[t]);
                else
                    rest.faces.push_back({{triangles[t][0], triangles[t][1], triangles[t][2], kNone}});
            patch.edge.assign(ball.positions.size(), k % 2 ? 6.0f : 1.5f);
            patch.isFixed.assign(ball.positions.size(), 0);
            QVERIFY(isClosedBall(mesh::evenOut(patch, 2), rest));
        }
    }
    // Two vertices of a spot's border that meet outside of it get no second edge: a bump stands on a neck of three, one of
    // whose edges lies between two faces outside.
    void aNeckAtTheBorderIsNotPinched()
    {
        enum : std::uint32_t { a, b, v, y, z, x, w };
        mesh::EdgePatch patch;
        patch.positions = {{1, 0.2f, 0},    {1, 0, 0},         {-1, 0, 0},      {0.6f, 0, 1},
                           {0.6f, 0.2f, 1}, {0.3f, -1, -0.5f}, {0.3f, 0.1f, -1}};
        patch.triangles = {{b, a, z}, {b, z, y}, {a, v, z}, {y, z, v}, {x, v, w}, {b, x, w}, {a, b, w}, {v, a, w}};
        patch.edge.assign(7, 2);
        patch.isFixed.assign(7, 0);
        patch.isFixed[z] = 1;
        const mesh::PolyMesh rest{{}, {{{v, b, y, kNone}}, {{b, v, x, kNone}}}};
        QVERIFY(isClosedBall(mesh::EvenedPatch{patch.positions, patch.triangles, {}, {}, {}, true}, rest)); // as it was
        QVERIFY(isClosedBall(mesh::evenOut(patch, 1), rest));
    }
    // A brush over it again and again, so that room is freed and used; every state is a closed skin.
    void manyDabs()
    {
        Skin s = skin::makeSkin(test::torus(30, 9, 80, 30), false);
        std::uint64_t state = 12345;
        for (int k = 0; k < 60; ++k) {
            state = state * 6364136223846793005ull + 1442695040888963407ull;
            const float turn = float(state >> 40) * float(2 * std::numbers::pi / (1 << 24));
            const Vec3f at{39 * std::cos(turn), 0, 39 * std::sin(turn)};
            skin::evenOut(s, std::vector<skin::Spot>{{at, normalized(at), 6}}, k % 3 ? 0.6f : 2.4f,
                          k % 3 ? Evening::Finer : Evening::Coarser);
        }
        const mesh::Measures m = measured(s);
        QVERIFY(m.closed);
        QCOMPARE(m.genus, std::ptrdiff_t(1));
        const double torus = 2 * std::numbers::pi * std::numbers::pi * 30 * 81; // Pappus
        QVERIFY2(std::abs(m.volumeMm3 / torus - 1) < 0.02, qPrintable(QString::number(m.volumeMm3 / torus)));
        QVERIFY(s.shown.box().size().x < 79 && s.shown.box().size().y < 18.1f); // room left behind widens nothing
    }
    // Drawn out for ten times its width it neither tears nor thins out into slivers.
    void tendrilDrawsALimb()
    {
        const document::Creature c = test::withPieces({test::sphere(20, 60, 90)});
        json samples = json::array();
        for (int k = 0; k <= 60; ++k)
            samples.push_back({20.0 + 100.0 * k / 60, 12 * std::sin(k * 0.1), 0.0});
        const auto drawn = run(c, {{"do", "sculpt.stroke"},
                                   {"tool", "tendril"},
                                   {"samples", samples},
                                   {"size", 5},
                                   {"strength", 1},
                                   {"mirror", false},
                                   {"edge", 0.25},
                                   {"falloff", "plateau"}});
        QVERIFY2(bool(drawn), drawn ? "" : drawn.error().text().c_str());
        const Skin &s = drawn->pieces[0]->skin;
        const mesh::Measures m = measured(s);
        QVERIFY(m.closed);
        QCOMPARE(m.genus, std::ptrdiff_t(0));
        QVERIFY2(m.bounds.hi.x > 112, qPrintable(QString::number(double(m.bounds.hi.x))));
        double thin = 0, longest = 0;
        std::size_t n = 0, near = 0;
        const mesh::PolyMesh mesh = toPolyMesh(s.shown);
        for (const mesh::Face &f : mesh.faces) {
            const Vec3f p[3] = {mesh.positions[f.v[0]], mesh.positions[f.v[1]], mesh.positions[f.v[2]]};
            if (f.size() != 3 || p[0].x < 25)
                continue;
            ++n;
            thin += smallestAngle(p[0], p[1], p[2]) < 15;
            for (int k = 0; k < 3; ++k)
                longest = std::max(longest, double(length(p[k] - p[(k + 1) % 3])));
            near += p[0].x > 60;
        }
        QVERIFY(n > 500 && near > 100);
        QVERIFY2(thin / double(n) < 0.01, qPrintable(QString::number(thin / double(n))));
        QVERIFY2(longest < 2 * 0.25 * 5, qPrintable(QString::number(longest)));
        // It went to the body: the layer over it is what it was by place, 0.2 mm along x.
        for (std::size_t v = 0; v < s.body.size(); v += 17)
            QVERIFY(length(s.layers[0].offsets[v] - Vec3f{0.2f, 0, 0}) < 1e-4f);
    }
    void strokesOfDensityAreCommands()
    {
        const document::Creature c = test::withPieces({test::sphere(20, 40, 60)});
        const json denser = {{"do", "sculpt.stroke"},
                             {"tool", "denser"},
                             {"size", 6},
                             {"edge", 0.08},
                             {"samples", json::array({{20, 0, 0}, {19, 6, 0}, {16, 12, 0}})}};
        const auto fine = run(c, denser), again = run(c, denser);
        QVERIFY(fine && again);
        QVERIFY(fine->faceCount() > c.faceCount() + 500);
        QVERIFY(toPolyMesh(fine->pieces[0]->skin.shown).positions == toPolyMesh(again->pieces[0]->skin.shown).positions);
        // Mirrored by default: the far side got as much, within a few faces of it.
        double left = 0, right = 0;
        for (const Vec3f p : fine->pieces[0]->skin.body.flatten())
            left += p.x > 1, right += p.x < -1;
        QVERIFY2(std::abs(left / right - 1) < 0.05, qPrintable(QString("%1 %2").arg(left).arg(right)));
        const auto coarse = run(*fine, {{"do", "sculpt.stroke"},
                                        {"tool", "sparser"},
                                        {"size", 8},
                                        {"edge", 0.4},
                                        {"samples", json::array({{20, 0, 0}, {19, 6, 0}, {16, 12, 0}})}});
        QVERIFY(coarse && coarse->faceCount() < fine->faceCount() - 300);
        QVERIFY(measured(coarse->pieces[0]->skin).closed);
        // Commands that make all faces anew, and files, see no vertex that is not used.
        const auto trimmed =
            run(*coarse, {{"do", "piece.trim"}, {"line", json::array({{0, -30, 0}, {0, 30, 0}})}, {"direction", {0, 0, 1}}});
        QVERIFY2(bool(trimmed), trimmed ? "" : trimmed.error().text().c_str());
        QVERIFY(measured(trimmed->pieces[0]->skin).closed);
        const mesh::PolyMesh file = document::meshOf(*coarse->pieces[0]);
        QCOMPARE(mesh::measure(file).vertices, file.positions.size());
        std::vector<bool> isUsed(file.positions.size(), false);
        for (const mesh::Face &f : file.faces)
            for (int k = 0; k < f.size(); ++k)
                isUsed[f.v[std::size_t(k)]] = true;
        QVERIFY(std::find(isUsed.begin(), isUsed.end(), false) == isUsed.end());
        const auto refined = run(*coarse, {{"do", "piece.refine"}});
        QVERIFY2(bool(refined), refined ? "" : refined.error().text().c_str());
        QVERIFY(measured(refined->pieces[0]->skin).closed);
        const auto refused = run(*refined, denser); // it has levels
        QVERIFY(!refused && refused.error().text().find("levels") != std::string::npos);
    }
};

BONEMOSS_TEST(TestDensity)
#include "tst_density.moc"
