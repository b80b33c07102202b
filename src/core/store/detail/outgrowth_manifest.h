#pragma once

#include "base/result.h"
#include "outgrowth/outgrowth.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::store::detail {

/// The rule of an outgrowth; what it made is a cache and not kept.
nlohmann::json writeOutgrowth(const bonemoss::outgrowth::Outgrowth &outgrowth);
/// The rule without what it makes. Numbers out of their range come back into it. Errors: Unsupported for a kind that is not known.
Result<bonemoss::outgrowth::Outgrowth> readOutgrowth(const nlohmann::json &record);

} // namespace bonemoss::store::detail
