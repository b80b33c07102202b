#pragma once

#include "document/creature.h"
#include "growth/ground.h"

namespace bonemoss::document {

/// What growths on a piece follow: limbs and joints of the armature, guides with their twins, the plane of symmetry.
growth::Surroundings surroundingsOf(const Creature &creature, const Piece &piece);

} // namespace bonemoss::document
