#include "mesh/surface.h"

#include <algorithm>
#include <numeric>

namespace bonemoss::mesh {

Box3f Surface::box() const
{
    Box3f box;
    for (const auto &b : bounds)
        box.add(b->box);
    return box;
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
    const float limit = radius * radius;
    surface.blocks.visit(FromPoint(centre), limit,
                         [&](std::span<const std::uint32_t> ids) { near.insert(near.end(), ids.begin(), ids.end()); });
    std::sort(near.begin(), near.end());
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
