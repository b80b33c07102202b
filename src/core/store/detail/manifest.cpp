#include "store/detail/manifest.h"

#include "store/detail/item_codecs.h"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#define XXH_INLINE_ALL
#include <xxhash.h>

namespace bonemoss::store::detail {

using nlohmann::json;

std::string toHex(Hash h)
{
    std::string out(32, '0');
    for (std::size_t k = 0; k < 32; ++k)
        out[k] = "0123456789abcdef"[h[k / 16] >> (60 - 4 * (k % 16)) & 15];
    return out;
}

std::optional<Hash> fromHex(std::string_view hex)
{
    Hash h{};
    if (hex.size() != 32)
        return {};
    for (std::size_t k = 0; k < 2; ++k) {
        const char *begin = hex.data() + 16 * k, *end = begin + 16;
        if (std::from_chars(begin, end, h[k], 16).ptr != end)
            return {};
    }
    return h;
}

Hash nameIn(const json &text)
{
    return fromHex(text.get_ref<const std::string &>()).value_or(Hash{});
}

Hash hashOf(std::span<const std::byte> bytes)
{
    const XXH128_hash_t h = XXH3_128bits(bytes.data(), bytes.size());
    return {h.high64, h.low64};
}

json toManifest(const Creature &c, const WriteBlob &write)
{
    json targets = json::array();
    for (const auto &t : c.armature.targets)
        targets.push_back({{"form", t.form}, {"ratio", t.ratio}, {"tolerance", t.tolerance}});
    json out = {
        {"heightMm", c.heightMm}, {"nextId", c.nextId}, {"targets", std::move(targets)}, {"unitForm", c.armature.unitForm}};
    for (const ItemCodec &codec : itemCodecs())
        out[std::string(codec.fileKey)] = codec.write(c, write);
    return out;
}

Result<Creature> fromManifest(const json &m, const ReadBlob &read, std::vector<std::string> &damage)
{
    try { // wrong kinds and missing members come as exceptions from the JSON library; none leaves here
        Creature c;
        c.heightMm = m.at("heightMm"), c.nextId = m.at("nextId");
        c.armature.unitForm = m.value("unitForm", 0u);
        if (m.contains("targets"))
            for (const json &t : m.at("targets"))
                c.armature.targets.push_back({t.at("form"), t.at("ratio"), t.at("tolerance")});
        for (const ItemCodec &codec : itemCodecs())
            if (const Status done = codec.read(m, read, c, damage); !done)
                return done.error();
        return c;
    } catch (const std::exception &e) {
        return Error{ErrorCode::Damaged, "state", e.what()};
    }
}

} // namespace bonemoss::store::detail
