#pragma once

#include "creature/command.h"
#include "detail/skin.h"
#include "field/knit.h"

namespace bonemoss::creature {

/// A skin knitted anew at another density, with layers and mask carried over; context is told the losses and the
/// number of faces. Errors as field::knitMesh.
Result<detail::Skin> reknitted(const detail::Skin &skin, field::Density density, CommandContext &context);

} // namespace bonemoss::creature
