#pragma once

#include "creature/command.h"
#include "detail/skin.h"
#include "field/knit.h"

namespace bonemoss::creature {

/// A skin knitted anew at another density, with layers and mask carried over; context is told the losses and the
/// number of faces. isMeasured: off while one works, when the losses of each stroke would say little and cost much. Errors as field::knitMesh.
Result<detail::Skin> reknitted(const detail::Skin &skin, field::Density density, CommandContext &context, bool isMeasured = true);

/// A skin on a new mesh with what lay on `source` there; context is told the losses. isPart: it is cut from it, and the rest was
/// meant to go.
detail::Skin skinOn(const mesh::PolyMesh &mesh, const detail::Skin &source, CommandContext &context, bool isPart = false);

} // namespace bonemoss::creature
