#pragma once

#include "command/field_list.h"

#include <optional>
#include <string>

namespace bonemoss::command {

struct SetPlate {
    static constexpr const char *kName = "plate.set", *kTitle = "Plate",
                                *kText = "What the natural-history plate of the creature says, and on which paper.";
    std::optional<std::string> name, latin, caption, paper, beside;
    std::optional<float> lifeHeight;
    static Fields<SetPlate> fields();
};

struct MarkChanges {
    std::optional<std::string> text;
    std::optional<Vec3f> at;
    std::optional<float> radius;
    bool isPosed = false;
    static Fields<MarkChanges> fields();
};

struct AddMark {
    static constexpr const char *kName = "plate.mark", *kTitle = "Label on the plate",
                                *kText = "Words with a line to a place on the creature, or a circle in which it is enlarged.";
    MarkChanges changes;
    static Fields<AddMark> fields();
};

struct SetMark {
    static constexpr const char *kName = "plate.changeMark", *kTitle = "Change label of the plate",
                                *kText = "Changes what is given of a label of the plate.";
    std::uint32_t mark = 0;
    MarkChanges changes;
    static Fields<SetMark> fields();
};

struct RemoveMark {
    static constexpr const char *kName = "plate.removeMark", *kTitle = "Delete label of the plate",
                                *kText = "Deletes a label of the plate.";
    std::uint32_t mark = 0;
    static Fields<RemoveMark> fields();
};

} // namespace bonemoss::command
