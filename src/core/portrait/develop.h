#pragma once

#include "image/picture.h"
#include "portrait/gathered.h"
#include "portrait/stage.h"

#include <span>
#include <vector>

namespace bonemoss::portrait {

/// How much of a light there is in a picture, and in which colour: times what it gave.
struct LightMix {
    std::string light;
    float strength = 1;
    Vec3f colour{1, 1, 1};
    friend bool operator==(const LightMix &, const LightMix &) = default;
};

/// A picture in linear light, row by row from the top.
struct LinearPicture {
    int width = 0, height = 0;
    std::vector<Vec3f> light;
    std::vector<float> cover;              ///< 0 to 1: of the creature and its ground; empty where all counts
    int left = 0, top = 0, wholeWidth = 0; ///< its place in the whole picture; no width: it is the whole
};

/// All lights together; those that are not named as they are. O(pixels * lights).
LinearPicture mixed(const Gathered &gathered, std::span<const LightMix> mix = {});
/// The same of what was filtered: each pixel keeps the share of its light that the mix leaves. filtered: without any mix, by pixel.
LinearPicture mixed(const Gathered &gathered, std::span<const LightMix> mix, std::span<const Vec3f> filtered);
/// Stops by which a picture is exposed so that what stands in it has a mean of 0.16 (logarithmic, over what is covered where that is known).
float meteredExposure(const LinearPicture &picture);
/// Linear light through exposure and tone curve, 0 to 1 and still linear: what is middle grey (0.18) stays, what is bright fades to white.
Vec3f toned(Vec3f light, float exposure, float contrast);
/// Bytes as sRGB: bloom, exposure, tone curve, grain. isClear: alpha is what is covered. O(pixels).
image::ColourPicture developed(const LinearPicture &picture, const Film &film, bool isClear = false);

} // namespace bonemoss::portrait
