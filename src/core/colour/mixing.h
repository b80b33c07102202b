#pragma once

#include "skin/colour_layer.h"

#include <span>
#include <vector>

namespace bonemoss::colour {

/// Paints that are usual on a table, by eye (common practice, no source).
std::vector<skin::PaletteColour> usualPaints();

/// What paints give when they are mixed, so many parts of each: subtractive, by absorption over scattering of each of three bands,
/// K / S = (1 - R)^2 / 2R added up by parts (P. Kubelka & F. Munk 1931), as if all scattered alike. sRGB in and out.
Vec3f mixed(std::span<const Vec3f> paints, std::span<const float> parts);

/// A mix of at most three paints, in whole parts.
struct Mix {
    struct Part {
        std::size_t paint = 0;
        int parts = 0;
    };
    std::vector<Part> parts;
    Vec3f colour;         ///< that it gives
    float difference = 0; ///< from the one wanted, in OKLab
};
/// The mix that comes nearest to a colour; of mixes that differ by less than can be seen the one with fewer paints and parts.
/// O(paints^3).
Mix bestMix(Vec3f wanted, std::span<const skin::PaletteColour> paints);

} // namespace bonemoss::colour
