#include "portrait/traced_scene.h"

#include <embree3/rtcore.h>

#include <algorithm>
#include <array>
#include <map>

namespace bonemoss::portrait {

/// A shape: faces with smooth normals, or hair.
struct TracedScene::Part {
    RTCGeometry geometry = nullptr;
    RTCScene scene = nullptr; ///< of its own, where copies of it stand elsewhere
    std::vector<Vec3f> positions, normals;
    std::vector<Vec3f> colours;         ///< of the points, linear light; empty where they have none
    std::vector<FinishValues> finishes; ///< likewise
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<std::array<float, 4>> points;        ///< of hair: with the radius
    std::vector<std::uint32_t> segments;             ///< the first point of each
    std::vector<std::array<float, 2>> alongSegments; ///< where each begins and ends, from root to tip
    std::vector<std::uint32_t> copyOf;               ///< of each segment, in tints; empty where no copy has one
    std::vector<Vec3f> tints;

    Part() = default;
    Part(const Part &) = delete;
    Part &operator=(const Part &) = delete;
    ~Part()
    {
        if (scene)
            rtcReleaseScene(scene);
        if (geometry)
            rtcReleaseGeometry(geometry);
    }
    void takeFaces(const io::Shape &shape);
    void takeHair(const mesh::Curves &curves, const io::Placement &place, const Vec3f *tint);
    void commit(RTCDevice device);
    Vec3f at(std::uint32_t point) const { return {points[point][0], points[point][1], points[point][2]}; }
};

struct TracedScene::Copy {
    io::Placement place;
    std::size_t part = 0, object = 0, material = 0;
    bool isMirrored = false;
    Vec3f tint{1, 1, 1};

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
    RTCScene scene = rtcNewScene(device), clear = rtcNewScene(device);

    Embree() = default;
    Embree(const Embree &) = delete;
    Embree &operator=(const Embree &) = delete;
    ~Embree()
    {
        rtcReleaseScene(clear);
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
    if (const io::Attribute *c = shape.attribute(io::kColour);
        c && c->domain == mesh::Domain::Vertex && c->width >= 3 && c->values.size() == c->width * normals.size())
        for (std::size_t i = 0; i < normals.size(); ++i)
            colours.push_back({c->values[i * c->width], c->values[i * c->width + 1], c->values[i * c->width + 2]});
    if (const io::Attribute *f = shape.attribute(io::kFinish);
        f && f->domain == mesh::Domain::Vertex && f->width == kFinishes && f->values.size() == kFinishes * normals.size()) {
        finishes.resize(normals.size());
        for (std::size_t i = 0; i < normals.size(); ++i)
            std::copy_n(f->values.data() + i * kFinishes, kFinishes, finishes[i].data());
    }
    positions.push_back({}); // the hierarchy reads 16 bytes at the last vertex
}

void TracedScene::Part::takeHair(const mesh::Curves &curves, const io::Placement &place, const Vec3f *tint)
{
    if (tint)
        tints.push_back(*tint);
    constexpr std::uint32_t kFiner = 2; // pieces of each segment, along a Catmull-Rom curve through the points
    const float *m = place.m;
    const float size = std::cbrt(std::abs(dot(cross(Vec3f{m[0], m[1], m[2]}, Vec3f{m[3], m[4], m[5]}), Vec3f{m[6], m[7], m[8]})));
    for (std::size_t k = 0; k < curves.count(); ++k) {
        const std::uint32_t begin = curves.begin(k), end = curves.end(k);
        const auto at = [&](std::int64_t i) { // beyond its ends it goes straight on
            const Vec3f *p = curves.points.data();
            return i < begin ? p[begin] * 2 - p[begin + 1] : i >= end ? p[end - 1] * 2 - p[end - 2] : p[i];
        };
        const auto pieces = (end - begin - 1) * kFiner;
        for (std::uint32_t piece = 0; piece <= pieces; ++piece) {
            const std::uint32_t i = std::min(begin + piece / kFiner, end - 2);
            const float t = float(piece - (i - begin) * kFiner) / float(kFiner);
            const Vec3f p0 = at(std::int64_t(i) - 1), p1 = at(i), p2 = at(i + 1), p3 = at(i + 2);
            const Vec3f own =
                p1 + ((p2 - p0) + ((p0 * 2 - p1 * 5 + p2 * 4 - p3) + (p1 * 3 - p0 - p2 * 3 + p3) * t) * t) * (0.5f * t);
            const Vec3f p = place.apply(own);
            if (piece < pieces) {
                segments.push_back(std::uint32_t(points.size()));
                alongSegments.push_back({float(piece) / float(pieces), float(piece + 1) / float(pieces)});
                if (tint)
                    copyOf.push_back(std::uint32_t(tints.size() - 1));
            }
            points.push_back({p.x, p.y, p.z, size * std::lerp(curves.radii[i], curves.radii[i + 1], t)});
        }
    }
}

void TracedScene::Part::commit(RTCDevice device)
{
    const bool isHair = !segments.empty();
    RTCGeometry g = geometry = rtcNewGeometry(device, isHair ? RTC_GEOMETRY_TYPE_FLAT_LINEAR_CURVE : RTC_GEOMETRY_TYPE_TRIANGLE);
    if (isHair) {
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT4, points.data(), 0, 16, points.size());
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT, segments.data(), 0, 4, segments.size());
    } else {
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, positions.data(), 0, 12,
                                   positions.size() - 1);
        rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, triangles.data(), 0, 12, triangles.size());
    }
    rtcCommitGeometry(g);
}

