#pragma once

#include "base/progress.h"
#include "document/creature.h"
#include "export/canvas.h"
#include "portrait/plate.h"

namespace bonemoss::exporting {

/// How pictures of a plate are made.
struct PlateOptions {
    float dpi = 200;
    int samples = 32;
    std::uint64_t seed = 1;
};

/// A view of the creature on the page.
struct PlateView {
    image::ColourPicture picture; ///< nothing behind it
    PagePoint corner;             ///< mm
    float width = 0, height = 0;  ///< mm on the page
};

/// A word and where its line ends, in mm on the page.
struct PlateLabel {
    std::string text;
    PagePoint place;
    std::size_t view = 0; ///< of those in which it is seen
};

/// A place that is enlarged in a circle.
struct PlateDetail {
    std::string text;
    image::ColourPicture picture; ///< as wide as high
    PagePoint place;              ///< mm on the page
    float radius = 0;             ///< mm on the page, about the place
    std::size_t view = 0;
};

/// All that stands on a natural-history plate.
struct PlateSheet {
    std::string name, latin, caption;
    const portrait::PlatePaper *paper = nullptr;
    const portrait::KnownSize *beside = nullptr;
    std::array<PlateView, 3> views; ///< side, front, from above
    std::vector<PlateLabel> labels;
    std::vector<PlateDetail> details;
    image::ColourPicture silhouette;         ///< of the side
    float scale = 1;                         ///< mm on the page for one of the animal's
    float animalWidth = 0, animalHeight = 0; ///< mm
};

/// Where marks stand now, mm: they go with the vertex of a visible piece that lies next to them at rest. posed: the same creature in its
/// pose. O(marks * log faces).
std::vector<Vec3f> markPlaces(const document::Creature &rest, const document::Creature &posed);
/// The views of a creature in its light, at one scale, with the labels of its plate: each points at the skin next to its place, in the
/// first view that shows it. Errors: Empty, Cancelled, those of pictures.
Result<PlateSheet> plateOf(const document::Creature &creature, const PlateOptions &options, const Progress &progress = {});
/// A4, across.
Page plateAsPage(const PlateSheet &sheet);

} // namespace bonemoss::exporting
