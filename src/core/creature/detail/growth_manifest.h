#pragma once

#include "creature/detail/manifest.h"
#include "creature/stamp.h"
#include "detail/growth.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::creature {

/// What a layer's record holds beside its values: lock, solo, whose hand work it is, and its rule.
void writeRule(const bonemoss::detail::Layer &layer, nlohmann::json &record);
/// A rule of a kind that is not known leaves a painted layer, and a word about it.
void readRule(const nlohmann::json &record, bonemoss::detail::Layer &layer, std::vector<std::string> &damage);

nlohmann::json writeStamps(const std::vector<Stamp> &stamps, const detail_store::WriteBlob &write);
/// What cannot be read is left out and named.
void readStamps(const nlohmann::json &manifest, const detail_store::ReadBlob &read, std::vector<Stamp> &stamps,
                std::vector<std::string> &damage);

nlohmann::json writeGuides(const std::vector<bonemoss::detail::Guide> &guides);
std::vector<bonemoss::detail::Guide> readGuides(const nlohmann::json &list);

} // namespace bonemoss::creature
