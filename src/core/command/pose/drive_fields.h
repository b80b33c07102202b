#pragma once

#include "command/field_list.h"
#include "skin/layer_drive.h"

namespace bonemoss::command {

// What comes and goes with a pose: layers that hang on the stretch of the skin or correct a pose, and controls.

struct DriveLayer {
    static constexpr const char *kName = "layer.drive", *kTitle = "Drive a layer",
                                *kText = "Lets a layer come and go with how the skin under it is stretched against rest, so that "
                                         "folds deepen as a joint closes; or with the pose as it is now.";
    std::optional<ItemName> piece;
    ItemName layer;
    skin::LayerDrive::By by = skin::LayerDrive::By::Shrink;
    float none = 1, full = 0.6f, curve = 1;
    std::vector<ItemName> bones;
    static Fields<DriveLayer> fields();
};

struct CorrectPose {
    static constexpr const char *kName = "pose.correct", *kTitle = "Correct the pose",
                                *kText =
                                    "A new layer for work that belongs to the pose as it is now: it comes in with the angles of "
                                    "its joints and goes as they open. Strokes in the pose on that layer fill it.";
    std::optional<ItemName> piece;
    std::string name = "Correction";
    std::vector<ItemName> bones;
    static Fields<CorrectPose> fields();
};

struct MirrorCorrection {
    static constexpr const char *kName = "pose.correctOther", *kTitle = "Correct the other side",
                                *kText = "A second correction for the same pose of the other side: the layer across the piece's "
                                         "plane of symmetry, for the bones there.";
    std::optional<ItemName> piece;
    ItemName layer;
    static Fields<MirrorCorrection> fields();
};

struct LookAt {
    static constexpr const char *kName = "pose.look", *kTitle = "Look at",
                                *kText = "Turns a head, with its neck, until it looks at a place; the eyes on it follow.";
    std::string bone;
    std::optional<std::string> neck;
    Vec3f at, front{0, 0, 1};
    bool turnsHead = true, turnsEyes = true, keepsLimits = true;
    static Fields<LookAt> fields();
};

struct SetControl {
    static constexpr const char *kName = "pose.control", *kTitle = "Set a control",
                                *kText =
                                    "One number for what belongs together: an open jaw, curled or spread toes, lids and gaze, or "
                                    "a pose that was kept of some bones.";
    std::string control;
    float value = 0;
    static Fields<SetControl> fields();
};

struct OrderPose {
    static constexpr const char *kName = "pose.order", *kTitle = "Move pose",
                                *kText = "Puts a pose at another place in the list.";
    ItemName pose;
    std::uint32_t to{};
    static Fields<OrderPose> fields();
};

struct RenamePose {
    static constexpr const char *kName = "pose.rename", *kTitle = "Rename pose", *kText = "Gives a pose another name.";
    ItemName pose;
    std::string name;
    static Fields<RenamePose> fields();
};

} // namespace bonemoss::command
