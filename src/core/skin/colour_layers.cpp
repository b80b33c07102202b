#include "skin/colour_layers.h"

#include "base/colour.h"
#include "base/parallel.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace bonemoss::skin {

namespace {

std::string nameOf(std::uint32_t layer, LayerChannel channel)
{
    return fmt::format("{}.{}", layer, kLayerChannelNames[std::size_t(channel)]);
}

/// sRGB bytes in linear light.
const std::array<float, 256> &linearBytes()
{
    static const std::array<float, 256> table = [] {
        std::array<float, 256> t{};
        for (std::size_t i = 0; i < 256; ++i)
            t[i] = fromSrgb(float(i) / 255);
        return t;
    }();
    return table;
}

/// Of a byte that is a colour times its cover, and that cover: the colour in linear light.
const std::vector<float> &ownColours()
{
    static const std::vector<float> table = [] {
        std::vector<float> t(256 * 256);
        for (std::size_t cover = 1; cover < 256; ++cover)
            for (std::size_t v = 0; v < 256; ++v)
                t[cover * 256 + v] = linearBytes()[std::min<std::size_t>(255, (v * 255 + cover / 2) / cover)];
        return t;
    }();
    return table;
}
float ownColour(std::uint8_t times, std::uint8_t cover)
{
    return ownColours()[cover * 256u + times];
}

/// Linear light as a share of sRGB, from a table by the square root, which the curve is near: within 1/30 of a byte.
float srgbShare(float linear)
{
    constexpr int kSteps = 8192;
    static const std::array<float, kSteps + 2> table = [] {
        std::array<float, kSteps + 2> t{};
        for (std::size_t i = 0; i < t.size(); ++i) {
            const float root = float(i) / kSteps;
            t[i] = toSrgb(root * root);
        }
        return t;
    }();
    return table[std::size_t(std::sqrt(std::clamp(linear, 0.0f, 1.0f)) * kSteps + 0.5f)];
}

float lightness(Vec3f c)
{
    return 0.3f * c.x + 0.59f * c.y + 0.11f * c.z; // as W3C Compositing and Blending Level 1 has it
}

/// A colour of another lightness, brought back within range.
Vec3f withLightness(Vec3f c, float wanted)
{
    const float by = wanted - lightness(c);
    c += Vec3f{by, by, by};
    const float l = lightness(c), least = std::min({c.x, c.y, c.z}), most = std::max({c.x, c.y, c.z});
    const Vec3f grey{l, l, l};
    if (least < 0 && l > least)
        c = grey + (c - grey) * (l / (l - least));
    if (most > 1 && most > l)
        c = grey + (c - grey) * ((1 - l) / (most - l));
    return c;
}

/// Where a layer's values of a block lie, null for 0.
struct BlockOf {
    std::array<const std::uint8_t *, kLayerChannelNames.size()> at{};
    float opacity = 1;
    ColourBlend blend = ColourBlend::Mix;

