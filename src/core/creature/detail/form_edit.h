#pragma once

#include "creature/params.h"

namespace bonemoss::creature {

/// Keeps parents before children after a form got a new parent.
void sortByParent(armature::Armature &armature);

} // namespace bonemoss::creature
