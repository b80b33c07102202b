#pragma once

#include "creature/creature.h"
#include "detail/ground.h"

namespace bonemoss::creature {

/// What growths on a piece follow: limbs and joints of the armature, guides with their twins, the plane of symmetry.
detail::Surroundings surroundingsOf(const Creature &creature, const Piece &piece);

} // namespace bonemoss::creature
