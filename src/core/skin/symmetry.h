#pragma once

#include "base/result.h"
#include "skin/skin.h"
#include "mesh/nearest_faces.h"

namespace bonemoss::skin {

/// What the two halves of a skin (left is +X) become.
enum class Symmetry {
    FromLeft,  ///< the right half is the left one's twin
    FromRight, ///< the other way round
    Average,   ///< both are the mean of the two
    Layer      ///< the mean, and what differed from it as a layer called Asymmetry
};

struct SymmetryReport {
    bool byTopology = false;          ///< partners found by the mirrored faces; else by place
    double meanMm = 0, largestMm = 0; ///< how far the shown skin lay from its twin before
};

/// Where each vertex's twin lies: corners and weights on the same skin.
std::vector<mesh::NearestFace> mirrorPartners(const Skin &skin, bool &byTopology);

/// Makes a skin the same on both sides of the middle plane: body and each layer by itself. The faces stay, so
/// where they are not mirrored themselves the halves match to within what the faces can show.
/// layerId  of the new layer (Layer only). Masked vertices stay in the share that their mask says.
/// O(vertices).
SymmetryReport symmetrise(Skin &skin, Symmetry how, std::uint32_t layerId);

} // namespace bonemoss::skin
