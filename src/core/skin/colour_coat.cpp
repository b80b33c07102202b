// Laying colour and finish on a layer.
#include "base/parallel.h"
#include "base/wide.h"
#include "skin/detail/layer_view.h"

#include <algorithm>

namespace bonemoss::skin {

namespace {

constexpr float kByte = 1.0f / 255;

/// One array of a layer before and after a coat.
struct Change {
    const Bytes *was = nullptr;
    Bytes *to = nullptr;
    float wanted = 0;           ///< bytes, where the coat is whole
    std::optional<float> light; ///< of an own colour: linear light of the coat
};

constexpr std::array<std::uint8_t, mesh::kBlockSize> kNone{};

/// Towards a value by the share.
BONEMOSS_WIDE void layEvenly(const std::uint8_t *__restrict old, const std::uint8_t *__restrict share, float wanted,
                             std::size_t n, std::uint8_t *__restrict out)
{
    for (std::size_t i = 0; i < n; ++i) {
        const float before = float(old[i]), now = before + (wanted - before) * (float(share[i]) * kByte);
        out[i] = std::uint8_t(int(now + 0.5f));
    }
}

/// One of red, green and blue, mixed in linear light with what the cover lets through.
BONEMOSS_WIDE void layColour(const std::uint8_t *__restrict old, const std::uint8_t *__restrict cover,
                             const std::uint8_t *__restrict share, float light, std::size_t n, std::uint8_t *__restrict out)
{
    for (std::size_t i = 0; i < n; ++i) {
        const float t = float(share[i]) * kByte, whole = float(cover[i]), a0 = whole * kByte * (1 - t), a = a0 + t;
        const float own = detail::lightOfShare(std::min(1.0f, float(old[i]) / std::max(whole, 1.0f)));
        const float now = detail::shareOfLight(std::min(1.0f, (own * a0 + light * t) / std::max(a, 1e-6f))) * a * 255;
        const float kept = share[i] == 0 ? float(old[i]) : now; // bit for bit where nothing is laid
        out[i] = std::uint8_t(int(std::min(255.0f, kept + 0.5f)));
    }
}

void layIn(const Change &c, const std::uint8_t *oldCover, const std::uint8_t *share, std::size_t b)
{
    const std::uint8_t *old = c.was && c.was->data(b) ? c.was->data(b) : kNone.data();
    std::uint8_t *out = c.to->edit(b);
    std::array<std::uint8_t, mesh::kBlockSize> same; // what was there may be what is written to
    const std::size_t n = c.to->countIn(b);
    if (old == out)
        std::copy_n(old, n, same.data()), old = same.data();
    if (c.light)
        layColour(old, oldCover ? oldCover : kNone.data(), share, *c.light, n, out);
    else
        layEvenly(old, share, c.wanted, n, out);
}

/// The arrays that a coat changes, made where there are none.
std::vector<Change> changesOf(Skin &skin, const Skin &from, std::uint32_t layer, const ColourCoat &coat)
{
    struct Wanted {
        LayerChannel channel;
        float bytes;
        std::optional<float> light;
    };
    std::vector<Wanted> wanted;
    const detail::LayerView was = detail::viewOf(from, layer);
    if (coat.isWiping) {
        for (std::size_t c = 0; c <= std::size_t(LayerChannel::FinishCover); ++c)
            if (was.channels[c])
                wanted.push_back({LayerChannel(c), 0, {}});
        if (was.of(LayerChannel::Rule))
            wanted.push_back({LayerChannel::Wiped, 255, {}});
    } else {
        if (coat.colour && coat.colour->entry == 0) {
            const Vec3f c = coat.colour->colour, light = detail::lightOf(c);
            wanted.push_back({LayerChannel::Red, c.x * 255, light.x});
            wanted.push_back({LayerChannel::Green, c.y * 255, light.y});
            wanted.push_back({LayerChannel::Blue, c.z * 255, light.z});
            wanted.push_back({LayerChannel::Cover, 255, {}});
        } else if (coat.colour) { // the entry's share grows, that of everything else shrinks
            for (const LayerChannel c : {LayerChannel::Red, LayerChannel::Green, LayerChannel::Blue, LayerChannel::Cover})
                if (was.of(c))
                    wanted.push_back({c, 0, {}});
        }
        for (std::size_t k = 0; k < kFinishes; ++k)
            if (coat.finish[k])
                wanted.push_back({LayerChannel(std::size_t(LayerChannel::Gloss) + k), *coat.finish[k] * 255, {}});
        if (coat.hasFinish())
            wanted.push_back({LayerChannel::FinishCover, 255, {}});
    }
    const std::uint32_t entry = coat.colour && !coat.isWiping ? coat.colour->entry : 0;
    if (entry)
        entryValuesOf(skin, layer, entry);
    for (const Wanted &w : wanted)
        layerValuesOf(skin, layer, w.channel); // all of them before places are kept: they move
    std::vector<Change> out;
    for (const Wanted &w : wanted)
        out.push_back({was.of(w.channel), &layerValuesOf(skin, layer, w.channel), w.bytes, w.light});
    if (coat.colour || coat.isWiping) {
        for (const auto &e : was.entries)
            if (e.id != entry)
                out.push_back({e.values, &entryValuesOf(skin, layer, e.id), 0, {}});
        if (entry)
            out.push_back({entryValues(from, layer, entry), &entryValuesOf(skin, layer, entry), 255, {}});
    }
    return out;
}

} // namespace

void layCoat(Skin &skin, const Skin &from, std::uint32_t layer, const ColourCoat &coat, const Bytes &share,
             std::span<const std::uint32_t> blocks)
{
    const Bytes *oldCover = layerValues(from, layer, LayerChannel::Cover);
    const std::vector<Change> changes = changesOf(skin, from, layer, coat);
    const auto isTouched = [&](const Change &c, std::uint32_t b) {
        return share.has(b) && (c.wanted > 0 || c.light || (c.was && c.was->has(b)));
    };
    for (const Change &c : changes)
        for (const std::uint32_t b : blocks)
            if (isTouched(c, b))
                c.to->edit(b); // so that what follows only writes
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        for (const Change &c : changes)
            if (isTouched(c, b))
                layIn(c, oldCover ? oldCover->data(b) : nullptr, share.data(b), b);
    });
    composeColours(skin, blocks);
}

