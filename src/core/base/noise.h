#pragma once

#include "base/types.h"

#include <cstdint>

namespace bonemoss {

/// Even noise about a place in -1 to 1, of that wavelength: gradients towards the edges of a cube on a cubic lattice, with the
/// fifth-degree fade (Perlin 2002, "Improving noise"). O(1).
float noiseAt(Vec3f p, float wavelength, std::uint64_t seed);

} // namespace bonemoss
