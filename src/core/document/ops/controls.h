#pragma once

#include "document/ops/posing.h"

#include <string>
#include <vector>

namespace bonemoss::document {

/// One number that moves what belongs together: a jaw, all toes of a foot, the lids of an eye.
struct Control {
    std::string name;
    float low = 0, high = 1;
    std::string_view unit = ""; ///< "deg", "mm" or ""
    /// A bone that it turns, about one of its own axes (0 x, 1 y, 2 z), by the value times this.
    struct Turned {
        std::uint32_t bone = 0;
        int axis = 0;
        float times = 1;
    };
    std::vector<Turned> bones;
    std::uint32_t outgrowth = 0; ///< whose setting it is, else 0
    std::string_view setting;    ///< of the outgrowth
    std::uint32_t pose = 0;      ///< the pose of some bones that it brings them into: 0 rest, 1 all the way; else 0
};

/// The controls of a creature, from what it is made of: jaws, by the name of their form; digits that fan out from one bone, curled and
/// spread; lids and gaze of eyes, the raise of what can be raised; and the poses that were kept of some bones alone. O(bones^2).
std::vector<Control> controlsOf(const Creature &creature, const pose::Skeleton &skeleton);

/// Where a control stands now, and setting it.
float valueOf(const Creature &creature, const pose::Skeleton &skeleton, const Control &control);
void setControl(Creature &creature, const pose::Skeleton &skeleton, const Control &control, float value);

/// Turns a bone until its front looks at a place, mm, as far as its limits let it; `neck` bones above it take their share first. Returns
/// how many degrees are left. front: a direction at rest.
float lookAt(Posing &posing, const pose::Skeleton &skeleton, std::uint32_t bone, std::uint32_t neck, Vec3f at,
             Vec3f front = {0, 0, 1}, bool keepsLimits = true);
/// The eyes on what a bone carries look at a place, mm, in the pose. Returns how many.
std::size_t eyesLookAt(Creature &creature, const pose::Skeleton &skeleton, std::uint32_t bone, Vec3f at);

} // namespace bonemoss::document
