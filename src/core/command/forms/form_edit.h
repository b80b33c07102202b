#pragma once

#include "document/ops/forms.h"
#include "command/params.h"

#include <optional>
#include <vector>

namespace bonemoss::command {

/// The forms a command names in "forms"; refuses locked ones and an empty list.
Result<std::vector<std::uint32_t>> takeForms(const Creature &c, const Params &p);

} // namespace bonemoss::command
