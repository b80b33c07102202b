#pragma once

#include "command/field_list.h"
#include "base/types.h"

namespace bonemoss::command {

// Bones for a skin without an armature: forms of the role "bone", which turn and are nothing else.

struct DrawBones {
    static constexpr const char
        *kName = "pose.chain",
        *kTitle = "Draw bones",
        *kText = "Bones from joint to joint, each hanging from the one before: for a skin that was not built from "
                 "forms. Places on the skin or in it go to the middle of the flesh there.";
    std::string name = "bone";
    std::vector<Vec3f> points;
    std::optional<std::string> parent;
    bool isMirrored = false, isCentred = true;
    static Fields<DrawBones> fields();
};

struct MakeSkeleton {
    static constexpr const char
        *kName = "pose.skeleton",
        *kTitle = "Ready skeleton",
        *kText = "A skeleton of two, four or six legs, with arms, wings and tail, by its joints; toes and fingers are "
                 "found by their tips. The joints go to the middle of the flesh there.";
    std::uint32_t legs = 4;
    bool hasArms = false, hasWings = false, hasTail = true, hasDigits = true, isCentred = true;
    std::vector<Vec3f> landmarks;
    static Fields<MakeSkeleton> fields();
};

} // namespace bonemoss::command
