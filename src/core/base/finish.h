#pragma once

#include <array>
#include <cstddef>
#include <optional>

namespace bonemoss {

/// How a surface looks beside its colour: gloss, metal, wet (a clear coat), translucent, grain (fine relief that only pictures show).
inline constexpr std::size_t kFinishes = 5;
using FinishValues = std::array<float, kFinishes>;          ///< 0 to 1
using Finish = std::array<std::optional<float>, kFinishes>; ///< those of them that are laid

} // namespace bonemoss
