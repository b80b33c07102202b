#pragma once

#include "base/types.h"
#include "mesh/depth_picture.h"

#include <array>
#include <optional>
#include <span>
#include <string_view>

namespace bonemoss::portrait {

/// Looks at target from `distance` mm away; turn takes the camera's own axes (x right, y up, looking
/// along -z) into the creature's.
struct Camera {
    Vec3f target;
    Quat rotation;
    float distance = 500;
    float fieldOfView = 0.50f; ///< radians from the lower to the upper border
    bool isParallel = false;

    Vec3f right() const { return rotate(rotation, {1, 0, 0}); }
    Vec3f up() const { return rotate(rotation, {0, 1, 0}); }
    Vec3f forward() const { return rotate(rotation, {0, 0, -1}); }
    Vec3f eye() const { return target - forward() * distance; }
    /// Height in mm of what the picture shows at the target.
    float heightAtTarget() const { return 2 * distance * std::tan(fieldOfView / 2); }
    /// Ray through (x, y): -1 to 1 from left to right and from bottom to top; aspect is width / height.
    mesh::Ray rayThrough(float x, float y, float aspect) const;
    friend bool operator==(const Camera &, const Camera &) = default;
};

struct NamedView {
    std::string_view key, title; ///< "left", "Left flank"
    Vec3f from;                  ///< where the camera stands, seen from the creature
    Vec3f up;
};
/// Nose, left flank, tail, right flank, crown, belly.
const std::array<NamedView, 6> &anatomicalViews();
/// One of those, or "three-quarter", by key.
std::optional<Quat> viewRotation(std::string_view key);
/// Turn of a camera that stands at `from` and holds `up` up.
Quat rotationLooking(Vec3f from, Vec3f up);
/// The same held upright; of one that looks straight up or down with the nose above.
Quat uprightRotation(Vec3f from);
/// What a camera sees, as a window on to the creature.
mesh::Sight sightOf(const Camera &camera, float aspect);
/// The same camera moved so that the box fills the picture.
Camera framing(Camera camera, const Box3f &box, float aspect);
/// The same for points, closer: they reach two borders of the picture that face each other, less a margin of a fiftieth. O(n).
Camera framing(Camera camera, std::span<const Vec3f> points, float aspect);

} // namespace bonemoss::portrait
