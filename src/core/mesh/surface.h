#pragma once

#include "mesh/box_tree.h"
#include "mesh/topology.h"

#include <optional>

namespace bonemoss::mesh {

/// Unit normal in 16-bit fixed point; w spare. 8 bytes, uploaded to the GPU as is.
struct PackedNormal {
    std::int16_t x = 0, y = 0, z = 0, w = 0;
    Vec3f unpack() const { return Vec3f{float(x), float(y), float(z)} * (1.0f / 32767.0f); }
};

struct Surface;

/// Boxes of the spots of a block, four side by side.
class SpotBoxes
{
public:
    SpotBoxes()
    {
        for (std::size_t i = 0; i < kBlockSize / kSpotSize; ++i)
            set(i, {});
    }
    void set(std::size_t spot, const Box3f &box);
    /// The spots nearer than this (mm^2): bit i for spot i.
    std::uint64_t near(Vec3f centre, float squaredRadius) const;
    Box3f whole() const;

private:
    std::array<BoxTree::Boxes, kBlockSize / kSpotSize / 4> m_boxes;
};

/// The drawn faces of a block in a tree, and their corners once more, in the order of the tree: so that a leaf's lie together.
struct FaceTree {
    BoxTree tree;
    std::vector<LocalFace> faces;
};

/// What queries need of one block: its box (own and borrowed vertices), those of its spots, and a tree of its drawn faces.
class BlockBounds
{
public:
    /// The drawn faces of block b of the surface that these bounds belong to. Made at the first call, O(f log f), then
    /// kept: what no ray looks at costs nothing. Any thread may ask.
    const FaceTree &faces(const Surface &surface, std::size_t b) const;

private:
    LazyInPlace<FaceTree> m_faces;

public:
    Box3f box;
    bool hasUnused = false; ///< some vertices have no faces, and are not in the box
    SpotBoxes spots;
};

/// A topology with positions (mm) and what follows from them, all in shared blocks.
struct Surface {
    std::shared_ptr<const Topology> topology;
    BlockArray<Vec3f> positions;
    BlockArray<PackedNormal> normals;
    std::vector<std::shared_ptr<const BlockBounds>> bounds;
    BoxTree blocks;                  ///< over the blocks' boxes; updateTree keeps it right
    BlockArray<std::uint8_t> hidden; ///< 1: the faces about this vertex are not drawn, met by rays or changed by dabs

    bool isEmpty() const { return !topology || topology->faceCount() == 0; }
    Box3f box() const;
};

/// Surface with everything computed. positions.size() must equal topology->vertexCount().
Surface makeSurface(std::shared_ptr<const Topology> topology, BlockArray<Vec3f> positions);
Surface makeSurface(const PolyMesh &mesh);

/// Recomputes normals and bounds of the given blocks after positions changed. Area-weighted face
/// normals added into corners; O(vertices of those blocks). Same bits on any number of threads.
/// moved: in which spots of each block vertices lie that moved, all of them when empty; the rest keeps what it has, with
/// the same bits as if done again.
void updateBlocks(Surface &surface, std::span<const std::uint32_t> blocks, std::span<const Spots> moved = {});

/// Brings the tree over the blocks in line with the bounds of those given. updateBlocks does it by itself.
void updateTree(Surface &surface, std::span<const std::uint32_t> blocks);

/// Blocks whose box meets the sphere, in rising order. O(found * log blocks).
std::vector<std::uint32_t> blocksNear(const Surface &surface, Vec3f centre, float radius);

/// Copies own and borrowed positions of a block into out (sized own + borrowed).
void gatherPositions(const Surface &surface, std::size_t b, std::vector<Vec3f> &out);

PolyMesh toPolyMesh(const Surface &surface);

/// Mean edge length in mm, over at most a few thousand faces.
float meanEdgeLength(const Surface &surface);

struct Ray {
    Vec3f origin;
    Vec3f direction; ///< unit
};
struct Hit {
    float distance = 0; ///< mm along the ray
    std::uint32_t block = 0, face = 0;
    Vec3f point;
    Vec3f normal; ///< of the smooth surface, unit
};
/// Whether a face is left out because one of its corners is hidden.
inline bool isHidden(const Surface &s, const Face &f)
{
    for (int k = 0; k < f.size(); ++k)
        if (s.hidden[f.v[std::size_t(k)]])
            return true;
    return false;
}
/// Nearest hit in front of the origin, from either side of a face. O(log faces), and of blocks looked at for the first
/// time since they changed O(f log f).
std::optional<Hit> castRay(const Surface &surface, const Ray &ray);
/// Nearest point of the surface to p. As castRay.
std::optional<Hit> nearestPoint(const Surface &surface, Vec3f p);

} // namespace bonemoss::mesh
