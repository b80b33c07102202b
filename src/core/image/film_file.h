#pragma once

#include "image/picture.h"

#include <filesystem>
#include <memory>

namespace bonemoss::image {

/// A film that is written frame by frame: .webp, or .mp4 where the machine has ffmpeg. The file is there when it is finished, and not
/// before.
class FilmFile
{
public:
    /// Errors: Unsupported, BadValue (size or frames a second).
    static Result<std::unique_ptr<FilmFile>> begin(const std::filesystem::path &path, int width, int height, int framesPerSecond);
    virtual ~FilmFile() = default;
    /// A frame of that size, four bytes a pixel. Errors: Unwritable.
    virtual Status add(const ColourPicture &frame) = 0;
    virtual Status finish() = 0;
};

} // namespace bonemoss::image
