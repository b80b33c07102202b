#include "mesh/surface.h"

#include "base/parallel.h"

#include <cstring>

namespace bonemoss::mesh {

namespace {

/// Position padded to 16 bytes: loads and stores stay whole.
struct alignas(16) Vec4 {
    float x, y, z, w;
};

Vec4 loadPadded(Vec3f p) { return {p.x, p.y, p.z, 0}; }

std::int16_t pack(float v) { return std::int16_t(v * 32767.0f); }

/// Adds the area-weighted normal of each face into its corners. A quad's is the cross product of its
/// diagonals, a triangle's that of two sides: both twice the area long.
void addFaceNormals(const BlockFaces &faces, const Vec4 *p, Vec4 *n)
{
    for (const LocalFace &f : faces.faces) {
        const bool triangle = f.v[3] == kLocalNone;
        const std::uint16_t v3 = triangle ? f.v[0] : f.v[3];
        const Vec4 a = p[f.v[0]], b = p[f.v[1]], c = p[f.v[2]], d = p[v3];
        const float ux = c.x - a.x, uy = c.y - a.y, uz = c.z - a.z;
        const float wx = d.x - b.x, wy = d.y - b.y, wz = d.z - b.z;
        const float nx = uy * wz - uz * wy, ny = uz * wx - ux * wz, nz = ux * wy - uy * wx;
        const auto add = [&](std::uint16_t v) { n[v].x += nx, n[v].y += ny, n[v].z += nz; };
        add(f.v[0]);
        add(f.v[1]);
        add(f.v[2]);
        if (!triangle)
            add(f.v[3]);
    }
}

std::shared_ptr<const BlockBounds> makeBounds(const BlockFaces &faces, const std::vector<Vec4> &p)
{
    auto bounds = std::make_shared<BlockBounds>();
    const auto point = [&](std::uint16_t v) { return Vec3f{p[v].x, p[v].y, p[v].z}; };
    const std::size_t step = BlockBounds::kClusterFaces;
    bounds->clusters.resize((faces.drawnFaces + step - 1) / step);
    for (std::size_t c = 0; c < bounds->clusters.size(); ++c) {
        Box3f box;
        const std::size_t end = std::min<std::size_t>(faces.drawnFaces, (c + 1) * step);
        for (std::size_t f = c * step; f < end; ++f) {
            const LocalFace &l = faces.faces[f];
            box.add(point(l.v[0]));
            box.add(point(l.v[1]));
            box.add(point(l.v[2]));
            box.add(point(l.v[3] == kLocalNone ? l.v[0] : l.v[3]));
        }
        bounds->clusters[c] = box;
        bounds->box.add(box);
    }
    for (std::uint32_t i = 0; i < p.size(); ++i)
        bounds->box.add(point(std::uint16_t(i)));
    return bounds;
}

void gatherPadded(const Surface &s, std::size_t b, std::vector<Vec4> &out)
{
    const BlockFaces &faces = s.topology->block(b);
    out.resize(faces.own + faces.borrowed.size());
    const Vec3f *own = s.positions.data(b);
    for (std::size_t i = 0; i < faces.own; ++i)
        out[i] = own ? loadPadded(own[i]) : Vec4{};
    for (std::size_t i = 0; i < faces.borrowed.size(); ++i)
        out[faces.own + i] = loadPadded(s.positions[faces.borrowed[i]]);
}

void updateBlock(Surface &s, std::size_t b)
{
    thread_local std::vector<Vec4> position, normal; // scratch
    const BlockFaces &faces = s.topology->block(b);
    gatherPadded(s, b, position);
    normal.assign(position.size(), Vec4{});
    addFaceNormals(faces, position.data(), normal.data());
    PackedNormal *out = s.normals.edit(b);
    for (std::size_t i = 0; i < faces.own; ++i) {
        const Vec4 n = normal[i];
        const float square = n.x * n.x + n.y * n.y + n.z * n.z;
        const float inverse = square > 0 ? 1 / std::sqrt(square) : 0;
        out[i] = {pack(n.x * inverse), pack(n.y * inverse), pack(n.z * inverse), 0};
    }
    s.bounds[b] = makeBounds(faces, position);
}

} // namespace

Box3f Surface::box() const
{
    Box3f box;
    for (const auto &b : bounds)
        box.add(b->box);
    return box;
}

void updateBlocks(Surface &surface, std::span<const std::uint32_t> blocks)
{
    forEachBlock(blocks.size(), 1, [&](BlockRange r) { updateBlock(surface, blocks[r.begin]); });
}

Surface makeSurface(std::shared_ptr<const Topology> topology, BlockArray<Vec3f> positions)
{
    assert(positions.size() == topology->vertexCount());
    Surface s;
    s.topology = std::move(topology);
    s.positions = std::move(positions);
    s.normals = BlockArray<PackedNormal>(s.positions.size());
    s.bounds.resize(s.positions.blockCount());
    std::vector<std::uint32_t> all(s.positions.blockCount());
    for (std::size_t b = 0; b < all.size(); ++b)
        all[b] = std::uint32_t(b);
    updateBlocks(s, all);
    return s;
}

Surface makeSurface(const PolyMesh &mesh)
{
    return makeSurface(Topology::build(mesh.positions.size(), mesh.faces),
                       BlockArray<Vec3f>(mesh.positions));
}

std::vector<std::uint32_t> blocksNear(const Surface &surface, Vec3f centre, float radius)
{
    std::vector<std::uint32_t> near;
    for (std::size_t b = 0; b < surface.bounds.size(); ++b)
        if (squaredDistance(surface.bounds[b]->box, centre) <= radius * radius)
            near.push_back(std::uint32_t(b));
    return near;
}

void gatherPositions(const Surface &surface, std::size_t b, std::vector<Vec3f> &out)
{
    const BlockFaces &faces = surface.topology->block(b);
    out.resize(faces.own + faces.borrowed.size());
    const Vec3f *own = surface.positions.data(b);
    for (std::size_t i = 0; i < faces.own; ++i)
        out[i] = own ? own[i] : Vec3f{};
    for (std::size_t i = 0; i < faces.borrowed.size(); ++i)
        out[faces.own + i] = surface.positions[faces.borrowed[i]];
}

PolyMesh toPolyMesh(const Surface &surface)
{
    if (!surface.topology)
        return {};
    return {surface.positions.flatten(), surface.topology->faces()};
}

float meanEdgeLength(const Surface &surface)
{
    if (surface.isEmpty())
        return 0;
    double sum = 0;
    std::size_t count = 0;
    const Topology &t = *surface.topology;
    const std::size_t step = std::max<std::size_t>(1, t.faceCount() / 5000);
    for (std::size_t b = 0; b < t.blockCount(); ++b)
        for (std::size_t i = 0; i < t.block(b).drawnFaces; i += step) {
            const Face f = t.faceOf(b, i);
            sum += double(length(surface.positions[f.v[0]] - surface.positions[f.v[1]]));
            ++count;
        }
    return count ? float(sum / double(count)) : 0;
}

} // namespace bonemoss::mesh
