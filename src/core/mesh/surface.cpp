#include "mesh/surface.h"

#include "base/parallel.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <numeric>

namespace bonemoss::mesh {

namespace {

/// Position in one register; w is 0.
Lanes load(Vec3f p)
{
    return Lanes{p.x, p.y, p.z, 0};
}
/// The same of one that others follow in memory: read at once, the next one's x cut off.
Lanes loadBefore(const Vec3f *p)
{
    typedef std::int32_t Bits __attribute__((vector_size(16)));
    Bits bits;
    std::memcpy(&bits, p, sizeof bits);
    bits &= Bits{-1, -1, -1, 0};
    return std::bit_cast<Lanes>(bits);
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

/// Least and most of some positions.
struct Extent {
    static constexpr float kFar = std::numeric_limits<float>::max();
    Lanes lo{kFar, kFar, kFar, 0}, hi{-kFar, -kFar, -kFar, 0};

    void add(Lanes p) { lo = least(lo, p), hi = most(hi, p); }
    void add(const Extent &o) { lo = least(lo, o.lo), hi = most(hi, o.hi); }
};

/// Scratch of one thread, kept between blocks.
struct Scratch {
    std::vector<Lanes> position, normal;
};

/// Adds the area-weighted normal of a face into its corners. A quad's is the cross product of its
/// diagonals, a triangle's that of two sides: both twice the area long.
inline void addFaceNormal(const LocalFace &f, const Lanes *p, Lanes *n)
{
    const bool isTriangle = f.v[3] == kLocalNone;
    const Lanes d = p[isTriangle ? f.v[0] : f.v[3]];
    const Lanes normal = crossed(p[f.v[2]] - p[f.v[0]], d - p[f.v[1]]);
    n[f.v[0]] += normal;
    n[f.v[1]] += normal;
    n[f.v[2]] += normal;
    if (!isTriangle)
        n[f.v[3]] += normal;
}

/// Makes n normals unit and packs them. Reads up to three past the end. Returns whether each that was read is longer than 0.
bool packNormals(const Lanes *normal, PackedNormal *out, std::size_t n)
{
    typedef std::int32_t Whole __attribute__((vector_size(16)));
    typedef std::int16_t Halves __attribute__((vector_size(16)));
    const auto whole = [](Lanes unit) { return std::bit_cast<Halves>(__builtin_convertvector(unit, Whole)); };
    Whole isLong = {-1, -1, -1, -1};
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
        isLong &= sum > 0;
        Halves packed[2];
        for (std::size_t k = 0; k < 2; ++k)
            packed[k] = __builtin_shufflevector(whole(normal[i + 2 * k] * inverse[2 * k]),
                                                whole(normal[i + 2 * k + 1] * inverse[2 * k + 1]), 0, 2, 4, 6, 8, 10, 12, 14);
        if (i + 4 <= n)
            std::memcpy(out + i, packed, sizeof packed);
        else
            std::memcpy(out + i, packed, (n - i) * sizeof(PackedNormal));
    }
    return isLong[0] && isLong[1] && isLong[2] && isLong[3];
}

/// Of the vertices that faces use.
Extent extentOfUsed(const BlockFaces &faces, const std::vector<Lanes> &p)
{
    Extent extent;
    for (const LocalFace &f : faces.faces)
        for (const std::uint16_t v : f.v)
            if (v != kLocalNone)
                extent.add(p[v]);
    return extent;
}

/// Own and borrowed positions of a block, and how far they reach.
Extent gatherLanes(const Surface &s, std::size_t b, std::vector<Lanes> &out)
{
    const BlockFaces &faces = s.topology->block(b);
    const std::size_t n = faces.own;
    out.resize(n + faces.borrowed.size());
    const Vec3f *own = s.positions.data(b);
    Extent even, odd; // two, so that one need not wait for the other
    if (!own)
        std::fill_n(out.begin(), n, Lanes{}), even.add(Lanes{});
    else {
        std::size_t i = 0;
        for (; i + 2 < n; i += 2) {
            even.add(out[i] = loadBefore(own + i));
            odd.add(out[i + 1] = loadBefore(own + i + 1));
        }
        for (; i < n; ++i)
            even.add(out[i] = load(own[i]));
    }
    for (std::size_t i = 0; i < faces.borrowed.size(); ++i)
        odd.add(out[n + i] = load(s.positions[faces.borrowed[i]]));
    even.add(odd);
    return even;
}

void updateBlock(Surface &s, std::size_t b)
{
    thread_local Scratch scratch;
    const BlockFaces &faces = s.topology->block(b);
    Extent extent = gatherLanes(s, b, scratch.position);
    scratch.normal.assign(scratch.position.size() + 3, Lanes{}); // packed four at a time
    for (const LocalFace &f : faces.faces)
        addFaceNormal(f, scratch.position.data(), scratch.normal.data());
    // A vertex that no face uses has no normal: most blocks need not be searched for such.
    if (!packNormals(scratch.normal.data(), s.normals.edit(b), faces.own) && faces.unusedCount() > 0)
        extent = extentOfUsed(faces, scratch.position);
    auto bounds = std::make_shared<BlockBounds>();
    if (extent.lo[0] <= extent.hi[0])
        bounds->box = {store(extent.lo), store(extent.hi)};
    s.bounds[b] = std::move(bounds);
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
