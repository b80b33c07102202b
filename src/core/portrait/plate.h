#pragma once

#include "portrait/stage.h"

namespace bonemoss::portrait {

/// A paper to print a plate on, with the inks that go with it. Colours as sRGB, 0 to 1.
struct PlatePaper {
    std::string_view id, title;
    Vec3f paper, ink, line; ///< line: of frames and leaders
    float mottle = 0;       ///< how much its colour varies
};
std::span<const PlatePaper> platePapers();
/// The row of that id, or the first one.
const PlatePaper &platePaper(std::string_view id);

/// Something whose size everybody knows, as a silhouette.
struct KnownSize {
    std::string_view id, title;
    float height = 0; ///< mm; 0 for none
    /// Outlines, closed, in its height: y from 0 at its foot to 1.
    std::vector<std::vector<std::array<float, 2>>> (*outline)() = nullptr;
};
std::span<const KnownSize> knownSizes();
const KnownSize &knownSize(std::string_view id);

} // namespace bonemoss::portrait
