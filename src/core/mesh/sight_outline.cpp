#include "mesh/sight_outline.h"

#include <algorithm>

namespace bonemoss::mesh {

SightOutline::SightOutline(std::span<const Vec3f> outline, Vec3f direction, std::optional<Vec3f> eye)
    : m_direction(direction), m_u(normalized(cross(std::abs(direction.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, direction))),
      m_v(cross(direction, m_u)), m_origin(outline.front()), m_eye(eye), m_far(dot(m_origin - eye.value_or(Vec3f{}), direction))
{
    for (const Vec3f q : outline)
        if (const auto at = flat(q))
            m_outline.push_back(*at);
}

std::optional<SightOutline::Point> SightOutline::flat(Vec3f q) const
{
    if (m_eye) { // through the eye on to the plane of the outline
        const float deep = dot(q - *m_eye, m_direction);
        if (deep <= 1e-6f)
            return {};
        q = *m_eye + (q - *m_eye) * (m_far / deep);
    }
    return Point{dot(q - m_origin, m_u), dot(q - m_origin, m_v)};
}

bool SightOutline::holds(Vec3f place) const
{
    const auto at = flat(place);
    if (!at || m_outline.empty())
        return false;
    const auto [x, y] = *at;
    bool inside = false;
    for (std::size_t i = 0, j = m_outline.size() - 1; i < m_outline.size(); j = i++) {
        const Point &a = m_outline[i], &b = m_outline[j];
        if ((a[1] > y) != (b[1] > y) && x < (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) + a[0])
            inside = !inside;
    }
    return inside;
}

bool isSeen(const Surface &skin, Vec3f place, Vec3f normal, Vec3f fromWay)
{
    if (dot(normal, fromWay) <= 0)
        return false;
    const float epsilon = 0.2f * std::max(meanEdgeLength(skin), 1e-6f); // clear of the faces about it
    return !castRay(skin, {place + (normal + fromWay) * epsilon, fromWay});
}

} // namespace bonemoss::mesh
