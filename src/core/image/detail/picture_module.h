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

/// 1 when it was read: the mean of the colours, integers as 0 to 1, floats as they are.
using BonemossReadHeights = int (*)(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossHeights *out);
/// 1 when it was written: bits 16 (0 to 1 as integers) or 32 (floats); the ending of the path chooses the kind.
using BonemossWriteHeights = int (*)(const char *path, int bits, BonemossHeights *heights);

/// 1 when it was read. name is "picture.png" or the like: it chooses the reader.
using BonemossReadPicture = int (*)(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossPicture *out);
}
