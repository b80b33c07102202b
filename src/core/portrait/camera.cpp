#include "portrait/camera.h"

#include <algorithm>
#include <limits>

namespace bonemoss::portrait {

mesh::Ray Camera::rayThrough(float x, float y, float aspect) const
{
    const float half = std::tan(fieldOfView / 2);
    const Vec3f across = right() * (x * half * aspect) + up() * (y * half);
    if (isParallel)
        return {eye() + across * distance - forward() * (distance * 4), forward()};
    return {eye(), normalized(forward() + across)};
}

const std::array<NamedView, 6> &anatomicalViews()
{
    static const std::array<NamedView, 6> views{{{"nose", "Nose", {0, 0, 1}, {0, 1, 0}},
                                                 {"left", "Left flank", {1, 0, 0}, {0, 1, 0}},
                                                 {"tail", "Tail", {0, 0, -1}, {0, 1, 0}},
                                                 {"right", "Right flank", {-1, 0, 0}, {0, 1, 0}},
                                                 {"crown", "Crown", {0, 1, 0}, {1, 0, 0}},
                                                 {"belly", "Belly", {0, -1, 0}, {1, 0, 0}}}};
    return views;
}

Quat rotationLooking(Vec3f from, Vec3f up)
{
    const Vec3f z = normalized(from), x = normalized(cross(up, z)), y = cross(z, x);
    // Rotation matrix with columns x, y, z as a quaternion (Shepperd 1978).
    const float trace = x.x + y.y + z.z;
    Quat q;
    if (trace > 0) {
        const float s = std::sqrt(trace + 1) * 2;
        q = {(y.z - z.y) / s, (z.x - x.z) / s, (x.y - y.x) / s, s / 4};
    } else if (x.x > y.y && x.x > z.z) {
        const float s = std::sqrt(1 + x.x - y.y - z.z) * 2;
        q = {s / 4, (y.x + x.y) / s, (z.x + x.z) / s, (y.z - z.y) / s};
    } else if (y.y > z.z) {
        const float s = std::sqrt(1 + y.y - x.x - z.z) * 2;
        q = {(y.x + x.y) / s, s / 4, (z.y + y.z) / s, (z.x - x.z) / s};
    } else {
        const float s = std::sqrt(1 + z.z - x.x - y.y) * 2;
        q = {(z.x + x.z) / s, (z.y + y.z) / s, s / 4, (x.y - y.x) / s};
    }
    return normalized(q);
}

Quat uprightRotation(Vec3f from)
{
    const bool isVertical = std::abs(normalized(from).y) > 0.9999f;
    return rotationLooking(from, isVertical ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0});
}

std::optional<Quat> viewRotation(std::string_view key)
{
    for (const NamedView &v : anatomicalViews())
        if (v.key == key)
            return rotationLooking(v.from, v.up);
    if (key == "three-quarter")
        return rotationLooking({0.80f, 0.30f, 0.62f}, {0, 1, 0});
    return {};
}

Camera framing(Camera camera, const Box3f &box, float aspect)
{
    if (box.isEmpty())
        return camera;
    camera.target = box.centre();
    const Vec3f x = camera.right(), y = camera.up(), z = camera.forward();
    float half = 1e-3f;
    for (int k = 0; k < 8; ++k) { // the farthest corner decides
        const Vec3f p =
            Vec3f{k & 1 ? box.hi.x : box.lo.x, k & 2 ? box.hi.y : box.lo.y, k & 4 ? box.hi.z : box.lo.z} - camera.target;
        const float tangent = std::tan(camera.fieldOfView / 2);
        const float depth = camera.isParallel ? 0 : -dot(p, z);
        half = std::max({half, std::abs(dot(p, y)) / tangent + depth, std::abs(dot(p, x)) / (tangent * aspect) + depth});
    }
    camera.distance = half * 1.04f;
    return camera;
}

Camera framing(Camera camera, std::span<const Vec3f> points, float aspect)
{
    if (points.empty())
        return camera;
    constexpr float kFar = std::numeric_limits<float>::max(), kMargin = 1.04f;
    const float tangent = std::tan(camera.fieldOfView / 2) / kMargin;
    const std::array<Vec3f, 2> axes = {camera.right(), camera.up()};
    const std::array<float, 2> slope = {tangent * aspect, tangent};
    const Vec3f forward = camera.forward();
    // The borders of the picture are planes through the eye: how far out points lie across each, both ways.
    std::array<std::array<float, 2>, 2> out{{{-kFar, -kFar}, {-kFar, -kFar}}};
    float nearest = kFar, farthest = -kFar;
    for (const Vec3f p : points) {
        const float depth = dot(p, forward);
        nearest = std::min(nearest, depth), farthest = std::max(farthest, depth);
        for (std::size_t k = 0; k < 2; ++k) {
            const float across = dot(p, axes[k]), lean = camera.isParallel ? 0 : slope[k] * depth;
            out[k][0] = std::max(out[k][0], across - lean);
            out[k][1] = std::max(out[k][1], -across - lean);
        }
    }
    const float middle = (nearest + farthest) / 2;
    camera.target = forward * middle;
    camera.distance = 1e-3f;
    for (std::size_t k = 0; k < 2; ++k) {
        camera.target += axes[k] * ((out[k][0] - out[k][1]) / 2);
        const float half = (out[k][0] + out[k][1]) / 2; // at depth 0, of what is seen
        camera.distance = std::max(camera.distance, half / slope[k] + (camera.isParallel ? 0 : middle));
    }
    return camera;
}

mesh::Sight sightOf(const Camera &camera, float aspect)
{
    const float half = camera.isParallel ? camera.heightAtTarget() / 2 : std::tan(camera.fieldOfView / 2);
    return {camera.eye(), camera.right(), camera.up(), camera.forward(), half * aspect, half, camera.isParallel};
}

} // namespace bonemoss::portrait
