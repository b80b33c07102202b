#pragma once

#include "store/detail/manifest.h"
#include "document/stamp.h"
#include "growth/growth.h"

#include <nlohmann/json_fwd.hpp>

namespace bonemoss::store::detail {

/// What a layer's record holds beside its values: lock, solo, whose hand work it is, and its rule.
void writeRule(const bonemoss::skin::Layer &layer, nlohmann::json &record);
/// A rule of a kind that is not known leaves a painted layer, and a word about it.
void readRule(const nlohmann::json &record, bonemoss::skin::Layer &layer, std::vector<std::string> &damage);

nlohmann::json writeStamps(const std::vector<Stamp> &stamps, const WriteBlob &write);
/// What cannot be read is left out and named.
void readStamps(const nlohmann::json &manifest, const ReadBlob &read, std::vector<Stamp> &stamps,
                std::vector<std::string> &damage);

nlohmann::json writeGuides(const std::vector<bonemoss::growth::Guide> &guides);
std::vector<bonemoss::growth::Guide> readGuides(const nlohmann::json &list);

} // namespace bonemoss::store::detail
