#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "image/picture.h"
#include "mesh/poly_mesh.h"
#include "portrait/camera.h"

#include <span>

namespace bonemoss::portrait {

struct ClayMesh {
    const mesh::PolyMesh *mesh;
    Vec3f colour{0.60f, 0.555f, 0.475f}; ///< linear
    bool isWet = false;                  ///< shines as an eye does
};

/// Ray-traced clay: warm key from upper left front, cool hemisphere, rim, true shadows, a floor.
/// O(pixels * samples) rays over Embree. Cancelled through progress.
Result<image::ColourPicture> clayPicture(std::span<const ClayMesh> meshes, const Camera &camera, int width, int height,
                                         int samples, const Progress &progress = {});

} // namespace bonemoss::portrait
