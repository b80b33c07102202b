#include "base/parallel.h"
#include "base/random.h"
#include "field/knit.h"
#include "field/mesh_crossings.h"
#include "field/surface_nets.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "support/shapes.h"

#include <QtTest>

#include <numbers>
#include <set>

using namespace bonemoss;

namespace {

/// Inside at random lattice points: every configuration of a cell and of its neighbours comes up.
class Noise final : public field::DistanceSource
{
public:
    explicit Noise(std::uint64_t seed) : m_seed(seed) {}
    Box3f bounds() const override { return {{-5, -5, -5}, {5, 5, 5}}; }
    void sample(const Box3f &, std::span<const Vec3f> points, std::span<float> values) const override
    {
        for (std::size_t i = 0; i < points.size(); ++i) {
            const auto key = [](float v) { return std::uint64_t(std::lround(v * 2 + 1000)); };
            const bool in = randomBits(m_seed, key(points[i].x) * 4000000 + key(points[i].y) * 2000 + key(points[i].z)) & 1;
            values[i] = length(points[i]) < 4.4f && in ? -0.4f : 0.4f;
        }
    }

private:
    std::uint64_t m_seed;
};

/// Every vertex has one closed ring of faces: its edges, each met twice, form a single cycle.
bool isManifoldAtVertices(const mesh::PolyMesh &m)
{
    std::vector<std::vector<std::pair<std::uint32_t, std::uint32_t>>> spokes(m.positions.size());
    for (const mesh::Face &f : m.faces)
        for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c)
            spokes[f.v[c]].push_back({f.v[(c + 1) % n], f.v[(c + n - 1) % n]});
    for (const auto &s : spokes) {
        if (s.empty())
            return false;
        std::set<std::uint32_t> seen;
        std::uint32_t at = s[0].first;
        for (std::size_t k = 0; k < s.size(); ++k) {
            if (!seen.insert(at).second)
                return false; // came round too early: two fans
            const auto next = std::find_if(s.begin(), s.end(), [&](const auto &e) { return e.first == at; });
            if (next == s.end())
                return false;
            at = next->second;
        }
    }
    return true;
}

mesh::PolyMesh both(const mesh::PolyMesh &a, const mesh::PolyMesh &b)
{
    mesh::PolyMesh m = a;
    for (const Vec3f p : b.positions)
        m.positions.push_back(p);
    for (mesh::Face f : b.faces) {
        for (std::uint32_t &v : f.v)
            v = v == kNone ? kNone : v + std::uint32_t(a.positions.size());
        m.faces.push_back(f);
    }
    return m;
}

} // namespace

