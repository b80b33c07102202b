#pragma once

#include "base/result.h"
#include "document/creature.h"

#include <string>

namespace bonemoss::document {

/// The stage of a creature; of one that has no lights yet a ready one, so that it is never dark.
portrait::Stage litStage(const Creature &creature);
/// A camera that was kept, by name or id. Errors: Unknown, naming those there are.
Result<portrait::Shot> keptCamera(const Creature &creature, const std::string &name);
/// A camera that was kept, or a view by key ("left", "three-quarter") that frames points with a lens. Unknown names those there are.
Result<portrait::Shot> shotNamed(const Creature &creature, const std::string &name, std::span<const Vec3f> shown, float lensMm,
                                 float aspect);
/// Diagonal of what is shown, mm: what lights are measured by.
float sizeOf(const Creature &creature);

} // namespace bonemoss::document
