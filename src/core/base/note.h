#pragma once

#include "base/types.h"

#include <optional>
#include <string>

namespace bonemoss {

/// A plain sentence about what was done, found or lost, and where (mm) the first case of it lies.
struct Note {
    Note(std::string words, std::optional<Vec3f> first = {}) : text(std::move(words)), at(first) {}
    Note(const char *words) : text(words) {}
    std::string text;
    std::optional<Vec3f> at;
};

} // namespace bonemoss
