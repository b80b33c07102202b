#pragma once

#include "portrait/develop.h"
#include "portrait/spot.h"

namespace bonemoss::portrait {

/// How a picture shows a creature. A look is one row.
struct PictureLook {
    std::string_view id, title, hint;
    /// What it makes of every place of the creature that light falls on; null: as it is.
    void (*dress)(Spot &) = nullptr;
    bool isClear = true; ///< what is clear is seen through
    /// Draws it from what is met first, in place of light; null where light is gathered. O(pixels).
    LinearPicture (*draw)(const Gathered &) = nullptr;
};
std::span<const PictureLook> pictureLooks();
/// The row of that id, or the first one.
const PictureLook &pictureLook(std::string_view id);

/// A picture as bytes, as its look has it. filtered: the light of each pixel, as it is shown; of a look that is drawn not asked for.
image::ColourPicture shownPicture(const Gathered &gathered, std::span<const LightMix> mix, std::span<const Vec3f> filtered,
                                  const Film &film, bool isClear = false);
/// The film for what is drawn: ink stays ink.
Film inkFilm(const Film &film);
/// The same in linear light, before the film.
LinearPicture linearPicture(const Gathered &gathered, std::span<const LightMix> mix, std::span<const Vec3f> filtered,
                            const Film &film);

} // namespace bonemoss::portrait
