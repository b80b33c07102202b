#pragma once

#include "image/picture.h"

#include <cstddef>
#include <filesystem>
#include <span>
#include <string_view>
#include <vector>

namespace bonemoss::image {

/// Kinds of picture that are read: "png", "jpeg", "tiff", "exr"; empty for others. Told by the first bytes.
std::string_view pictureKind(std::span<const std::byte> bytes);

/// Pixels of a picture file held in memory. A side longer than mostSide is made smaller by whole steps, each pixel
/// the mean of those it stands for. 16-bit and float pictures come in 8 bits, EXR through the sRGB curve
/// (IEC 61966-2-1); the way the camera was held (Exif orientation) is undone.
/// The reading library comes in with the first call (a module beside the program), so that the start does not
/// pay for it. Errors: Unsupported (another kind, or the module is missing), Malformed, TooLarge (over 200
/// million pixels).
Result<ColourPicture> decodePicture(std::span<const std::byte> bytes, int mostSide = 4096);

/// Heights of a picture file: the mean of its colours, 8 and 16 bits as 0 to 1, floats as they are or, where they leave 0 to 1,
/// brought there. 16 bits of each are kept. As decodePicture otherwise.
Result<HeightPicture> decodeHeights(std::span<const std::byte> bytes, int mostSide = 2048);

/// Writes heights with 16 bits (PNG or TIFF: 0 to 1 as integers) or 32 (TIFF or EXR: floats), whole or not at all.
Status writeHeights(const std::filesystem::path &path, const HeightPicture &picture, int bits);

/// A whole file, at most 256 MB. Errors: Unreadable, TooLarge, Empty.
Result<std::vector<std::byte>> readPictureFile(const std::filesystem::path &path);

} // namespace bonemoss::image
