#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "image/picture.h"
#include "io/scene.h"
#include "portrait/camera.h"

namespace bonemoss::portrait {

/// A picture in the light of the museum case, for previews and sheets: traced and filtered. O(pixels * samples) rays. Errors: Empty,
/// Cancelled, TooLarge.
Result<image::ColourPicture> studioPicture(const io::Scene &shown, const Camera &camera, int width, int height, int samples,
                                           const Progress &progress = {});

} // namespace bonemoss::portrait
