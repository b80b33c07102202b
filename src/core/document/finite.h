#pragma once

#include "document/creature.h"

#include <string>

namespace bonemoss::document {

/// Whether all numbers of a form are finite.
bool isFinite(const armature::Form &form);

/// Names the first thing in which a command left a number that is not finite, such as "the place of form neck"; empty when there is
/// none. Such a creature could be saved but never opened again. Looks only at what differs from before: O(blocks changed).
std::string whatIsNotFinite(const Creature &before, const Creature &after);

} // namespace bonemoss::document
