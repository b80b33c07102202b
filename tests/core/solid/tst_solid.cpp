#include "support/run.h"
#include "base/random.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "mesh/parts.h"
#include "solid/combine.h"
#include "solid/density.h"
#include "solid/detail/combine_near.h"
#include "solid/detail/near_seam.h"
#include "solid/holes.h"
#include "solid/shape_tools.h"
#include "support/shapes.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QtTest>
#include <thread>

#include <cmath>
#include <meshoptimizer.h>
#include <numbers>
#include <set>

using namespace bonemoss;
using mesh::Measures;
using mesh::PolyMesh;
using solid::Boolean;
using solid::detail::Whole;

namespace {

constexpr double kExactPi = std::numbers::pi;

bool isNear(double a, double b, double share)
{
    return std::abs(a - b) <= share * std::abs(b);
}

/// Faces whose middle satisfies a rule taken away.
template <typename Rule> PolyMesh without(const PolyMesh &m, const Rule &rule)
{
    std::vector<bool> kept(m.faces.size());
    for (std::size_t f = 0; f < kept.size(); ++f) {
        Vec3f middle;
        for (int k = 0; k < m.faces[f].size(); ++k)
            middle += m.positions[m.faces[f].v[std::size_t(k)]] * (1 / float(m.faces[f].size()));
        kept[f] = !rule(middle);
    }
    return extract(m, kept);
}

PolyMesh moved(PolyMesh m, Vec3f by)
{
    for (Vec3f &p : m.positions)
        p += by;
    return m;
}

/// Smallest angle of each triangle, degrees.
std::vector<double> smallestAngles(const PolyMesh &m)
{
    std::vector<double> out;
    for (const auto &t : triangulate(m)) {
        double least = 180;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3f a = m.positions[t[k]], u = normalized(m.positions[t[(k + 1) % 3]] - a),
                        v = normalized(m.positions[t[(k + 2) % 3]] - a);
            least = std::min(least, std::acos(std::clamp(double(dot(u, v)), -1.0, 1.0)) * 180 / kExactPi);
        }
        out.push_back(least);
    }
    return out;
}

} // namespace

