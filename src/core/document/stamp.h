#pragma once

#include "image/picture.h"

#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace bonemoss::document {

struct Creature;

/// A height picture that belongs to a creature: read from a file, or harvested from skin.
struct Stamp {
    std::string name;
    std::shared_ptr<const image::HeightPicture> picture; ///< in steps of 1/65535
    float depth = 1;                                     ///< mm, at which it is as high as what it was taken from
    mutable std::array<std::uint64_t, 2> contentHash{};  ///< of its bytes, remembered by the store
};

/// The creature's own stamp of that name, or the one that comes with the program; null when there is neither.
std::shared_ptr<const image::HeightPicture> stampNamed(const Creature &creature, const std::string &name);

/// Heights as files keep them: 16 bits each, row by row. And back; null when there are not as many as there should be.
std::vector<std::byte> bytesOfStamp(const image::HeightPicture &picture);
std::shared_ptr<const image::HeightPicture> stampFromBytes(const std::vector<std::byte> &bytes, int width, int height,
                                                           float middle);

} // namespace bonemoss::document
