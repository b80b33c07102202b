#pragma once

#include "base/operation.h"
#include "skin/skin.h"
#include "field/knit.h"

namespace bonemoss::document {

/// What was knitted from a skin, with what lay on it; context is told the losses.
/// from: its shown mesh, where the knit tells the faces about each vertex.
skin::Skin carriedTo(const skin::Skin &skin, const field::Knitted &knitted, Operation &context, bool isMeasured = true,
                     const mesh::PolyMesh *from = nullptr);

/// A skin knitted anew at another density, with layers and mask carried over; context is told the losses and the
/// number of faces. isMeasured: off while one works, when the losses of each stroke would say little and cost much. Errors as field::knitMesh.
Result<skin::Skin> reknitted(const skin::Skin &skin, field::Density density, Operation &context, bool isMeasured = true);

/// A skin on a new mesh with what lay on `source` there; context is told the losses. isPart: it is cut from it, and the rest was
/// meant to go.
skin::Skin skinOn(const mesh::PolyMesh &mesh, const skin::Skin &source, Operation &context, bool isPart = false);

} // namespace bonemoss::document
