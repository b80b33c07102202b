#include "mesh/surface.h"

#include "base/parallel.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bonemoss::mesh {

namespace {

/// Position in one register; w is 0.
Lanes load(Vec3f p)
{
    return Lanes{p.x, p.y, p.z, 0};
}
Vec3f store(Lanes v)
{
    return {v[0], v[1], v[2]};
}
Lanes least(Lanes a, Lanes b)
{
    return a < b ? a : b;
}
Lanes most(Lanes a, Lanes b)
{
    return a > b ? a : b;
}
Lanes turned(Lanes a) // y, z, x
{
    return __builtin_shufflevector(a, a, 1, 2, 0, 3);
}
Lanes crossed(Lanes a, Lanes b)
{
    return turned(a * turned(b) - turned(a) * b);
}

/// Scratch of one thread, kept between blocks.
struct Scratch {
    std::vector<Lanes> position, normal;
};

/// Adds the area-weighted normal of each face into its corners. A quad's is the cross product of its
/// diagonals, a triangle's that of two sides: both twice the area long.
void addFaceNormals(const BlockFaces &faces, const Lanes *p, Lanes *n)
{
    for (const LocalFace &f : faces.faces) {
        const bool isTriangle = f.v[3] == kLocalNone;
        const Lanes d = p[isTriangle ? f.v[0] : f.v[3]];
        const Lanes normal = crossed(p[f.v[2]] - p[f.v[0]], d - p[f.v[1]]);
        n[f.v[0]] += normal;
        n[f.v[1]] += normal;
        n[f.v[2]] += normal;
        if (!isTriangle)
            n[f.v[3]] += normal;
    }
}

/// Makes n normals unit and packs them. Reads up to three past the end.
void packNormals(const Lanes *normal, PackedNormal *out, std::size_t n)
{
    typedef std::int16_t Packed __attribute__((vector_size(8)));
    for (std::size_t i = 0; i < n; i += 4) {
        const Lanes a = normal[i] * normal[i], b = normal[i + 1] * normal[i + 1];
        const Lanes c = normal[i + 2] * normal[i + 2], d = normal[i + 3] * normal[i + 3];
        const Lanes ab = __builtin_shufflevector(a, b, 0, 4, 1, 5), cd = __builtin_shufflevector(c, d, 0, 4, 1, 5);
        const Lanes abZ = __builtin_shufflevector(a, b, 2, 6, 2, 6), cdZ = __builtin_shufflevector(c, d, 2, 6, 2, 6);
        const Lanes sum = (__builtin_shufflevector(ab, cd, 0, 1, 4, 5) + __builtin_shufflevector(ab, cd, 2, 3, 6, 7))
                          + __builtin_shufflevector(abZ, cdZ, 0, 1, 4, 5);
        Lanes inverse;
        for (int k = 0; k < 4; ++k)
            inverse[k] = std::sqrt(sum[k]);
        inverse = sum > 0 ? 32767.0f / inverse : Lanes{};
        for (std::size_t k = 0; k < std::min<std::size_t>(4, n - i); ++k) {
            const Packed unit = __builtin_convertvector(normal[i + k] * inverse[k], Packed);
            out[i + k] = {unit[0], unit[1], unit[2], 0};
        }
    }
}

/// normals: their sums; a vertex that no face uses has none, so that most blocks need not be searched for such.
std::shared_ptr<const BlockBounds> makeBounds(const BlockFaces &faces, const std::vector<Lanes> &p, const Lanes *normals)
{
    constexpr float kFar = std::numeric_limits<float>::max();
    Lanes lo{kFar, kFar, kFar, 0}, hi = -lo;
    auto bounds = std::make_shared<BlockBounds>();
    bool mayHaveUnused = false;
    for (std::size_t i = 0; i < faces.own; ++i)
        mayHaveUnused |= normals[i][0] == 0 && normals[i][1] == 0 && normals[i][2] == 0;
    if (!mayHaveUnused || faces.unusedCount() == 0)
        for (const Lanes at : p)
            lo = least(lo, at), hi = most(hi, at);
    else // unused vertices do not count
        for (const LocalFace &f : faces.faces)
            for (const std::uint16_t v : f.v)
                if (v != kLocalNone)
                    lo = least(lo, p[v]), hi = most(hi, p[v]);
    if (lo[0] <= hi[0])
        bounds->box = {store(lo), store(hi)};
    return bounds;
}

void gatherLanes(const Surface &s, std::size_t b, std::vector<Lanes> &out)
{
    const BlockFaces &faces = s.topology->block(b);
    out.resize(faces.own + faces.borrowed.size());
    const Vec3f *own = s.positions.data(b);
    for (std::size_t i = 0; i < faces.own; ++i)
        out[i] = own ? load(own[i]) : Lanes{};
    for (std::size_t i = 0; i < faces.borrowed.size(); ++i)
        out[faces.own + i] = load(s.positions[faces.borrowed[i]]);
}

void updateBlock(Surface &s, std::size_t b)
{
    thread_local Scratch scratch;
    const BlockFaces &faces = s.topology->block(b);
    gatherLanes(s, b, scratch.position);
    scratch.normal.assign(scratch.position.size() + 3, Lanes{}); // packed four at a time
    addFaceNormals(faces, scratch.position.data(), scratch.normal.data());
    packNormals(scratch.normal.data(), s.normals.edit(b), faces.own);
    s.bounds[b] = makeBounds(faces, scratch.position, scratch.normal.data());
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
    updateTree(surface, blocks);
}

void updateTree(Surface &surface, std::span<const std::uint32_t> blocks)
{
    std::vector<std::uint32_t> all;
    if (surface.blocks.size() != surface.bounds.size()) {
        surface.blocks = BoxTree::inOrder(surface.bounds.size());
        all.resize(surface.bounds.size());
        std::iota(all.begin(), all.end(), 0u);
        blocks = all;
    }
    std::vector<Box3f> boxes(blocks.size());
    for (std::size_t i = 0; i < blocks.size(); ++i)
        boxes[i] = surface.bounds[blocks[i]]->box;
    surface.blocks.set(blocks, boxes);
}

Surface makeSurface(std::shared_ptr<const Topology> topology, BlockArray<Vec3f> positions)
{
    assert(positions.size() == topology->vertexCount());
    Surface s;
    s.topology = std::move(topology);
    s.positions = std::move(positions);
    s.normals = BlockArray<PackedNormal>(s.positions.size());
    s.bounds.resize(s.positions.blockCount());
    s.hidden = BlockArray<std::uint8_t>(s.positions.size());
    std::vector<std::uint32_t> all(s.positions.blockCount());
    for (std::size_t b = 0; b < all.size(); ++b)
        all[b] = std::uint32_t(b);
    updateBlocks(s, all);
    return s;
}

Surface makeSurface(const PolyMesh &mesh)
{
    return makeSurface(Topology::build(mesh.positions.size(), mesh.faces), BlockArray<Vec3f>(mesh.positions));
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
