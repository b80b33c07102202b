#include "portrait/traced_scene.h"

#include "base/parallel.h"

#include <embree3/rtcore.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <map>

namespace bonemoss::portrait {

/// A run of faces that is one geometry: a block of a surface, or a whole mesh or hair.
struct TracedScene::Patch {
    RTCGeometry geometry = nullptr;
    std::vector<Vec3f> positions;
    std::vector<std::array<std::uint32_t, 3>> triangles; ///< of a surface: numbers within the block

    Patch() = default;
    Patch(Patch &&other) noexcept
        : geometry(std::exchange(other.geometry, nullptr)), positions(std::move(other.positions)),
          triangles(std::move(other.triangles))
    {}
    Patch &operator=(Patch &&) = delete;
    ~Patch()
    {
        if (geometry)
            rtcReleaseGeometry(geometry);
    }
    void takeBlock(const mesh::Surface &surface, std::size_t b);
    void commit(RTCDevice device);
};

/// A shape: faces with smooth normals, or hair.
struct TracedScene::Part {
    RTCScene scene = nullptr; ///< of its own, where copies of it stand elsewhere
    std::size_t shape = 0;    ///< in the scene's list; not of hair, which several have
    std::vector<Patch> patches;
    const io::Attribute *colours = nullptr, *finishes = nullptr; ///< of the scene's shape
    std::vector<Vec3f> normals;                                  ///< of a mesh
    std::vector<std::array<float, 4>> points;                    ///< of hair: with the radius
    std::vector<std::uint32_t> segments;                         ///< the first point of each
    std::vector<std::array<float, 2>> alongSegments;             ///< where each begins and ends, from root to tip
    std::vector<std::uint32_t> copyOf;                           ///< of each segment, in tints; empty where no copy has one
    std::vector<Vec3f> tints;

    Part() = default;
    Part(const Part &) = delete;
    Part &operator=(const Part &) = delete;
    ~Part()
    {
        if (scene)
            rtcReleaseScene(scene);
    }
    bool isHair() const { return !segments.empty(); }
    void takeMesh(const io::Shape &from);
    void takePaint(const io::Scene &of);
    void takeSurface(const mesh::Surface &surface, RTCDevice device);
    void takeHair(const mesh::Curves &curves, const io::Placement &place, const Vec3f *tint);
    void commitHair(RTCDevice device);
    Vec3f at(std::uint32_t point) const { return {points[point][0], points[point][1], points[point][2]}; }
};

struct TracedScene::Copy {
    std::size_t part = 0, object = 0, placeNumber = 0;
    io::Placement place;
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

struct TracedScene::Slot {
    std::uint32_t copy = 0, patch = 0;
    RTCGeometry instance = nullptr; ///< owned by the hierarchy
};

struct TracedScene::Embree {
    std::atomic<std::ptrdiff_t> bytes{0};
    RTCDevice device = rtcNewDevice(nullptr);
    RTCScene scene = rtcNewScene(device), clear = rtcNewScene(device);
    RTCSceneFlags flags;

