// Oracle: CGAL 5.5, which tells exactly which triangles of a mesh pass through each other, and distances from one.
#include "support/run.h"
#include "base/random.h"
#include "field/knit.h"
#include "io/mesh_file.h"
#include "mesh/nearest_faces.h"
#include "solid/detail/cgal_mesh.h"
#include "support/shapes.h"

#include <CGAL/AABB_face_graph_triangle_primitive.h>
#include <CGAL/AABB_traits.h>
#include <CGAL/AABB_tree.h>
#include <CGAL/Polygon_mesh_processing/self_intersections.h>
#include <QtTest>

using namespace bonemoss;

namespace {

/// Pairs of triangles of a mesh that cross or touch and have no corner or side in common there.
std::size_t crossings(const mesh::PolyMesh &m)
{
    const solid::detail::SurfaceMesh s = solid::detail::toCgal(m);
    std::vector<std::pair<solid::detail::SurfaceMesh::Face_index, solid::detail::SurfaceMesh::Face_index>> found;
    CGAL::Polygon_mesh_processing::self_intersections(s, std::back_inserter(found));
    return found.size();
}

} // namespace

class TestSelfCrossing : public QObject
{
    Q_OBJECT
private slots:
    void aMeshThroughItselfIsSeen() // that the oracle sees what it is asked for
    {
        mesh::PolyMesh two = test::sphere(10, 20, 40);
        mesh::append(two, test::sphere(10, 20, 40, {8, 0, 0}));
        QVERIFY(crossings(two) > 0);
    }
    void knitsDoNotCrossThemselves_data()
    {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("faces");
        for (const char *file : {"armadillo.off", "elephant.off", "dragknob.off", "homer.off", "hand.off"})
            for (const int faces : {4000, 60000})
                QTest::addRow("%s %d", file, faces) << QString(file) << faces;
    }
    void knitsDoNotCrossThemselves()
    {
        QFETCH(QString, file);
        QFETCH(int, faces);
        const std::string path = test::cgalMesh(file.toUtf8().constData());
        if (path.empty())
            QSKIP("the test meshes are not unpacked; ./moss test does that");
        const auto read = io::readMesh(path);
        QVERIFY(read);
        const auto k = field::knitMesh(read->mesh, {0, std::size_t(faces)});
        QVERIFY(k);
        QCOMPARE(crossings(k->mesh), std::size_t(0));
        const auto again = field::knitAgain(k->mesh, k->report.spacing);
        QVERIFY(again);
        QCOMPARE(crossings(field::knitAgain(again->mesh, k->report.spacing)->mesh), std::size_t(0));
    }
    // How far a knit lies from what it was made of, as reports tell it, against CGAL's tree of triangles.
    void distancesAsCgal()
    {
        const std::string path = test::cgalMesh("elephant.off");
        if (path.empty())
            QSKIP("the test meshes are not unpacked; ./moss test does that");
        const auto read = io::readMesh(path);
        QVERIFY(read);
        const auto k = field::knitMesh(read->mesh, {0, 20000});
        QVERIFY(k);
        const solid::detail::SurfaceMesh s = solid::detail::toCgal(read->mesh);
        using Primitive = CGAL::AABB_face_graph_triangle_primitive<solid::detail::SurfaceMesh>;
        CGAL::AABB_tree<CGAL::AABB_traits<solid::detail::Kernel, Primitive>> tree(faces(s).begin(), faces(s).end(), s);
        const mesh::NearestFaces ours(read->mesh);
        const double size = double(mesh::boundsOf(read->mesh.positions).diagonal());
        double sum = 0, largest = 0;
        for (const Vec3f p : k->mesh.positions) {
            const double theirs = std::sqrt(tree.squared_distance(solid::detail::toCgal(p)));
            QVERIFY(std::abs(double(ours.find(p).distance) - theirs) < 1e-6 * size);
            sum += theirs, largest = std::max(largest, theirs);
        }
        const mesh::DistanceStats told = mesh::distanceTo(read->mesh, k->mesh.positions, k->mesh.positions.size());
        QCOMPARE(told.samples, k->mesh.positions.size());
        QVERIFY(std::abs(told.mean - sum / double(told.samples)) < 1e-6 * size);
        QVERIFY(std::abs(told.largest - largest) < 1e-6 * size);
    }
    void balledCrowdsDoNotCrossThemselves() // random overlapping balls
    {
        for (std::uint64_t run = 0; run < 10; ++run) {
            mesh::PolyMesh crowd;
            for (std::uint64_t i = 0; i < 12; ++i) {
                const auto at = [&](std::uint64_t k) { return 12 * randomSigned(run, i * 4 + k); };
                mesh::append(crowd, test::sphere(3 + 4 * randomUnit(run, i * 4 + 3), 24, 48, {at(0), at(1), at(2)}));
            }
            const auto k = field::knitMesh(crowd, {0.7f, 0});
            QVERIFY(k);
            QCOMPARE(crossings(k->mesh), std::size_t(0));
        }
    }
};

BONEMOSS_TEST(TestSelfCrossing)
#include "tst_self_crossing.moc"
