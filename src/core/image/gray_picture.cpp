#include "image/gray_picture.h"

#include "base/files.h"

#include <png.h>

namespace bonemoss::image {

Status writePng(const std::filesystem::path &path, const GrayPicture &picture)
{
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = png_uint_32(picture.width);
    image.height = png_uint_32(picture.height);
    image.format = PNG_FORMAT_GRAY;
    image.flags = PNG_IMAGE_FLAG_FAST;
    auto file = NewFile::beside(path);
    if (!file)
        return file.error();
    if (!png_image_write_to_file(&image, file->path().c_str(), 0, picture.values.data(), 0, nullptr))
        return Error{ErrorCode::Unwritable, shownPath(path), image.message};
    return file->commit();
}

} // namespace bonemoss::image