    explicit Embree(Upkeep upkeep) : flags(upkeep == Upkeep::Live ? RTC_SCENE_FLAG_DYNAMIC : RTC_SCENE_FLAG_NONE)
    {
        rtcSetDeviceMemoryMonitorFunction(
            device,
            [](void *sum, ssize_t n, bool) {
                *static_cast<std::atomic<std::ptrdiff_t> *>(sum) += n;
                return true;
            },
            &bytes);
        prepare(scene), prepare(clear);
    }
    /// A hierarchy of hierarchies, one of each geometry, where single ones change. The library makes these at low quality alone; those of
    /// geometries have their own.
    void prepare(RTCScene of) const
    {
        rtcSetSceneFlags(of, flags);
        if (flags == RTC_SCENE_FLAG_DYNAMIC)
            rtcSetSceneBuildQuality(of, RTC_BUILD_QUALITY_LOW);
    }
    Embree(const Embree &) = delete;
    Embree &operator=(const Embree &) = delete;
    ~Embree()
    {
        rtcReleaseScene(clear);
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
};

void TracedScene::Patch::takeBlock(const mesh::Surface &surface, std::size_t b)
{
    const mesh::BlockFaces &block = surface.topology->block(b);
    mesh::gatherPositions(surface, b, positions);
    triangles.clear();
    triangles.reserve(2 * std::size_t(block.drawnFaces));
    for (std::size_t i = 0; i < block.drawnFaces; ++i) {
        const auto &l = block.faces[i].v;
        const mesh::Face f{{l[0], l[1], l[2], l[3] == mesh::kLocalNone ? kNone : l[3]}};
        std::array<Vec3f, 4> p;
        for (int k = 0; k < f.size(); ++k)
            p[std::size_t(k)] = positions[f.v[std::size_t(k)]];
        for (const auto &t : mesh::trianglesOf(f, p))
            if (t[0] != t[1])
                triangles.push_back({f.v[t[0]], f.v[t[1]], f.v[t[2]]});
    }
    positions.push_back({}); // the hierarchy reads 16 bytes at the last vertex
}

void TracedScene::Patch::commit(RTCDevice device)
{
    if (!geometry)
        geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    rtcSetSharedGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, positions.data(), 0, 12,
                               positions.size() - 1);
    rtcSetSharedGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, triangles.data(), 0, 12, triangles.size());
    rtcCommitGeometry(geometry);
}

void TracedScene::Part::takeMesh(const io::Shape &from)
{
    Patch &patch = patches.emplace_back();
    std::vector<Vec3f> &positions = patch.positions;
    positions.reserve(from.pointCount() + 1);
    from.eachPoint([&](Vec3f p) { positions.push_back(p); });
    normals.resize(positions.size());
    patch.triangles.reserve(from.triangleCount());
    from.eachTriangle([&](const auto &, std::array<std::uint32_t, 3> t) {
        const Vec3f face = cross(positions[t[1]] - positions[t[0]], positions[t[2]] - positions[t[0]]);
        for (const std::uint32_t v : t)
            normals[v] += face;
        patch.triangles.push_back(t);
    });
    for (Vec3f &n : normals)
        n = normalized(n);
    positions.push_back({}); // as in takeBlock()
}

void TracedScene::Part::takePaint(const io::Scene &of)
{
    const io::Shape &from = of.shapes[shape];
    const auto ofPoints = [&](std::string_view name, std::size_t width) -> const io::Attribute * {
        const io::Attribute *a = from.attribute(name);
        const bool isWhole = a && a->domain == mesh::Domain::Vertex && a->width >= width;
        return isWhole && a->values.size() >= a->width * from.pointCount() ? a : nullptr;
    };
    colours = ofPoints(io::kColour, 3), finishes = ofPoints(io::kFinish, kFinishes);
}

void TracedScene::Part::takeSurface(const mesh::Surface &surface, RTCDevice device)
{
    patches.resize(surface.topology->blockCount());
    forEachBlock(patches.size(), 4, [&](BlockRange r) {
        for (std::size_t b = r.begin; b < r.end; ++b)
            patches[b].takeBlock(surface, b), patches[b].commit(device);
    });
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

void TracedScene::Part::commitHair(RTCDevice device)
{
    RTCGeometry g = patches.emplace_back().geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_FLAT_LINEAR_CURVE);
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT4, points.data(), 0, 16, points.size());
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT, segments.data(), 0, 4, segments.size());
    rtcCommitGeometry(g);
}

/// A part as it stands.
void TracedScene::add(std::size_t number, std::size_t object, std::size_t placeNumber, bool isClear)
{
    const RTCScene scene = isClear ? m_embree->clear : m_embree->scene;
    m_hasClear = m_hasClear || isClear;
    Part &part = *m_parts[number];
    const io::Object &o = m_scene.objects[object];
    const bool isWhole = part.isHair(); // as it lies in the scene
    const io::Placement place = isWhole ? io::Placement() : o.places[placeNumber];
    const auto copy = std::uint32_t(m_copies.size());
    m_copies.push_back({number, object, placeNumber, place, place.isMirroring(),
                        isWhole || o.tints.empty() ? Vec3f{1, 1, 1} : o.tints[placeNumber]});
    if (place == io::Placement()) {
        for (std::size_t k = 0; k < part.patches.size(); ++k) {
            rtcAttachGeometryByID(scene, part.patches[k].geometry, unsigned(m_slots.size()));
            m_slots.push_back({copy, std::uint32_t(k)});
        }
        return;
    }
    if (!part.scene) {
        part.scene = rtcNewScene(m_embree->device);
        m_embree->prepare(part.scene);
        for (std::size_t k = 0; k < part.patches.size(); ++k)
            rtcAttachGeometryByID(part.scene, part.patches[k].geometry, unsigned(k));
        rtcCommitScene(part.scene);
    }
    RTCGeometry g = rtcNewGeometry(m_embree->device, RTC_GEOMETRY_TYPE_INSTANCE);
    rtcSetGeometryInstancedScene(g, part.scene);
    rtcSetGeometryTransform(g, 0, RTC_FORMAT_FLOAT3X4_COLUMN_MAJOR, place.m);
    rtcCommitGeometry(g);
    rtcAttachGeometryByID(scene, g, unsigned(m_slots.size()));
    rtcReleaseGeometry(g);
    m_slots.push_back({copy, 0, g});
}

