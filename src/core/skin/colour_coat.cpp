// Laying colour and finish on a layer.
#include "base/parallel.h"
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

void layIn(const Change &c, const std::uint8_t *oldCover, const std::uint8_t *share, std::size_t b)
{
    const std::uint8_t *old = c.was ? c.was->data(b) : nullptr;
    std::uint8_t *out = c.to->edit(b);
    for (std::size_t i = 0; i < c.to->countIn(b); ++i) {
        const std::uint8_t s = share[i], before = old ? old[i] : std::uint8_t(0);
        if (s == 0 || s == 255) {
            out[i] = s == 0 ? before : std::uint8_t(c.wanted + 0.5f);
            continue;
        }
        const float t = float(s) * kByte;
        float now = float(before) + (c.wanted - float(before)) * t;
        if (c.light && oldCover && oldCover[i] > 0) { // mixed in linear light
            const float own = detail::lightOfShare(std::min(1.0f, float(before) / float(oldCover[i])));
            const float a0 = float(oldCover[i]) * kByte * (1 - t), a = a0 + t;
            now = detail::shareOfLight((own * a0 + *c.light * t) / a) * a * 255;
        }
        out[i] = std::uint8_t(std::clamp(now + 0.5f, 0.0f, 255.0f));
    }
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
        for (std::size_t k = 0; k < 4; ++k)
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

} // namespace bonemoss::skin
