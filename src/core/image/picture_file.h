#pragma once

#include "image/picture.h"

#include <cstddef>
#include <filesystem>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace bonemoss::image {

/// Kinds of picture that are read: "png", "jpeg", "tiff", "exr", "hdr"; empty for others. Told by the first bytes.
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

/// Pixels of floats by channel, row by row from the top.
struct ChannelPicture {
    int width = 0, height = 0;
    std::vector<std::string> names;                         ///< of the channels: "beauty.R"
    std::vector<float> values;                              ///< all channels of a pixel, then the next
    std::vector<std::pair<std::string, std::string>> about; ///< what else is said of it, by name
    std::size_t channel(std::string_view name) const;       ///< its number; names.size() where there is none
};
/// An EXR file, whole or not at all: 16 bits, but for channels that end in "Z" or "id". With the primaries of sRGB.
Status writeChannels(const std::filesystem::path &path, const ChannelPicture &picture);
/// An EXR file with all its channels. Errors: Unreadable, Malformed, TooLarge (more than 16 GB).
Result<ChannelPicture> readChannels(const std::filesystem::path &path);

/// Linear light, row by row from the top.
struct LightPicture {
    int width = 0, height = 0;
    std::vector<Vec3f> values;
    Vec3f at(int x, int y) const { return values[std::size_t(y) * std::size_t(width) + std::size_t(x)]; }
};
/// Linear light of a picture file (also Radiance's HDR): floats as they are, 8 and 16 bits through the sRGB curve. As decodePicture otherwise.
Result<LightPicture> decodeLight(std::span<const std::byte> bytes, int mostSide);

/// Writes heights with 16 bits (PNG or TIFF: 0 to 1 as integers) or 32 (TIFF or EXR: floats), whole or not at all.
Status writeHeights(const std::filesystem::path &path, const HeightPicture &picture, int bits);

/// A whole file, at most 256 MB. Errors: Unreadable, TooLarge, Empty.
Result<std::vector<std::byte>> readPictureFile(const std::filesystem::path &path);

} // namespace bonemoss::image
