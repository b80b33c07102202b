#pragma once

#include "base/result.h"
#include "document/creature.h"

#include <optional>
#include <string>
#include <vector>

namespace bonemoss::document {

// The tree of forms: pure functions, which commands put together.

/// Keeps parents before children after a form got a new parent.
void sortByParent(armature::Armature &armature);

/// Whether a form's numbers make a solid.
Status checkForm(const armature::Form &form);

/// Forms of one link share their shape: after one changed, the others follow.
void followLink(armature::Armature &armature, const armature::Form &changed);

/// Puts a form where it shall stand in the creature, whatever it hangs from.
void setWorldPlace(armature::Armature &armature, armature::Form &form, const Transform &world);

/// 0xRRGGBB of "#rrggbb"; 0 for none; nothing for other words.
std::optional<std::uint32_t> colourNamed(const std::string &text);

/// Removes forms with all that hangs from them; refuses when one of them is locked, and then removes none.
Status removeBranches(Creature &c, const std::vector<std::uint32_t> &ids);

/// Of those, the ones that hang from none of the others: what moves them moves all.
std::vector<std::uint32_t> topmost(const armature::Armature &a, const std::vector<std::uint32_t> &ids);

/// Proportions of what is gone are forgotten.
void forgetMeasured(Creature &c, const std::vector<std::uint32_t> &ids);

} // namespace bonemoss::document
