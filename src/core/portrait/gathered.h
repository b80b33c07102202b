#pragma once

#include "base/types.h"

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace bonemoss::portrait {

/// What rays have gathered of a picture so far, sums over samples, row by row from the top. Each light is kept by itself, so that they can
/// be mixed afterwards.
struct Gathered {
    int left = 0, top = 0, width = 0, height = 0; ///< its place in the whole picture, pixels
    int wholeWidth = 0, wholeHeight = 0;          ///< of the picture it is a part of
    float scale = 1, reach = 2;                   ///< mm: diagonal of the creature, and how far away it ends
    std::vector<std::string> lights;              ///< names: lamps, then "surroundings", then "backdrop"
    std::vector<std::vector<Vec3f>> light;        ///< of each, by pixel
    std::vector<Vec3f> odd;                       ///< of all, of every second sample
    std::vector<Vec3f> albedo, normal;            ///< of what is met first
    std::vector<float> depth;                     ///< mm along the view, of samples that meet something
    std::vector<float> facing, open;              ///< cosine to the eye; share of the sky that is open
    std::vector<float> cover;                     ///< samples that meet the creature or its ground
    std::vector<float> shade;                     ///< of a floor that shows the backdrop: light that is missing, summed share
    std::vector<float> squares;                   ///< of the luminance of samples
    std::vector<std::uint32_t> count;             ///< samples
    std::vector<std::uint32_t> object;            ///< item that the first sample met, by PathTracer::items(); kNone for none

    Gathered() = default;
    Gathered(int wide, int high, std::array<int, 4> tile, std::vector<std::string> names);
    std::size_t size() const { return count.size(); }
    Vec3f all(std::size_t pixel) const; ///< mean of all lights
    /// Relative standard error of a pixel's luminance.
    float error(std::size_t pixel) const;
    /// Mean of that over all pixels.
    double meanError() const;
    std::size_t memoryBytes() const;
    /// A part of it: x, y, width and height in the whole picture, within this.
    Gathered cut(std::array<int, 4> tile) const;
    /// Adds the rows below it, as wide.
    void append(const Gathered &below);
};

/// Relative standard error of a mean of samples, by the sums of their luminance and of its squares.
float relativeError(float sum, float squares, std::uint32_t count);

} // namespace bonemoss::portrait
