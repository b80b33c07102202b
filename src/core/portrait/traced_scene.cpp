#include "portrait/traced_scene.h"

#include <embree3/rtcore.h>

#include <algorithm>
#include <array>

namespace bonemoss::portrait {

/// A shape: faces with smooth normals, or hair.
struct TracedScene::Part {
    RTCScene scene = nullptr;
    std::vector<Vec3f> positions, normals;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<std::array<float, 4>>
        points;                          ///< of hair: with the radius; each hair has one more before its root and after its tip
    std::vector<std::uint32_t> segments; ///< the first of the four points of each
    std::vector<std::array<float, 2>> alongSegments; ///< where each begins and ends, from root to tip

    Part() = default;
    Part(const Part &) = delete;
    Part &operator=(const Part &) = delete;
    ~Part()
    {
        if (scene)
            rtcReleaseScene(scene);
    }
    void takeFaces(const io::Shape &shape);
    void takeHair(const mesh::Curves &curves);
    void commit(RTCDevice device);
    Vec3f at(std::uint32_t point) const { return {points[point][0], points[point][1], points[point][2]}; }
};

struct TracedScene::Copy {
    io::Placement place;
    std::size_t part = 0, material = 0;
    bool isMirrored = false;

    Vec3f direction(Vec3f d) const
    {
        const float *m = place.m;
        return {m[0] * d.x + m[3] * d.y + m[6] * d.z, m[1] * d.x + m[4] * d.y + m[7] * d.z, m[2] * d.x + m[5] * d.y + m[8] * d.z};
    }
    /// Normals go by the cofactors of the map.
    Vec3f normal(Vec3f n) const
    {
        const float *m = place.m;
        const Vec3f x{m[0], m[1], m[2]}, y{m[3], m[4], m[5]}, z{m[6], m[7], m[8]};
        const Vec3f out = cross(y, z) * n.x + cross(z, x) * n.y + cross(x, y) * n.z;
        return isMirrored ? -out : out;
    }
};

struct TracedScene::Embree {
    RTCDevice device = rtcNewDevice(nullptr);
    RTCScene scene = rtcNewScene(device);

    Embree() = default;
    Embree(const Embree &) = delete;
    Embree &operator=(const Embree &) = delete;
    ~Embree()
    {
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
};

void TracedScene::Part::takeFaces(const io::Shape &shape)
{
    positions.reserve(shape.pointCount() + 1);
    shape.eachPoint([&](Vec3f p) { positions.push_back(p); });
    normals.resize(positions.size());
    triangles.reserve(shape.triangleCount());
    shape.eachTriangle([&](const auto &, std::array<std::uint32_t, 3> t) {
        const Vec3f face = cross(positions[t[1]] - positions[t[0]], positions[t[2]] - positions[t[0]]);
        for (const std::uint32_t v : t)
            normals[v] += face;
        triangles.push_back(t);
    });
    for (Vec3f &n : normals)
        n = normalized(n);
    positions.push_back({}); // the hierarchy reads 16 bytes at the last vertex
}

void TracedScene::Part::takeHair(const mesh::Curves &curves)
{
    points.reserve(curves.points.size() + 2 * curves.count());
    for (std::size_t k = 0; k < curves.count(); ++k) {
        const std::uint32_t begin = curves.begin(k), end = curves.end(k);
        const auto add = [&](Vec3f p, float radius) { points.push_back({p.x, p.y, p.z, radius}); };
        add(curves.points[begin] * 2 - curves.points[begin + 1], curves.radii[begin]);
        for (std::uint32_t i = begin; i < end; ++i) {
            if (i + 1 < end) {
                segments.push_back(std::uint32_t(points.size()) - 1);
                const float all = float(end - begin - 1);
                alongSegments.push_back({float(i - begin) / all, float(i + 1 - begin) / all});
            }
            add(curves.points[i], curves.radii[i]);
        }
        add(curves.points[end - 1] * 2 - curves.points[end - 2], curves.radii[end - 1]);
    }
}

void TracedScene::Part::commit(RTCDevice device)
{
    scene = rtcNewScene(device);
    const bool isHair = !segments.empty();
    RTCGeometry g = rtcNewGeometry(device, isHair ? RTC_GEOMETRY_TYPE_FLAT_CATMULL_ROM_CURVE : RTC_GEOMETRY_TYPE_TRIANGLE);
    if (isHair) {
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT4, points.data(), 0, 16, points.size());
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT, segments.data(), 0, 4, segments.size());
    } else {
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, positions.data(), 0, 12,
                                   positions.size() - 1);
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, triangles.data(), 0, 12, triangles.size());
    }
    rtcCommitGeometry(g);
    rtcAttachGeometryByID(scene, g, 0);
    rtcReleaseGeometry(g);
    rtcCommitScene(scene);
}

