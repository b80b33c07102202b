#pragma once

#include "base/progress.h"
#include "io/scene.h"
#include "proof/finding.h"
#include "proof/printer_profile.h"

namespace bonemoss::proof {

/// What is to be checked, and how.
struct ProofJob {
    PrinterProfile profile;
    float heightMm = 0;   ///< of the print; 0: as it is
    bool isQuick = false; ///< without self-crossings, and with coarser layers: for the status line
};

/// All that a proof says. Lengths are those of the print, places those of the creature.
struct Report {
    std::vector<Finding> findings; ///< the worst first
    double volumeMm3 = 0, overlapMm3 = 0, weightG = 0, cost = 0, hours = 0;
    Vec3f size;      ///< mm
    float scale = 1; ///< mm of the print for one of the creature
    int layers = 0;
    bool stands = false;
    float marginMm = 0; ///< from the plumb line to the nearest edge of what it stands on; below 0: outside
    std::size_t pockets = 0, selfCrossings = 0, islands = 0, fibres = 0; ///< fibres: curves, which printers cannot make
    float leastThicknessMm = 0;                                          ///< 0 where none was measured
    float layerMm = 0, cellMm = 0;                                       ///< at which layers were looked at
    bool isSound() const;                                                ///< nothing that spoils the print
};

/// What of a scene a printer can make: surfaces, none of them clear. Curves are left out; fibres, when given, is set to how many.
io::Scene printable(io::Scene scene, std::size_t *fibres = nullptr);

/// Checks what is shown, as it would be printed standing as it is. Hair curves are left out and counted. Errors: Empty, TooLarge,
/// Cancelled. O(faces + rows of all layers), parallel; the same on any number of threads.
Result<Report> prove(const io::Scene &scene, const ProofJob &job, const Progress &progress = {});

} // namespace bonemoss::proof
