#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "image/picture.h"
#include "io/scene.h"
#include "portrait/camera.h"

namespace bonemoss::portrait {

/// Ray-traced clay: warm key from upper left front, cool hemisphere, rim, true shadows, a floor.
/// O(pixels * samples) rays over Embree, which has each shape once more, and copies as instances. Cancelled through progress.
Result<image::ColourPicture> clayPicture(const io::Scene &shown, const Camera &camera, int width, int height, int samples,
                                         const Progress &progress = {});

} // namespace bonemoss::portrait
