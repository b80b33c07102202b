#pragma once

#include "base/result.h"
#include "creature/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <array>
#include <functional>
#include <span>
#include <string>
#include <vector>

namespace bonemoss::creature::detail_store {

using Hash = std::array<std::uint64_t, 2>;
std::string toHex(Hash hash);
Hash hashOf(std::span<const std::byte> bytes); ///< XXH3, 128 bits

/// Gives the bytes of one block to whoever stores them. remembered is the block's own note of its
/// hash, zero when not known yet.
using WriteBlob = std::function<std::string(Hash &remembered, const std::function<std::vector<std::byte>()> &bytes)>;
/// Bytes of a blob whose hash was checked, or an error. Several threads may ask.
using ReadBlob = std::function<Result<std::vector<std::byte>>(const std::string &hex)>;

/// State as JSON, with blobs handed to write.
nlohmann::json toManifest(const Creature &creature, const WriteBlob &write);
/// A creature from a manifest; pieces that cannot be read are left out and named in damage.
Result<Creature> fromManifest(const nlohmann::json &manifest, const ReadBlob &read, std::vector<std::string> &damage);

} // namespace bonemoss::creature::detail_store
