#pragma once

#include "base/result.h"
#include "base/types.h"

#include <filesystem>
#include <string_view>
#include <vector>

namespace bonemoss::image {

/// Heights 0 to 1 on a grid, row by row from the top; repeats at its borders.
struct HeightPicture {
    int width = 0, height = 0;
    std::vector<float> values;
    float middle = 0.5f; ///< the value that means "leave the skin as it is"

    /// Bilinear; u, v in pictures widths, wrapped around.
    float at(float u, float v) const;
};

/// The height pictures that come with the program, in the order they are shown.
const std::vector<std::string_view> &builtInStamps();
/// The heading a built-in picture stands under; empty for an unknown name.
std::string_view folderOfStamp(std::string_view name);
/// Made on first use, then kept; null for an unknown name. Thread-safe.
const HeightPicture *builtInStamp(std::string_view name);
/// The same drawn anew at another size, for a list of pictures. O(side^2); empty for an unknown name.
HeightPicture drawStamp(std::string_view name, int side);

/// The same in steps of 1/65535, as files keep it.
void toSixteenBits(HeightPicture &picture);
/// A picture that repeats without a seam: near its borders it fades into itself moved by half its size, with the contrast
/// kept (Heitz & Neyret 2018, "High-performance by-example noise": weights over the root of the sum of their squares).
HeightPicture tileable(const HeightPicture &picture);

/// 8-bit colour picture, four bytes a pixel (R, G, B, A), sRGB, from the top row down.
struct ColourPicture {
    int width = 0, height = 0;
    std::vector<std::uint8_t> rgba;
};
/// PNG bytes to a file, whole or not at all.
Status writePng(const std::filesystem::path &path, const ColourPicture &picture);

} // namespace bonemoss::image
