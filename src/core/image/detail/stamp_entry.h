#pragma once

#include <span>
#include <string_view>

namespace bonemoss::image {

/// A height picture that ships: u to the right and v down, 0 to 1; heights 0 to 1 about 0.5.
struct StampEntry {
    std::string_view name, folder;
    float (*height)(float u, float v);
};

/// Single prints, level at their rim.
std::span<const StampEntry> printStamps();
/// Skins that repeat at their borders.
std::span<const StampEntry> skinStamps();

/// Perlin noise that repeats after `period` cells in both directions; about -0.7 to 0.7.
float stampNoise(float u, float v, int period, unsigned seed);

} // namespace bonemoss::image
