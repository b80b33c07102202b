#include "base/space_map.h"

#include <algorithm>
#include <cmath>

namespace bonemoss {

SpaceMap::Local SpaceMap::at(Vec3f p) const
{
    const float whole = length(b - a);
    if (!(whole > 1e-6f))
        return {p, {}, 1, 1};
    const Vec3f axis = (b - a) * (1 / whole);
    const float z = dot(p - a, axis), inside = std::clamp(z, 0.0f, whole), share = inside / whole;
    const Vec3f foot = a + axis * z, out = p - foot;
    switch (kind) {
    case SpaceMapKind::Twist: {
        const Quat turn = rotationAbout(axis, amount * share);
        return {foot + rotate(turn, out), turn, 1, 1};
    }
    case SpaceMapKind::Taper: {
        const float k = 1 + (amount - 1) * share;
        return {foot + out * k, {}, k, 1};
    }
    case SpaceMapKind::Stretch: {
        const float k = 1 / std::sqrt(amount);
        // Thickness changes over the first and last eighth, so that what lies outside is only moved.
        const auto ease = [](float t) { return t <= 0 ? 0.0f : t >= 1 ? 1.0f : t * t * (3 - 2 * t); };
        const float w = std::min(ease(share * 8), ease((1 - share) * 8));
        const float thick = 1 + (k - 1) * w, to = z + (amount - 1) * inside;
        return {a + axis * to + out * thick, {}, thick, z > 0 && z < whole ? amount : 1};
    }
    case SpaceMapKind::Bend: break;
    }
    const Vec3f across = side - axis * dot(side, axis);
    if (std::abs(amount) < 1e-6f || squaredLength(across) < 1e-12f)
        return {p, {}, 1, 1};
    const Vec3f towards = normalized(across), hinge = cross(axis, towards); // turning axis into towards
    const float radius = whole / amount, angle = amount * share;
    const Vec3f centre = a + towards * radius;
    const Quat turn = rotationAbout(hinge, angle);
    // A point of the stretch rides on the circle through its foot; beyond, it goes straight on.
    const Vec3f level = a + out; // as if it lay at a
    const Vec3f at = centre + rotate(turn, level - centre) + rotate(turn, axis) * (z - inside);
    return {at, turn, 1, 1};
}

} // namespace bonemoss
