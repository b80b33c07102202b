#pragma once

#include "base/result.h"

#include <cstdint>
#include <filesystem>
#include <vector>

namespace bonemoss::image {

/// 8-bit grey picture, from the top row down.
struct GrayPicture {
    int width = 0, height = 0;
    std::vector<std::uint8_t> values;
};
/// PNG bytes to a file, whole or not at all.
Status writePng(const std::filesystem::path &path, const GrayPicture &picture);

} // namespace bonemoss::image
