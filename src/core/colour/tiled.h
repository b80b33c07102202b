#pragma once

#include "growth/flow.h"
#include "image/picture.h"

#include <vector>

namespace bonemoss::colour {

struct TiledSettings {
    float size = 20;    ///< mm that the picture is wide
    float turn = 1;     ///< 0 patches follow the flow, 1 they are turned at random
    float seam = 0.35f; ///< how broadly patches blend, 0 to 1
    std::uint64_t seed = 1;
};
/// A picture laid over a skin without layout or seam: patches of it about points of the skin, each turned and moved at random, blended
/// where they meet (lapped patches after E. Praun, A. Finkelstein & H. Hoppe, "Lapped Textures", 2000, with blending in place of cutting). sRGB
/// of each vertex. Parallel, the same on any number of threads; O(vertices). Empty when cancelled.
std::vector<Vec3f> tiledOver(const growth::Ground &ground, const growth::Flow &flow, const image::ColourPicture &picture,
                             const TiledSettings &settings, const Progress &progress = {});

} // namespace bonemoss::colour
