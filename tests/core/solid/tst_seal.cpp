// Oracles: manifold-3d (volume and genus of unions), CGAL (crossings), volumes of closed forms.
#include "support/run.h"
#include "support/shapes.h"

#include "base/random.h"
#include "mesh/measures.h"
#include "mesh/parts.h"
#include "proof/layers.h"
#include "solid/crossings.h"
#include "solid/detail/cgal_mesh.h"
#include "solid/seal.h"

#include <CGAL/Polygon_mesh_processing/self_intersections.h>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QtTest>

using namespace bonemoss;

namespace sealing {

mesh::PolyMesh together(std::initializer_list<mesh::PolyMesh> all)
{
    mesh::PolyMesh out;
    for (const mesh::PolyMesh &m : all)
        mesh::append(out, m);
    return out;
}

mesh::PolyMesh inward(mesh::PolyMesh m)
{
    for (mesh::Face &f : m.faces)
        std::reverse(f.v.begin(), f.v.begin() + f.size());
    return m;
}

/// A form anywhere, turned anyhow.
mesh::PolyMesh anyForm(std::uint64_t seed)
{
    const auto unit = [&](std::uint64_t k) { return randomUnit(seed, k); };
    mesh::PolyMesh m;
    switch (randomBits(seed, 20) % 4) {
    case 0: m = test::sphere(3 + 5 * unit(0), 12, 20); break;
    case 1: m = test::box({-3 - 3 * unit(1), -3 - 3 * unit(2), -4}, {3, 4, 3 + 3 * unit(3)}); break;
    case 2: m = test::torus(6, 1.5f + unit(4), 28, 14); break;
    default: m = test::sphere(2.5f, 10, 14); break; // a horn
    }
    if (randomBits(seed, 20) % 4 == 3)
        for (Vec3f &p : m.positions)
            p.y *= 4 + 2 * unit(5);
    const Quat turn =
        rotationAbout(normalized(Vec3f{randomSigned(seed, 6), randomSigned(seed, 7), randomSigned(seed, 8) + 0.01f}), 6 * unit(9));
    for (Vec3f &p : m.positions)
        p = rotate(turn, p) + Vec3f{randomSigned(seed, 10), randomSigned(seed, 11), randomSigned(seed, 12)} * 7.0f;
    return m;
}

} // namespace sealing

