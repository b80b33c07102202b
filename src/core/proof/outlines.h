#pragma once

#include "base/result.h"
#include "proof/slicer.h"

#include <filesystem>

namespace bonemoss::proof {

/// What of a slice is solid, bodies that overlap being one: outlines and holes that neither cross nor touch. Exact on a grid of a ten
/// thousandth of a mm. O(n log n) (B. Vatti 1992, through the library Clipper).
Slice unionOf(const Slice &slice);

/// Levels in the middle of each layer of a body from `low` to `high`, mm; at most 100,000.
std::vector<float> middlesOfLayers(float low, float high, float layer);

/// Outlines of layers as one SVG file: a group for each, mm, seen from above with the nose up. Errors: Unwritable.
Status writeSvg(const std::filesystem::path &path, std::span<const Slice> layers, float layer);

} // namespace bonemoss::proof