class TestSolid : public QObject
{
    Q_OBJECT
private slots:
    void boxesCombine_data()
    {
        QTest::addColumn<int>("how");
        QTest::addColumn<double>("volume");
        QTest::newRow("join") << int(Boolean::Join) << 8000.0 + 8000 - 1000;
        QTest::newRow("cut") << int(Boolean::Cut) << 8000.0 - 1000;
        QTest::newRow("common") << int(Boolean::Common) << 1000.0;
    }
    void boxesCombine() // volumes by hand
    {
        QFETCH(int, how);
        QFETCH(double, volume);
        const auto done =
            solid::combine(test::box({0, 0, 0}, {20, 20, 20}), test::box({10, 10, 10}, {30, 30, 30}), solid::Boolean(how));
        QVERIFY(bool(done));
        const Measures m = measure(done->mesh);
        QVERIFY(m.closed && m.nonManifoldEdges == 0 && m.flippedEdges == 0);
        QVERIFY(isNear(m.volumeMm3, volume, 1e-6));
    }
    // Common part of two balls: the lens, volume pi (4r + d)(2r - d)^2 / 12 (E. W. Weisstein, "Sphere-Sphere
    // Intersection", MathWorld, for equal radii).
    void ballsCombineAsTheLens()
    {
        const double r = 20, d = 24;
        const PolyMesh a = test::sphere(float(r), 200, 300), b = test::sphere(float(r), 200, 300, {float(d), 0.0f, 0});
        const auto lens = solid::combine(a, b, Boolean::Common), join = solid::combine(a, b, Boolean::Join);
        QVERIFY(lens && join);
        const double exact = kExactPi * (4 * r + d) * std::pow(2 * r - d, 2) / 12;
        QVERIFY(isNear(measure(lens->mesh).volumeMm3, exact, 1e-3));
        const double whole = measure(a).volumeMm3 + measure(b).volumeMm3;
        QVERIFY(isNear(measure(join->mesh).volumeMm3, whole - measure(lens->mesh).volumeMm3, 1e-6));
        const Measures m = measure(join->mesh);
        QVERIFY(m.closed && m.genus == 0 && m.components == 1);
        QVERIFY(m.quads > (measure(a).quads + measure(b).quads) * 2 / 3); // only the seam became triangles
    }
    void drillingMakesAHandle()
    {
        PolyMesh drill = test::box({-2, -30, -2}, {2, 30, 2});
        const auto done = solid::combine(test::sphere(20, 60, 90), drill, Boolean::Cut);
        QVERIFY(bool(done));
        QCOMPARE(measure(done->mesh).genus, std::ptrdiff_t(1));
    }
    void openPartnerIsClosedAndSaid()
    {
        const PolyMesh bowl = without(test::sphere(10, 40, 60), [](Vec3f m) { return m.y > 6; });
        QVERIFY(!measure(bowl).closed);
        const auto done = solid::combine(test::box({-20, -20, -20}, {20, 0, 20}), bowl, Boolean::Cut);
        QVERIFY(bool(done));
        QCOMPARE(done->notes.size(), std::size_t(1));
        QVERIFY(done->notes.front().find("second") != std::string::npos);
        QVERIFY(isNear(measure(done->mesh).volumeMm3, 40.0 * 20 * 40 - 2 * kExactPi / 3 * 1000, 5e-3)); // half a ball dug out
    }
    // Oracle: manifold-3d (npm), which works in another way altogether.
    void combinesAsManifoldDoes()
    {
        const QString node = qEnvironmentVariable("BONEMOSS_NODE");
        if (node.isEmpty() || !QFile::exists(node + "/node_modules/manifold-3d"))
            QSKIP("manifold-3d is not installed; ./moss test does that");
        const PolyMesh ball = moved(test::sphere(10, 24, 36), {}), box = test::box({-7, -8, -9}, {7, 8, 9}),
                       ring = test::torus(10, 4, 40, 24), fine = test::sphere(10, 90, 140), pea = test::sphere(3, 40, 60),
                       fineRing = test::torus(10, 2, 200, 60); // of which only what is near the seam is worked on
        const std::vector<std::pair<PolyMesh, PolyMesh>> pairs = {
            {ball, moved(ball, {7.3f, 1.1f, 0.4f})}, {ball, moved(box, {5.1f, 2.3f, 1.7f})},
            {box, moved(box, {3.3f, 4.4f, 5.5f})},   {ring, moved(ball, {9.7f, 0.3f, 0.2f})},
            {ring, moved(ring, {6.1f, 1.9f, 2.7f})}, {ring, moved(box, {0.3f, 0.2f, 0.1f})},
            {ball, moved(ring, {0.7f, 3.1f, 1.3f})}, {box, moved(ring, {8.3f, 0.9f, 0.7f})},
            {box, moved(ball, {0.3f, 9.7f, 0.2f})},  {ball, moved(ball, {0.31f, 0.17f, 0.23f})},
            {fine, moved(pea, {9.1f, 1.3f, 2.2f})},  {fineRing, moved(box, {14.3f, 2.2f, 1.1f})},
            {pea, moved(fine, {9.1f, 1.3f, 2.2f})},  {fine, moved(fineRing, {0.2f, 0.1f, 9.3f})}};
        QJsonArray all;
        const auto toJson = [](const PolyMesh &m) {
            QJsonArray points, corners;
            for (const Vec3f p : m.positions)
                points << double(p.x) << double(p.y) << double(p.z);
            for (const auto &t : triangulate(m))
                corners << int(t[0]) << int(t[1]) << int(t[2]);
            return QJsonObject{{"points", points}, {"triangles", corners}};
        };
        for (const auto &[a, b] : pairs)
            all << QJsonObject{{"a", toJson(a)}, {"b", toJson(b)}};
        QTemporaryDir dir;
        QFile file(dir.filePath("pairs.json"));
        QVERIFY(file.open(QFile::WriteOnly));
        file.write(QJsonDocument(all).toJson());
        file.close();
        QVERIFY(QFile::copy(BONEMOSS_SOURCE_DIR "/tests/tools/booleans.js", node + "/booleans.js")
                || QFile::exists(node + "/booleans.js"));
        const test::Ran ran = test::runProgram("node", {"booleans.js", file.fileName()}, node);
        const QJsonArray theirs = QJsonDocument::fromJson(ran.out).array();
        QCOMPARE(theirs.size(), qsizetype(pairs.size()));
        for (std::size_t i = 0; i < pairs.size(); ++i)
            for (const auto how : {Boolean::Join, Boolean::Cut, Boolean::Common}) {
                const auto ours = solid::combine(pairs[i].first, pairs[i].second, how);
                QVERIFY2(bool(ours), qPrintable(QStringLiteral("pair %1").arg(i)));
                const Measures m = measure(ours->mesh);
                const QJsonArray their = theirs[qsizetype(i)].toArray()[int(how)].toArray();
                QVERIFY(m.closed);
                QVERIFY2(isNear(m.volumeMm3, their[0].toDouble(), 2e-4),
                         qPrintable(QStringLiteral("pair %1: %2 and %3").arg(i).arg(m.volumeMm3).arg(their[0].toDouble())));
            }
    }
    // Common practice, no source: both volumes are those of join and common part together; the rest keeps its faces.
    void onlyTheSeamIsWorkedOn()
    {
        const PolyMesh head = test::sphere(20, 150, 220), horn = test::sphere(6, 60, 90, {17.3f, 2.1f, 8.4f}),
                       ring = test::torus(20, 3, 260, 60), knife = test::box({-30, 3, -30}, {30, 30, 30});
        for (const auto &[a, b] : {std::pair{head, horn}, std::pair{horn, head}, std::pair{ring, horn}, std::pair{head, knife}}) {
            const Whole wholeA(a), wholeB(b);
            const auto seams = solid::detail::nearSeam(wholeA, wholeB);
            QVERIFY(seams);
            QVERIFY((*seams)[0].near.faces.size() + (*seams)[1].near.faces.size() < (a.faces.size() + b.faces.size()) / 3);
            double volume[3];
            std::size_t quads = 0;
            for (const auto how : {Boolean::Join, Boolean::Cut, Boolean::Common}) {
                const auto done = solid::detail::combinedNearSeam(a, b, how);
                QVERIFY(done);
                const Measures m = measure(*done);
                QVERIFY(m.closed);
                volume[int(how)] = m.volumeMm3;
                quads += how == Boolean::Cut ? 0 : m.quads;
            }
            const Measures ofA = measure(a), ofB = measure(b);
            QVERIFY(isNear(volume[0] + volume[2], ofA.volumeMm3 + ofB.volumeMm3, 1e-6));
            QVERIFY(isNear(volume[1] + volume[2], ofA.volumeMm3, 1e-6));
            QVERIFY(quads > (ofA.quads + ofB.quads) * 9 / 10); // each in one or the other
        }
    }
    void whereTheSeamDoesNotTell()
    {
        const PolyMesh ball = test::sphere(20, 60, 90), pea = test::sphere(3, 30, 40, {19, 0, 0});
        QVERIFY(solid::detail::nearSeam(Whole(ball), Whole(pea)));
        QVERIFY(!solid::detail::nearSeam(Whole(ball), Whole(moved(pea, {-19, 0, 0})))); // within, and they do not meet
        QVERIFY(!solid::detail::nearSeam(Whole(without(ball, [](Vec3f m) { return m.y > 18; })), Whole(pea)));
        PolyMesh two = ball;
        append(two, moved(pea, {40, 0, 0}));
        QVERIFY(!solid::detail::nearSeam(Whole(two), Whole(pea)));
        const auto hollow = solid::combine(ball, moved(pea, {-19, 0, 0}), Boolean::Cut);
        QVERIFY(hollow && isNear(measure(hollow->mesh).volumeMm3, measure(ball).volumeMm3 - measure(pea).volumeMm3, 1e-6));
        PolyMesh turned = ball;
        for (mesh::Face &f : turned.faces)
            std::reverse(f.v.begin(), f.v.begin() + f.size());
        QVERIFY(!solid::detail::nearSeam(Whole(turned), Whole(pea)));
    }
    // Stopped at once, and in the midst of it, near the seam and in whole.
    void joinsCanBeStopped()
    {
        std::stop_source at;
        at.request_stop();
        const PolyMesh a = test::sphere(20, 400, 600), b = moved(a, {9, 3, 1});
        QCOMPARE(solid::combine(a, b, Boolean::Join, {at.get_token(), {}}).error().code, ErrorCode::Cancelled);
        PolyMesh two = b; // of two shells: not near the seam alone
        append(two, test::sphere(3, 30, 40, {90, 0, 0}));
        for (const PolyMesh &other : {b, two}) {
            std::stop_source later;
            std::thread stopper([&] {
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
                later.request_stop();
            });
            const auto stopped = solid::combine(a, other, Boolean::Cut, {later.get_token(), {}});
            stopper.join();
            QVERIFY(!stopped);
            QCOMPARE(stopped.error().code, ErrorCode::Cancelled);
        }
    }
    // Two balls that share one point, cut about it: as each of them by itself.
    void skinThatTouchesItselfAtAPoint()
    {
        const PolyMesh below = test::sphere(20, 60, 90), above = test::sphere(10, 40, 60, {0, 30, 0}),
                       knife = test::box({-3, 17, -3}, {3, 23, 3});
        const auto pole = [](const PolyMesh &m) {
            return std::uint32_t(std::find_if(m.positions.begin(), m.positions.end(),
                                              [](Vec3f p) {
                                                  return length(p - Vec3f{0, 20, 0}) < 1e-3f;
                                              })
                                 - m.positions.begin());
        };
        PolyMesh both = below;
        append(both, above);
        const std::uint32_t one = pole(below), other = std::uint32_t(below.positions.size()) + pole(above);
        QVERIFY(one < below.positions.size() && other < both.positions.size());
        for (mesh::Face &f : both.faces)
            std::replace(f.v.begin(), f.v.end(), other, one);
        const auto a = solid::combine(below, knife, Boolean::Cut), b = solid::combine(above, knife, Boolean::Cut),
                   whole = solid::combine(both, knife, Boolean::Cut);
        QVERIFY(a && b);
        if (whole) // or it is refused, and said why
            QVERIFY(isNear(measure(whole->mesh).volumeMm3, measure(a->mesh).volumeMm3 + measure(b->mesh).volumeMm3, 1e-4));
        else
            QVERIFY(!whole.error().text().empty());
    }
    // A tube along an eight in one plane, which runs through itself in the middle: inside is all that is near the eight, by hand.
    void whatASolidEncloses()
    {
        constexpr std::uint32_t kAlong = 240, kAbout = 24;
        constexpr double kRadius = 2;
        const auto eight = [](double t) { return Vec3f{float(10 * std::sin(t)), 0, float(5 * std::sin(2 * t))}; };
        PolyMesh tube;
        for (std::uint32_t i = 0; i < kAlong; ++i)
            for (std::uint32_t j = 0; j < kAbout; ++j) {
                const double t = 2 * kExactPi * i / kAlong, u = 2 * kExactPi * j / kAbout;
                const Vec3f way = normalized(Vec3f{float(10 * std::cos(t)), 0, float(10 * std::cos(2 * t))}), up{0, 1, 0};
                tube.positions.push_back(eight(t) + cross(up, way) * float(kRadius * std::cos(u))
                                         + up * float(kRadius * std::sin(u)));
                const std::uint32_t next = (i + 1) % kAlong, beside = (j + 1) % kAbout;
                tube.faces.push_back({{i * kAbout + j, i * kAbout + beside, next * kAbout + beside, next * kAbout + j}});
            }
        if (measure(tube).volumeMm3 < 0)
            for (mesh::Face &f : tube.faces)
                std::reverse(f.v.begin(), f.v.end());
        const Whole whole(tube);
        QVERIFY(whole.isSolid());
        std::size_t inside = 0;
        for (std::uint64_t k = 0; k < 400; ++k) {
            const Vec3f p = k == 0 ? Vec3f{0.1f, 0.2f, 0.15f}
                                   : Vec3f{13 * randomSigned(1, k), 2.5f * randomSigned(2, k), 8 * randomSigned(3, k)};
            double off = 100;
            for (int i = 0; i < 4000; ++i)
                off = std::min(off, double(length(p - eight(2 * kExactPi * i / 4000))));
            if (std::abs(off - kRadius) < 0.1) // nearer than the facets are
                continue;
            const auto found = whole.encloses(solid::detail::toCgal(p));
            QVERIFY(found);
            QCOMPARE(*found, off < kRadius);
            inside += *found;
        }
        QVERIFY(inside > 40);
    }
    void nothingInCommonIsAnError()
    {
        const auto none = solid::combine(test::box({0, 0, 0}, {1, 1, 1}), test::box({5, 0, 0}, {6, 1, 1}), Boolean::Common);
        QVERIFY(!none);
        QCOMPARE(int(none.error().code), int(ErrorCode::Empty));
    }
    // A cap of a ball put back: flat, the volume lacks the cap pi h^2 (3r - h) / 3; smooth, hardly anything is missing.
    void holesCloseFlatOrRound()
    {
        const double r = 10;
        const PolyMesh open = without(test::sphere(10, 60, 90), [](Vec3f m) { return m.y > 8; });
        const auto borders = solid::openBorders(open);
        QCOMPARE(borders.size(), std::size_t(1));
        const double h = r - double(open.positions[borders[0][0]].y), cap = kExactPi * h * h * (3 * r - h) / 3;
        const double ball = measure(test::sphere(10, 60, 90)).volumeMm3;
        const solid::Closed flat = solid::closeHoles(open, solid::Fill::Flat),
                            round = solid::closeHoles(open, solid::Fill::Smooth);
        QCOMPARE(flat.holes, std::size_t(1));
        QVERIFY(measure(flat.mesh).closed && measure(round.mesh).closed);
        QVERIFY(isNear(measure(flat.mesh).volumeMm3, ball - cap, 2e-3));
        QVERIFY2(std::abs(ball - measure(round.mesh).volumeMm3) < 0.25 * cap,
                 qPrintable(QString::number(ball - measure(round.mesh).volumeMm3)));
        for (std::size_t v = 0; v < open.positions.size(); ++v)
            QVERIFY(round.mesh.positions[v] == open.positions[v]);
        // Patch faces are about as large as their border's edges: fine enough to sculpt, no slivers to speak of.
        PolyMesh patch = flat.mesh;
        patch.faces.erase(patch.faces.begin(), patch.faces.begin() + std::ptrdiff_t(open.faces.size()));
        const std::vector<double> angles = smallestAngles(patch);
        QVERIFY(double(std::count_if(angles.begin(), angles.end(), [](double a) { return a > 15; }))
                > 0.97 * double(angles.size()));
    }
    void onlyTheHoleAskedForIsClosed()
    {
        const PolyMesh tube = without(test::sphere(10, 40, 60), [](Vec3f m) { return std::abs(m.y) > 7; });
        QCOMPARE(solid::openBorders(tube).size(), std::size_t(2));
        const std::size_t first[] = {0};
        const solid::Closed one = solid::closeHoles(tube, solid::Fill::Flat, first);
        QCOMPARE(one.holes, std::size_t(1));
        QCOMPARE(solid::openBorders(one.mesh).size(), std::size_t(1));
    }
    // A border that goes twice round in any plane: no flat patch, the folded one.
    void foldedBorderIsClosedToo()
    {
        PolyMesh band; // a strip along a saddle-shaped loop with three lobes
        const std::uint32_t n = 60;
        for (std::uint32_t i = 0; i < n; ++i) {
            const float a = 4 * float(kExactPi) * float(i) / float(n), r = 10 + 3 * std::cos(a / 2);
            band.positions.push_back({r * std::cos(a), 4 * std::sin(a / 2), r * std::sin(a)});
            band.positions.push_back({(r + 2) * std::cos(a), 4 * std::sin(a / 2), (r + 2) * std::sin(a)});
        }
        for (std::uint32_t i = 0; i < n; ++i) {
            const std::uint32_t j = (i + 1) % n;
            band.faces.push_back({{2 * i, 2 * i + 1, 2 * j + 1, 2 * j}});
        }
        const solid::Closed done = solid::closeHoles(band, solid::Fill::Flat);
        QCOMPARE(done.holes, std::size_t(2));
        QVERIFY(measure(done.mesh).closed);
    }
    // Count within 1 %; manifold; no farther from the shape than twice what meshoptimizer's quadrics give.
    void simplifiesToACount()
    {
        const PolyMesh ball = test::sphere(20, 150, 220);
        const auto light = solid::simplify(ball, 6000);
        QVERIFY(bool(light));
        const Measures m = measure(*light);
        QVERIFY(isNear(double(m.triangles), 6000, 0.01));
        QVERIFY(m.closed && m.nonManifoldEdges == 0);
        const auto triangles = triangulate(ball);
        std::vector<unsigned> indices, out(triangles.size() * 3);
        for (const auto &t : triangles)
            indices.insert(indices.end(), t.begin(), t.end());
        const std::size_t n = meshopt_simplify(out.data(), indices.data(), indices.size(), &ball.positions[0].x,
                                               ball.positions.size(), sizeof(Vec3f), 18000, 1, 0, nullptr);
        PolyMesh other{ball.positions, {}};
        for (std::size_t i = 0; i < n; i += 3)
            other.faces.push_back({{out[i], out[i + 1], out[i + 2], kNone}});
        const double ours = mesh::distanceTo(*light, ball.positions, 20000).mean,
                     theirs = mesh::distanceTo(other, ball.positions, 20000).mean;
        QVERIFY2(ours < 2 * theirs, qPrintable(QStringLiteral("%1 against %2").arg(ours).arg(theirs)));
    }
    void simplifyKeepsMoreWhereAsked()
    {
        const PolyMesh ball = test::sphere(20, 100, 150);
        std::vector<float> keep;
        for (const Vec3f p : ball.positions)
            keep.push_back(p.y > 0 ? 1.0f : 0.0f);
        const auto light = solid::simplify(ball, 6000, keep);
        QVERIFY(bool(light));
        const auto above = std::count_if(light->faces.begin(), light->faces.end(),
                                         [&](const mesh::Face &f) { return light->positions[f.v[0]].y > 0; });
        QVERIFY2(above > 4200, qPrintable(QString::number(above)));
        QVERIFY(!solid::simplify(ball, 3));
        QVERIFY(!solid::simplify(ball, 10'000'000));
    }
    void simplifyKeepsBorders()
    {
        const PolyMesh bowl = without(test::sphere(10, 60, 90), [](Vec3f m) { return m.y > 5; });
        const auto before = solid::openBorders(bowl);
        const auto light = solid::simplify(bowl, 1500);
        QVERIFY(bool(light));
        const auto after = solid::openBorders(*light);
        QCOMPARE(after.size(), std::size_t(1));
        QCOMPARE(after[0].size(), before[0].size());
    }
    // Product's own bound: 99 % of triangles above 15 degrees. Outside of the faces asked for not a bit changes.
    void remeshIsEvenAndLeavesTheRest()
    {
        const PolyMesh ball = test::sphere(20, 80, 120);
        std::vector<std::uint32_t> top;
        for (std::uint32_t f = 0; f < ball.faces.size(); ++f)
            if (ball.positions[ball.faces[f].v[0]].y > 8)
                top.push_back(f);
        const auto even = solid::remesh(ball, top, 0.4f);
        QVERIFY(bool(even));
        QVERIFY(measure(*even).closed);
        PolyMesh fresh = *even;
        std::erase_if(fresh.faces, [&](const mesh::Face &f) { return even->positions[f.v[0]].y < 9; });
        const std::vector<double> angles = smallestAngles(fresh);
        QVERIFY(angles.size() > 8000);
        const auto good = std::count_if(angles.begin(), angles.end(), [](double a) { return a > 15; });
        QVERIFY2(double(good) > 0.99 * double(angles.size()),
                 qPrintable(QStringLiteral("%1 of %2").arg(good).arg(angles.size())));
        for (const Vec3f p : fresh.positions)
            QVERIFY(std::abs(length(p) - 20) < 0.05f);
        std::size_t kept = 0, below = 0;
        std::set<std::array<float, 3>> places;
        for (const Vec3f p : even->positions)
            places.insert({p.x, p.y, p.z});
        for (const Vec3f p : ball.positions)
            if (p.y < 7)
                ++below, kept += places.contains({p.x, p.y, p.z});
        QCOMPARE(kept, below);
    }
    void cuttingAlongALineKeepsEverything()
    {
        const PolyMesh ball = test::sphere(10, 40, 60);
        std::vector<float> values;
        for (const Vec3f p : ball.positions)
            values.push_back(p.y + 0.3f * p.x - 2);
        const mesh::CutMesh cut = cutAlong(ball, values);
        const Measures whole = measure(cut.mesh);
        QVERIFY(whole.closed); // no gaps where neighbours were cut
        QVERIFY(isNear(whole.areaMm2, measure(ball).areaMm2, 1e-3));
        const PolyMesh in = extract(cut.mesh, cut.isIn);
        for (const Vec3f p : in.positions)
            QVERIFY(p.y + 0.3f * p.x - 2 > -0.12f); // lines near a vertex go through it
        // Zone of a sphere: 2 pi r h (Archimedes); the plane's distance from the middle is 2 / |(0.3, 1)|.
        QVERIFY(isNear(measure(in).areaMm2, 2 * kExactPi * 10 * (10 - 2 / std::hypot(0.3, 1.0)), 0.01));
        QCOMPARE(solid::openBorders(in).size(), std::size_t(1));
    }
    void islandsAreCounted()
    {
        PolyMesh two = test::sphere(5, 10, 12);
        append(two, test::sphere(5, 10, 12, {20, 0, 0}));
        std::uint32_t count = 0;
        const auto island = islandsOf(two, count);
        QCOMPARE(count, 2u);
        for (std::size_t v = 0; v < two.positions.size(); ++v)
            QCOMPARE(island[v], two.positions[v].x > 10 ? 1u : 0u);
    }
    // Looking along -z from the nose with the crown up, left of a line drawn upwards is -x.
    void aLineTakesItsLeftAway()
    {
        const PolyMesh box = test::box({-10, -10, -10}, {10, 10, 10});
        solid::Sweep s;
        s.line = {{-4, -20, 0}, {-4, 20, 0}};
        s.direction = {0, 0, -1};
        s.edge = 2;
        const auto knife = solid::sweep(s, mesh::boundsOf(box.positions));
        QVERIFY(bool(knife));
        QVERIFY(measure(*knife).closed && measure(*knife).volumeMm3 > 0);
        const auto rest = solid::combine(box, *knife, Boolean::Cut);
        QVERIFY(bool(rest));
        QVERIFY(isNear(measure(rest->mesh).volumeMm3, 14.0 * 400, 1e-4));
        QVERIFY(std::abs(measure(rest->mesh).bounds.lo.x + 4) < 1e-3f);
    }
    void anOutlineCutsThroughOrToADepth()
    {
        const PolyMesh box = test::box({-10, -10, -10}, {10, 10, 10});
        solid::Sweep s;
        s.isClosed = true;
        s.line = {{-3, -3, 50}, {3, -3, 50}, {3, 3, 50}, {-3, 3, 50}};
        s.edge = 1;
        for (const float depth : {0.0f, 5.0f}) {
            s.depth = depth;
            const auto knife = solid::sweep(s, mesh::boundsOf(box.positions));
            QVERIFY(bool(knife));
            const auto rest = solid::combine(box, *knife, Boolean::Cut);
            QVERIFY(bool(rest));
            QVERIFY(isNear(measure(rest->mesh).volumeMm3, 8000 - 36.0 * (depth > 0 ? 5 : 20), 1e-4));
            QCOMPARE(measure(rest->mesh).genus, std::ptrdiff_t(depth > 0 ? 0 : 1));
        }
        s.line = {{-3, -3, 0}, {3, 3, 0}, {3, -3, 0}, {-3, 3, 0}};
        QVERIFY(!solid::sweep(s, mesh::boundsOf(box.positions))); // a bow crosses itself
    }
    // By hand one ends where one began, or a little beyond: the outline is what lies between.
    void outlinesMayOverlapAtTheirEnds()
    {
        const PolyMesh box = test::box({-10, -10, -10}, {10, 10, 10});
        solid::Sweep s;
        s.isClosed = true;
        s.edge = 1;
        const std::vector<Vec3f> square{{-3, -3, 50}, {3, -3, 50}, {3, 3, 50}, {-3, 3, 50}};
        auto meeting = square, beyond = square;
        meeting.push_back(square.front());
        beyond.front() = {-4, -3, 50};
        beyond.push_back({-3, -4, 50});
        for (const auto &line : {square, meeting, beyond}) {
            s.line = line;
            const auto knife = solid::sweep(s, mesh::boundsOf(box.positions));
            QVERIFY(bool(knife));
            const auto rest = solid::combine(box, *knife, Boolean::Cut);
            QVERIFY(bool(rest));
            QVERIFY(isNear(measure(rest->mesh).volumeMm3, 8000 - 36.0 * 20, 1e-4));
        }
    }
    // Pappus: a half disc swept round the border of a disc lies at r + 4t / (6 pi) from its middle on average.
    void platesHaveTheirThickness()
    {
        PolyMesh disc;
        const std::uint32_t n = 200;
        const double r = 10, t = 1.5;
        disc.positions.push_back({});
        for (std::uint32_t i = 0; i < n; ++i) {
            const double a = 2 * kExactPi * i / n;
            disc.positions.push_back({float(r * std::sin(a)), 0, float(r * std::cos(a))});
            disc.faces.push_back({{0, i + 1, (i + 1) % n + 1, kNone}});
        }
        const std::vector<Vec3f> up(disc.positions.size(), {0, 1, 0});
        const double flat = measure(disc).areaMm2 * t;
        const PolyMesh square = solid::plate(disc, up, float(t), 0, solid::Rim::Square);
        QVERIFY(measure(square).closed);
        QVERIFY(isNear(measure(square).volumeMm3, flat, 1e-4));
        const PolyMesh round = solid::plate(disc, up, float(t / 2), float(-t / 2), solid::Rim::Round);
        QVERIFY(measure(round).closed);
        const double half = kExactPi * t * t / 8, ring = half * 2 * kExactPi * (r + 4 * (t / 2) / (3 * kExactPi));
        QVERIFY(isNear(measure(round).volumeMm3 - flat, ring, 0.06)); // six chords for the half circle
    }
};

BONEMOSS_TEST(TestSolid)
#include "tst_solid.moc"