    float share(std::size_t i) const
    {
        const std::uint8_t *mask = at[std::size_t(LayerChannel::Mask)];
        return mask ? opacity * (1 - float(mask[i]) / 255) : opacity;
    }
    const std::uint8_t *of(LayerChannel c) const { return at[std::size_t(c)]; }
};

std::vector<BlockOf> layersAt(const Skin &skin, std::size_t b)
{
    std::vector<BlockOf> out;
    for (const ColourLayer &l : skin.colourLayers) {
        if (!l.isShown() || l.opacity <= 0)
            continue;
        BlockOf here{{}, l.opacity, l.blend};
        for (std::size_t c = 0; c < here.at.size(); ++c)
            if (const Bytes *values = layerValues(skin, l.id, LayerChannel(c)))
                here.at[c] = values->data(b);
        if (here.of(LayerChannel::Cover) || here.of(LayerChannel::FinishCover))
            out.push_back(here);
    }
    return out;
}

/// What the layers of a block have added up to so far: colours in linear light times the cover; finishes in bytes.
struct Sums {
    std::array<std::array<float, mesh::kBlockSize>, 3> colour;
    std::array<float, mesh::kBlockSize> cover;
    std::array<std::array<float, mesh::kBlockSize>, 4> finish;
};

void addColour(const BlockOf &l, std::size_t count, Sums &to)
{
    const std::uint8_t *cover = l.of(LayerChannel::Cover), *mask = l.of(LayerChannel::Mask);
    static const std::array<std::uint8_t, mesh::kBlockSize> none{};
    std::array<const std::uint8_t *, 3> own{};
    for (std::size_t c = 0; c < 3; ++c)
        own[c] = l.at[c] ? l.at[c] : none.data();
    const std::vector<float> &table = ownColours();
    for (std::size_t i = 0; i < count; ++i) {
        if (cover[i] == 0)
            continue;
        const float share = mask ? l.opacity * (1 - float(mask[i]) * (1.0f / 255)) : l.opacity,
                    a = share * float(cover[i]) * (1.0f / 255);
        const float *row = table.data() + cover[i] * 256u;
        const Vec3f above{row[own[0][i]], row[own[1][i]], row[own[2][i]]};
        const float below = to.cover[i];
        Vec3f mixed = above;
        if (l.blend != ColourBlend::Mix && below > 0)
            mixed = lerp(above, blended(l.blend, Vec3f{to.colour[0][i], to.colour[1][i], to.colour[2][i]} * (1 / below), above),
                         below);
        to.colour[0][i] += (mixed.x - to.colour[0][i]) * a;
        to.colour[1][i] += (mixed.y - to.colour[1][i]) * a;
        to.colour[2][i] += (mixed.z - to.colour[2][i]) * a;
        to.cover[i] = below + a * (1 - below);
    }
}

void addFinish(const BlockOf &l, std::size_t count, Sums &to)
{
    const std::uint8_t *cover = l.of(LayerChannel::FinishCover);
    for (std::size_t k = 0; k < 4; ++k) {
        const std::uint8_t *own = l.at[std::size_t(LayerChannel::Gloss) + k];
        for (std::size_t i = 0; i < count; ++i) {
            const float share = l.share(i);
            to.finish[k][i] = to.finish[k][i] * (1 - share * float(cover[i]) / 255) + (own ? share * float(own[i]) : 0.0f);
        }
    }
}

/// A block from its layers.
void composeBlock(const Skin &skin, std::size_t b, std::array<std::vector<std::uint8_t>, kSeenChannels> &out)
{
    const std::size_t count = skin.paint.channels[0].countIn(b);
    for (auto &channel : out)
        channel.assign(count, 0);
    const std::vector<BlockOf> layers = layersAt(skin, b);
    if (layers.empty())
        return;
    const auto sums = std::make_unique<Sums>();
    bool hasFinish = false;
    for (const BlockOf &l : layers) {
        if (l.of(LayerChannel::Cover))
            addColour(l, count, *sums);
        if (l.of(LayerChannel::FinishCover))
            addFinish(l, count, *sums), hasFinish = true;
    }
    for (std::size_t i = 0; i < count; ++i) {
        const float cover = sums->cover[i];
        if (cover <= 0)
            continue;
        const float per = 1 / cover, bytes = cover * 255;
        for (std::size_t c = 0; c < 3; ++c)
            out[c][i] = std::uint8_t(std::min(255.0f, srgbShare(sums->colour[c][i] * per) * bytes + 0.5f));
        out[3][i] = std::uint8_t(std::min(255.0f, bytes + 0.5f));
    }
    for (std::size_t k = 0; hasFinish && k < 4; ++k)
        for (std::size_t i = 0; i < count; ++i)
            out[kColourChannels + k][i] = std::uint8_t(std::min(255.0f, sums->finish[k][i] + 0.5f));
}

} // namespace

Vec3f blended(ColourBlend blend, Vec3f b, Vec3f a)
{
    const auto each = [&](auto formula) { return Vec3f{formula(b.x, a.x), formula(b.y, a.y), formula(b.z, a.z)}; };
    switch (blend) {
    case ColourBlend::Darken: return each([](float x, float y) { return std::min(x, y); });
    case ColourBlend::Lighten: return each([](float x, float y) { return std::max(x, y); });
    case ColourBlend::Multiply: return each([](float x, float y) { return x * y; });
    case ColourBlend::Screen: return each([](float x, float y) { return x + y - x * y; });
    case ColourBlend::Overlay: return each([](float x, float y) { return x <= 0.5f ? 2 * x * y : 1 - 2 * (1 - x) * (1 - y); });
    case ColourBlend::Add:
        return each([](float x, float y) { return std::min(1.0f, x + y); }); // "plus-lighter" of opaque colours
    case ColourBlend::Colour: return withLightness(a, lightness(b));
    case ColourBlend::Mix: break;
    }
    return a;
}

