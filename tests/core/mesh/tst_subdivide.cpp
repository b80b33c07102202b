// Oracle: OpenSubdiv 3.5, uniform Catmull-Clark refinement with sharp corners, on the same cages.
#include "support/run.h"
#include "mesh/subdivide.h"
#include "mesh/measures.h"
#include "support/shapes.h"

#include <QtTest>

#include <opensubdiv/far/primvarRefiner.h>
#include <opensubdiv/far/topologyDescriptor.h>

using namespace bonemoss;
using namespace OpenSubdiv;

namespace {

struct Point {
    Vec3f p;
    void Clear(void * = nullptr) { p = {}; }
    void AddWithWeight(const Point &o, float w) { p += o.p * w; }
};

/// Positions OpenSubdiv finds at a level.
std::vector<Vec3f> refineOutside(const mesh::PolyMesh &m, int levels)
{
    std::vector<int> counts, corners;
    for (const mesh::Face &f : m.faces) {
        counts.push_back(f.size());
        for (int c = 0; c < f.size(); ++c)
            corners.push_back(int(f.v[std::size_t(c)]));
    }
    Far::TopologyDescriptor d;
    d.numVertices = int(m.positions.size());
    d.numFaces = int(counts.size());
    d.numVertsPerFace = counts.data();
    d.vertIndicesPerFace = corners.data();
    Sdc::Options options;
    options.SetVtxBoundaryInterpolation(Sdc::Options::VTX_BOUNDARY_EDGE_AND_CORNER);
    using Factory = Far::TopologyRefinerFactory<Far::TopologyDescriptor>;
    const std::unique_ptr<Far::TopologyRefiner> refiner(Factory::Create(d, Factory::Options(Sdc::SCHEME_CATMARK, options)));
    refiner->RefineUniform(Far::TopologyRefiner::UniformOptions(levels));
    std::vector<Point> now(m.positions.size());
    for (std::size_t i = 0; i < now.size(); ++i)
        now[i].p = m.positions[i];
    Far::PrimvarRefiner primvar(*refiner);
    for (int l = 1; l <= levels; ++l) {
        std::vector<Point> next(std::size_t(refiner->GetLevel(l).GetNumVertices()));
        primvar.Interpolate(l, now, next);
        now = next;
    }
    std::vector<Vec3f> out;
    for (const Point &p : now)
        out.push_back(p.p);
    return out;
}

void sortPoints(std::vector<Vec3f> &p)
{
    std::sort(p.begin(), p.end(), [](Vec3f a, Vec3f b) {
        const auto key = [](float v) { return std::lround(v * 256); };
        if (key(a.x) != key(b.x))
            return key(a.x) < key(b.x);
        return key(a.y) != key(b.y) ? key(a.y) < key(b.y) : key(a.z) < key(b.z);
    });
}

} // namespace

class TestSubdivide : public QObject
{
    Q_OBJECT
private slots:
    void positionsAsOpenSubdiv_data()
    {
        QTest::addColumn<int>("cage");
        QTest::addColumn<int>("levels");
        for (int levels = 1; levels <= 4; ++levels) {
            QTest::addRow("closed, triangles and quads, %d", levels) << 0 << levels;
            QTest::addRow("open plane, %d", levels) << 1 << levels;
            QTest::addRow("box, %d", levels) << 2 << levels;
        }
    }
    void positionsAsOpenSubdiv()
    {
        QFETCH(int, cage);
        QFETCH(int, levels);
        mesh::PolyMesh m = cage == 0 ? test::sphere(10, 5, 7) : cage == 1 ? test::plane(9, 3) : test::box({0, 0, 0}, {3, 5, 7});
        for (std::size_t i = 0; i < m.positions.size(); ++i) // no two points may tie
            m.positions[i] += Vec3f{0.13f * float(i % 3), 0.29f * float(i % 5), 0.17f * float(i % 7)};
        std::vector<Vec3f> ours = mesh::subdivide(m, levels).positions, theirs = refineOutside(m, levels);
        QCOMPARE(ours.size(), theirs.size());
        // Both are sums of the same weights in another order: compare each of ours with the nearest of theirs.
        sortPoints(theirs);
        float worst = 0;
        for (const Vec3f p : ours) {
            float nearest = 1e9f;
            auto it =
                std::lower_bound(theirs.begin(), theirs.end(), p.x - 0.02f, [](Vec3f a, float x) { return a.x < x - 0.02f; });
            for (; it != theirs.end() && it->x < p.x + 0.05f; ++it)
                nearest = std::min(nearest, length(*it - p));
            worst = std::max(worst, nearest);
        }
        QVERIFY2(worst < 1e-4f, qPrintable(QString::number(double(worst))));
    }
    void countsAndClosedness()
    {
        const mesh::PolyMesh fine = mesh::subdivide(test::torus(20, 5, 12, 8), 2);
        const mesh::Measures r = mesh::measure(fine);
        QCOMPARE(r.faces, std::size_t(12 * 8 * 16));
        QVERIFY(r.closed);
        QCOMPARE(int(r.genus), 1);
    }
};

BONEMOSS_TEST(TestSubdivide)
#include "tst_subdivide.moc"