void layColours(Skin &skin, std::uint32_t layer, std::span<const Vec3f> colours, const std::function<float(std::size_t)> &share)
{
    const auto channels = [&](auto &&use) {
        for (std::size_t c = 0; c < kColourChannels; ++c)
            use(c, layerValuesOf(skin, layer, LayerChannel(c)));
    };
    channels([](std::size_t, Bytes &) {}); // all of them before places are kept: they move
    std::array<Bytes *, kColourChannels> to{};
    channels([&](std::size_t c, Bytes &values) { to[c] = &values; });
    const detail::LayerView was = detail::viewOf(skin, layer);
    std::vector<Bytes *> entries;
    for (const auto &e : was.entries)
        entries.push_back(&entryValuesOf(skin, layer, e.id));
    for (std::uint32_t v = 0; v < colours.size(); ++v) {
        const std::size_t b = v / mesh::kBlockSize, i = v % mesh::kBlockSize;
        const float t = std::clamp(share(v), 0.0f, 1.0f);
        if (t <= 0)
            continue;
        const float whole = float((*to[3])[v]), a0 = whole * kByte * (1 - t), a = a0 + t;
        const Vec3f light = detail::lightOf(colours[v]);
        for (std::size_t c = 0; c < 3; ++c) {
            const float own = detail::lightOfShare(std::min(1.0f, float((*to[c])[v]) / std::max(whole, 1.0f)));
            const float now = detail::shareOfLight(std::clamp((own * a0 + at(light, int(c)) * t) / a, 0.0f, 1.0f)) * a * 255;
            to[c]->edit(b)[i] = std::uint8_t(std::clamp(now + 0.5f, 0.0f, 255.0f));
        }
        to[3]->edit(b)[i] = std::uint8_t(std::clamp(a * 255 + 0.5f, 0.0f, 255.0f));
        for (Bytes *e : entries)
            if (e->has(b))
                e->edit(b)[i] = std::uint8_t(float(e->edit(b)[i]) * (1 - t) + 0.5f);
    }
    composeColours(skin, blocksOf(skin, layer));
}

} // namespace bonemoss::skin
