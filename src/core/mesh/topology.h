#pragma once

#include "base/lazy.h"
#include "mesh/block_array.h"
#include "mesh/poly_mesh.h"

#include <algorithm>
#include <bit>
#include <memory>
#include <span>

namespace bonemoss::mesh {

inline constexpr std::uint16_t kLocalNone = 0xffff;

/// Local corners of a face inside a block; corner 3 is kLocalNone for a triangle.
struct LocalFace {
    std::array<std::uint16_t, 4> v{};
    constexpr int size() const { return v[3] == 0xffff ? 3 : 4; }
};

/// Own vertices of a block that follow each other, and so lie together: what a dab touches is told by them.
inline constexpr std::size_t kSpotSize = 64;
/// Parts of a block: bit i of own stands for its spot i, bit i of borrowed for vertices 8 i to 8 i + 7 of those it borrows
/// (the last one for all that are left).
struct Spots {
    std::uint64_t own = 0, borrowed = 0;

    static constexpr Spots all() { return {~std::uint64_t(0), ~std::uint64_t(0)}; }
    static constexpr std::uint64_t ofOwn(std::size_t l) { return std::uint64_t(1) << l / kSpotSize; }
    static constexpr std::uint64_t ofBorrowed(std::size_t i) { return std::uint64_t(1) << std::min<std::size_t>(i / 8, 63); }
};
/// Calls use(begin, end) for the runs of own vertices, of which there are n, that lie in some spots.
template <typename Use> void eachRun(std::uint64_t spots, std::size_t n, const Use &use)
{
    for (std::size_t first = 0; spots != 0 && first * kSpotSize < n;) {
        const auto gap = std::size_t(std::countr_zero(spots));
        const auto run = std::size_t(std::countr_one(spots >> gap));
        first += gap;
        if (first * kSpotSize < n)
            use(first * kSpotSize, std::min((first + run) * kSpotSize, n));
        first += run;
        spots = gap + run < 64 ? spots >> (gap + run) : 0;
    }
}

/// The faces about one block of vertices. Local index l below `own` is vertex block * 4096 + l,
/// above it is borrowed[l - own]. The first drawnFaces faces belong to this block, in the order of their lowest vertices: faces
/// that follow each other lie together, and so do the vertices of a finer level. The rest belong to
/// neighbours but touch own vertices, so that normals need nothing outside the block.
struct BlockFaces {
    std::uint32_t own = 0;
    std::uint32_t drawnFaces = 0;
    PagedVector<LocalFace> faces;
    std::vector<std::uint32_t> borrowed;

    /// Whether the faces hang together. This and what follows is found at the first call, O(faces), then kept; any thread
    /// may ask.
    bool isOnePiece() const;
    /// Own vertices with an edge that has not its two faces.
    const std::vector<std::uint16_t> &openVertices() const;
    /// Own vertices that no face uses: room left by faces taken away. Which they are; O(faces).
    std::vector<std::uint16_t> unused() const;
    std::uint32_t unusedCount() const; ///< how many
    /// The blocks it borrows vertices of, rising. Each of them borrows of this one too: a face over both is in both.
    const std::vector<std::uint32_t> &blocksBeside() const;
    /// Which spots share faces.
    struct SpotLinks {
        static constexpr std::size_t kFaces = 16;
        std::array<std::uint64_t, kBlockSize / kSpotSize> besideOwn{}; ///< own spots that share a face with each, itself too
        std::array<std::uint64_t, 64> besideBorrowed{};                ///< the same for each bit of Spots::borrowed
        std::vector<std::uint64_t> ofFaces; ///< own spots that kFaces faces touch that follow each other
        std::uint64_t whole = 0;            ///< spots that hang together within what lies beside them
        /// A spot of another block that shares a face with own ones.
        struct Across {
            std::uint32_t block = 0, spot = 0;
            std::uint64_t own = 0;
            friend bool operator==(const Across &, const Across &) = default;
        };
        std::vector<Across> across;
        /// A part of a spot that is not whole, hanging together by itself, and the spots that share a face with it.
        struct Piece {
            std::uint32_t spot = 0;
            std::uint64_t own = 0;
            std::vector<Across> across;
        };
        std::vector<Piece> pieces;
    };
    const SpotLinks &spotLinks() const;
    /// The faces about each own vertex, in order: `width` doubled numbers for each, filled up with that of faces.size(), and
    /// rows of none to a whole four vertices. A vertex that has more is crowded: row i of `more` has all those of crowded[i],
    /// not doubled.
    struct FacesAbout {
        int corners = 0; ///< of each face, 0 where they differ
        std::size_t width = 4;
        PagedVector<std::uint16_t> table;
        std::vector<std::uint16_t> crowded;
        std::vector<std::uint32_t> firstOfRow, more;
    };
    const FacesAbout &facesAbout() const;
    bool knowsFacesAbout() const { return m_about.isKnown(); }

    mutable std::array<std::uint64_t, 2> contentHash{};

private:
    Lazy<bool> m_isOnePiece;
    Lazy<std::vector<std::uint16_t>> m_open;
    Lazy<std::uint32_t> m_unused;
    Lazy<std::vector<std::uint32_t>> m_beside;
    Lazy<SpotLinks> m_links;
    Lazy<FacesAbout> m_about;
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

/// Whether no edge is open. O(blocks), once each block has been asked.
bool isClosed(const Topology &topology);

} // namespace bonemoss::mesh
