#pragma once

#include "base/operation.h"
#include "document/ops/standing.h"
#include "pose/weights.h"

namespace bonemoss::document {

/// Gives pieces that have none weights: a piece that hangs from a form, or is small beside the bones, goes with one bone; a skin by heat.
/// only: that piece alone, anew; 0 for all that have none, or have some of
/// bones that are gone. Errors: Empty without bones; Cancelled.
Status bind(Creature &creature, std::uint32_t only, Operation &operation);

/// Turns bones so that a place on one comes to another, mm, and what is pinned stays. from: the place at rest; none for the bone's end.
/// Returns how far it is off in the end.
float reachTo(Posing &posing, const pose::Skeleton &skeleton, std::uint32_t bone, std::optional<Vec3f> from, Vec3f to,
              bool keepsLimits = true);
/// Brings the pinned bones back to their pins.
void keepPins(Posing &posing, const pose::Skeleton &skeleton);

/// Lets the creature down, or lifts it, so that its lowest skin stands as high as at rest. Returns the bones that bear it then.
std::vector<std::string> settle(Creature &creature);

/// What a check of a pose tells.
struct PoseCheck {
    double weightError = 0;          ///< largest difference of the sum of a vertex's weights from 1
    std::size_t unmoved = 0;         ///< vertices that no bone moves
    double stretch = 1;              ///< largest edge length against rest, where edges are no shorter than half the mean
    std::vector<std::string> beyond; ///< bones turned beyond their limits
    std::vector<std::string> lost;   ///< layers that correct a pose of bones that are gone, so that they never show
};
PoseCheck checkPose(const Creature &creature);
/// Names of layers that correct a pose of bones the creature does not have. O(layers * bones).
std::vector<std::string> lostCorrections(const Creature &creature);

} // namespace bonemoss::document
