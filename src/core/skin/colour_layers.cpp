#include "skin/colour_layers.h"

#include "base/colour.h"
#include "skin/detail/layer_view.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>

namespace bonemoss::skin {

namespace {

constexpr std::string_view kEntry = "entry"; // and its id: the array of a palette entry

std::string nameOf(std::uint32_t layer, LayerChannel channel)
{
    return fmt::format("{}.{}", layer, kLayerChannelNames[std::size_t(channel)]);
}
std::string nameOf(std::uint32_t layer, std::uint32_t entry)
{
    return fmt::format("{}.{}{}", layer, kEntry, entry);
}

const Bytes *valuesNamed(const Skin &skin, const std::string &name)
{
    const auto at =
        std::find_if(skin.colourValues.begin(), skin.colourValues.end(), [&](const KeptMask &m) { return m.name == name; });
    return at == skin.colourValues.end() ? nullptr : &at->values;
}
Bytes &valuesNamed(Skin &skin, const std::string &name)
{
    if (const Bytes *there = valuesNamed(std::as_const(skin), name))
        return const_cast<Bytes &>(*there);
    return skin.colourValues.emplace_back(KeptMask{name, Bytes(skin.body.size())}).values;
}

} // namespace

namespace detail {

bool LayerView::shows(std::size_t b) const
{
    if (data(LayerChannel::Cover, b) || data(LayerChannel::FinishCover, b) || (layer->ramp && data(LayerChannel::Rule, b)))
        return true;
    return std::any_of(entries.begin(), entries.end(), [&](const Entry &e) { return e.values->has(b); });
}

bool LayerView::holds(std::size_t b) const
{
    return shows(b) || data(LayerChannel::Rule, b) || data(LayerChannel::Wiped, b);
}

Vec3f lightOf(Vec3f srgb)
{
    return {fromSrgb(srgb.x), fromSrgb(srgb.y), fromSrgb(srgb.z)};
}

Vec3f entryLight(const Skin &skin, std::uint32_t entry)
{
    for (const PaletteColour &c : skin.palette)
        if (c.id == entry)
            return lightOf(c.colour);
    return {};
}

std::vector<LayerView> viewsOf(const Skin &skin)
{
    std::vector<LayerView> out;
    for (const ColourLayer &l : skin.colourLayers)
        out.push_back({&l, {}, {}});
    for (const KeptMask &m : skin.colourValues) {
        std::uint32_t id = 0;
        const char *begin = m.name.data(), *end = begin + m.name.size();
        const auto read = std::from_chars(begin, end, id);
        const auto at = std::find_if(out.begin(), out.end(), [&](const LayerView &v) { return v.layer->id == id; });
        if (at == out.end() || read.ptr == end || *read.ptr != '.')
            continue;
        const std::string_view what(read.ptr + 1, std::size_t(end - read.ptr - 1));
        if (what.starts_with(kEntry)) {
            std::uint32_t entry = 0;
            std::from_chars(what.data() + kEntry.size(), end, entry);
            at->entries.push_back({entry, entryLight(skin, entry), &m.values});
        } else if (const auto c = std::find(kLayerChannelNames.begin(), kLayerChannelNames.end(), what);
                   c != kLayerChannelNames.end()) {
            at->channels[std::size_t(c - kLayerChannelNames.begin())] = &m.values;
        }
    }
    for (LayerView &v : out) // the same sums whatever the order in which they came
        std::sort(v.entries.begin(), v.entries.end(), [](const auto &a, const auto &b) { return a.id < b.id; });
    return out;
}

LayerView viewOf(const Skin &skin, std::uint32_t layer)
{
    for (LayerView &v : viewsOf(skin))
        if (v.layer->id == layer)
            return std::move(v);
    return {};
}

} // namespace detail

using detail::LayerView;

const Bytes *layerValues(const Skin &skin, std::uint32_t layer, LayerChannel channel)
{
    return valuesNamed(skin, nameOf(layer, channel));
}

Bytes &layerValuesOf(Skin &skin, std::uint32_t layer, LayerChannel channel)
{
    return valuesNamed(skin, nameOf(layer, channel));
}

const Bytes *entryValues(const Skin &skin, std::uint32_t layer, std::uint32_t entry)
{
    return valuesNamed(skin, nameOf(layer, entry));
}

Bytes &entryValuesOf(Skin &skin, std::uint32_t layer, std::uint32_t entry)
{
    return valuesNamed(skin, nameOf(layer, entry));
}

bool usePaletteColour(Skin &skin, const PaletteColour &colour)
{
    const auto at =
        std::find_if(skin.palette.begin(), skin.palette.end(), [&](const PaletteColour &c) { return c.id == colour.id; });
    if (at != skin.palette.end() && *at == colour)
        return false;
    (at == skin.palette.end() ? skin.palette.emplace_back() : *at) = colour;
    return true;
}

std::vector<std::uint32_t> layersWith(const Skin &skin, std::uint32_t entry)
{
    std::vector<std::uint32_t> out;
    for (const LayerView &v : detail::viewsOf(skin)) {
        const bool byHand = std::any_of(v.entries.begin(), v.entries.end(), [&](const auto &e) { return e.id == entry; });
        const bool byRule = v.layer->ramp
                            && std::any_of(v.layer->ramp->stops.begin(), v.layer->ramp->stops.end(),
                                           [&](const ColourRamp::Stop &s) { return s.ink.entry == entry; });
        if (byHand || byRule)
            out.push_back(v.layer->id);
    }
    return out;
}

std::vector<std::uint32_t> blocksOf(const Skin &skin, std::uint32_t layer)
{
    const LayerView view = detail::viewOf(skin, layer);
    std::vector<std::uint32_t> out;
    for (std::uint32_t b = 0; view.layer && b < skin.body.blockCount(); ++b)
        if (view.holds(b))
            out.push_back(b);
    return out;
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

namespace {

/// What some layers add up to, in place of all that a layer holds but its mask; it goes by no rule then.
void replaceBySum(Skin &skin, std::uint32_t id, const Skin &of)
{
    const std::vector<LayerView> views = detail::viewsOf(of);
    detail::Composed composed;
    std::array<Bytes, std::tuple_size_v<detail::Composed>> made;
    made.fill(Bytes(skin.body.size()));
    for (std::uint32_t b = 0; b < skin.body.blockCount(); ++b) {
        if (std::none_of(views.begin(), views.end(), [&](const LayerView &v) { return v.holds(b); }))
            continue;
        detail::composeBlock(of, views, b, composed);
        for (std::size_t c = 0; c < made.size(); ++c)
            if (std::any_of(composed[c].begin(), composed[c].end(), [](std::uint8_t v) { return v != 0; }))
                std::copy(composed[c].begin(), composed[c].end(), made[c].edit(b));
    }
    const std::string prefix = fmt::format("{}.", id), mask = nameOf(id, LayerChannel::Mask);
    std::erase_if(skin.colourValues, [&](const KeptMask &m) { return m.name.starts_with(prefix) && m.name != mask; });
    for (std::size_t c = 0; c < made.size(); ++c)
        if (!made[c].isBlank())
            layerValuesOf(skin, id, LayerChannel(c)) = std::move(made[c]);
    ColourLayer &layer = *colourLayer(skin, id);
    layer.rule = nullptr, layer.ramp = nullptr;
}

} // namespace

bool mergeColourLayer(Skin &skin, std::uint32_t id)
{
    auto &all = skin.colourLayers;
    const auto at = std::find_if(all.begin(), all.end(), [&](const ColourLayer &l) { return l.id == id; });
    if (at == all.begin())
        return false;
    ColourLayer &below = *std::prev(at);
    Skin two = skin; // both alone, as they show
    two.colourLayers = {below, *at};
    for (ColourLayer &l : two.colourLayers)
        l.isOn = true, l.isAside = false;
    two.colourLayers[0].blend = ColourBlend::Mix;
    replaceBySum(skin, below.id, two);
    if (layerValues(skin, below.id, LayerChannel::Mask))
        layerValuesOf(skin, below.id, LayerChannel::Mask) = Bytes(skin.body.size());
    below.opacity = 1;
    removeColourLayer(skin, id);
    return true;
}

void settleColourLayer(Skin &skin, std::uint32_t id)
{
    Skin one = skin;
    ColourLayer whole = *colourLayer(skin, id);
    whole.opacity = 1, whole.blend = ColourBlend::Mix, whole.isOn = true, whole.isAside = false;
    one.colourLayers = {whole};
    std::erase_if(one.colourValues, [&](const KeptMask &m) { return m.name == nameOf(id, LayerChannel::Mask); });
    replaceBySum(skin, id, one);
    composeColours(skin, blocksOf(skin, id));
}

std::uint32_t duplicateColourLayer(Skin &skin, std::uint32_t id, const std::string &name, std::uint32_t &nextId)
{
    auto &all = skin.colourLayers;
    const auto at = std::find_if(all.begin(), all.end(), [&](const ColourLayer &l) { return l.id == id; });
    ColourLayer copy = *at;
    copy.id = nextId++, copy.name = name;
    const std::string prefix = fmt::format("{}.", id);
    std::vector<KeptMask> values;
    for (const KeptMask &m : skin.colourValues)
        if (m.name.starts_with(prefix))
            values.push_back({fmt::format("{}.{}", copy.id, m.name.substr(prefix.size())), m.values});
    skin.colourValues.insert(skin.colourValues.end(), values.begin(), values.end());
    all.insert(std::next(at), copy);
    composeColours(skin, blocksOf(skin, copy.id));
    return copy.id;
}

} // namespace bonemoss::skin
