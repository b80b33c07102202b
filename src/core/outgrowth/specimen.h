#pragma once

#include "outgrowth/outgrowth.h"

namespace bonemoss::outgrowth {

/// About how wide a picture of a kind at its usual values must be, mm.
float specimenWidth(const Kind &kind);

/// An outgrowth on a patch of level skin about the origin, for pictures: rows run from front to back, fur has a spot. The first object
/// is the skin. Of the rule only its settings count.
io::Scene specimenOf(const Outgrowth &rule);

} // namespace bonemoss::outgrowth
