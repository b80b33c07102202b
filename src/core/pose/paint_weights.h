#pragma once

#include "pose/weights.h"

namespace bonemoss::pose {

enum class WeightStroke { Add, Take, Even };

/// Changes what bones move where a share lies, 0 to 255 of each vertex, blank for none: Add gives that share of what other bones have to
/// the bone, Take takes that share of its own away, for the others there or, where there are none, for the one above it; Even brings the weights
/// of all bones that far towards the mean of the vertices beside. They add up to 255 after as before; a skin must have weights.
/// O(vertices * bones of the blocks where the share lies).
void paintWeights(skin::Skin &skin, const Skeleton &skeleton, std::uint32_t bone, WeightStroke how,
                  const mesh::BlockArray<std::uint8_t> &share);

} // namespace bonemoss::pose
