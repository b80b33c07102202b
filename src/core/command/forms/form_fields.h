#pragma once

#include "command/field_list.h"
#include "armature/form.h"
#include "command/region.h"

#include <array>
#include <filesystem>

namespace bonemoss::command {

enum class CurveEdit { Move, Round, Arc, Straighten, Insert, Remove };
inline constexpr std::array<std::string_view, 6> kCurveEditNames{"move", "round", "arc", "straighten", "insert", "remove"};

struct FormChanges {
    std::optional<std::string> name;
    std::optional<ItemName> parent;
    std::optional<Vec3f> at, turn, scale;
    std::optional<float> radius;
    std::optional<Vec3f> radii;
    std::optional<float> rounding, bore, square;
    std::optional<std::vector<armature::PathPoint>> path;
    std::optional<std::vector<Vec3f>> crown, belly, left, right;
    std::optional<float> melt;
    std::optional<bool> isMirrored;
    std::optional<armature::FormRole> role;
    std::optional<std::string> colour;
    std::optional<bool> isLinked, isHidden, isLocked;
    static Fields<FormChanges> fields();
};

struct AddForm {
    static constexpr const char *kName = "form.add", *kTitle = "Add form", *kText = "Adds a solid to the armature.";
    armature::FormKind kind{};
    FormChanges changes;
    static Fields<AddForm> fields();
};

struct SetForm {
    static constexpr const char *kName = "form.set", *kTitle = "Change form",
                                *kText = "Changes what is given of a form and leaves the rest.";
    ItemName form;
    FormChanges changes;
    bool takesBranch = false;
    static Fields<SetForm> fields();
};

struct RemoveForm {
    static constexpr const char *kName = "form.remove", *kTitle = "Delete form",
                                *kText = "Deletes a form and all that hangs from it.";
    ItemName form;
    static Fields<RemoveForm> fields();
};

struct DuplicateForm {
    static constexpr const char *kName = "form.duplicate", *kTitle = "Duplicate form",
                                *kText = "Copies a form with all that hangs from it.";
    ItemName form;
    std::optional<Vec3f> move;
    bool isLinked = false;
    static Fields<DuplicateForm> fields();
};

struct SetHeight {
    static constexpr const char *kName = "creature.height", *kTitle = "Final height",
                                *kText = "The height the finished piece shall have.";
    float mm{};
    static Fields<SetHeight> fields();
};

struct RepeatForm {
    static constexpr const char *kName = "form.repeat", *kTitle = "Repeat form",
                                *kText = "Lets a form stand several times: round an axis, or along the path of another form.";
    ItemName form;
    armature::RepeatMode mode{};
    std::uint32_t count = 3;
    std::optional<Vec3f> centre, axis;
    std::optional<float> spread;
    std::optional<ItemName> guide;
    std::optional<float> from, to;
    std::optional<std::vector<float>> sizes;
    static Fields<RepeatForm> fields();
};

struct SetUnit {
    static constexpr const char *kName = "proportion.unit", *kTitle = "Unit of proportion",
                                *kText = "Chooses the form or piece whose length is one unit; 0 for none.";
    ItemName form;
    static Fields<SetUnit> fields();
};

struct SetTarget {
    static constexpr const char *kName = "proportion.target", *kTitle = "Wanted proportion",
                                *kText = "Says how long a form or piece shall be in units; a ratio of 0 takes the wish back.";
    ItemName form;
    float ratio{}, tolerance = 0.05f;
    static Fields<SetTarget> fields();
};

struct MoveForms {
    static constexpr const char *kName = "forms.move", *kTitle = "Move forms",
                                *kText = "Moves, turns and scales several forms as one; what hangs from them goes along.";
    std::vector<ItemName> forms;
    std::optional<Vec3f> move, turn;
    float scale = 1;
    std::optional<Vec3f> about;
    static Fields<MoveForms> fields();
};

struct SetForms {
    static constexpr const char *kName = "forms.set", *kTitle = "Change forms",
                                *kText = "Changes what is given of several forms.";
    std::vector<ItemName> forms;
    std::optional<ItemName> parent;
    std::optional<float> melt;
    std::optional<armature::FormRole> role;
    std::optional<std::string> colour;
    std::optional<bool> isMirrored, isHidden, isLocked;
    static Fields<SetForms> fields();
};

struct RemoveForms {
    static constexpr const char *kName = "forms.remove", *kTitle = "Delete forms",
                                *kText = "Deletes several forms and all that hangs from them.";
    std::vector<ItemName> forms;
    static Fields<RemoveForms> fields();
};

struct GroupForms {
    static constexpr const char *kName = "form.group", *kTitle = "Group forms",
                                *kText = "Hangs several forms from a new group, which carries, hides and turns them as one.";
    std::vector<ItemName> forms;
    std::string name = "group";
    static Fields<GroupForms> fields();
};

struct UngroupForms {
    static constexpr const char *kName = "form.ungroup", *kTitle = "Break up group",
                                *kText = "Removes a group; what it carried stays where it is.";
    ItemName form;
    static Fields<UngroupForms> fields();
};

struct SetJoint {
    static constexpr const char
        *kName = "form.joint",
        *kTitle = "Set joint",
        *kText = "Says how a form rests and how far it may turn at its joint, against its parent; posing keeps to it.";
    ItemName form;
    bool isHere = false;
    std::optional<Vec3f> rest, low, high;
    static Fields<SetJoint> fields();
};

struct InsertPart {
    static constexpr const char *kName = "part.insert", *kTitle = "Insert part",
                                *kText = "Sets a ready part down: one of the shelf, or a part file.";
    std::optional<std::string> part;
    std::optional<std::filesystem::path> path;
    Vec3f at;
    std::optional<ItemName> parent;
    std::optional<Vec3f> normal, turn;
    std::optional<float> radius;
    float scale = 1;
    bool isMirrored = false;
    static Fields<InsertPart> fields();
};

struct EditCurve {
    static constexpr const char *kName = "form.curve", *kTitle = "Edit curve",
                                *kText = "Edits the path of a form: moves a point softly, rounds a stretch, lays it on an arc or "
                                         "straight, inserts or removes a point.";
    ItemName form;
    CurveEdit edit{};
    std::optional<std::uint32_t> point, first, last;
    std::optional<Vec3f> by;
    float reach = 0;
    static Fields<EditCurve> fields();
};

struct DeformForms {
    static constexpr const char *kName = "forms.deform", *kTitle = "Deform forms",
                                *kText = "Bends, twists, tapers or stretches forms and what hangs from them along an axis.";
    std::vector<ItemName> forms;
    AxisMap map;
    bool takesBranch = true;
    static Fields<DeformForms> fields();
};

struct MoveJoint {
    static constexpr const char *kName = "form.pivot", *kTitle = "Move joint",
                                *kText =
                                    "Moves the joint that a form with a path turns about; its shape and what hangs from it stay.";
    ItemName form;
    Vec3f at;
    static Fields<MoveJoint> fields();
};

struct AdjustCopy {
    static constexpr const char *kName = "form.copy", *kTitle = "Adjust copy",
                                *kText = "Changes one copy of a repeated form against its rule.";
    ItemName form;
    std::uint32_t copy = 0;
    std::optional<Vec3f> move, turn;
    std::optional<float> scale;
    std::optional<bool> isHidden;
    static Fields<AdjustCopy> fields();
};

struct BreakCopies {
    static constexpr const char *kName = "form.break", *kTitle = "Break copies free",
                                *kText = "Makes every copy of a repeated form a form of its own.";
    ItemName form;
    static Fields<BreakCopies> fields();
};

struct Stand {
    static constexpr const char *kName = "creature.stand", *kTitle = "Stand on the floor",
                                *kText = "Moves everything until its lowest point touches the floor at y = 0.";
    static Fields<Stand> fields();
};

} // namespace bonemoss::command
