#pragma once

#include <cstddef>
#include <cstdint>

// What the program and its picture module share: plain C, so that neither needs the other's libraries.

extern "C" {

struct BonemossPicture {
    int width, height;  ///< after shrinking and turning
    std::uint8_t *rgba; ///< from malloc; the caller frees it
    int isTooLarge;     ///< when it failed: too many pixels
    char message[200];  ///< when it failed: why
};

struct BonemossHeights {
    int width, height;
    float *values;     ///< from malloc; the caller frees it. In bonemossWriteHeights: the caller's
    int isTooLarge;    ///< when it failed: too many pixels
    char message[200]; ///< when it failed: why
};

/// Floats by channel, pixel by pixel.
struct BonemossChannels {
    int width, height, channels;
    float *values;     ///< reading: from malloc, the caller frees it. Writing: the caller's
    char *names;       ///< of the channels, a line each; likewise
    char *about;       ///< what else is said of it: a line "name=text" each; likewise
    int isTooLarge;    ///< when it failed: too many pixels
    char message[200]; ///< when it failed: why
};
/// 1 when it was read: three channels of linear light (8 and 16 bits through the sRGB curve), no side longer than mostSide.
using BonemossReadLight = int (*)(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossChannels *out);
/// 1 when it was read or written: an EXR file, all channels. Written with 16 bits, but for those whose name ends in "Z" or "id" with 32.
using BonemossReadChannels = int (*)(const char *path, BonemossChannels *out);
using BonemossWriteChannels = int (*)(const char *path, BonemossChannels *picture);

/// 1 when it was read: the mean of the colours, integers as 0 to 1, floats as they are.
using BonemossReadHeights = int (*)(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossHeights *out);
/// 1 when it was written: bits 16 (0 to 1 as integers) or 32 (floats); the ending of the path chooses the kind.
using BonemossWriteHeights = int (*)(const char *path, int bits, BonemossHeights *heights);

/// 1 when it was read. name is "picture.png" or the like: it chooses the reader.
using BonemossReadPicture = int (*)(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossPicture *out);

/// A film as WebP, frame by frame: null where it cannot be begun. quality: 0 to 100.
using BonemossBeginFilm = void *(*)(int width, int height, float quality);
/// 1 when it was added: four bytes a pixel, at so many ms after the first.
using BonemossAddFrame = int (*)(void *film, const std::uint8_t *rgba, int atMs);
/// 1 when it was made; bytes: from malloc, the caller frees it. The film is gone afterwards; no bytes wanted: it is dropped.
using BonemossEndFilm = int (*)(void *film, int endMs, std::uint8_t **bytes, std::size_t *size);
}
