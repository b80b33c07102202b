#pragma once

#include "io/scene.h"
#include "proof/layers.h"
#include "proof/printer_profile.h"

namespace bonemoss::proof {

/// A print layer by layer, to look at. Lengths are those of the print.
struct Sliced {
    Layers layers;
    std::vector<Region> islands;          ///< where something begins in the air
    std::vector<std::uint32_t> islandsIn; ///< of each layer
    float scale = 1;                      ///< mm of the print for one of the creature
    double volumeMm3 = 0, weightG = 0, cost = 0, hours = 0;
    /// What pulls the layer off the film, in newton: 20 kPa on its area (our estimate, no source: it differs by resin and film).
    double peelForce(int layer) const { return 0.02 * layers.area[std::size_t(layer)]; }
    /// A place of the print as a place of the creature.
    Vec3f toCreature(Vec3f print) const { return print * (1 / scale); }
};

/// Cuts what is shown into the layers of a printer; where there would be more than `most`, into higher ones. heightMm 0: as it is. Errors:
/// Empty, TooLarge, Cancelled.
Result<Sliced> sliced(const io::Scene &scene, const PrinterProfile &profile, float heightMm, int most = 4000,
                      const Progress &progress = {});

} // namespace bonemoss::proof
