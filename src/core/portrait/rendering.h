#pragma once

#include "image/picture_file.h"
#include "portrait/develop.h"
#include "portrait/path_tracer.h"

#include <filesystem>

namespace bonemoss::portrait {

/// A picture that is to be made.
struct Rendering {
    int width = 0, height = 0;
    std::array<int, 4> tile{0, 0, 0, 0}; ///< x, y, width, height of the part that is wanted; no width: all
    Gathering how;
    std::vector<std::string> passes; ///< beside the beauty
    std::vector<LightMix> mix;
    Film film;
    bool isRaw = false; ///< not filtered
    /// Where what is done is kept meanwhile: begun again, the same picture goes on there. Empty for nowhere.
    std::filesystem::path kept;
};

/// A picture in linear light with its passes.
struct Rendered {
    image::ChannelPicture picture;
    std::vector<std::string> lights;
    double samples = 0; ///< of a pixel, mean
    double error = 0;   ///< relative, mean
    int rowsKept = 0;   ///< that were there already
};

/// Makes a picture band by band, so that little more memory is taken than the picture has. Parts have the same bits as the whole.
/// Errors: Unknown passes, TooLarge, Cancelled (what is done stays kept), Unwritable.
Result<Rendered> rendered(const PathTracer &tracer, const Rendering &job, const Progress &progress = {});

/// Puts parts of a picture together that were made with the same passes; each says where it lies. Errors: Malformed, naming what is
/// missing or does not fit.
Result<image::ChannelPicture> joinedParts(std::span<const image::ChannelPicture> parts);

} // namespace bonemoss::portrait
