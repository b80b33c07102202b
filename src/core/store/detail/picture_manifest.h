#pragma once

#include "store/detail/manifest.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>

namespace bonemoss::store::detail {

/// A picture in chunks that a store takes, with its size in pixels.
nlohmann::json writePicture(const PictureFile &file, const WriteBlob &write);
Result<std::shared_ptr<const PictureFile>> readPicture(const nlohmann::json &j, const ReadBlob &read);

} // namespace bonemoss::store::detail