const Bytes *layerValues(const Skin &skin, std::uint32_t layer, LayerChannel channel)
{
    const std::string name = nameOf(layer, channel);
    const auto at =
        std::find_if(skin.colourValues.begin(), skin.colourValues.end(), [&](const KeptMask &m) { return m.name == name; });
    return at == skin.colourValues.end() ? nullptr : &at->values;
}

Bytes &layerValuesOf(Skin &skin, std::uint32_t layer, LayerChannel channel)
{
    const std::string name = nameOf(layer, channel);
    const auto at =
        std::find_if(skin.colourValues.begin(), skin.colourValues.end(), [&](const KeptMask &m) { return m.name == name; });
    return at == skin.colourValues.end() ? skin.colourValues.emplace_back(KeptMask{name, Bytes(skin.body.size())}).values
                                         : at->values;
}

std::vector<std::uint32_t> blocksOf(const Skin &skin, std::uint32_t layer)
{
    std::vector<std::uint32_t> out;
    for (std::uint32_t b = 0; b < skin.body.blockCount(); ++b)
        for (std::size_t c = 0; c < std::size_t(LayerChannel::Mask); ++c)
            if (const Bytes *values = layerValues(skin, layer, LayerChannel(c)); values && values->has(b)) {
                out.push_back(b);
                break;
            }
    return out;
}

void composeColours(Skin &skin, std::span<const std::uint32_t> blocks)
{
    if (skin.colourLayers.empty())
        return;
    std::vector<std::array<std::vector<std::uint8_t>, kSeenChannels>> made(blocks.size());
    forEachBlock(blocks.size(), 1, [&](BlockRange r) { composeBlock(skin, blocks[r.begin], made[r.begin]); });
    for (std::size_t k = 0; k < blocks.size(); ++k)
        for (std::size_t c = 0; c < kSeenChannels; ++c) {
            Bytes &to = skin.paint.channels[c];
            const std::vector<std::uint8_t> &from = made[k][c];
            const std::uint8_t *was = to.data(blocks[k]);
            const bool isSame = was ? std::equal(from.begin(), from.end(), was)
                                    : std::all_of(from.begin(), from.end(), [](std::uint8_t v) { return v == 0; });
            if (!isSame)
                std::copy(from.begin(), from.end(), to.edit(blocks[k]));
        }
}

void composeColours(Skin &skin)
{
    std::vector<std::uint32_t> all(skin.body.blockCount());
    std::iota(all.begin(), all.end(), 0u);
    composeColours(skin, all);
}

const ColourLayer *colourLayer(const Skin &skin, std::uint32_t id)
{
    const auto at =
        std::find_if(skin.colourLayers.begin(), skin.colourLayers.end(), [&](const ColourLayer &l) { return l.id == id; });
    return at == skin.colourLayers.end() ? nullptr : &*at;
}

ColourLayer *colourLayer(Skin &skin, std::uint32_t id)
{
    return const_cast<ColourLayer *>(colourLayer(std::as_const(skin), id));
}

std::uint32_t addColourLayer(Skin &skin, const std::string &name, std::uint32_t &nextId)
{
    if (skin.colourLayers.empty() && skin.paint.isSeen()) {
        const std::uint32_t id = nextId++;
        skin.colourLayers.push_back({.id = id, .name = "Paint"});
        for (std::size_t c = 0; c < kSeenChannels; ++c)
            if (!skin.paint.channels[c].isBlank())
                layerValuesOf(skin, id, LayerChannel(c)) = skin.paint.channels[c];
        Bytes finish(skin.body.size());
        for (std::size_t b = 0; b < finish.blockCount(); ++b)
            for (std::size_t c = kColourChannels; c < kSeenChannels; ++c)
                if (const std::uint8_t *v = skin.paint.channels[c].data(b))
                    for (std::size_t i = 0; i < finish.countIn(b); ++i)
                        if (v[i] > 0)
                            finish.edit(b)[i] = 255;
        if (!finish.isBlank())
            layerValuesOf(skin, id, LayerChannel::FinishCover) = std::move(finish);
    }
    const std::uint32_t id = nextId++;
    skin.colourLayers.push_back({.id = id, .name = name});
    return id;
}