TracedScene::TracedScene(const io::Scene &shown) : m_embree(std::make_unique<Embree>()), m_box(shown.box())
{
    std::vector<std::size_t> partOf(shown.shapes.size(), std::size_t(kNone));
    for (const io::Object &o : shown.objects) {
        const io::Shape &shape = shown.shapeOf(o);
        if (shown.materialOf(o).opacity < 0.5f || (!shape.curves && shape.faceCount() == 0))
            continue; // clear: what lies in it is seen
        std::size_t &part = partOf[o.shape];
        if (part == std::size_t(kNone)) {
            part = m_parts.size();
            auto &made = m_parts.emplace_back(std::make_unique<Part>());
            shape.curves ? made->takeHair(*shape.curves) : made->takeFaces(shape);
            made->commit(m_embree->device);
        }
        for (const io::Placement &place : o.places) {
            RTCGeometry g = rtcNewGeometry(m_embree->device, RTC_GEOMETRY_TYPE_INSTANCE);
            rtcSetGeometryInstancedScene(g, m_parts[part]->scene);
            rtcSetGeometryTransform(g, 0, RTC_FORMAT_FLOAT3X4_COLUMN_MAJOR, place.m);
            rtcCommitGeometry(g);
            rtcAttachGeometryByID(m_embree->scene, g, unsigned(m_copies.size()));
            rtcReleaseGeometry(g);
            m_copies.push_back({place, part, o.material, place.isMirroring()});
        }
    }
    rtcCommitScene(m_embree->scene);
}

TracedScene::~TracedScene() = default;

std::size_t TracedScene::memoryBytes() const
{
    std::size_t n = m_copies.size() * sizeof(Copy);
    for (const auto &p : m_parts)
        n += (p->positions.size() + p->normals.size()) * sizeof(Vec3f) + p->triangles.size() * 12 + p->points.size() * 16
             + p->segments.size() * 12;
    return n;
}

bool TracedScene::isBlocked(Vec3f from, Vec3f direction, float far) const
{
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay ray{from.x, from.y, from.z, 0, direction.x, direction.y, direction.z, 0, far, ~0u, 0, 0};
    rtcOccluded1(m_embree->scene, &context, &ray);
    return ray.tfar < 0;
}

std::optional<Meeting> TracedScene::meet(const mesh::Ray &r) const
{
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit h{};
    h.ray = {r.origin.x, r.origin.y, r.origin.z, 0, r.direction.x, r.direction.y, r.direction.z, 0, 1e30f, ~0u, 0, 0};
    h.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    h.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(m_embree->scene, &context, &h);
    if (h.hit.geomID == RTC_INVALID_GEOMETRY_ID)
        return {};
    const Copy &copy = m_copies[h.hit.instID[0]];
    const Part &part = *m_parts[copy.part];
    Meeting m{.point = r.origin + r.direction * h.ray.tfar, .material = copy.material};
    if (!part.segments.empty()) {
        const std::uint32_t first = part.segments[h.hit.primID];
        const Vec3f begins = part.at(first + 2) - part.at(first), ends = part.at(first + 3) - part.at(first + 1);
        m.tangent = normalized(copy.direction(lerp(begins, ends, h.hit.u)));
        const Vec3f side = -r.direction + m.tangent * dot(r.direction, m.tangent);
        m.normal = normalized(squaredLength(side) > 1e-8f ? side : -r.direction);
        m.along = std::lerp(part.alongSegments[h.hit.primID][0], part.alongSegments[h.hit.primID][1], h.hit.u);
        return m;
    }
    const auto &t = part.triangles[h.hit.primID];
    const auto &n = part.normals;
    m.normal = normalized(copy.normal(n[t[0]] * (1 - h.hit.u - h.hit.v) + n[t[1]] * h.hit.u + n[t[2]] * h.hit.v));
    if (dot(m.normal, r.direction) > 0.2f)
        m.normal = -m.normal;
    return m;
}

} // namespace bonemoss::portrait
