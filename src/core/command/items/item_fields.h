#pragma once

#include "command/field_list.h"

namespace bonemoss::command {

struct ShowItems {
    static constexpr const char *kName = "items.show", *kTitle = "Show and hide",
                                *kText = "Shows and hides forms, pieces, cages and pictures in one step.";
    std::optional<std::vector<ItemName>> show, hide;
    static Fields<ShowItems> fields();
};

struct SetItems {
    static constexpr const char *kName = "items.set", *kTitle = "Change items",
                                *kText = "Hides, locks, renames or colours items of any kind.";
    std::vector<ItemName> items;
    std::optional<std::string> name, colour;
    std::optional<bool> isHidden, isLocked;
    static Fields<SetItems> fields();
};

struct RemoveItems {
    static constexpr const char *kName = "items.remove", *kTitle = "Delete items",
                                *kText = "Deletes items of any kind with what hangs from them, in one step.";
    std::vector<ItemName> items;
    static Fields<RemoveItems> fields();
};

} // namespace bonemoss::command
