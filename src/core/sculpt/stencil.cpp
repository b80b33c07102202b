#include "sculpt/stencil.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::sculpt {

Vec3f Stencil::sightTo(Vec3f p) const
{
    return eye ? normalized(p - *eye) : normalized(cross(up, right)); // away from who looks at it
}

std::optional<std::array<float, 2>> Stencil::placeOf(Vec3f p) const
{
    if (eye) { // the point's shadow on the picture's plane, seen from the eye
        const Vec3f n = cross(up, right), way = p - *eye;
        const float depth = dot(way, n), plane = dot(centre - *eye, n);
        if (depth * plane <= 0)
            return {};
        p = *eye + way * (plane / depth);
    }
    const Vec3f d = p - centre;
    const float u = 0.5f + 0.5f * dot(d, right) / squaredLength(right), v = 0.5f - 0.5f * dot(d, up) / squaredLength(up);
    if (u < 0 || v < 0 || u > 1 || v > 1)
        return {};
    return std::array{u, v};
}

std::optional<float> Stencil::heightAt(Vec3f p) const
{
    const auto at = placeOf(p);
    if (!at)
        return {};
    // To the middle of the outermost pixels: a card has borders, where a stamp begins again.
    const float u = 0.5f / float(picture->width), v = 0.5f / float(picture->height);
    return picture->at(std::clamp((*at)[0], u, 1 - u), std::clamp((*at)[1], v, 1 - v));
}

float Stencil::openness(Vec3f p) const
{
    const auto height = heightAt(p);
    if (!height)
        return 0;
    const float open = std::clamp(*height, 0.0f, 1.0f);
    return isInverted ? 1 - open : open;
}

} // namespace bonemoss::sculpt
