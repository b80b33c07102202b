#pragma once

#include "base/note.h"
#include "base/progress.h"

#include <vector>

namespace bonemoss {

/// What an operation is told and tells: whether it shall stop, how far it is, and what was done or lost on the way.
struct Operation {
    Progress progress;
    std::vector<Note> notes; ///< filled
};

} // namespace bonemoss
