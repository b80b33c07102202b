#pragma once

#include "store/detail/manifest.h"

namespace bonemoss::store::detail {

/// How all items of a kind are written into a manifest, and read again. Adding a kind is one row.
struct ItemCodec {
    std::string_view fileKey; ///< "pieces"
    nlohmann::json (*write)(const Creature &, const WriteBlob &);
    /// Reads from the whole manifest; older files may lack the key. An item that cannot be read is left out and named in damage.
    /// Throws what the JSON library throws.
    Status (*read)(const nlohmann::json &manifest, const ReadBlob &, Creature &, std::vector<std::string> &damage);
};
std::span<const ItemCodec> itemCodecs();

} // namespace bonemoss::store::detail
