// Oracle: Embree 3.13 on the same triangles.
#include "support/run.h"
#include "base/random.h"
#include "io/mesh_file.h"
#include "mesh/nearest_faces.h"
#include "mesh/surface.h"
#include "support/shapes.h"

#include <QtTest>
#include <embree3/rtcore.h>

using namespace bonemoss;

class TestQueries : public QObject
{
    Q_OBJECT
    mesh::PolyMesh m_mesh;

private slots:
    // What makes the curve worth having (Hilbert 1891): cells next to each other on it share a side, and
    // every cell comes once.
    void hilbertCurveWalksFromCellToNeighbour()
    {
        constexpr std::uint32_t n = 16;
        std::map<std::uint64_t, Vec3f> along;
        for (std::uint32_t x = 0; x < n; ++x)
            for (std::uint32_t y = 0; y < n; ++y)
                for (std::uint32_t z = 0; z < n; ++z)
                    along[mesh::hilbertCode(x, y, z, 4)] = Vec3f{float(x), float(y), float(z)};
        QCOMPARE(along.size(), std::size_t(n * n * n));
        QCOMPARE(along.rbegin()->first, std::uint64_t(n * n * n - 1));
        for (auto a = along.begin(), b = std::next(a); b != along.end(); ++a, ++b)
            QCOMPARE(length(a->second - b->second), 1.0f);
    }
    // A block knows of itself whether the skin goes on all round it.
    void blocksKnowTheirBorder()
    {
        const auto closed = mesh::makeSurface(inSpatialOrder(test::sphere(10, 100, 200)));
        const auto open = mesh::makeSurface(inSpatialOrder(test::plane(10, 40)));
        QVERIFY(closed.topology->blockCount() > 2);
        for (std::size_t b = 0; b < closed.topology->blockCount(); ++b)
            QVERIFY(closed.topology->block(b).openVertices().empty());
        QCOMPARE(open.topology->block(0).openVertices().size(), std::size_t(4 * 40)); // the rim of 40 by 40 faces
        QVERIFY(open.topology->block(0).isOnePiece());
        mesh::PolyMesh two = test::sphere(10, 10, 20);
        append(two, test::sphere(1, 10, 20, {30, 0, 0}));
        QVERIFY(!mesh::makeSurface(two).topology->block(0).isOnePiece());
    }
    void initTestCase()
    {
        const std::string path = test::cgalMesh("armadillo.off");
        if (!path.empty()) {
            auto read = io::readMesh(path);
            QVERIFY(read);
            m_mesh = inSpatialOrder(read->mesh);
        } else {
            m_mesh = inSpatialOrder(test::torus(20, 5, 200, 120));
        }
    }
    void raysAsEmbree()
    {
        const mesh::Surface s = mesh::makeSurface(m_mesh);
        RTCDevice device = rtcNewDevice(nullptr);
        RTCScene scene = rtcNewScene(device);
        RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
        std::vector<std::array<std::uint32_t, 3>> triangles;
        for (const mesh::Face &f : m_mesh.faces) { // our rays cut quads along 0-2
            triangles.push_back({f.v[0], f.v[1], f.v[2]});
            if (f.size() == 4)
                triangles.push_back({f.v[0], f.v[2], f.v[3]});
        }
        auto positions = m_mesh.positions;
        positions.push_back({});
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, positions.data(), 0, 12,
                                   positions.size() - 1);
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, triangles.data(), 0, 12, triangles.size());
        rtcCommitGeometry(g);
        rtcAttachGeometry(scene, g);
        rtcReleaseGeometry(g);
        rtcCommitScene(scene);
        const Box3f box = s.box();
        const float size = box.diagonal();
        int hits = 0, differ = 0;
        for (std::uint64_t i = 0; i < 20000; ++i) {
            const auto r = [&](std::uint64_t k) { return randomSigned(9, i * 8 + k); };
            const Vec3f from = box.centre() + normalized(Vec3f{r(0), r(1), r(2)}) * size;
            const Vec3f to = box.centre() + Vec3f{r(3), r(4), r(5)} * (size * 0.3f);
            const mesh::Ray ray{from, normalized(to - from)};
            RTCIntersectContext context;
            rtcInitIntersectContext(&context);
            RTCRayHit h{};
            h.ray = {from.x, from.y, from.z, 0, ray.direction.x, ray.direction.y, ray.direction.z, 0, 1e30f, ~0u, 0, 0};
            h.hit.geomID = RTC_INVALID_GEOMETRY_ID;
            rtcIntersect1(scene, &context, &h);
            const auto ours = mesh::castRay(s, ray);
            const bool theirs = h.hit.geomID != RTC_INVALID_GEOMETRY_ID;
            hits += theirs;
            if (bool(ours) != theirs || (ours && std::abs(ours->distance - h.ray.tfar) > size * 1e-4f))
                ++differ;
        }
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
        QVERIFY(hits > 3000);
        QVERIFY2(differ <= 4, qPrintable(QString::number(differ))); // rays along an edge may fall either way
    }
    void nearestPointsAsEmbree()
    {
        const mesh::Surface s = mesh::makeSurface(m_mesh);
        const mesh::NearestFaces faces(m_mesh);
        const Box3f box = s.box();
        for (std::uint64_t i = 0; i < 2000; ++i) {
            const Vec3f p =
                box.centre()
                + Vec3f{randomSigned(4, i * 3), randomSigned(4, i * 3 + 1), randomSigned(4, i * 3 + 2)} * box.diagonal() * 0.4f;
            const auto ours = mesh::nearestPoint(s, p);
            QVERIFY(ours);
            QVERIFY(std::abs(length(ours->point - p) - faces.find(p).distance) < box.diagonal() * 1e-4f);
        }
    }
    // Runs of points near the surface, as a knit asks, and points strewn far off, one by one.
    void nearestFacesOfManyPointsAsEmbree()
    {
        const mesh::Surface s = mesh::makeSurface(inSpatialOrder(m_mesh));
        const mesh::PolyMesh ordered = toPolyMesh(s);
        const mesh::NearestFaces faces(ordered);
        const Box3f box = s.box();
        std::vector<Vec3f> points;
        const float near = box.diagonal() * 0.004f;
        for (std::uint64_t i = 0; i < ordered.positions.size(); ++i)
            points.push_back(ordered.positions[i]
                             + Vec3f{randomSigned(7, i * 3), randomSigned(7, i * 3 + 1), randomSigned(7, i * 3 + 2)} * near);
        for (std::uint64_t i = 0; i < 500; ++i)
            points.push_back(box.centre()
                             + Vec3f{randomSigned(9, i * 3), randomSigned(9, i * 3 + 1), randomSigned(9, i * 3 + 2)}
                                   * box.diagonal());
        const auto found = mesh::nearestFaces(s, points, near * 1.5f);
        QCOMPARE(found.size(), points.size());
        for (std::size_t i = 0; i < points.size(); ++i) {
            const auto &[corners, w, distance] = found[i];
            QVERIFY(std::abs(distance - faces.find(points[i]).distance) < box.diagonal() * 1e-5f);
            const Vec3f at = ordered.positions[corners[0]] * w[0] + ordered.positions[corners[1]] * w[1]
                             + ordered.positions[corners[2]] * w[2];
            QVERIFY(std::abs(length(at - points[i]) - distance) < box.diagonal() * 1e-5f);
        }
    }
    // Clouds of points at every distance, inside and out, as a knit far from the surface asks; beyond the reach there is nothing.
    void nearestFacesWithinReachAsEmbree()
    {
        const mesh::Surface s = mesh::makeSurface(inSpatialOrder(m_mesh));
        const mesh::PolyMesh ordered = toPolyMesh(s);
        const mesh::NearestFaces faces(ordered);
        const Box3f box = s.box();
        std::size_t within = 0, beyond = 0;
        for (std::uint64_t cloud = 0; cloud < 60; ++cloud) {
            const auto r = [&](std::uint64_t k) { return randomSigned(11, cloud * 4096 + k); };
            const Vec3f middle = box.centre() + Vec3f{r(0), r(1), r(2)} * (box.diagonal() * (cloud % 3 == 0 ? 1.2f : 0.4f));
            const float wide = box.diagonal() * 0.03f, reach = faces.find(middle).distance + (cloud % 2 ? 2 : -0.5f) * wide;
            std::vector<Vec3f> points;
            for (std::uint64_t i = 0; i < 3 + cloud * 9; ++i)
                points.push_back(middle + Vec3f{r(3 * i + 3), r(3 * i + 4), r(3 * i + 5)} * wide);
            const auto found = mesh::nearestFacesWithin(s, points, reach);
            for (std::size_t i = 0; i < points.size(); ++i) {
                const float theirs = faces.find(points[i]).distance, off = box.diagonal() * 1e-5f;
                if (theirs < reach - off) {
                    QVERIFY(std::abs(found[i].distance - theirs) < off);
                    ++within;
                } else if (theirs > reach + off) {
                    QVERIFY(found[i].distance > reach);
                    ++beyond;
                }
            }
        }
        QVERIFY(within > 1000 && beyond > 1000);
    }
    // Against asking every block.
    void blocksNearAsAllBlocksSay()
    {
        const mesh::Surface s = mesh::makeSurface(m_mesh);
        const Box3f box = s.box();
        std::size_t found = 0;
        for (std::uint64_t i = 0; i < 200; ++i) {
            const Vec3f at = box.lo
                             + Vec3f{box.size().x * (1.4f * randomUnit(5, 4 * i) - 0.2f), box.size().y * randomUnit(5, 4 * i + 1),
                                     box.size().z * randomUnit(5, 4 * i + 2)};
            const float radius = box.diagonal() * 0.3f * randomUnit(5, 4 * i + 3);
            std::vector<std::uint32_t> all;
            for (std::uint32_t b = 0; b < s.bounds.size(); ++b)
                if (squaredDistance(s.bounds[b]->box, at) <= radius * radius)
                    all.push_back(b);
            QCOMPARE(mesh::blocksNear(s, at, radius), all);
            found += all.size();
        }
        QVERIFY(found > 200);
        QVERIFY(mesh::blocksNear(mesh::Surface{}, {0, 0, 0}, 1).empty());
    }
    void emptySurfaceHasNoHit() { QVERIFY(!mesh::castRay(mesh::Surface{}, {{0, 0, 0}, {0, 0, 1}})); }
};

BONEMOSS_TEST(TestQueries)
#include "tst_queries.moc"
