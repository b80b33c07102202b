#pragma once

#include "skin/colour_layers.h"

#include <span>

namespace bonemoss::skin::detail {

/// The arrays of a colour layer, found once for many blocks; null for what was never touched.
struct LayerView {
    struct Entry {
        std::uint32_t id = 0;
        Vec3f light; ///< linear
        const Bytes *values = nullptr;
    };
    const ColourLayer *layer = nullptr;
    std::array<const Bytes *, kLayerChannelNames.size()> channels{};
    std::vector<Entry> entries;

    const Bytes *of(LayerChannel c) const { return channels[std::size_t(c)]; }
    const std::uint8_t *data(LayerChannel c, std::size_t b) const { return of(c) ? of(c)->data(b) : nullptr; }
    /// Whether it holds anything in a block, be it only what it took away.
    bool holds(std::size_t b) const;
    /// Whether anything of it can show there.
    bool shows(std::size_t b) const;
};
/// Of all layers, in their order. O(arrays).
std::vector<LayerView> viewsOf(const Skin &skin);
LayerView viewOf(const Skin &skin, std::uint32_t layer);

Vec3f lightOf(Vec3f srgb);
/// The colour of a palette entry as the skin knows it, in linear light; black where it does not.
Vec3f entryLight(const Skin &skin, std::uint32_t entry);

/// What some layers add up to in a block, as channels of a layer from Red to FinishCover, each as long as the block.
using Composed = std::array<std::vector<std::uint8_t>, std::size_t(LayerChannel::FinishCover) + 1>;
void composeBlock(const Skin &skin, std::span<const LayerView> layers, std::size_t b, Composed &out);

/// Linear light of an sRGB share, 0 to 1, and back, for loops over many: polynomials fitted to IEC 61966-2-1, within 0.06 and 0.2 of a
/// byte.
inline float lightOfShare(float s)
{
    const float curve = 0.00104635027f + s * (0.0284033919f + s * (0.560369909f + s * (0.526526675f + s * -0.116805953f)));
    return s <= 0.04045f ? s * (1 / 12.92f) : curve;
}
inline float shareOfLight(float l)
{
    const float t = __builtin_sqrtf(l);
    const float curve =
        -0.0401066897f + t * (1.51790411f + t * (-1.4025073f + t * (2.03111233f + t * (-1.62325657f + t * 0.517179224f))));
    return l <= 0.0031308f ? l * 12.92f : curve;
}

} // namespace bonemoss::skin::detail
