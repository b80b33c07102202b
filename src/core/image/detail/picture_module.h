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

/// 1 when it was read. name is "picture.png" or the like: it chooses the reader.
using BonemossReadPicture = int (*)(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossPicture *out);
}