void removeColourLayer(Skin &skin, std::uint32_t id)
{
    const std::vector<std::uint32_t> blocks = blocksOf(skin, id);
    std::erase_if(skin.colourLayers, [&](const ColourLayer &l) { return l.id == id; });
    auto &rest = skin.colourLayers;
    const bool wasAlone = std::all_of(rest.begin(), rest.end(), [](const ColourLayer &l) { return l.isAside; });
    if (wasAlone)
        for (ColourLayer &l : rest)
            l.isAside = false;
    const std::string prefix = fmt::format("{}.", id);
    std::erase_if(skin.colourValues, [&](const KeptMask &m) { return m.name.starts_with(prefix); });
    if (skin.colourLayers.empty())
        for (std::size_t c = 0; c < kSeenChannels; ++c)
            skin.paint.channels[c] = Bytes(skin.body.size());
    wasAlone ? composeColours(skin) : composeColours(skin, blocks);
}

void orderColourLayer(Skin &skin, std::uint32_t id, std::size_t to)
{
    auto &all = skin.colourLayers;
    const auto at = std::find_if(all.begin(), all.end(), [&](const ColourLayer &l) { return l.id == id; });
    const ColourLayer moved = *at;
    all.erase(at);
    all.insert(all.begin() + std::ptrdiff_t(std::min(to, all.size())), moved);
    composeColours(skin, blocksOf(skin, id));
}

bool mergeColourLayer(Skin &skin, std::uint32_t id)
{
    auto &all = skin.colourLayers;
    const auto at = std::find_if(all.begin(), all.end(), [&](const ColourLayer &l) { return l.id == id; });
    if (at == all.begin())
        return false;
    Skin two = skin; // both alone, as they show
    two.colourLayers = {*std::prev(at), *at};
    for (ColourLayer &l : two.colourLayers)
        l.isOn = true, l.isAside = false;
    const std::uint32_t below = std::prev(at)->id;
    two.colourLayers[0].blend = ColourBlend::Mix;
    for (auto &channel : two.paint.channels)
        channel = Bytes(skin.body.size());
    composeColours(two);
    for (std::size_t c = 0; c < kSeenChannels; ++c)
        layerValuesOf(skin, below, LayerChannel(c)) = two.paint.channels[c];
    Bytes &cover = layerValuesOf(skin, below, LayerChannel::FinishCover);
    if (const Bytes *other = layerValues(skin, id, LayerChannel::FinishCover))
        for (std::size_t b = 0; b < cover.blockCount(); ++b)
            if (const std::uint8_t *o = other->data(b)) {
                std::uint8_t *c = cover.edit(b);
                for (std::size_t i = 0; i < cover.countIn(b); ++i)
                    c[i] = std::max(c[i], o[i]);
            }
    layerValuesOf(skin, below, LayerChannel::Mask) = Bytes(skin.body.size());
    std::prev(at)->opacity = 1;
    removeColourLayer(skin, id);
    return true;
}

