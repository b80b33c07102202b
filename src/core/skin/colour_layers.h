#pragma once

#include "skin/skin.h"

#include <algorithm>
#include <array>
#include <functional>
#include <memory>
#include <optional>

namespace bonemoss::skin {

// Colour and finish in layers. What they hold at each vertex lies in Skin::colourValues, an array for each layer and channel that was
// ever touched, so that everything that carries attributes carries them. What they add up to is Skin::paint.

/// What a layer holds at a vertex, a byte each; colours are sRGB times the cover, finishes times the finish's cover. What is painted
/// with a colour of the palette lies in an array of its own for each entry, as its share of the cover, so that the entry can change.
/// Rule: 0 where a rule lays nothing, else its value, 1 to 255; painting lies over it. Wiped: how much of the rule was taken away.
enum class LayerChannel { Red, Green, Blue, Cover, Gloss, Metal, Wet, Translucent, Grain, FinishCover, Rule, Wiped, Mask };
inline constexpr std::array<std::string_view, 13> kLayerChannelNames{
    "red", "green", "blue", "cover", "gloss", "metal", "wet", "translucent", "grain", "finishCover", "rule", "wiped", "mask"};

inline constexpr std::array<std::string_view, 8> kColourBlendNames{"mix",    "darken",  "lighten", "multiply",
                                                                   "screen", "overlay", "add",     "colour"};

using Bytes = mesh::BlockArray<std::uint8_t>;

/// The array of a layer's channel; null where it was never touched, which stands for 0 everywhere.
const Bytes *layerValues(const Skin &skin, std::uint32_t layer, LayerChannel channel);
/// The same to write to; made where there is none.
Bytes &layerValuesOf(Skin &skin, std::uint32_t layer, LayerChannel channel);

/// How much of the cover a palette entry has; null where none of it is painted with it.
const Bytes *entryValues(const Skin &skin, std::uint32_t layer, std::uint32_t entry);
Bytes &entryValuesOf(Skin &skin, std::uint32_t layer, std::uint32_t entry);
/// Makes a colour of the palette known to a skin, or gives it its new value; says whether that changed anything. Compose afterwards.
bool usePaletteColour(Skin &skin, const PaletteColour &colour);
/// Layers that paint with an entry, by hand or by rule.
std::vector<std::uint32_t> layersWith(const Skin &skin, std::uint32_t entry);

/// Blocks in which a layer holds anything.
std::vector<std::uint32_t> blocksOf(const Skin &skin, std::uint32_t layer);

/// Brings Skin::paint of the given blocks in line with the layers, in linear light (W3C Compositing and Blending Level 1: source over
/// with the separable formulas, and "color" for colour alone); without layers nothing changes. Parallel; O(vertices of the blocks *
/// layers that hold something there).
void composeColours(Skin &skin, std::span<const std::uint32_t> blocks);
void composeColours(Skin &skin); ///< all blocks

/// What a ramp lays at a value: linear light, and its cover; entries of the palette as the skin knows them.
struct RampColour {
    Vec3f light;
    float cover = 0;
};
RampColour rampAt(const ColourRamp &ramp, const Skin &skin, float value);

/// Blend formula of one colour over another, both linear light, 0 to 1; both are opaque.
Vec3f blended(ColourBlend blend, Vec3f below, Vec3f above);

ColourLayer *colourLayer(Skin &skin, std::uint32_t id);
const ColourLayer *colourLayer(const Skin &skin, std::uint32_t id);
/// A new one on top. What was painted before there were layers becomes the lowest one first, which takes the id after. Returns the
/// layer's id.
std::uint32_t addColourLayer(Skin &skin, const std::string &name, std::uint32_t &nextId);
/// A copy above it. Returns its id.
std::uint32_t duplicateColourLayer(Skin &skin, std::uint32_t id, const std::string &name, std::uint32_t &nextId);
/// What its rule has laid and what was painted over it become its own colours; it shows as before and goes by no rule any more.
void settleColourLayer(Skin &skin, std::uint32_t id);
void removeColourLayer(Skin &skin, std::uint32_t id);
/// At another place, counted from below; past the end means on top.
void orderColourLayer(Skin &skin, std::uint32_t id, std::size_t to);
/// What it holds, as it shows, goes to the one below it. The lowest has none below: false.
bool mergeColourLayer(Skin &skin, std::uint32_t id);

/// What is laid on: of colour and finish what is given.
struct ColourCoat {
    std::optional<Ink> colour;
    Finish finish;
    bool isWiping = false; ///< takes away instead
    bool hasFinish() const
    {
        return std::any_of(finish.begin(), finish.end(), [](const auto &f) { return f.has_value(); });
    }
};
/// Lays a coat on some blocks of a layer by share(vertex), 0 to 255; from: what the layer held before, for strokes that come again over
/// the same block. The paint is composed. O(vertices of the blocks * layers).
void layCoat(Skin &skin, const Skin &from, std::uint32_t layer, const ColourCoat &coat, const Bytes &share,
             std::span<const std::uint32_t> blocks);

/// Lays a colour of its own (sRGB, 0 to 1) at each vertex of a layer, by share(vertex), 0 to 1. The paint is composed. O(vertices).
void layColours(Skin &skin, std::uint32_t layer, std::span<const Vec3f> colours, const std::function<float(std::size_t)> &share);

/// Drags or blurs what a layer holds by hand, dab by dab, in linear light; keeps more than bytes while it lives.
class ColourMixer
{
public:
    ColourMixer(const Skin &skin, std::uint32_t layer);
    ~ColourMixer();
    /// Each vertex goes by its share (0 to 1) to the mean of its neighbours, that many times; along: only of those it is ahead of, so that
    /// colour moves that way; zero for all. Does not compose. O(vertices of the blocks * arrays * passes).
    void mix(Skin &skin, std::span<const std::uint32_t> blocks, std::span<const std::vector<float>> shares, Vec3f along,
             int passes);

private:
    struct Values;
    std::unique_ptr<Values> m_values;
};

/// Colour of a vertex, linear light: the paint over bare clay.
Vec3f seenColour(const Skin &skin, std::size_t vertex);
/// Red, green and blue of each vertex that a face uses, in their order, linear light: the paint over bare clay.
std::vector<float> seenColours(const Skin &skin);
/// Finish of each of them, kFinishes numbers from 0 to 1; empty where there is none anywhere.
std::vector<float> seenFinish(const Skin &skin);

/// How much of each vertex of a block a layer covers, opacity and mask left out, 0 to 1.
std::vector<float> coverIn(const Skin &skin, std::uint32_t layer, std::size_t block);
/// Share of the vertices that a layer covers more than half, or has half a finish on, 0 to 1.
double coveredShare(const Skin &skin, std::uint32_t layer);

} // namespace bonemoss::skin
