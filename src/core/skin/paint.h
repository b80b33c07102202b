#pragma once

#include "base/finish.h"
#include "mesh/block_array.h"

#include <array>

namespace bonemoss::skin {

/// Colour and finish of a skin, and the work in it, as channels of bytes, each of which blends like a mask; all blank on
/// bare clay that no stroke has met.
enum class Channel {
    Red,   ///< sRGB, times the cover
    Green, //
    Blue,  //
    Cover, ///< how much of the clay the colour hides
    Gloss, ///< 0 matt as clay, 255 mirror-like
    Metal, //
    Clearcoat,
    Translucency,
    Grain, ///< fine relief that pictures show and nothing else has
    Work,  ///< how often strokes have changed the place; not seen but in the view of what was neglected
};
inline constexpr std::size_t kChannels = 10;
inline constexpr std::size_t kColourChannels = 4; ///< the first of them
inline constexpr std::size_t kSeenChannels = kColourChannels + kFinishes;

struct Paint {
    using Bytes = mesh::BlockArray<std::uint8_t>;
    std::array<Bytes, kChannels> channels;

    Paint() = default;
    explicit Paint(std::size_t vertices) { channels.fill(Bytes(vertices)); }
    /// Each channel by what a rule makes of it.
    template <typename Rule> static Paint of(const Rule &rule)
    {
        Paint out;
        for (std::size_t c = 0; c < kChannels; ++c)
            out.channels[c] = rule(c);
        return out;
    }
    const Bytes &of(Channel c) const { return channels[std::size_t(c)]; }
    Bytes &of(Channel c) { return channels[std::size_t(c)]; }
    std::size_t size() const { return channels[0].size(); }
    bool isBlank() const
    {
        for (const auto &c : channels)
            if (!c.isBlank())
                return false;
        return true;
    }
    bool isSeen() const ///< any colour or finish
    {
        for (std::size_t c = 0; c < kSeenChannels; ++c)
            if (!channels[c].isBlank())
                return true;
        return false;
    }
    bool sharesWith(const Paint &o, std::size_t b) const
    {
        for (std::size_t c = 0; c < kChannels; ++c)
            if (!channels[c].sharesWith(o.channels[c], b))
                return false;
        return true;
    }
};

} // namespace bonemoss::skin