/// A part as it stands.
void TracedScene::add(std::size_t number, const io::Placement &place, std::size_t object, std::size_t material, Vec3f tint,
                      bool isClear)
{
    const RTCScene scene = isClear ? m_embree->clear : m_embree->scene;
    m_hasClear = m_hasClear || isClear;
    Part &part = *m_parts[number];
    const auto id = unsigned(m_copies.size());
    if (place == io::Placement()) {
        rtcAttachGeometryByID(scene, part.geometry, id);
    } else {
        if (!part.scene) {
            part.scene = rtcNewScene(m_embree->device);
            rtcAttachGeometryByID(part.scene, part.geometry, 0);
            rtcCommitScene(part.scene);
        }
        RTCGeometry g = rtcNewGeometry(m_embree->device, RTC_GEOMETRY_TYPE_INSTANCE);
        rtcSetGeometryInstancedScene(g, part.scene);
        rtcSetGeometryTransform(g, 0, RTC_FORMAT_FLOAT3X4_COLUMN_MAJOR, place.m);
        rtcCommitGeometry(g);
        rtcAttachGeometryByID(scene, g, id);
        rtcReleaseGeometry(g);
    }
    m_copies.push_back({place, number, object, material, place.isMirroring(), tint});
}

TracedScene::TracedScene(const io::Scene &shown) : m_embree(std::make_unique<Embree>()), m_box(shown.box())
{
    std::vector<std::size_t> partOf(shown.shapes.size(), std::size_t(kNone));
    std::map<std::size_t, std::array<std::size_t, 2>> hairOf; // part of a material's hair, and its first object
    for (std::size_t number = 0; number < shown.objects.size(); ++number) {
        const io::Object &o = shown.objects[number];
        const io::Shape &shape = shown.shapeOf(o);
        const bool isClear = shown.materialOf(o).opacity < 0.5f; // what lies in it is seen
        if (!shape.curves && shape.faceCount() == 0)
            continue;
        if (shape.curves) { // tufts stand in each other, so that rays would have to try many copies
            if (isClear)
                continue;
            const auto [it, isNew] = hairOf.try_emplace(o.material, std::array{m_parts.size(), number});
            if (isNew)
                m_parts.push_back(std::make_unique<Part>());
            for (std::size_t k = 0; k < o.places.size(); ++k)
                m_parts[it->second[0]]->takeHair(*shape.curves, o.places[k], o.tints.empty() ? nullptr : &o.tints[k]);
            continue;
        }
        std::size_t &part = partOf[o.shape];
        if (part == std::size_t(kNone)) {
            part = m_parts.size();
            m_parts.push_back(std::make_unique<Part>());
            m_parts.back()->takeFaces(shape);
            m_parts.back()->commit(m_embree->device);
        }
        for (std::size_t k = 0; k < o.places.size(); ++k)
            add(part, o.places[k], number, o.material, o.tints.empty() ? Vec3f{1, 1, 1} : o.tints[k], isClear);
    }
    for (const auto &[material, hair] : hairOf) {
        m_parts[hair[0]]->commit(m_embree->device);
        add(hair[0], {}, hair[1], material, {1, 1, 1}, false);
    }
    rtcCommitScene(m_embree->scene);
    rtcCommitScene(m_embree->clear);
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

bool TracedScene::isBlocked(Vec3f from, Vec3f direction, float far, float near) const
{
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay ray{from.x, from.y, from.z, near, direction.x, direction.y, direction.z, 0, far, ~0u, 0, 0};
    rtcOccluded1(m_embree->scene, &context, &ray);
    return ray.tfar < 0;
}

std::optional<Meeting> TracedScene::meet(const mesh::Ray &ray, float far, float near) const
{
    return meetIn(false, ray, far, near);
}

std::optional<Meeting> TracedScene::meetClear(const mesh::Ray &ray, float far, float near) const
{
    if (!m_hasClear)
        return {};
    return meetIn(true, ray, far, near);
}

std::optional<Meeting> TracedScene::meetIn(bool clear, const mesh::Ray &r, float far, float near) const
{
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit h{};
    h.ray = {r.origin.x, r.origin.y, r.origin.z, near, r.direction.x, r.direction.y, r.direction.z, 0, far, ~0u, 0, 0};
    h.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    h.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(clear ? m_embree->clear : m_embree->scene, &context, &h);
    if (h.hit.geomID == RTC_INVALID_GEOMETRY_ID)
        return {};
    const Copy &copy = m_copies[h.hit.instID[0] == RTC_INVALID_GEOMETRY_ID ? h.hit.geomID : h.hit.instID[0]];
    const Part &part = *m_parts[copy.part];
    Meeting m{.point = r.origin + r.direction * h.ray.tfar, .material = copy.material};
    m.distance = h.ray.tfar, m.object = copy.object;
    if (!part.segments.empty()) {
        const std::uint32_t first = part.segments[h.hit.primID];
        m.tangent = normalized(part.at(first + 1) - part.at(first));
        const Vec3f side = -r.direction + m.tangent * dot(r.direction, m.tangent);
        m.normal = m.face = normalized(squaredLength(side) > 1e-8f ? side : -r.direction);
        m.across = h.hit.v, m.radius = std::lerp(part.points[first][3], part.points[first + 1][3], h.hit.u);
        if (!part.copyOf.empty())
            m.colour = part.tints[part.copyOf[h.hit.primID]];
        m.along = std::lerp(part.alongSegments[h.hit.primID][0], part.alongSegments[h.hit.primID][1], h.hit.u);
        return m;
    }
    const auto &t = part.triangles[h.hit.primID];
    const auto &n = part.normals;
    m.normal = normalized(copy.normal(n[t[0]] * (1 - h.hit.u - h.hit.v) + n[t[1]] * h.hit.u + n[t[2]] * h.hit.v));
    m.face = normalized(copy.normal({h.hit.Ng_x, h.hit.Ng_y, h.hit.Ng_z}));
    m.colour = copy.tint;
    if (const auto &c = part.colours; !c.empty())
        m.colour = m.colour * (c[t[0]] * (1 - h.hit.u - h.hit.v) + c[t[1]] * h.hit.u + c[t[2]] * h.hit.v);
    if (const auto &f = part.finishes; !f.empty())
        for (std::size_t k = 0; k < kFinishes; ++k)
            m.finish[k] = f[t[0]][k] * (1 - h.hit.u - h.hit.v) + f[t[1]][k] * h.hit.u + f[t[2]][k] * h.hit.v;
    if (dot(m.normal, r.direction) > 0.2f)
        m.normal = -m.normal;
    return m;
}

} // namespace bonemoss::portrait