TracedScene::TracedScene(io::Scene shown, Upkeep upkeep)
    : m_scene(std::move(shown)), m_embree(std::make_unique<Embree>(upkeep)), m_box(m_scene.box())
{
    std::vector<std::size_t> partOf(m_scene.shapes.size(), std::size_t(kNone));
    std::map<std::size_t, std::array<std::size_t, 2>> hairOf; // part of a material's hair, and its first object
    for (std::size_t number = 0; number < m_scene.objects.size(); ++number) {
        const io::Object &o = m_scene.objects[number];
        const io::Shape &shape = m_scene.shapeOf(o);
        const bool isClear = m_scene.materialOf(o).opacity < 0.5f; // what lies in it is seen
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
            Part &made = *m_parts.emplace_back(std::make_unique<Part>());
            made.shape = o.shape;
            made.takePaint(m_scene);
            if (const mesh::Surface *surface = shape.surface()) {
                made.takeSurface(*surface, m_embree->device);
            } else {
                made.takeMesh(shape);
                made.patches.front().commit(m_embree->device);
            }
        }
        for (std::size_t k = 0; k < o.places.size(); ++k)
            add(part, number, k, isClear);
    }
    for (const auto &[material, hair] : hairOf) {
        m_parts[hair[0]]->commitHair(m_embree->device);
        add(hair[0], hair[1], 0, false);
    }
    commit();
}

TracedScene::~TracedScene() = default;

void TracedScene::commit()
{
    rtcCommitScene(m_embree->scene);
    rtcCommitScene(m_embree->clear);
}

/// Whether another scene has the same shapes, but for points of surfaces, and stands as many copies of each in it.
bool TracedScene::isOfSameShape(const io::Scene &other) const
{
    const io::Scene &own = m_scene;
    if (own.shapes.size() != other.shapes.size() || own.objects.size() != other.objects.size()
        || own.materials.size() != other.materials.size())
        return false;
    for (std::size_t k = 0; k < own.shapes.size(); ++k) {
        const io::Shape &a = own.shapes[k], &b = other.shapes[k];
        if (a.curves != b.curves || a.plainMesh() != b.plainMesh() || !a.surface() != !b.surface()
            || (a.surface() && a.surface()->topology != b.surface()->topology))
            return false;
    }
    for (std::size_t k = 0; k < own.objects.size(); ++k) {
        const io::Object &a = own.objects[k], &b = other.objects[k];
        if (a.shape != b.shape || a.material != b.material || a.places.size() != b.places.size()
            || (own.materialOf(a).opacity < 0.5f) != (other.materialOf(b).opacity < 0.5f))
            return false;
        const bool isHair = own.shapeOf(a).curves != nullptr;
        for (std::size_t i = 0; i < a.places.size(); ++i) // hair lies in the scene itself; so does what is not turned
            if (a.places[i] != b.places[i] && (isHair || a.places[i] == io::Placement() || b.places[i] == io::Placement()))
                return false;
        if (isHair && a.tints != b.tints)
            return false;
    }
    return true;
}

bool TracedScene::follow(io::Scene &shown)
{
    if (m_embree->flags != RTC_SCENE_FLAG_DYNAMIC || !isOfSameShape(shown))
        return false;
    for (const auto &part : m_parts) {
        const mesh::Surface *was = part->isHair() ? nullptr : m_scene.shapes[part->shape].surface();
        if (!was)
            continue;
        const mesh::Surface &now = *shown.shapes[part->shape].surface();
        std::atomic<bool> isChanged{false};
        const auto stays = [&](std::size_t b) { return was->positions.sharesWith(now.positions, b); };
        forEachBlock(part->patches.size(), 4, [&](BlockRange r) {
            for (std::size_t b = r.begin; b < r.end; ++b) {
                const auto &beside = now.topology->block(b).blocksBeside();
                if (stays(b) && std::all_of(beside.begin(), beside.end(), stays))
                    continue;
                Patch &patch = part->patches[b];
                patch.takeBlock(now, b), patch.commit(m_embree->device);
                isChanged = true;
            }
        });
        if (isChanged && part->scene)
            rtcCommitScene(part->scene);
    }
    std::swap(m_scene, shown);
    m_box = m_scene.box();
    for (const auto &part : m_parts)
        if (!part->isHair())
            part->takePaint(m_scene);
    for (const Slot &slot : m_slots) {
        Copy &copy = m_copies[slot.copy];
        const io::Object &o = m_scene.objects[copy.object];
        if (m_parts[copy.part]->isHair())
            continue;
        copy.tint = o.tints.empty() ? Vec3f{1, 1, 1} : o.tints[copy.placeNumber];
        if (!slot.instance)
            continue;
        copy.place = o.places[copy.placeNumber], copy.isMirrored = copy.place.isMirroring();
        rtcSetGeometryTransform(slot.instance, 0, RTC_FORMAT_FLOAT3X4_COLUMN_MAJOR, copy.place.m);
        rtcCommitGeometry(slot.instance);
    }
    commit();
    return true;
}

