#pragma once

#include "base/progress.h"
#include "document/creature.h"
#include "export/canvas.h"

#include <filesystem>

namespace bonemoss::exporting {

/// A turn about the creature.
struct Turntable {
    portrait::Shot shot; ///< of the first frame
    int width = 640, height = 400;
    int frames = 72;         ///< of a whole turn
    int first = 1, last = 0; ///< frames to make; 0: to the last
    int framesPerSecond = 24;
    int samples = 32;
    std::uint64_t seed = 1;
};
/// The shot with its camera gone so far about the vertical through what it looks at, to the creature's left.
portrait::Shot turned(portrait::Shot shot, float degrees);
/// Frames as a film (.webp; .mp4 where there is an encoder), or as pictures NAME-0001.png and so on. Errors: those of pictures and films.
Status writeTurntable(const document::Creature &creature, const Turntable &turn, const std::filesystem::path &out,
                      const Progress &progress = {});
/// NAME-0007.png of NAME.png.
std::filesystem::path framePath(const std::filesystem::path &path, int frame);

/// Six views on one sheet, at one scale, with their names. cellWidth: pixels. Errors: those of pictures.
Result<Page> contactSheet(const document::Creature &creature, int cellWidth, int samples, std::uint64_t seed,
                          const Progress &progress = {});
inline constexpr float kSheetDpi = 200; ///< at which a sheet has the pixels that were asked for

} // namespace bonemoss::exporting
