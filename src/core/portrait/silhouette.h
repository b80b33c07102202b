#pragma once

#include "io/scene.h"
#include "portrait/camera.h"

#include <cstdint>
#include <vector>

namespace bonemoss::portrait {

/// Filled outline seen along a parallel camera: 255 where the creature is. Row by row from the top.
/// Faces smaller than a pixel are set as points. O(faces).
std::vector<std::uint8_t> silhouette(const io::Scene &scene, const Camera &camera, int width, int height);

/// How near the floor things are over a square area of the floor: 255 where they touch it, softened.
/// Row by row from low z, x rising; area is in the x and z of the box, its floor at lo.y.
std::vector<std::uint8_t> contactShadow(const io::Scene &scene, const Box3f &area, int side);

} // namespace bonemoss::portrait
