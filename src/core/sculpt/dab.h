#pragma once

#include "sculpt/dab_weights.h"

#include <span>

namespace bonemoss::image {
struct HeightPicture;
}

namespace bonemoss::sculpt {

/// A dab in all places of a symmetry.
DabSet everywhere(const Dab &dab, const std::vector<Isometry> &places);

/// Blocks that dabs reach, each once, in order; radii taken `reach` times.
std::vector<std::uint32_t> blocksOf(const mesh::Surface &surface, const DabSet &dabs, float reach = 1);

/// Mean place and normal of the vertices within half the radius that face the dab; its own where there are none.
struct Area {
    Vec3f point, normal;
};
/// weights: of the dab over the same blocks, to leave out what it does not reach; or null.
Area areaUnder(const mesh::Surface &surface, const std::vector<std::uint32_t> &blocks, const Dab &dab, const DabWeights *weights);

/// The dabs that reach one block, with their weights. They share a vertex each by its weight, but never more than the
/// largest one alone would do, so that a stroke across the seam does not double.
struct Shares {
    static constexpr int kMost = 2 * Symmetry::kMostAround;
    std::array<const float *, kMost> weights;
    std::array<const Dab *, kMost> dabs;
    int count = 0;
    std::uint64_t spots = 0; ///< that hold all vertices with a weight

    float most(std::size_t i) const
    {
        float w = 0;
        for (int k = 0; k < count; ++k)
            w = weights[std::size_t(k)][i] > w ? weights[std::size_t(k)][i] : w;
        return w;
    }
};

/// What dabs work on, and their buffers, kept from dab to dab.
struct DabWork {
    mesh::Surface &surface;
    mesh::BlockArray<std::uint8_t> &mask;
    const StrokeSettings &settings;
    const mesh::Surface &start; ///< as the stroke found it
    const StrokeNeeds &needs;
    const std::vector<Isometry> &places;  ///< of the dabs of a set
    mesh::Island island = {};             ///< that is meant alone; without blocks for all there is
    std::vector<DabWeights> weights = {}; ///< of each dab of the set in work

    /// Weights of dabs over blocks, as the settings spread them.
    void weigh(const DabSet &dabs, const std::vector<std::uint32_t> &blocks, bool facesTheBrush, float reach = 1);
    /// The same for tools that even the skin on both sides of the ring, but not the far side of a thin part.
    void weighGuarded(const DabSet &dabs, const std::vector<std::uint32_t> &blocks);
    Spread spreadOf(std::size_t twin, bool facesTheBrush, float reach) const;
    /// Of the k-th block of the list.
    Shares sharesOf(const DabSet &dabs, std::size_t k) const;
};

/// Share of an edit that gets through a mask value.
inline float openness(const std::uint8_t *mask, std::size_t i)
{
    return mask ? 1 - float(mask[i]) * (1 / 255.0f) : 1;
}

/// p, but no farther from where the stroke found it than the limit (mm).
inline Vec3f held(Vec3f p, Vec3f start, float limit)
{
    const Vec3f way = p - start;
    const float far = length(way);
    return far > limit ? start + way * (limit / far) : p;
}

/// Does again what follows from positions: in the spots of the list's blocks that the dabs weighed last move, and beside
/// those in blocks that borrow a vertex from one of them.
void refresh(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks);

/// Moves the vertices of the given blocks and refreshes what follows from them.
/// stamp is needed by Tool::Stamp only.
void applyDab(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, const image::HeightPicture *stamp);

/// Two-step smoothing that keeps the volume (Taubin 1995), or on wish one that shrinks, `passes` times, weighted by the
/// dabs: over the ring of neighbours.
void applySmooth(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, int passes);
/// The same over cells of `reach` times the radius, so that wide bumps go and fine form rides along. O(vertices).
void applyBroadSmooth(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, int passes);
/// Moves vertices within the skin towards the middle of their neighbours, `passes` times.
void applyRelax(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, int passes);

/// Adds to (or with a negative amount takes from) the mask.
void applyMask(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks);

/// What dabs reach, times their amount, for tools that mix.
std::vector<std::vector<float>> sharesUnder(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks);

/// The island that the middles of dabs lie on, the first where the skin was met.
mesh::Island islandUnder(const mesh::Surface &surface, const DabSet &dabs, const mesh::Hit &hit);

/// What the pen's pressure (0 to 1) comes to: above a power of 1 firm, below it soft; and the radius it gives, mm.
float curved(float pressure, float power);
float radiusOf(const StrokeSettings &settings, float pressure);

/// What one dab would touch, before it is done.
struct Touch {
    std::vector<std::uint32_t> blocks;
    std::vector<std::vector<float>> shares; ///< of each own vertex, 0 to 1; empty for a block that is not reached
};
/// Of a dab where a ray meets the skin, with its twins. Errors: none; cost as of a dab.
Touch touchOf(const mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask, const StrokeSettings &settings,
              const mesh::Hit &hit, float pressure = 1);

/// What a tool that takes hold does with what it holds: blocks from where they are in `from`.
void applyHold(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, const mesh::Surface &from);

} // namespace bonemoss::sculpt
