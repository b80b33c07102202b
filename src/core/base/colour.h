#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace bonemoss {

// The transfer curve of sRGB, after IEC 61966-2-1. Values are 0 to 1.

inline float toSrgb(float linear)
{
    return linear <= 0.0031308f ? 12.92f * linear : 1.055f * std::pow(linear, 1 / 2.4f) - 0.055f;
}
inline float fromSrgb(float s)
{
    return s <= 0.04045f ? s / 12.92f : std::pow((s + 0.055f) / 1.055f, 2.4f);
}
/// Linear light as a byte of an sRGB picture, rounded; what is beyond 0 to 1 is clamped.
inline std::uint8_t srgbByte(float linear)
{
    return std::uint8_t(std::clamp(toSrgb(linear) * 255 + 0.5f, 0.0f, 255.0f));
}

} // namespace bonemoss