class TestSeal : public QObject
{
    Q_OBJECT
private slots:
    void twoBallsAreALens()
    {
        // Volume of two balls less their lens: pi (4r + d) (2r - d)^2 / 12 for equal radii (Weisstein, "Sphere-sphere intersection", from memory).
        const auto sealed =
            solid::seal(sealing::together({test::sphere(10, 120, 160), test::sphere(10, 120, 160, {8, 1, 0.5f})}));
        QVERIFY(sealed);
        const auto m = measure(sealed->mesh);
        const double r = 10, d = std::sqrt(64 + 1 + 0.25);
        const double expected = 2 * 4.0 / 3 * M_PI * r * r * r - M_PI * (4 * r + d) * (2 * r - d) * (2 * r - d) / 12;
        QVERIFY(m.closed);
        QCOMPARE(m.nonManifoldEdges, std::size_t(0));
        QCOMPARE(sealed->left, std::size_t(1));
        QVERIFY2(std::abs(m.volumeMm3 / expected - 1) < 2e-3, qPrintable(QString::number(m.volumeMm3 / expected)));
    }
    void whatIsInsideGoes()
    {
        const mesh::PolyMesh ball = test::sphere(10, 20, 30), core = test::sphere(3, 10, 14, {1, 2, 0});
        const auto sealed = solid::seal(sealing::together({core, ball}));
        QVERIFY(sealed);
        QCOMPARE(sealed->mesh.faces.size(), ball.faces.size());
        // A hollow is one that faces inwards.
        const auto hollow = sealing::together({sealing::inward(core), ball});
        QCOMPARE(solid::seal(hollow)->pockets, std::size_t(1));
        QCOMPARE(solid::seal(hollow, false)->mesh.faces.size(), ball.faces.size() + core.faces.size());
        QCOMPARE(solid::seal(sealing::inward(ball)).error().code, ErrorCode::Empty);
    }
    void wallsAboutARoomHideAPocket()
    {
        // Six boxes that overlap at their edges, flush outside.
        const auto sealed =
            solid::seal(sealing::together({test::box({-10, -10, -10}, {10, -8, 10}), test::box({-10, 8, -10}, {10, 10, 10}),
                                           test::box({-10, -10, -10}, {-8, 10, 10}), test::box({8, -10, -10}, {10, 10, 10}),
                                           test::box({-10, -10, -10}, {10, 10, -8}), test::box({-10, -10, 8}, {10, 10, 10})}));
        QVERIFY2(bool(sealed), sealed ? "" : sealed.error().text().c_str());
        const auto m = measure(sealed->mesh);
        QVERIFY(m.closed);
        QCOMPARE(sealed->pockets, std::size_t(1));
        QVERIFY2(std::abs(m.volumeMm3 / 8000 - 1) < 1e-3, qPrintable(QString::number(m.volumeMm3)));
    }
    void facesThatLieOnEachOther()
    {
        const mesh::PolyMesh low = test::box({0, 0, 0}, {10, 5, 10}), high = test::box({2, 5, 2}, {8, 9, 8}), same = low;
        for (const auto &[all, volume] : {std::pair{sealing::together({low, high}), 500.0 + 144},
                                          {sealing::together({low, same}), 500.0},
                                          {sealing::together({low, test::box({10, 0, 0}, {20, 5, 10})}), 1000.0}}) {
            const auto sealed = solid::seal(all);
            QVERIFY2(bool(sealed), sealed ? "" : sealed.error().text().c_str());
            const auto m = measure(sealed->mesh);
            QVERIFY(m.closed);
            QCOMPARE(sealed->left, std::size_t(1));
            QVERIFY2(std::abs(m.volumeMm3 / volume - 1) < 1e-3, qPrintable(QString::number(m.volumeMm3)));
        }
    }
    void whatPassesThroughItself()
    {
        // A ring bent so that its tube runs through itself: as if it were two bodies.
        mesh::PolyMesh ball = test::sphere(10, 60, 80);
        for (Vec3f &p : ball.positions)
            if (p.y > 6)
                p.y = 6 - 6 * (p.y - 6); // pushed down through the bottom
        QVERIFY(solid::selfCrossings(ball) > 0);
        const auto sealed = solid::seal(ball);
        QVERIFY(sealed);
        const auto m = measure(sealed->mesh);
        QVERIFY(m.closed);
        QVERIFY(m.volumeMm3 > 0);
        QVERIFY(solid::selfCrossings(sealed->mesh) == 0);
    }
    void anOpenSheetIsRefused()
    {
        mesh::PolyMesh sheet = test::plane(30, 5);
        for (Vec3f &p : sheet.positions)
            p.y += 0.3f * p.x;
        const auto sealed = solid::seal(sealing::together({test::sphere(10, 20, 30), sheet}));
        QVERIFY(!sealed);
        QCOMPARE(sealed.error().code, ErrorCode::BadValue);
    }
    void asManifold()
    {
        const QString node = qEnvironmentVariable("BONEMOSS_NODE");
        if (node.isEmpty() || !QFile::exists(node + "/node_modules/manifold-3d"))
            QSKIP("manifold-3d is not installed; ./moss test does that");
        constexpr int kJobs = 40;
        QJsonArray jobs;
        std::vector<mesh::PolyMesh> all(kJobs);
        for (int j = 0; j < kJobs; ++j) {
            QJsonArray bodies;
            for (int k = 0; k < 2 + j % 5; ++k) {
                const mesh::PolyMesh m = sealing::anyForm(std::uint64_t(1000 + j * 10 + k));
                mesh::append(all[std::size_t(j)], m);
                QJsonArray points, corners;
                for (const Vec3f p : m.positions)
                    points << double(p.x) << double(p.y) << double(p.z);
                for (const auto &t : mesh::triangulate(m))
                    corners << int(t[0]) << int(t[1]) << int(t[2]);
                bodies << QJsonObject{{"points", points}, {"triangles", corners}};
            }
            jobs << bodies;
        }
        QTemporaryDir dir;
        QFile file(dir.filePath("jobs.json"));
        QVERIFY(file.open(QFile::WriteOnly));
        file.write(QJsonDocument(jobs).toJson());
        file.close();
        const QString script = node + "/booleans.js";
        QFile::remove(script);
        QVERIFY(QFile::copy(BONEMOSS_SOURCE_DIR "/tests/tools/booleans.js", script));
        const QJsonArray theirs =
            QJsonDocument::fromJson(test::runProgram("node", {"booleans.js", file.fileName()}, node).out).array();
        QCOMPARE(theirs.size(), qsizetype(kJobs));
        for (int j = 0; j < kJobs; ++j) {
            const auto sealed = solid::seal(all[std::size_t(j)], false);
            QVERIFY2(bool(sealed), qPrintable(QString::number(j)));
            const auto m = measure(sealed->mesh);
            const QJsonArray their = theirs[j].toArray();
            QVERIFY(m.closed);
            QVERIFY2(std::abs(m.volumeMm3 / their[0].toDouble() - 1) < 1e-4,
                     qPrintable(QStringLiteral("%1: %2 and %3").arg(j).arg(m.volumeMm3).arg(their[0].toDouble())));
            // Theirs counts all shells as one body: its number is ours less what further shells add.
            const auto shells = std::ptrdiff_t(m.components);
            QCOMPARE(m.genus - (shells - 1), std::ptrdiff_t(their[1].toInt()));
        }
    }
    // 300 unions of anything: closed, manifold, nothing inside, as large as layers of the same bodies say.
    void anyUnions()
    {
        for (std::uint64_t j = 0; j < 300; ++j) {
            mesh::PolyMesh all;
            for (std::uint64_t k = 0; k < 2 + j % 4; ++k)
                mesh::append(all, sealing::anyForm(50000 + j * 16 + k));
            const auto sealed = solid::seal(all);
            QVERIFY2(bool(sealed), qPrintable(QString::number(j)));
            const auto m = measure(sealed->mesh);
            QVERIFY2(m.closed && m.nonManifoldEdges == 0, qPrintable(QString::number(j)));
            if (j % 10 != 0)
                continue;
            QCOMPARE(solid::seal(sealed->mesh)->mesh.faces.size(), sealed->mesh.faces.size()); // nothing is left to do
            std::vector<proof::Triangle> triangles;
            for (const auto &t : mesh::triangulate(all))
                triangles.push_back({all.positions[t[0]], all.positions[t[1]], all.positions[t[2]]});
            const auto layers = proof::layersOf(triangles, 0.1f, 0.1f);
            QVERIFY(layers);
            double pockets = 0;
            for (const proof::Region &r : proof::regionsOf(*layers))
                pockets += r.kind == proof::Region::Kind::Pocket ? r.volume : 0;
            QVERIFY2(std::abs(m.volumeMm3 / (layers->volume() + pockets) - 1) < 0.01, qPrintable(QString::number(j)));
        }
    }
    void pairsAsCgal()
    {
        namespace pmp = CGAL::Polygon_mesh_processing;
        for (std::uint64_t j = 0; j < 30; ++j) {
            mesh::PolyMesh all = sealing::anyForm(900 + j);
            mesh::append(all, sealing::anyForm(1900 + j));
            if (j % 3 == 0) // crumpled
                for (std::size_t k = 0; k < all.positions.size(); ++k)
                    all.positions[k] += Vec3f{randomSigned(j, 3 * k), randomSigned(j, 3 * k + 1), randomSigned(j, 3 * k + 2)};
            std::vector<std::pair<solid::detail::SurfaceMesh::Face_index, solid::detail::SurfaceMesh::Face_index>> theirs;
            const auto s = solid::detail::toCgal(all);
            pmp::self_intersections<CGAL::Sequential_tag>(s, std::back_inserter(theirs));
            std::vector<solid::CrossingFinder::Pair> sorted;
            for (const auto &[a, b] : theirs)
                sorted.push_back(std::minmax(std::uint32_t(a), std::uint32_t(b)));
            std::sort(sorted.begin(), sorted.end());
            const solid::CrossingFinder finder(all.positions, mesh::triangulate(all));
            QCOMPARE(finder.all(), sorted);
            const std::vector<std::uint32_t> some{3, 7, 11, 20};
            std::erase_if(sorted, [&](const auto &p) {
                return !std::binary_search(some.begin(), some.end(), p.first)
                       && !std::binary_search(some.begin(), some.end(), p.second);
            });
            QCOMPARE(finder.of(some), sorted);
        }
    }
};

BONEMOSS_TEST(TestSeal)
#include "tst_seal.moc"
