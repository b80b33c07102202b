#pragma once

#include "base/types.h"

#include <array>
#include <cstdint>
#include <vector>

namespace bonemoss::field {

/// A lattice of samples with inside/outside bits and the exact crossings on lattice edges, kept only
/// near the surface in blocks of 8 x 8 x 8 samples.
///
/// Sample (x, y, z) lies at origin + spacing * (x, y, z). Within a block, word x holds the 64 samples
/// of one x; sample (y, z) is bit z * 8 + y. An edge belongs to the sample it starts from.
struct SignGrid {
    static constexpr std::uint32_t kOutside = 0xffffffffu; ///< all 512 samples of a block outside
    static constexpr std::uint32_t kInside = 0xfffffffeu;  ///< all inside
    static constexpr int kMaxBlocksPerSide = 375;          ///< 3,000 cells: a dense index of 211 MB

    struct Coord {
        std::uint16_t x, y, z;
    };
    using Words = std::array<std::uint64_t, 8>;

    Vec3f origin;
    float spacing = 1;
    int nx = 0, ny = 0, nz = 0;         ///< blocks along each axis
    std::vector<std::uint32_t> blockAt; ///< slot, kOutside or kInside; x fastest
    std::vector<Coord> coords;          ///< of each slot, along a Hilbert curve
    std::vector<Words> signs;           ///< of each slot; bit set means inside
    /// Positions along the changed edges of each slot, 1/65536 of the spacing; ordered by axis, word,
    /// bit. Slot s owns [crossingStart[s], crossingStart[s + 1]).
    std::vector<std::uint32_t> crossingStart;
    std::vector<std::uint16_t> crossings;
    std::vector<std::uint32_t>
        crossingFaces;           ///< face of the input at each crossing, kNone where it was filled; only if asked for
    std::size_t filledEdges = 0; ///< changed edges without a crossing: where a hole was closed
    bool isVoted = false;        ///< lines contradicted each other, so the three directions voted on every sample
    std::size_t badLines = 0;    ///< lattice lines whose crossings did not pair up: holes or flipped faces

    std::size_t denseIndex(int x, int y, int z) const
    {
        return (std::size_t(z) * std::size_t(ny) + std::size_t(y)) * std::size_t(nx) + std::size_t(x);
    }
    /// Slot or uniform state at block (x, y, z); outside beyond the grid.
    std::uint32_t blockState(int x, int y, int z) const
    {
        if (x < 0 || y < 0 || z < 0 || x >= nx || y >= ny || z >= nz)
            return kOutside;
        return blockAt[denseIndex(x, y, z)];
    }
    std::uint64_t word(std::uint32_t state, std::size_t x) const
    {
        return state < kInside ? signs[state][x] : state == kInside ? ~0ull : 0ull;
    }
};

/// Sign words of a slot with its neighbours towards + on each axis: the corners of all its cells.
/// a[x] own samples (x up to 8), y[x] those one further along y, z[x] along z, yz[x] along both.
struct CornerWords {
    std::array<std::uint64_t, 9> a, y, z, yz;
};
CornerWords cornerWords(const SignGrid &grid, std::uint32_t slot);

/// Bits of edges whose two ends differ, for axis 0, 1, 2 and word x.
inline std::uint64_t changedEdges(const CornerWords &w, int axis, std::size_t x)
{
    return w.a[x] ^ (axis == 0 ? w.a[x + 1] : axis == 1 ? w.y[x] : w.z[x]);
}

/// Orders block coordinates along a Hilbert curve.
void sortAlongCurve(std::vector<SignGrid::Coord> &coords);

} // namespace bonemoss::field
