#pragma once

#include "pose/weights.h"

namespace bonemoss::pose {

/// The scales and plates of a layer: what rises above the valleys about it.
struct Cells {
    mesh::BlockArray<std::uint32_t> peak; ///< of each vertex in a cell, the vertex of its highest place and 1 more; 0 for none
    mesh::BlockArray<std::uint8_t> share; ///< 255 on a cell, less towards its edge, 0 in the valleys
};
/// Cells grow down from the highest places of the relief until they meet; two of which the lower rises little above where they meet are
/// one (the persistence of peaks: H. Edelsbrunner, D. Letscher & A. Zomorodian 2002). O(n log n) of the vertices that the layer lifts.
Cells cellsOf(const skin::Skin &skin, const skin::Layer &layer);

/// What a skin is posed by where layers keep the shape of their scales: a vertex of a cell goes with the bones of its highest place as
/// far as the layer says, so that the cell moves as one and the skin between takes the stretch. Cost: see cellsOf.
void stiffen(const skin::Skin &skin, Weights &weights, mesh::BlockArray<Vec3f> &body);
bool hasStiffLayers(const skin::Skin &skin);

} // namespace bonemoss::pose
