#pragma once

#include "base/result.h"
#include "base/types.h"

#include <filesystem>
#include <span>
#include <string>

namespace bonemoss::proof {

/// What a printer can do and what its material weighs and costs. Lengths in mm.
struct PrinterProfile {
    std::string id, title;
    bool isResin = true;       ///< cured layer by layer at a film; else a strand of melted filament
    float layer = 0.05f;       ///< height of a layer
    float wall = 1;            ///< smallest thickness of a wall that lasts
    float tip = 0.8f;          ///< smallest thickness of what stands free
    float gap = 0.3f;          ///< smallest gap that stays open
    float overhang = 30;       ///< degrees from the level below which a face that looks down needs support
    Vec3f build{130, 160, 80}; ///< width, height, depth of what it can build, y up
    float density = 1.12f;     ///< g/cm^3
    float price = 40;          ///< for a kilogram, in the user's currency
    float secondsPerLayer = 8;
    float mm3PerSecond = 0; ///< of filament; 0 where a layer takes the same time whatever is in it
};

/// Ready ones: usual values of small machines (common practice, no source).
std::span<const PrinterProfile> printerProfiles();
/// A ready one by its id, or one of a JSON file that gives what differs from the ready one it names under "like". Errors: Unknown,
/// Unreadable, Malformed, BadValue with the value's name.
Result<PrinterProfile> printerProfile(const std::string &nameOrFile);
std::string toJson(const PrinterProfile &profile);

} // namespace bonemoss::proof
