#pragma once

#include "base/types.h"

#include <array>
#include <cstddef>
#include <optional>

namespace bonemoss {

/// How a surface looks beside its colour: gloss, metal, wet (a clear coat), translucent, grain (fine relief that only pictures show).
inline constexpr std::size_t kFinishes = 5;
using FinishValues = std::array<float, kFinishes>;          ///< 0 to 1
using Finish = std::array<std::optional<float>, kFinishes>; ///< those of them that are laid

/// How far light goes inside what is translucent.
struct Scattering {
    float depth = 0;             ///< mm between two scatterings of the colour that goes farthest; 0: by the size of the creature
    Vec3f tint{1, 0.55f, 0.38f}; ///< of red, green, blue: shares of the depth
    friend bool operator==(const Scattering &, const Scattering &) = default;
};

} // namespace bonemoss
