#pragma once

#include "base/progress.h"
#include "pose/skeleton.h"
#include "skin/skin.h"

#include <span>

namespace bonemoss::pose {

/// How much each bone moves each vertex, 0 to 255, blank where nothing: of each vertex that a bone moves they add up to 255, of at most
/// kMostBones bones.
inline constexpr std::size_t kMostBones = 4;
struct BoneBytes {
    BoneKey bone;
    mesh::BlockArray<std::uint8_t> values;
};
using Weights = std::vector<BoneBytes>; ///< by key

struct WeightSettings {
    std::size_t coarse = 90'000; ///< triangles at which the heat is solved, and carried from; 0 for all
    float heat = 1;              ///< how fast it flows in from the bone against how fast it spreads
};
/// Weights by heat diffusion: each bone warms the skin that it is nearest to and sees, and warmth evens out over the skin (I. Baran &
/// J. Popovic 2007, "Automatic rigging and animation of 3D characters", by the intrinsic Delaunay Laplacian, so that weights stay in 0 to 1
/// and do not hang on how the skin is cut into triangles). A part
/// of the skin that sees no bone takes the nearest. Symmetrical skeletons on symmetrical meshes give symmetrical weights. Solved on a
/// simplified mesh by sparse Cholesky and carried to all vertices, with the largest share left to kMostBones. O(coarse^1.5 * bones +
/// vertices). Empty when cancelled, or without bones or faces. Same bits on any number of threads.
Weights heatWeights(const mesh::Surface &surface, const Skeleton &skeleton, const WeightSettings &settings = {},
                    const Progress &progress = {});

/// All of a skin to one bone.
Weights rigidWeights(std::size_t vertices, BoneKey bone);

/// What a skin holds of weights, and back (Skin::boneWeights).
Weights weightsOf(const skin::Skin &skin);
void setWeights(skin::Skin &skin, Weights weights);

/// Of a vertex with numbers for several bones: the largest kMostBones as bytes that add up to 255, in the order given; nothing where all
/// are 0. The largest remainders are rounded up (Hamilton's method).
void roundWeights(std::span<const float> shares, std::span<std::uint8_t> bytes);

} // namespace bonemoss::pose
