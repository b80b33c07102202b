#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string_view>

namespace bonemoss::sculpt {

/// How a tool fades from its middle (t = 0) to its rim (t = 1).
enum class Falloff { Dome, Soft, Sharp, Plateau, Line };

inline constexpr std::array<std::string_view, 5> kFalloffNames{"dome", "soft", "sharp", "plateau", "line"};

/// Weight 1 at the middle, 0 at the rim and beyond; smooth but for Line.
constexpr float weightOf(Falloff f, float t)
{
    if (t >= 1)
        return 0;
    const float s = 1 - t, q = 1 - t * t;
    switch (f) {
    case Falloff::Dome: return q * q;
    case Falloff::Soft: return s * s * (3 - 2 * s);
    case Falloff::Sharp: return s * s * s;
    case Falloff::Plateau: {
        const float r = t * t * t;
        return 1 - r * r * (3 - 2 * r);
    }
    case Falloff::Line: return s;
    }
    return 0;
}

constexpr std::string_view nameOf(Falloff f)
{
    return kFalloffNames[std::size_t(f)];
}
constexpr std::optional<Falloff> falloffNamed(std::string_view name)
{
    for (std::size_t i = 0; i < kFalloffNames.size(); ++i)
        if (kFalloffNames[i] == name)
            return Falloff(i);
    return {};
}

} // namespace bonemoss::sculpt
