#pragma once

#include <cmath>
#include <cstdint>
#include <limits>

namespace bonemoss {

inline constexpr float kPi = 3.14159265358979323846f, kRadiansPerDegree = kPi / 180;

inline constexpr std::uint32_t kNone = 0xffffffffu; ///< "no vertex, no face, no id"

/// Point or direction in document space: millimetres, right-handed, +Y crown, +Z nose, +X left.
struct Vec3f {
    float x = 0, y = 0, z = 0;

    friend constexpr bool operator==(const Vec3f &, const Vec3f &) = default;
    friend constexpr Vec3f operator+(Vec3f a, Vec3f b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
    friend constexpr Vec3f operator-(Vec3f a, Vec3f b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
    friend constexpr Vec3f operator*(Vec3f a, float s) { return {a.x * s, a.y * s, a.z * s}; }
    friend constexpr Vec3f operator*(Vec3f a, Vec3f b) { return {a.x * b.x, a.y * b.y, a.z * b.z}; }
    friend constexpr Vec3f operator-(Vec3f a) { return {-a.x, -a.y, -a.z}; }
    constexpr Vec3f &operator+=(Vec3f b) { return *this = *this + b; }
    constexpr Vec3f &operator-=(Vec3f b) { return *this = *this - b; }
    constexpr Vec3f &operator*=(float s) { return *this = *this * s; }
};
static_assert(sizeof(Vec3f) == 12, "uploaded to the GPU and written to files as is");

constexpr float dot(Vec3f a, Vec3f b)
{
    return a.x * b.x + a.y * b.y + a.z * b.z;
}
constexpr Vec3f cross(Vec3f a, Vec3f b)
{
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
constexpr float squaredLength(Vec3f a)
{
    return dot(a, a);
}
inline float length(Vec3f a)
{
    return std::sqrt(dot(a, a));
}
/// Unit vector, or {0,0,0} where a has no length.
inline Vec3f normalized(Vec3f a)
{
    const float len = length(a);
    return len > 0 ? a * (1 / len) : Vec3f{};
}
constexpr Vec3f lerp(Vec3f a, Vec3f b, float t)
{
    return a + (b - a) * t;
}
inline bool isFinite(Vec3f a)
{
    return std::isfinite(a.x) && std::isfinite(a.y) && std::isfinite(a.z);
}
constexpr Vec3f min(Vec3f a, Vec3f b)
{
    return {a.x < b.x ? a.x : b.x, a.y < b.y ? a.y : b.y, a.z < b.z ? a.z : b.z};
}
constexpr Vec3f max(Vec3f a, Vec3f b)
{
    return {a.x > b.x ? a.x : b.x, a.y > b.y ? a.y : b.y, a.z > b.z ? a.z : b.z};
}
/// Reflection across the middle plane x = 0.
constexpr Vec3f mirrored(Vec3f a)
{
    return {-a.x, a.y, a.z};
}
/// Component 0, 1 or 2.
constexpr float at(Vec3f a, int axis)
{
    return axis == 0 ? a.x : axis == 1 ? a.y : a.z;
}

/// Axis-aligned box; empty when default-made.
struct Box3f {
    Vec3f lo{std::numeric_limits<float>::max(), std::numeric_limits<float>::max(), std::numeric_limits<float>::max()};
    Vec3f hi{std::numeric_limits<float>::lowest(), std::numeric_limits<float>::lowest(), std::numeric_limits<float>::lowest()};

    constexpr bool isEmpty() const { return lo.x > hi.x; }
    constexpr void add(Vec3f p) { lo = min(lo, p), hi = max(hi, p); }
    constexpr void add(const Box3f &b) { lo = min(lo, b.lo), hi = max(hi, b.hi); }
    constexpr Vec3f centre() const { return (lo + hi) * 0.5f; }
    constexpr Vec3f size() const { return isEmpty() ? Vec3f{} : hi - lo; }
    float diagonal() const { return length(size()); }
    constexpr void grow(float by) { lo -= Vec3f{by, by, by}, hi += Vec3f{by, by, by}; }
    friend constexpr bool operator==(const Box3f &, const Box3f &) = default;
};

/// Squared distance from p to the box, 0 inside; mm^2.
constexpr float squaredDistance(const Box3f &b, Vec3f p)
{
    const Vec3f d = max(max(b.lo - p, p - b.hi), Vec3f{});
    return dot(d, d);
}

/// Unit quaternion (x, y, z, w) for turns.
struct Quat {
    float x = 0, y = 0, z = 0, w = 1;
    friend constexpr bool operator==(const Quat &, const Quat &) = default;
    friend constexpr Quat operator*(Quat a, Quat b)
    {
        return {a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y, a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x,
                a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w, a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z};
    }
    constexpr Quat conjugate() const { return {-x, -y, -z, w}; }
};
constexpr Vec3f rotate(Quat q, Vec3f v)
{
    const Vec3f u{q.x, q.y, q.z};
    const Vec3f t = cross(u, v) * 2.0f;
    return v + t * q.w + cross(u, t);
}
/// Turn by angle (radians) about a unit axis.
inline Quat rotationAbout(Vec3f axis, float angle)
{
    const float s = std::sin(angle / 2);
    return {axis.x * s, axis.y * s, axis.z * s, std::cos(angle / 2)};
}
Quat normalized(Quat q);
/// The shortest turn that takes unit vector a to unit vector b.
Quat rotationFromTo(Vec3f a, Vec3f b);
/// From degrees about x, then y, then z (fixed axes), and back.
Quat fromEulerDeg(Vec3f deg);
Vec3f toEulerDeg(Quat q);

/// Scale, then turn, then move. No shear; a child of a scaled parent gets the parent's scale.
struct Transform {
    Vec3f translation;
    Quat rotation;
    Vec3f scale{1, 1, 1};

    Vec3f apply(Vec3f p) const { return rotate(rotation, p * scale) + translation; }
    Vec3f applyInverse(Vec3f p) const
    {
        const Vec3f q = rotate(rotation.conjugate(), p - translation);
        return {q.x / scale.x, q.y / scale.y, q.z / scale.z};
    }
    friend constexpr bool operator==(const Transform &, const Transform &) = default;
};
/// parent after child; a child keeps its shape: only the parent's mean scale is passed on to it.
Transform compose(const Transform &parent, const Transform &child);
/// child such that compose(parent, child) == whole.
Transform relativeTo(const Transform &parent, const Transform &whole);

} // namespace bonemoss
