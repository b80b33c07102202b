#pragma once

#include "sculpt/dab_weights.h"

namespace bonemoss::image {
struct HeightPicture;
}

namespace bonemoss::sculpt {

/// How a dab and, when mirrored, its twin share a vertex: each by its weight, but never more than the
/// larger one alone would do, so that a stroke across the seam does not double.
struct DabPair {
    Dab dabs[2];
    int count = 1;
};

/// A dab and its twin across the middle plane.
DabPair withTwin(const Dab &dab, bool mirrored);

/// Blocks a pair reaches, each once, in order.
std::vector<std::uint32_t> blocksOf(const mesh::Surface &surface, const DabPair &pair);

/// Mean normal of the vertices within half the radius; the given one where there are none.
Vec3f areaNormal(const mesh::Surface &surface, const std::vector<std::uint32_t> &blocks, const Dab &dab);

/// What a dab works on, and its buffers, kept from dab to dab.
struct DabWork {
    mesh::Surface &surface;
    mesh::BlockArray<std::uint8_t> &mask;
    const StrokeSettings &settings;
    DabWeights weights[2]; ///< of the dab and its twin

    /// Weights of a pair over blocks, as the settings spread them.
    void weigh(const DabPair &pair, const std::vector<std::uint32_t> &blocks, bool facesTheBrush);
};

/// Moves the vertices of the given blocks and refreshes what follows from them.
/// stamp is needed by Tool::Stamp only.
void applyDab(DabWork &work, const DabPair &pair, const std::vector<std::uint32_t> &blocks, const image::HeightPicture *stamp);

/// Two-step smoothing that keeps the volume (Taubin 1995), `passes` times, weighted by the dab.
void applySmooth(DabWork &work, const DabPair &pair, const std::vector<std::uint32_t> &blocks, int passes);

/// Adds to (or with a negative amount takes from) the mask.
void applyMask(DabWork &work, const DabPair &pair, const std::vector<std::uint32_t> &blocks);

} // namespace bonemoss::sculpt
