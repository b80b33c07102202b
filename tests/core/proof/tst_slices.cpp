// Slices. Oracles: sections of balls, rings and cones in closed form; CGAL's slicer (Polygon_mesh_slicer); the union of squares.
#include "io/mesh_file.h"
#include "proof/outlines.h"
#include "solid/detail/cgal_mesh.h"
#include "support/run.h"
#include "support/shapes.h"

#include <CGAL/Polygon_mesh_slicer.h>

#include <QTemporaryDir>
#include <QtTest>

using namespace bonemoss;
using namespace bonemoss::proof;

namespace {

mesh::PolyMesh bothOf(mesh::PolyMesh a, const mesh::PolyMesh &b)
{
    append(a, b);
    return a;
}

} // namespace

class TestSlices : public QObject
{
    Q_OBJECT
private slots:
    void sectionsInClosedForm()
    {
        const mesh::PolyMesh ball = test::sphere(10, 400, 800), ring = test::torus(10, 3, 600, 300);
        const std::vector<float> heights = middlesOfLayers(-10, 10, 0.5f);
        const std::vector<Slice> balls = Slicer(ball).cut(heights), rings = Slicer(ring).cut(heights);
        QCOMPARE(balls.size(), heights.size());
        for (const Slice &s : balls) {
            const double area = std::numbers::pi * (100 - double(s.y) * double(s.y));
            QVERIFY(std::abs(s.area / area - 1) < 2e-3 && s.starts.size() == 1 && s.openLoops == 0);
            QVERIFY(std::abs(s.perimeter() / (2 * std::sqrt(std::numbers::pi * area)) - 1) < 2e-3);
        }
        for (const Slice &s : rings) // an outline and a hole: a ring's section is 4 pi R sqrt(r^2 - y^2)
            if (std::abs(s.y) < 2.9f) {
                QVERIFY(std::abs(s.area / (40 * std::numbers::pi * std::sqrt(9 - double(s.y) * double(s.y))) - 1) < 3e-3);
                QCOMPARE(s.starts.size(), std::size_t(2));
            }
        // Corners that lie in the level: the box is cut at its lower face and not at its upper one, and never twice.
        const mesh::PolyMesh box = test::box({0, 0, 0}, {4, 3, 2});
        const std::vector<float> levels{0, 1, 3, 3.5f};
        const std::vector<Slice> cut = Slicer(box).cut(levels);
        QVERIFY(cut[0].area == 0 && std::abs(cut[1].area - 8) < 1e-6 && std::abs(cut[2].area - 8) < 1e-6 && cut[3].area == 0);
    }
    void sameLinesAsCgal()
    {
        using Points = std::vector<solid::detail::Kernel::Point_3>;
        const std::string file = test::cgalMesh("elephant.off");
        if (file.empty())
            QSKIP("the test meshes are not unpacked; ./moss test does that");
        mesh::PolyMesh mesh = io::readMesh(file)->mesh;
        const float size = mesh::boundsOf(mesh.positions).size().y;
        for (Vec3f &p : mesh.positions)
            p = p * (10 / size);
        const Box3f box = mesh::boundsOf(mesh.positions);
        const auto other = solid::detail::toCgal(mesh);
        CGAL::Polygon_mesh_slicer<solid::detail::SurfaceMesh, solid::detail::Kernel> slicer(other);
        const std::vector<float> heights = middlesOfLayers(box.lo.y, box.hi.y, 0.31f);
        const std::vector<Slice> own = Slicer(mesh).cut(heights);
        for (const Slice &s : own) {
            std::vector<Points> lines;
            slicer(solid::detail::Kernel::Plane_3(0, 1, 0, -double(s.y)), std::back_inserter(lines));
            QCOMPARE(s.starts.size(), lines.size());
            double length = 0;
            std::size_t points = 0;
            for (const Points &l : lines) {
                points += l.size() - 1;
                for (std::size_t k = 0; k + 1 < l.size(); ++k)
                    length += std::sqrt(CGAL::to_double(CGAL::squared_distance(l[k], l[k + 1])));
            }
            if (lines.empty()) // above the last corner
                continue;
            QVERIFY(s.points.size() >= points && s.points.size() <= points + 3); // a corner in the level is one point there
            QVERIFY(std::abs(s.perimeter() / length - 1) < 1e-5 && s.openLoops == 0);
        }
    }
    void openMeshesAndUnions()
    {
        std::uint32_t broken = 0;
        for (std::size_t k = 0; k < 6; ++k) { // without one of its faces; four of them stand upright
            mesh::PolyMesh open = test::box({0, 0, 0}, {4, 3, 2});
            open.faces.erase(open.faces.begin() + std::ptrdiff_t(k));
            for (const Slice &slice : Slicer(open).cut(middlesOfLayers(0, 3, 0.5f)))
                broken += slice.openLoops;
        }
        QCOMPARE(broken, 4u * 6);
        // Two bodies that overlap, and one within: their lines cross; their union is one outline.
        const mesh::PolyMesh two = bothOf(test::box({0, 0, 0}, {4, 3, 4}), test::box({2, 0, 1}, {6, 3, 3}));
        const std::vector<float> level{1.5f};
        const Slice lines = Slicer(two).cut(level)[0], joined = unionOf(lines);
        QVERIFY(std::abs(lines.area - 24) < 1e-4 && std::abs(joined.area - 20) < 1e-4);
        QCOMPARE(joined.starts.size(), std::size_t(1));
        QVERIFY(std::abs(joined.perimeter() - 20) < 1e-3);
        const Slice within =
            unionOf(Slicer(bothOf(test::box({0, 0, 0}, {4, 3, 4}), test::box({1, 0, 1}, {3, 3, 3}))).cut(level)[0]);
        QVERIFY(std::abs(within.area - 16) < 1e-4 && within.starts.size() == 1);
        QTemporaryDir folder;
        const std::string out = (folder.path() + "/a.svg").toStdString();
        QVERIFY(bool(writeSvg(out, std::span(&joined, 1), 0.5f)));
        QFile svg(QString::fromStdString(out));
        QVERIFY(svg.open(QIODevice::ReadOnly));
        const QByteArray text = svg.readAll();
        QVERIFY(text.contains("width=\"6.0000mm\"") && text.contains("id=\"layer1\"") && text.count('Z') >= 1);
        QVERIFY(!writeSvg(folder.path().toStdString() + "/no/such/a.svg", {}, 1));
    }
};

BONEMOSS_TEST(TestSlices)
#include "tst_slices.moc"
