#include "sculpt/falloff.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::sculpt {

float weightOf(const DrawnFalloff &drawn, float t)
{
    constexpr std::size_t kLast = std::tuple_size_v<DrawnFalloff> - 1;
    if (t >= 1)
        return 0;
    const float place = std::max(t, 0.0f) * float(kLast);
    const auto k = std::min(std::size_t(place), kLast - 1);
    const auto rise = [&](std::size_t i) { return drawn[i + 1] - drawn[i]; };
    const auto slope = [&](std::size_t i) { // harmonic mean of the rises on both sides; flat at a turn and at the ends
        if (i == 0 || i == kLast)
            return 0.0f;
        const float before = rise(i - 1), after = rise(i);
        return before * after > 0 ? 2 * before * after / (before + after) : 0.0f;
    };
    const float x = place - float(k), y = 1 - x;
    return drawn[k] * (1 + 2 * x) * y * y + drawn[k + 1] * (1 + 2 * y) * x * x + slope(k) * x * y * y - slope(k + 1) * y * x * x;
}

} // namespace bonemoss::sculpt
