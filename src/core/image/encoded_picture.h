#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace bonemoss::image {

/// A picture as it came, byte for byte, with the size it is shown in.
struct EncodedPicture {
    std::vector<std::byte> bytes;
    int width = 1, height = 1; ///< pixels, upright
    /// Of the chunks that a store writes; filled by it.
    mutable std::vector<std::array<std::uint64_t, 2>> contentHashes;
};

} // namespace bonemoss::image
