#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string_view>

namespace bonemoss::sculpt {

/// How a tool fades from its middle (t = 0) to its rim (t = 1).
enum class Falloff { Dome, Soft, Sharp, Plateau, Line, Drawn };

inline constexpr std::array<std::string_view, 6> kFalloffNames{"dome", "soft", "sharp", "plateau", "line", "drawn"};

/// Heights (0 to 1) of a falloff drawn by hand, at even steps from the middle to the rim.
using DrawnFalloff = std::array<float, 7>;
/// What a drawn one begins as: Dome's.
inline constexpr DrawnFalloff kFirstDrawn{1, 0.945f, 0.79f, 0.5625f, 0.309f, 0.093f, 0};

/// Weight at t (0 to 1) of a drawn falloff: cubics between the heights that never go past them.
/// F. N. Fritsch & R. E. Carlson, "Monotone Piecewise Cubic Interpolation", 1980.
float weightOf(const DrawnFalloff &drawn, float t);

/// Weight 1 at the middle, 0 at the rim and beyond; smooth but for Line. Drawn ones have their own above.
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
    case Falloff::Line:
    case Falloff::Drawn: return s;
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
