#include "base/types.h"

#include <algorithm>
#include <numbers>

namespace bonemoss {

namespace {
constexpr float kDeg = std::numbers::pi_v<float> / 180;
float meanScale(Vec3f s)
{
    return std::cbrt(std::abs(s.x * s.y * s.z));
}
} // namespace

Quat normalized(Quat q)
{
    const float len = std::sqrt(q.x * q.x + q.y * q.y + q.z * q.z + q.w * q.w);
    if (!(len > 0))
        return {};
    return {q.x / len, q.y / len, q.z / len, q.w / len};
}

Quat rotationFromTo(Vec3f a, Vec3f b)
{
    const float c = dot(a, b);
    if (c < -0.999999f) { // opposite: half a turn about any axis square to a
        const Vec3f side = std::abs(a.x) < 0.9f ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0};
        const Vec3f axis = normalized(cross(a, side));
        return {axis.x, axis.y, axis.z, 0};
    }
    const Vec3f v = cross(a, b);
    return normalized(Quat{v.x, v.y, v.z, 1 + c});
}

Quat fromEulerDeg(Vec3f deg)
{
    const Quat qx = rotationAbout({1, 0, 0}, deg.x * kDeg);
    const Quat qy = rotationAbout({0, 1, 0}, deg.y * kDeg);
    const Quat qz = rotationAbout({0, 0, 1}, deg.z * kDeg);
    return normalized(qz * qy * qx);
}

Vec3f toEulerDeg(Quat q)
{
    // Rotation matrix entries of R = Rz Ry Rx.
    const float r20 = 2 * (q.x * q.z - q.w * q.y);
    const float r21 = 2 * (q.y * q.z + q.w * q.x);
    const float r22 = 1 - 2 * (q.x * q.x + q.y * q.y);
    const float r10 = 2 * (q.x * q.y + q.w * q.z);
    const float r00 = 1 - 2 * (q.y * q.y + q.z * q.z);
    const float y = std::asin(std::clamp(-r20, -1.0f, 1.0f));
    if (std::abs(r20) > 0.99999f) { // looking along the pole: only x - z or x + z is defined
        const float r01 = 2 * (q.x * q.y - q.w * q.z);
        const float r11 = 1 - 2 * (q.x * q.x + q.z * q.z);
        return {0, y / kDeg, std::atan2(-r01, r11) / kDeg};
    }
    return {std::atan2(r21, r22) / kDeg, y / kDeg, std::atan2(r10, r00) / kDeg};
}

Transform compose(const Transform &parent, const Transform &child)
{
    const float s = meanScale(parent.scale);
    return {parent.translation + rotate(parent.rotation, child.translation * s), normalized(parent.rotation * child.rotation),
            child.scale * s};
}

Transform relativeTo(const Transform &parent, const Transform &whole)
{
    const float s = 1 / meanScale(parent.scale);
    return {rotate(parent.rotation.conjugate(), whole.translation - parent.translation) * s,
            normalized(parent.rotation.conjugate() * whole.rotation), whole.scale * s};
}

} // namespace bonemoss
