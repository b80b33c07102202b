#pragma once

#include "detail/growth.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::creature {

/// What a layer's record holds beside its values: lock, solo, whose hand work it is, and its rule.
void writeRule(const bonemoss::detail::Layer &layer, nlohmann::json &record);
/// A rule of a kind that is not known leaves a painted layer, and a word about it.
void readRule(const nlohmann::json &record, bonemoss::detail::Layer &layer, std::vector<std::string> &damage);

nlohmann::json writeGuides(const std::vector<bonemoss::detail::Guide> &guides);
std::vector<bonemoss::detail::Guide> readGuides(const nlohmann::json &list);

} // namespace bonemoss::creature
