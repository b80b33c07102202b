#pragma once

#include "command/named_items.h"
#include "document/ops/posing.h"

#include <string>
#include <vector>

namespace bonemoss::command {

// What the commands about poses share. All throw Failure.

/// A bone by name. Unknown where there is none.
std::uint32_t boneNamed(const pose::Skeleton &skeleton, const std::string &name);
std::vector<std::uint32_t> bonesNamed(const pose::Skeleton &skeleton, const std::vector<ItemName> &names);
/// A pose that was kept; null for none.
pose::Pose *poseNamed(Creature &creature, const ItemName &name);
/// What is posed has weights first.
void bindWhatIsNot(Creature &creature, CommandContext &context);
/// Tells of bones that are turned too far now.
void tellLimits(const pose::Skeleton &skeleton, const pose::Posture &now, CommandContext &context);

} // namespace bonemoss::command
