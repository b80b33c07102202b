#pragma once

#include "mesh/block_array.h"
#include "mesh/poly_mesh.h"

#include <memory>
#include <span>

namespace bonemoss::mesh {

inline constexpr std::uint16_t kLocalNone = 0xffff;

/// Local corners of a face inside a block; corner 3 is kLocalNone for a triangle.
struct LocalFace {
    std::array<std::uint16_t, 4> v{};
    constexpr int size() const { return v[3] == 0xffff ? 3 : 4; }
};

/// The faces about one block of vertices. Local index l below `own` is vertex block * 4096 + l,
/// above it is borrowed[l - own]. The first drawnFaces faces belong to this block; the rest belong to
/// neighbours but touch own vertices, so that normals need nothing outside the block.
struct BlockFaces {
    std::uint32_t own = 0;
    std::uint32_t drawnFaces = 0;
    std::vector<LocalFace> faces;
    std::vector<std::uint32_t> borrowed;

    /// Whether the faces hang together; whether each edge of an own vertex has two faces. Found at the
    /// first call, O(faces), then kept; any thread may ask.
    bool isOnePiece() const { return traits() & kOnePiece; }
    bool isClosed() const { return traits() & kClosed; }
    /// Own vertices that no face uses: room left by faces taken away. Which they are; O(faces).
    std::vector<std::uint16_t> unused() const;
    std::uint32_t unusedCount() const; ///< how many; found at the first call, then kept

    mutable std::array<std::uint64_t, 2> contentHash{};

private:
    enum Trait : std::uint8_t { kKnown = 1, kOnePiece = 2, kClosed = 4 };
    std::uint8_t traits() const;
    mutable std::uint8_t m_traits = 0;
    mutable std::uint32_t m_unused = kUncounted;
    static constexpr std::uint32_t kUncounted = 0xffffffffu;
};

/// Number of groups that the faces of a block make of those local vertices (own and borrowed) that are
/// inside, a vertex without such a neighbour being one by itself. group[l] tells which, or
/// kLocalNone; it is filled only where there are more groups than one.
std::uint32_t groupsOf(const BlockFaces &faces, std::span<const std::uint8_t> inside, std::vector<std::uint16_t> &group);

/// Which vertices make which faces. Immutable and shared; built once per change of connectivity.
class Topology
{
public:
    /// O(V + F), parallel by block, same result on any number of threads. Indices must be in range;
    /// faces must have distinct corners.
    static std::shared_ptr<const Topology> build(std::size_t vertexCount, std::span<const Face> faces);
    /// From blocks read back from a store; trusts them (see the store for the checks).
    static std::shared_ptr<const Topology> fromBlocks(std::size_t vertexCount,
                                                      std::vector<std::shared_ptr<const BlockFaces>> blocks);

    /// The same with some faces (given as the topology has them) taken out and others put in; the rest of the blocks is
    /// shared. vertexCount may grow. A vertex that loses its faces stays as an unused one. O(blocks + faces of those changed).
    static std::shared_ptr<const Topology> replaced(const Topology &old, std::size_t vertexCount, std::span<const Face> without,
                                                    std::span<const Face> with);

    std::size_t vertexCount() const { return m_vertexCount; }
    /// Vertices that no face uses. O(blocks), of new ones O(faces).
    std::size_t unusedCount() const;
    std::size_t faceCount() const { return m_faceCount; }
    std::size_t blockCount() const { return m_blocks.size(); }
    const BlockFaces &block(std::size_t b) const { return *m_blocks[b]; }
    std::shared_ptr<const BlockFaces> shareBlock(std::size_t b) const { return m_blocks[b]; }
    /// Vertex number of local index l of block b.
    std::uint32_t vertexOf(std::size_t b, std::uint16_t l) const
    {
        const BlockFaces &f = *m_blocks[b];
        return l < f.own ? std::uint32_t(b * kBlockSize + l) : f.borrowed[l - f.own];
    }
    Face faceOf(std::size_t b, std::size_t i) const;
    /// Every face once, block by block.
    std::vector<Face> faces() const;
    std::size_t memoryBytes() const;

private:
    std::size_t m_vertexCount = 0;
    std::size_t m_faceCount = 0;
    std::vector<std::shared_ptr<const BlockFaces>> m_blocks;
};

} // namespace bonemoss::mesh
