#pragma once

#include "command/field_list.h"

#include <array>
#include <string>

namespace bonemoss::command {

// Commands about poses. Bones are named: by their form, with "left" or "right" where the form has a twin, and the number of their part in
// a chain ("neck 2", "fore shank left").

struct BindSkin {
    static constexpr const char *kName = "pose.bind", *kTitle = "Bind to the bones",
                                *kText = "Works out anew how much each bone moves each place of a skin, by heat diffusion.";
    std::optional<ItemName> piece;
    static Fields<BindSkin> fields();
};

struct BindRigid {
    static constexpr const char *kName = "pose.rigid", *kTitle = "Bind to one bone",
                                *kText = "Lets a piece, what is masked of it, or a group of it go with one bone alone.";
    std::optional<ItemName> piece;
    std::string bone;
    std::optional<std::string> group;
    bool isMasked = false;
    static Fields<BindRigid> fields();
};

struct EvenWeights {
    static constexpr const char *kName = "pose.even", *kTitle = "Even out weights",
                                *kText =
                                    "Makes what bones move softer from place to place, on all of a skin or where it is masked.";
    std::optional<ItemName> piece;
    std::uint32_t passes = 3;
    static Fields<EvenWeights> fields();
};

struct TurnBone {
    static constexpr const char *kName = "pose.turn", *kTitle = "Turn a bone",
                                *kText = "Turns a bone from rest, or on from where it is, in degrees about its own axes.";
    std::string bone;
    Vec3f angles;
    bool isOn = false, isMirrored = false, keepsLimits = false;
    static Fields<TurnBone> fields();
};

struct ReachFor {
    static constexpr const char
        *kName = "pose.reach",
        *kTitle = "Reach for a place",
        *kText = "Brings the end of a bone, or a place on it, to a place: the bones of its limb turn, within their "
                 "limits; what is pinned stays. Of a bone that hangs from nothing the whole creature goes.";
    std::string bone;
    Vec3f at;
    std::optional<Vec3f> from;
    bool keepsLimits = true;
    static Fields<ReachFor> fields();
};

struct CurlChain {
    static constexpr const char *kName = "pose.curl", *kTitle = "Curl a chain",
                                *kText = "Bends a chain softly: the angle is shared among its bones.";
    std::string bone;
    std::optional<std::string> to;
    Vec3f angles;
    static Fields<CurlChain> fields();
};

struct MoveWhole {
    static constexpr const char *kName = "pose.move", *kTitle = "Move the body",
                                *kText = "Moves and turns the whole creature in its pose; what is pinned stays.";
    Vec3f by, turn;
    static Fields<MoveWhole> fields();
};

struct Settle {
    static constexpr const char
        *kName = "pose.settle",
        *kTitle = "Settle on the ground",
        *kText = "Lets the creature down, or lifts it, until it stands as high as at rest, and tells what bears it.";
    static Fields<Settle> fields();
};

struct PinBone {
    static constexpr const char *kName = "pose.pin", *kTitle = "Pin",
                                *kText = "Keeps a bone, a foot for one, where it is while the rest moves, or lets it go.";
    std::string bone;
    bool isOn = true;
    static Fields<PinBone> fields();
};

struct RestBones {
    static constexpr const char *kName = "pose.rest", *kTitle = "To rest",
                                *kText = "Brings all bones, or one with all below it, to rest, or a share of the way.";
    std::optional<std::string> bone;
    float share = 1;
    static Fields<RestBones> fields();
};

struct KeepPose {
    static constexpr const char
        *kName = "pose.keep",
        *kTitle = "Keep the pose",
        *kText = "Puts the pose by under a name, in place of one of that name; of some bones alone it is a control.";
    std::string name;
    std::vector<ItemName> bones;
    static Fields<KeepPose> fields();
};

struct UsePose {
    static constexpr const char
        *kName = "pose.use",
        *kTitle = "Use a pose",
        *kText = "Brings the creature into a pose that was kept, or a share of the way there; \"rest\" is always one.";
    ItemName pose;
    float share = 1;
    static Fields<UsePose> fields();
};

struct RemovePose {
    static constexpr const char *kName = "pose.remove", *kTitle = "Delete pose", *kText = "Forgets a pose that was kept.";
    ItemName pose;
    static Fields<RemovePose> fields();
};

enum class MirrorPose { Swap, FromLeft, FromRight };
inline constexpr std::array<std::string_view, 3> kMirrorPoseNames{"swap", "fromLeft", "fromRight"};
struct MirrorPosture {
    static constexpr const char *kName = "pose.mirror", *kTitle = "Mirror the pose",
                                *kText = "Swaps the sides of the pose, or has one side take after the other.";
    MirrorPose how = MirrorPose::Swap;
    static Fields<MirrorPosture> fields();
};

struct SetChain {
    static constexpr const char
        *kName = "pose.bones",
        *kTitle = "Bones of a form",
        *kText = "How many bones a form has: 0 lets it ride on its parent, more than one makes a chain. Skins are "
                 "bound anew.";
    ItemName form;
    std::uint32_t count = 1;
    static Fields<SetChain> fields();
};

struct ApplyPose {
    static constexpr const char *kName = "pose.apply", *kTitle = "Make the pose the rest",
                                *kText =
                                    "The creature as it stands becomes its rest: shapes are moved for good, bones rest there.";
    static Fields<ApplyPose> fields();
};

} // namespace bonemoss::command
