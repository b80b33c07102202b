#pragma once

#include "pose/posture.h"

#include <string>
#include <vector>

namespace bonemoss::document {

/// A bone that stays where it is while the rest moves.
struct Pin {
    pose::BoneKey bone;
    pose::Rigid place; ///< that it keeps
    friend bool operator==(const Pin &, const Pin &) = default;
};

/// How a creature is posed. All of its shapes are kept at rest; the pose is worked out of them.
struct Posing {
    pose::Rigging rigging;
    pose::Posture now; ///< the pose it stands in
    std::vector<pose::Pose> poses;
    std::vector<Pin> pins;
    friend bool operator==(const Posing &, const Posing &) = default;
};

} // namespace bonemoss::document
