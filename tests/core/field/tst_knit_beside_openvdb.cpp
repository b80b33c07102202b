// Oracle: OpenVDB 10.0, meshToLevelSet with the narrowest band that serves and volumeToMesh, on the same
// input at the same spacing: our skin lies no farther from the input on average, and weighs the same.
#include "support/run.h"
#include "field/knit.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "support/shapes.h"

#include <QtTest>

#include <openvdb/openvdb.h>
#include <openvdb/tools/MeshToVolume.h>
#include <openvdb/tools/VolumeToMesh.h>

using namespace bonemoss;

class TestKnitBesideOpenVdb : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void initTestCase() { openvdb::initialize(); }
    void asNearAndAsHeavy_data()
    {
        QTest::addColumn<QString>("name");
        for (const char *n : {"armadillo.off", "bear.off", "camel.off", "bull.off"})
            QTest::newRow(n) << n;
    }
    void asNearAndAsHeavy()
    {
        QFETCH(QString, name);
        const std::string path = test::cgalMesh(qPrintable(name));
        if (path.empty())
            QSKIP("the test meshes are not unpacked; ./moss test does that");
        const auto read = io::readMesh(path);
        QVERIFY(read);
        const mesh::PolyMesh &input = read->mesh;
        const float spacing = mesh::boundsOf(input.positions).diagonal() / 250;
        const auto ours = field::knitMesh(input, {spacing, 0});
        QVERIFY(ours);

        std::vector<openvdb::Vec3s> points, out;
        std::vector<openvdb::Vec3I> triangles, outTriangles;
        std::vector<openvdb::Vec4I> outQuads;
        for (const Vec3f p : input.positions)
            points.emplace_back(p.x, p.y, p.z);
        for (const auto &t : triangulate(input))
            triangles.emplace_back(t[0], t[1], t[2]);
        const auto transform = openvdb::math::Transform::createLinearTransform(double(spacing));
        const auto grid = openvdb::tools::meshToLevelSet<openvdb::FloatGrid>(*transform, points, triangles, 1.5f);
        openvdb::tools::volumeToMesh(*grid, out, outTriangles, outQuads, 0.0, 0.0);
        mesh::PolyMesh theirs;
        for (const auto &p : out)
            theirs.positions.push_back({p.x(), p.y(), p.z()});
        for (const auto &q : outQuads) // it winds the other way round
            theirs.faces.push_back({{q[3], q[2], q[1], q[0]}});

        const double a = mesh::distanceTo(input, ours->mesh.positions, 50000).mean;
        const double b = mesh::distanceTo(input, theirs.positions, 50000).mean;
        QVERIFY2(a <= b, qPrintable(QString("%1 %2 spacings").arg(a / double(spacing)).arg(b / double(spacing))));
        const double v = mesh::measure(ours->mesh).volumeMm3, w = std::abs(mesh::measure(theirs).volumeMm3);
        if (mesh::measure(input).closed)
            QVERIFY2(std::abs(v / w - 1) < 0.01, qPrintable(QString("%1 %2").arg(v).arg(w)));
    }
};

BONEMOSS_TEST(TestKnitBesideOpenVdb)
#include "tst_knit_beside_openvdb.moc"
