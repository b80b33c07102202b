#pragma once

#include "base/result.h"
#include "document/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <array>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::store::detail {

using namespace document;

using Hash = std::array<std::uint64_t, 2>;
std::string toHex(Hash hash);
/// Of 32 hex digits; nothing when it is not that.
std::optional<Hash> fromHex(std::string_view hex);
/// The same of a JSON string. What is no name names no blob: zero. Throws what the JSON library throws.
Hash nameIn(const nlohmann::json &text);
Hash hashOf(std::span<const std::byte> bytes); ///< XXH3, 128 bits

/// Gives the bytes of one blob to whoever stores them, and tells its name. remembered is the blob's own note of its hash,
/// zero when not known yet.
using WriteBlob = std::function<Hash(Hash &remembered, const std::function<std::vector<std::byte>()> &bytes)>;
/// Bytes of a blob whose hash was checked, or an error. Several threads may ask.
using ReadBlob = std::function<Result<std::vector<std::byte>>(Hash name)>;

/// State as JSON, with blobs handed to write.
nlohmann::json toManifest(const Creature &creature, const WriteBlob &write);
/// A creature from a manifest; pieces that cannot be read are left out and named in damage.
Result<Creature> fromManifest(const nlohmann::json &manifest, const ReadBlob &read, std::vector<std::string> &damage);

} // namespace bonemoss::store::detail
