#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "colour/mixing.h"
#include "document/creature.h"
#include "image/picture.h"

#include <filesystem>

namespace bonemoss::exporting {

/// One colour of a plan for whoever paints the print.
struct PlannedColour {
    Vec3f colour;    ///< sRGB
    float share = 0; ///< of the surface, 0 to 1
    colour::Mix mix; ///< of the plan's paints
};
struct PaintPlan {
    std::string name;
    float heightMm = 0;
    std::vector<PlannedColour> colours; ///< in the order to paint them: the largest first, accents last
    std::vector<skin::PaletteColour> paints;
    std::vector<image::ColourPicture> views; ///< six, in the plan's colours
    /// Of each colour the six views side by side: grey, with the places of that colour in it.
    std::vector<image::ColourPicture> places;
};

/// What colours occur on what is shown of a creature, by k-means in OKLab over its surface; what hardly occurs goes to its neighbours.
/// Errors: Empty, Cancelled. O(faces + pixels log faces).
Result<PaintPlan> paintPlanOf(const document::Creature &creature, std::string name, int colours,
                              std::vector<skin::PaletteColour> paints, const Progress &progress = {});
/// As a page to print, A4. Errors: Unwritable.
Status writePaintPlan(const std::filesystem::path &path, const PaintPlan &plan);

} // namespace bonemoss::exporting
