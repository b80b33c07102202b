#include "sculpt/symmetry.h"

#include <algorithm>
#include <numbers>

namespace bonemoss::sculpt {

namespace {

/// First a, then b.
Isometry after(const Isometry &a, const Isometry &b)
{
    Isometry c;
    const Vec3f columns[3] = {{a.rows[0].x, a.rows[1].x, a.rows[2].x},
                              {a.rows[0].y, a.rows[1].y, a.rows[2].y},
                              {a.rows[0].z, a.rows[1].z, a.rows[2].z}};
    for (int r = 0; r < 3; ++r)
        c.rows[r] = {dot(b.rows[r], columns[0]), dot(b.rows[r], columns[1]), dot(b.rows[r], columns[2])};
    c.move = b.apply(a.move);
    c.handed = a.handed * b.handed;
    return c;
}

Isometry mirrorAcross(Vec3f point, Vec3f normal)
{
    Isometry m; // Householder's reflection
    for (int r = 0; r < 3; ++r)
        m.rows[r] = m.rows[r] - normal * (2 * at(normal, r));
    m.move = normal * (2 * dot(point, normal));
    m.handed = -1;
    return m;
}

Isometry turnOf(Vec3f point, Vec3f axis, float angle)
{
    const Quat q = rotationAbout(axis, angle);
    const Vec3f x = rotate(q, {1, 0, 0}), y = rotate(q, {0, 1, 0}), z = rotate(q, {0, 0, 1});
    Isometry t;
    t.rows[0] = {x.x, y.x, z.x}, t.rows[1] = {x.y, y.y, z.y}, t.rows[2] = {x.z, y.z, z.z};
    t.move = point - t.turn(point);
    return t;
}

} // namespace

std::vector<Isometry> Symmetry::places() const
{
    std::vector<Isometry> all(1);
    const int n = std::clamp(around, 1, kMostAround);
    for (int k = 1; k < n; ++k)
        all.push_back(turnOf(axisPoint, axis, 2 * std::numbers::pi_v<float> * float(k) / float(n)));
    if (hasPlane) {
        const Isometry mirror = mirrorAcross(point, normal);
        for (int k = 0; k < n; ++k)
            all.push_back(after(mirror, all[std::size_t(k)]));
    }
    return all;
}

} // namespace bonemoss::sculpt
