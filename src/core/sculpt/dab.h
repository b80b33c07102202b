#pragma once

#include "sculpt/stroke.h"

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

/// Moves the vertices of the given blocks and refreshes what follows from them.
/// stamp is needed by Tool::Stamp only.
void applyDab(mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask, const StrokeSettings &settings,
              const DabPair &pair, const std::vector<std::uint32_t> &blocks, const image::HeightPicture *stamp);

/// Two-step smoothing that keeps the volume (Taubin 1995), `passes` times, weighted by the dab.
void applySmooth(mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask, const StrokeSettings &settings,
                 const DabPair &pair, const std::vector<std::uint32_t> &blocks, int passes);

/// Adds to (or with a negative amount takes from) the mask.
void applyMask(const mesh::Surface &surface, mesh::BlockArray<std::uint8_t> &mask, const StrokeSettings &settings,
               const DabPair &pair, const std::vector<std::uint32_t> &blocks);

/// Weight of each vertex of each block for a drag that holds on to what is connected to the surface
/// point nearest the dab's centre within its radius.
std::vector<std::vector<float>> connectedWeights(const mesh::Surface &surface, const Dab &dab,
                                                 const std::vector<std::uint32_t> &blocks, Falloff falloff);

} // namespace bonemoss::sculpt
