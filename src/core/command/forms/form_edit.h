#pragma once

#include "document/ops/forms.h"
#include "command/named_items.h"

#include <optional>
#include <vector>

namespace bonemoss::command {

/// The forms that a list names; refuses an empty one, and locked forms unless the command may change them.
Result<std::vector<std::uint32_t>> takeForms(const Creature &c, const std::vector<ItemName> &forms, Lock lock = Lock::Refuses);

} // namespace bonemoss::command