std::size_t TracedScene::hierarchyBytes() const
{
    return std::size_t(std::max<std::ptrdiff_t>(0, m_embree->bytes));
}

std::size_t TracedScene::memoryBytes() const
{
    std::size_t n = m_copies.size() * sizeof(Copy) + m_slots.size() * sizeof(Slot) + hierarchyBytes();
    for (const auto &p : m_parts) {
        n += p->normals.size() * sizeof(Vec3f) + p->points.size() * 16 + p->segments.size() * 12;
        for (const Patch &patch : p->patches)
            n += patch.positions.size() * sizeof(Vec3f) + patch.triangles.size() * 12;
    }
    return n;
}

namespace {

bool isOccluded(RTCScene scene, const mesh::Ray &r, float far, float near)
{
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay ray{r.origin.x, r.origin.y, r.origin.z, near, r.direction.x, r.direction.y, r.direction.z, 0, far, ~0u, 0, 0};
    rtcOccluded1(scene, &context, &ray);
    return ray.tfar < 0;
}

RTCRayHit cast(RTCScene scene, const mesh::Ray &r, float far, float near)
{
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit h{};
    h.ray = {r.origin.x, r.origin.y, r.origin.z, near, r.direction.x, r.direction.y, r.direction.z, 0, far, ~0u, 0, 0};
    h.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    h.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(scene, &context, &h);
    return h;
}

} // namespace

bool TracedScene::isBlocked(Vec3f from, Vec3f direction, float far, float near) const
{
    if (m_log)
        m_log->rays.push_back({{from, direction}, near, far, true});
    return isOccluded(m_embree->scene, {from, direction}, far, near);
}

std::size_t TracedScene::replay(const RayLog &log) const
{
    std::size_t met = 0;
    for (const RayLog::Ray &r : log.rays)
        met += r.isShadow ? isOccluded(m_embree->scene, r.ray, r.far, r.near)
                          : cast(m_embree->scene, r.ray, r.far, r.near).hit.geomID != RTC_INVALID_GEOMETRY_ID;
    return met;
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
    if (m_log && !clear)
        m_log->rays.push_back({r, near, far, false});
    const RTCRayHit h = cast(clear ? m_embree->clear : m_embree->scene, r, far, near);
    if (h.hit.geomID == RTC_INVALID_GEOMETRY_ID)
        return {};
    const bool isInstance = h.hit.instID[0] != RTC_INVALID_GEOMETRY_ID;
    const Slot &slot = m_slots[isInstance ? h.hit.instID[0] : h.hit.geomID];
    const Copy &copy = m_copies[slot.copy];
    const Part &part = *m_parts[copy.part];
    Meeting m{.point = r.origin + r.direction * h.ray.tfar, .material = m_scene.objects[copy.object].material};
    m.distance = h.ray.tfar, m.object = copy.object;
    if (part.isHair()) {
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
    const std::size_t patch = isInstance ? h.hit.geomID : slot.patch;
    std::array<std::uint32_t, 3> t = part.patches[patch].triangles[h.hit.primID];
    const std::array<float, 3> w{1 - h.hit.u - h.hit.v, h.hit.u, h.hit.v};
    const io::Shape &shape = m_scene.shapes[part.shape];
    Vec3f normal;
    if (const mesh::Surface *surface = shape.surface()) {
        const mesh::BlockFaces &block = surface->topology->block(patch);
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t v =
                t[k] < block.own ? std::uint32_t(patch * mesh::kBlockSize) + t[k] : block.borrowed[t[k] - block.own];
            normal += surface->normals[v].unpack() * w[k];
            t[k] = shape.numberOf(v);
        }
    } else {
        for (std::size_t k = 0; k < 3; ++k)
            normal += part.normals[t[k]] * w[k];
    }
    m.normal = normalized(copy.normal(normal));
    m.face = normalized(copy.normal({h.hit.Ng_x, h.hit.Ng_y, h.hit.Ng_z}));
    m.colour = copy.tint;
    if (const io::Attribute *c = part.colours) {
        Vec3f sum;
        for (std::size_t k = 0; k < 3; ++k) {
            const float *v = c->values.data() + t[k] * c->width;
            sum += Vec3f{v[0], v[1], v[2]} * w[k];
        }
        m.colour = m.colour * sum;
    }
    if (const io::Attribute *f = part.finishes)
        for (std::size_t i = 0; i < kFinishes; ++i)
            for (std::size_t k = 0; k < 3; ++k)
                m.finish[i] += f->values[t[k] * f->width + i] * w[k];
    if (dot(m.normal, r.direction) > 0.2f)
        m.normal = -m.normal;
    return m;
}

} // namespace bonemoss::portrait
