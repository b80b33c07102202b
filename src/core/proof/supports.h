#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "mesh/poly_mesh.h"
#include "proof/printer_profile.h"

#include <vector>

namespace bonemoss::proof {

/// A way to stand while it is printed.
struct Orientation {
    Quat turn;              ///< from how it stands now
    double overhangMm2 = 0; ///< of faces that would need support
    float heightMm = 0;
    std::size_t islands = 0;
    double cost = 0; ///< less is better: area, and for each island 20 mm^2, for each mm of height 2 (our choice, no source)
};
/// Ways to stand, the best first: 162 directions by area and height, the best eight of them with their islands too. O(faces + layers).
std::vector<Orientation> orientations(const mesh::PolyMesh &body, const PrinterProfile &profile, const Progress &progress = {});

/// One support: from a place of the body down to the plate or to the body again.
struct Support {
    Vec3f tip, foot, joint; ///< joint: where its branch meets the trunk
    bool standsOnBody = false;
};
struct Supports {
    std::vector<Support> members;
    mesh::PolyMesh mesh; ///< of all, one body wherever they meet
    double volumeMm3 = 0, contactMm2 = 0;
};
/// Supports for a body as it stands: under what begins in the air and under overhangs, at most `apart` mm from each other (0: by profile).
/// Branches that may lean at most 45 degrees share a trunk. The body is not touched. Errors: Cancelled, and as layersOf.
Result<Supports> supportsFor(const mesh::PolyMesh &body, const PrinterProfile &profile, float apart = 0,
                             const Progress &progress = {});

} // namespace bonemoss::proof