void layCoat(Skin &skin, const Skin &from, std::uint32_t layer, const ColourCoat &coat, const Bytes &share,
             std::span<const std::uint32_t> blocks)
{
    std::array<std::optional<float>, std::size_t(LayerChannel::Mask)> wanted; // of each channel, in bytes
    const auto want = [&](LayerChannel c, float v) { wanted[std::size_t(c)] = v; };
    if (coat.isWiping) {
        for (auto &w : wanted)
            w = 0.0f;
    } else {
        if (coat.colour) {
            want(LayerChannel::Red, coat.colour->x * 255), want(LayerChannel::Green, coat.colour->y * 255);
            want(LayerChannel::Blue, coat.colour->z * 255), want(LayerChannel::Cover, 255);
        }
        for (std::size_t k = 0; k < 4; ++k)
            if (coat.finish[k])
                wanted[std::size_t(LayerChannel::Gloss) + k] = *coat.finish[k] * 255;
        if (coat.hasFinish())
            want(LayerChannel::FinishCover, 255);
    }
    const std::array<float, 3> light =
        coat.colour ? std::array{fromSrgb(coat.colour->x), fromSrgb(coat.colour->y), fromSrgb(coat.colour->z)}
                    : std::array<float, 3>{};
    const Bytes *oldCover = layerValues(from, layer, LayerChannel::Cover);
    for (std::size_t c = 0; c < wanted.size(); ++c) {
        const Bytes *was = layerValues(from, layer, LayerChannel(c));
        if (!wanted[c] || (coat.isWiping && !was))
            continue;
        Bytes &to = layerValuesOf(skin, layer, LayerChannel(c));
        for (const std::uint32_t b : blocks)
            if (share.has(b))
                to.edit(b); // so that what follows only writes
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            const std::uint32_t b = blocks[r.begin];
            const std::uint8_t *s = share.data(b), *old = was ? was->data(b) : nullptr;
            const std::uint8_t *cover = oldCover ? oldCover->data(b) : nullptr;
            if (!s)
                return;
            std::uint8_t *out = to.edit(b);
            for (std::size_t i = 0; i < to.countIn(b); ++i) {
                const float before = old ? float(old[i]) : 0, t = float(s[i]) / 255;
                float now = std::lerp(before, *wanted[c], t);
                if (c < 3 && !coat.isWiping && s[i] > 0 && s[i] < 255 && cover && cover[i] > 0) { // mixed in linear light
                    const float own = ownColour(old ? old[i] : 0, cover[i]);
                    const float a0 = float(cover[i]) / 255 * (1 - t), a = a0 + t;
                    now = srgbShare((own * a0 + light[c] * t) / a) * a * 255;
                }
                out[i] = std::uint8_t(std::clamp(now + 0.5f, 0.0f, 255.0f));
            }
        });
    }
    composeColours(skin, blocks);
}

std::vector<float> seenColours(const Skin &skin)
{
    constexpr Vec3f kClay{0.60f, 0.555f, 0.475f};
    std::vector<float> out;
    out.reserve(skin.body.size() * 3);
    for (std::size_t b = 0; b < skin.body.blockCount(); ++b) {
        const std::vector<std::uint16_t> unused = skin.shown.topology->block(b).unused();
        std::size_t next = 0; // of those, rising
        std::array<const std::uint8_t *, kColourChannels> at{};
        for (std::size_t c = 0; c < at.size(); ++c)
            at[c] = skin.paint.channels[c].data(b);
        const std::uint8_t *cover = at[std::size_t(Channel::Cover)];
        for (std::size_t i = 0; i < skin.body.countIn(b); ++i) {
            if (next < unused.size() && unused[next] == i) {
                ++next;
                continue;
            }
            Vec3f colour = kClay;
            if (cover && cover[i] > 0) {
                const auto own = [&](std::size_t c) { return at[c] ? ownColour(at[c][i], cover[i]) : 0.0f; };
                colour = lerp(kClay, Vec3f{own(0), own(1), own(2)}, float(cover[i]) / 255);
            }
            out.insert(out.end(), {colour.x, colour.y, colour.z});
        }
    }
    return out;
}

double coveredShare(const Skin &skin, std::uint32_t layer)
{
    const Bytes *cover = layerValues(skin, layer, LayerChannel::Cover),
                *finish = layerValues(skin, layer, LayerChannel::FinishCover);
    std::size_t n = 0;
    for (std::size_t b = 0; b < skin.body.blockCount(); ++b) {
        const std::uint8_t *c = cover ? cover->data(b) : nullptr, *f = finish ? finish->data(b) : nullptr;
        for (std::size_t i = 0; (c || f) && i < skin.body.countIn(b); ++i)
            n += (c && c[i] > 127) || (f && f[i] > 127);
    }
    return skin.body.size() == 0 ? 0 : double(n) / double(skin.body.size());
}

} // namespace bonemoss::skin
