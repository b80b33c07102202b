#include "mesh/nearest_faces.h"

#include "base/parallel.h"

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

/// Barycentric weights of the nearest point of a triangle (Ericson 2005, section 5.1.5).
std::array<float, 3> nearestWeights(Vec3f p, Vec3f a, Vec3f b, Vec3f c)
{
    const Vec3f ab = b - a, ac = c - a, ap = p - a, bp = p - b, cp = p - c;
    const float d1 = dot(ab, ap), d2 = dot(ac, ap), d3 = dot(ab, bp), d4 = dot(ac, bp), d5 = dot(ab, cp), d6 = dot(ac, cp);
    if (d1 <= 0 && d2 <= 0)
        return {1, 0, 0};
    if (d3 >= 0 && d4 <= d3)
        return {0, 1, 0};
    if (d6 >= 0 && d5 <= d6)
        return {0, 0, 1};
    const float vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0)
        return {1 - d1 / (d1 - d3), d1 / (d1 - d3), 0};
    const float vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0)
        return {1 - d2 / (d2 - d6), 0, d2 / (d2 - d6)};
    const float va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const float t = (d4 - d3) / ((d4 - d3) + (d5 - d6));
        return {0, 1 - t, t};
    }
    const float sum = va + vb + vc;
    return sum != 0 ? std::array<float, 3>{va / sum, vb / sum, vc / sum} : std::array<float, 3>{1, 0, 0};
}

bool visit(RTCPointQueryFunctionArguments *args)
{
    auto &q = *static_cast<Query *>(args->userPtr);
    const auto &t = (*q.triangles)[args->primID];
    const Vec3f p{args->query->x, args->query->y, args->query->z};
    const Vec3f a = (*q.positions)[t[0]], b = (*q.positions)[t[1]], c = (*q.positions)[t[2]];
    const auto w = nearestWeights(p, a, b, c);
    const float d = length(a * w[0] + b * w[1] + c * w[2] - p);
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