class TestKnit : public QObject
{
    Q_OBJECT
private slots:
    void anySignsGiveAManifold_data()
    {
        QTest::addColumn<int>("seed");
        for (int s = 1; s <= 12; ++s)
            QTest::addRow("noise %d", s) << s;
    }
    void anySignsGiveAManifold()
    {
        QFETCH(int, seed);
        const auto k = field::knitSource(Noise(std::uint64_t(seed)), {0.5f, 0});
        QVERIFY(k);
        const mesh::Measures r = mesh::measure(k->mesh);
        QCOMPARE(r.boundaryEdges, std::size_t(0));
        QCOMPARE(r.nonManifoldEdges, std::size_t(0));
        QVERIFY(r.closed);
        QVERIFY(isManifoldAtVertices(k->mesh));
    }
    // Sphere volume (tables); contouring at h falls short by O(h^2 / r^2).
    void sphereKeepsItsVolume()
    {
        const auto k = field::knitMesh(test::sphere(10, 200, 400), {0.25f, 0});
        QVERIFY(k);
        const mesh::Measures r = mesh::measure(k->mesh);
        QVERIFY(r.closed);
        QVERIFY(std::abs(r.volumeMm3 / (4.0 / 3 * std::numbers::pi * 1000) - 1) < 2e-3);
    }
    // Two balls a radius apart: volume by inclusion and exclusion with the lens pi (4r + d)(2r - d)^2 / 12
    // (tables). No pocket remains inside: one island.
    void overlappingShellsFuse()
    {
        const auto k = field::knitMesh(both(test::sphere(10, 120, 240), test::sphere(10, 120, 240, {10, 0, 0})), {0.3f, 0});
        QVERIFY(k);
        const mesh::Measures r = mesh::measure(k->mesh);
        QCOMPARE(r.components, std::size_t(1));
        QVERIFY(r.closed);
        const double pi = std::numbers::pi, lens = pi * 50 * 100 / 12;
        QVERIFY(std::abs(r.volumeMm3 / (8.0 / 3 * pi * 1000 - lens) - 1) < 3e-3);
    }
    void openMeshIsClosed()
    {
        mesh::PolyMesh m = test::sphere(10, 80, 160);
        std::erase_if(m.faces, [&](const mesh::Face &f) { return m.positions[f.v[0]].y < -8; });
        QVERIFY(!mesh::measure(m).closed);
        const auto k = field::knitMesh(m, {0.4f, 0});
        QVERIFY(k);
        QVERIFY(k->report.filledEdges > 0);
        const mesh::Measures r = mesh::measure(k->mesh);
        QVERIFY(r.closed);
        // The cap over the hole may bulge or sink; a ball less a cap of height 2 is 4189 - 117 mm3 (tables).
        QVERIFY2(r.volumeMm3 > 3900 && r.volumeMm3 < 4250, qPrintable(QString::number(r.volumeMm3)));
    }
    void faceCountIsMet_data()
    {
        QTest::addColumn<int>("faces");
        for (const int n : {3000, 20000, 150000})
            QTest::addRow("%d", n) << n;
    }
    void faceCountIsMet()
    {
        QFETCH(int, faces);
        const auto k = field::knitMesh(test::torus(30, 9, 300, 120), {0, std::size_t(faces)});
        QVERIFY(k);
        QVERIFY(std::abs(double(k->mesh.faces.size()) / faces - 1) < 0.03);
    }
    void forecastHolds()
    {
        const mesh::PolyMesh m = test::torus(30, 9, 300, 120);
        const auto forecast = field::forecastFaces(m, 0.35f);
        const auto k = field::knitMesh(m, {0.35f, 0});
        QVERIFY(forecast && k);
        QVERIFY(std::abs(double(*forecast) / double(k->mesh.faces.size()) - 1) < 0.03);
    }
    void sameBitsOnAnyThreadCount()
    {
        const mesh::PolyMesh m = both(test::sphere(10, 90, 180), test::torus(14, 4, 200, 80));
        const auto all = field::knitMesh(m, {0.3f, 0});
        const ThreadLimit one(1);
        const auto single = field::knitMesh(m, {0.3f, 0});
        QVERIFY(all && single);
        QVERIFY(all->mesh.positions == single->mesh.positions);
        QVERIFY(all->mesh.faces == single->mesh.faces);
    }
    void realMeshes_data()
    {
        QTest::addColumn<QString>("name");
        for (const char *n :
             {"armadillo.off", "bear.off", "camel.off", "elephant.off", "lion-head.off", "man.off", "diplodocus.off"})
            QTest::newRow(n) << n;
    }
    // Modelled and scanned meshes that Debian ships with CGAL, closed or not: the skin is closed and lies
    // on the input. 0.1 spacings on average leaves room for closed holes; see the bench for OpenVDB beside it.
    void realMeshes()
    {
        QFETCH(QString, name);
        const std::string path = test::cgalMesh(qPrintable(name));
        if (path.empty())
            QSKIP("the test meshes are not unpacked; ./moss test does that");
        const auto read = io::readMesh(path);
        QVERIFY(read);
        const float spacing = mesh::boundsOf(read->mesh.positions).diagonal() / 300;
        const auto k = field::knitMesh(read->mesh, {spacing, 0});
        QVERIFY(k);
        const mesh::Measures r = mesh::measure(k->mesh);
        QVERIFY(r.closed);
        QVERIFY(isManifoldAtVertices(k->mesh));
        // Every part of the input is near the skin (sharp tips are rounded by a fraction of a cell); what the
        // skin adds over holes is not on the input.
        const mesh::DistanceStats there = mesh::distanceTo(k->mesh, read->mesh.positions, 20000);
        QVERIFY2(there.mean < 0.2 * double(spacing), qPrintable(QString::number(there.mean / double(spacing))));
        if (mesh::measure(read->mesh).closed) {
            const mesh::DistanceStats back = mesh::distanceTo(read->mesh, k->mesh.positions, 20000);
            QVERIFY2(back.mean < 0.1 * double(spacing), qPrintable(QString::number(back.mean / double(spacing))));
        }
    }
    void openBoxOfFewFacesIsClosed()
    {
        mesh::PolyMesh m = test::box({0, 0, 0}, {20, 20, 20});
        for (std::size_t missing = 0; missing < 6; ++missing) { // whichever side is open
            mesh::PolyMesh open = m;
            open.faces.erase(open.faces.begin() + std::ptrdiff_t(missing));
            const auto k = field::knitMesh(open, {0.3f, 0});
            QVERIFY(k);
            QVERIFY(k->report.filledEdges > 0);
            const mesh::Measures r = mesh::measure(k->mesh);
            QVERIFY(r.closed);
            QVERIFY2(std::abs(r.volumeMm3 / 8000 - 1) < 0.05, qPrintable(QString::number(r.volumeMm3)));
        }
    }
    void insideOutIsTurned()
    {
        mesh::PolyMesh m = test::sphere(10, 60, 120);
        for (mesh::Face &f : m.faces)
            std::swap(f.v[0], f.v[2]);
        const auto k = field::knitMesh(m, {0.5f, 0});
        QVERIFY(k);
        QVERIFY(mesh::measure(k->mesh).volumeMm3 > 4000);
    }
    void sheetEnclosesNothing()
    {
        QCOMPARE(field::knitMesh(test::plane(20, 10), {0.5f, 0}).error().code, ErrorCode::Empty);
        QCOMPARE(field::knitMesh(test::plane(20, 10), {0, 5000}).error().code, ErrorCode::Empty);
    }
    void nonsenseIsRefused()
    {
        QCOMPARE(field::knitMesh({}, {1, 0}).error().code, ErrorCode::Empty);
        QCOMPARE(field::knitMesh(test::box({0, 0, 0}, {1, 1, 1}), {0, 0}).error().code, ErrorCode::BadValue);
        QCOMPARE(field::knitMesh(test::box({0, 0, 0}, {1, 1, 1}), {1e-5f, 0}).error().code, ErrorCode::TooLarge);
    }
    void cancelLeavesNothing()
    {
        std::stop_source stop;
        stop.request_stop();
        Progress p;
        p.stop = stop.get_token();
        QCOMPARE(field::knitMesh(test::sphere(10, 40, 80), {0.3f, 0}, p).error().code, ErrorCode::Cancelled);
    }
};

QTEST_APPLESS_MAIN(TestKnit)
#include "tst_knit.moc"
