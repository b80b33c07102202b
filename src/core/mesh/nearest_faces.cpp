#include "mesh/nearest_faces.h"

#include "base/parallel.h"
#include "mesh/detail/triangle.h"

#include <embree3/rtcore.h>

#include <algorithm>
#include <limits>

namespace bonemoss::mesh {

struct NearestFaces::Scene {
    RTCDevice device = nullptr;
    RTCScene scene = nullptr;
    const PolyMesh *mesh = nullptr;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<Vec3f> positions;
};

namespace {

struct Query {
    const std::vector<std::array<std::uint32_t, 3>> *triangles;
    const std::vector<Vec3f> *positions;
    NearestFace best;
};

bool visit(RTCPointQueryFunctionArguments *args)
{
    auto &q = *static_cast<Query *>(args->userPtr);
    const auto &t = (*q.triangles)[args->primID];
    const Vec3f p{args->query->x, args->query->y, args->query->z};
    const Vec3f a = (*q.positions)[t[0]], b = (*q.positions)[t[1]], c = (*q.positions)[t[2]];
    const auto w = detail::nearestWeights(p, a, b, c);
    const float d = length(detail::blend(w, a, b, c) - p);
    if (d >= q.best.distance)
        return false;
    q.best = {t, w, d};
    args->query->radius = d;
    return true;
}

} // namespace

NearestFaces::NearestFaces(const PolyMesh &mesh) : m_scene(std::make_unique<Scene>())
{
    Scene &s = *m_scene;
    s.triangles = triangulate(mesh);
    s.positions = mesh.positions;
    s.positions.push_back({}); // the hierarchy reads 16 bytes at the last vertex
    s.device = rtcNewDevice(nullptr);
    s.scene = rtcNewScene(s.device);
    RTCGeometry g = rtcNewGeometry(s.device, RTC_GEOMETRY_TYPE_TRIANGLE);
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, s.positions.data(), 0, sizeof(Vec3f),
                               mesh.positions.size());
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, s.triangles.data(), 0, 12, s.triangles.size());
    rtcCommitGeometry(g);
    rtcAttachGeometry(s.scene, g);
    rtcReleaseGeometry(g);
    rtcCommitScene(s.scene);
}

NearestFaces::~NearestFaces()
{
    rtcReleaseScene(m_scene->scene);
    rtcReleaseDevice(m_scene->device);
}

NearestFace NearestFaces::find(Vec3f p) const
{
    Query q{&m_scene->triangles, &m_scene->positions, {}};
    q.best.distance = std::numeric_limits<float>::max();
    RTCPointQuery query{p.x, p.y, p.z, 0, std::numeric_limits<float>::infinity()};
    RTCPointQueryContext context;
    rtcInitPointQueryContext(&context);
    rtcPointQuery(m_scene->scene, &query, &context, visit, &q);
    return q.best;
}

namespace {
struct Sum {
    double sum = 0, largest = 0;
    std::size_t n = 0;
    friend Sum operator+(Sum a, const Sum &b) { return {a.sum + b.sum, std::max(a.largest, b.largest), a.n + b.n}; }
};
} // namespace

DistanceStats distanceTo(const PolyMesh &mesh, std::span<const Vec3f> points, std::size_t maxSamples)
{
    if (points.empty() || mesh.isEmpty())
        return {};
    const NearestFaces faces(mesh);
    const std::size_t step = std::max<std::size_t>(1, points.size() / std::max<std::size_t>(1, maxSamples));
    const std::size_t count = (points.size() + step - 1) / step;
    const Sum s = sumBlocks<Sum>(count, 1024, [&](BlockRange r) {
        Sum part;
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const double d = double(faces.find(points[i * step]).distance);
            part = part + Sum{d, d, 1};
        }
        return part;
    });
    return {s.sum / double(s.n), s.largest, s.n};
}

} // namespace bonemoss::mesh
