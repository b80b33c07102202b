#pragma once

#include "armature/form.h"

namespace bonemoss::armature {

/// What a part would be called from where it stands: "fore limb", "neck", "eye, left". `form` need not be part
/// of the armature; its twin counts for both sides, so that a mirrored form gets no side. O(forms).
/// Habits of the trade, no source: limbs point down, a neck up from the front, a tail back from the rear.
std::string proposeName(const Armature &armature, const Form &form, const Transform &world);

} // namespace bonemoss::armature
