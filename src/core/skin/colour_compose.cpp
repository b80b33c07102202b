// What colour layers add up to.
#include "base/parallel.h"
#include "base/wide.h"
#include "skin/detail/layer_view.h"

#include <algorithm>
#include <numeric>

namespace bonemoss::skin {

using detail::Composed;
using detail::LayerView;

namespace {

constexpr float kByte = 1.0f / 255;
using Row = std::array<float, mesh::kBlockSize>;

constexpr std::size_t kRun = 256; ///< vertices whose colours are worked out at a time: their sums stay in the nearest cache
using RunRow = std::array<float, kRun>;

/// Colours in linear light times the cover, and the cover, of a run.
struct Light {
    std::array<RunRow, 3> colour;
    RunRow cover;
};
struct Sums {
    Light light;                        ///< of all layers so far
    Light own;                          ///< of the layer at work
    std::array<Row, kFinishes> finish;  ///< 0 to 1, times its cover
    std::array<Row, kFinishes> covered; ///< by finish
};

/// What a ramp lays at each value of a rule, from 1 on.
struct RampTable {
    std::array<std::array<float, 3>, 256> colour{}; ///< linear light times the cover
    std::array<float, 256> cover{};
};
RampTable tableOf(const ColourRamp &ramp, const Skin &skin)
{
    RampTable t;
    for (std::size_t v = 1; v < 256; ++v) {
        const RampColour c = rampAt(ramp, skin, float(v - 1) / 254);
        t.cover[v] = c.cover;
        t.colour[v] = {c.light.x * c.cover, c.light.y * c.cover, c.light.z * c.cover};
    }
    return t;
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

constexpr std::array<std::uint8_t, mesh::kBlockSize> kNone{};

bool isNone(const std::uint8_t *v, std::size_t n)
{
    std::uint8_t any = 0;
    for (std::size_t i = 0; i < n; ++i)
        any |= v[i];
    return any == 0;
}

/// Own colours of a layer, from bytes times the cover.
BONEMOSS_WIDE void readOwn(const std::array<const std::uint8_t *, 3> &bytes, const std::uint8_t *cover, std::size_t n, Light &to)
{
    float *out = to.cover.data();
    RunRow per;
    for (std::size_t i = 0; i < n; ++i) {
        out[i] = float(cover[i]) * kByte;
        per[i] = 1 / std::max(float(cover[i]), 1.0f);
    }
    for (std::size_t c = 0; c < 3; ++c) {
        const std::uint8_t *from = bytes[c];
        float *own = to.colour[c].data();
        for (std::size_t i = 0; i < n; ++i)
            own[i] = detail::lightOfShare(std::min(1.0f, float(from[i]) * per[i])) * out[i];
    }
}

/// A share of one colour beside what is there.
BONEMOSS_WIDE void addEntry(const std::uint8_t *share, Vec3f light, std::size_t n, Light &to)
{
    float *r = to.colour[0].data(), *g = to.colour[1].data(), *b = to.colour[2].data(), *cover = to.cover.data();
    for (std::size_t i = 0; i < n; ++i) {
        const float a = std::min(float(share[i]) * kByte, 1 - cover[i]); // rounding may come to a little more than all
        r[i] += light.x * a, g[i] += light.y * a, b[i] += light.z * a;
        cover[i] += a;
    }
}

/// A rule's colours below what lies there.
void addRule(const std::uint8_t *values, const std::uint8_t *wiped, const RampTable &table, std::size_t n, Light &to)
{
    for (std::size_t i = 0; i < n; ++i) {
        const std::uint8_t v = values[i];
        if (v == 0)
            continue;
        const float a = (1 - to.cover[i]) * (wiped ? 1 - float(wiped[i]) * kByte : 1.0f);
        for (std::size_t c = 0; c < 3; ++c)
            to.colour[c][i] += table.colour[v][c] * a;
        to.cover[i] += table.cover[v] * a;
    }
}

BONEMOSS_WIDE void mixOver(const Light &own, const std::uint8_t *mask, float opacity, std::size_t n, Light &to)
{
    float *below = to.cover.data();
    const float *above = own.cover.data();
    RunRow share;
    for (std::size_t i = 0; i < n; ++i)
        share[i] = opacity * (1 - float(mask[i]) * kByte);
    for (std::size_t c = 0; c < 3; ++c) {
        float *sum = to.colour[c].data();
        const float *add = own.colour[c].data();
        for (std::size_t i = 0; i < n; ++i)
            sum[i] += share[i] * (add[i] - above[i] * sum[i]);
    }
    for (std::size_t i = 0; i < n; ++i)
        below[i] += share[i] * above[i] * (1 - below[i]);
}

void blendOver(const Light &own, ColourBlend blend, const std::uint8_t *mask, float opacity, std::size_t n, Light &to)
{
    for (std::size_t i = 0; i < n; ++i) {
        if (own.cover[i] <= 0)
            continue;
        const float a = opacity * (1 - float(mask[i]) * kByte) * own.cover[i], per = 1 / own.cover[i], below = to.cover[i];
        const Vec3f above{own.colour[0][i] * per, own.colour[1][i] * per, own.colour[2][i] * per};
        Vec3f mixed = above;
        if (below > 0)
            mixed =
                lerp(above, blended(blend, Vec3f{to.colour[0][i], to.colour[1][i], to.colour[2][i]} * (1 / below), above), below);
        to.colour[0][i] += (mixed.x - to.colour[0][i]) * a;
        to.colour[1][i] += (mixed.y - to.colour[1][i]) * a;
        to.colour[2][i] += (mixed.z - to.colour[2][i]) * a;
        to.cover[i] = below + a * (1 - below);
    }
}

/// The arrays of a layer in one block, found once for all of its runs.
struct LayerBlock {
    const ColourLayer *layer = nullptr;
    const RampTable *table = nullptr; ///< of a rule that lays colour there
    std::array<const std::uint8_t *, 3> colour{};
    const std::uint8_t *cover = nullptr, *mask = nullptr, *wiped = nullptr, *rule = nullptr;
    std::vector<std::pair<const std::uint8_t *, Vec3f>> entries;

    LayerBlock(const LayerView &view, const RampTable *ramp, std::size_t b) : layer(view.layer), table(ramp)
    {
        const auto at = [&](LayerChannel c) {
            const std::uint8_t *v = view.data(c, b);
            return v ? v : kNone.data();
        };
        colour = {at(LayerChannel::Red), at(LayerChannel::Green), at(LayerChannel::Blue)};
        cover = at(LayerChannel::Cover), mask = at(LayerChannel::Mask), wiped = view.data(LayerChannel::Wiped, b);
        rule = table ? view.data(LayerChannel::Rule, b) : nullptr;
        for (const LayerView::Entry &e : view.entries)
            if (const std::uint8_t *v = e.values->data(b))
                entries.emplace_back(v, e.light);
    }
};

/// The colours of one layer over those below it, of a run; false where it has none there.
bool addColour(const LayerBlock &l, std::size_t first, std::size_t n, Sums &s)
{
    const auto isBlank = [&](const std::uint8_t *v) { return isNone(v + first, n); };
    if (isBlank(l.cover) && (!l.rule || isBlank(l.rule))
        && std::all_of(l.entries.begin(), l.entries.end(), [&](const auto &e) { return isBlank(e.first); }))
        return false;
    readOwn({l.colour[0] + first, l.colour[1] + first, l.colour[2] + first}, l.cover + first, n, s.own);
    for (const auto &[values, light] : l.entries)
        addEntry(values + first, light, n, s.own);
    if (l.rule)
        addRule(l.rule + first, l.wiped ? l.wiped + first : nullptr, *l.table, n, s.own);
    if (l.layer->blend == ColourBlend::Mix)
        mixOver(s.own, l.mask + first, l.layer->opacity, n, s.light);
    else
        blendOver(s.own, l.layer->blend, l.mask + first, l.layer->opacity, n, s.light);
    return true;
}

void addFinish(const LayerView &view, const RampTable *table, std::size_t b, std::size_t count, Sums &s)
{
    const std::uint8_t *cover = view.data(LayerChannel::FinishCover, b), *mask = view.data(LayerChannel::Mask, b),
                       *rule = table ? view.data(LayerChannel::Rule, b) : nullptr, *wiped = view.data(LayerChannel::Wiped, b);
    for (std::size_t k = 0; k < kFinishes; ++k) {
        const std::uint8_t *own = view.data(LayerChannel(std::size_t(LayerChannel::Gloss) + k), b);
        const bool isLaid = rule && view.layer->ramp->finish[k].has_value();
        const float laid = isLaid ? *view.layer->ramp->finish[k] : 0.0f;
        if (!cover && !isLaid)
            continue;
        for (std::size_t i = 0; i < count; ++i) {
            const float share = view.layer->opacity * (mask ? 1 - float(mask[i]) * kByte : 1.0f),
                        byHand = cover ? float(cover[i]) * kByte : 0.0f;
            float value = own ? float(own[i]) * kByte : 0.0f, covered = byHand;
            if (isLaid) {
                const float a = (1 - byHand) * table->cover[rule[i]] * (wiped ? 1 - float(wiped[i]) * kByte : 1.0f);
                value += a * laid, covered += a;
            }
            s.finish[k][i] = s.finish[k][i] * (1 - share * covered) + share * value;
            s.covered[k][i] += share * covered * (1 - s.covered[k][i]);
        }
    }
}

BONEMOSS_WIDE void writeColours(const Light &light, std::size_t first, std::size_t n, Composed &out)
{
    RunRow per, whole;
    for (std::size_t i = 0; i < n; ++i) {
        per[i] = 1 / std::max(light.cover[i], 1e-6f);
        whole[i] = light.cover[i] * 255;
    }
    for (std::size_t c = 0; c < 3; ++c) {
        std::uint8_t *to = out[c].data() + first;
        const float *sum = light.colour[c].data();
        for (std::size_t i = 0; i < n; ++i)
            to[i] = std::uint8_t(int(std::min(255.0f, detail::shareOfLight(std::min(1.0f, sum[i] * per[i])) * whole[i] + 0.5f)));
    }
    std::uint8_t *to = out[3].data() + first;
    for (std::size_t i = 0; i < n; ++i)
        to[i] = std::uint8_t(int(std::min(255.0f, whole[i] + 0.5f)));
}

} // namespace

void detail::composeBlock(const Skin &skin, std::span<const LayerView> layers, std::size_t b, Composed &out)
{
    const std::size_t count = skin.body.countIn(b);
    for (auto &channel : out)
        channel.assign(count, 0);
    thread_local const std::unique_ptr<Sums> sums = std::make_unique<Sums>();
    std::vector<std::unique_ptr<RampTable>> tables;
    std::vector<LayerBlock> coloured;
    bool hasFinish = false;
    for (const LayerView &view : layers) {
        if (!view.layer->isShown() || view.layer->opacity <= 0 || !view.shows(b))
            continue;
        const ColourRamp *ramp = view.data(LayerChannel::Rule, b) ? view.layer->ramp.get() : nullptr;
        const RampTable *table = nullptr;
        if (ramp)
            table = tables.emplace_back(std::make_unique<RampTable>(tableOf(*ramp, skin))).get();
        const bool laysFinish =
            view.data(LayerChannel::FinishCover, b) != nullptr
            || (ramp && std::any_of(ramp->finish.begin(), ramp->finish.end(), [](const auto &f) { return f.has_value(); }));
        if (!hasFinish && laysFinish)
            sums->finish = {}, sums->covered = {}, hasFinish = true;
        coloured.emplace_back(view, ramp && !ramp->stops.empty() ? table : nullptr, b);
        if (laysFinish)
            addFinish(view, table, b, count, *sums);
    }
    for (std::size_t first = 0; first < count && !coloured.empty(); first += kRun) {
        const std::size_t n = std::min(kRun, count - first);
        sums->light = {};
        bool isAny = false;
        for (const LayerBlock &l : coloured)
            isAny = addColour(l, first, n, *sums) || isAny;
        if (isAny)
            writeColours(sums->light, first, n, out);
    }
    for (std::size_t k = 0; hasFinish && k < kFinishes; ++k)
        for (std::size_t i = 0; i < count; ++i) {
            out[std::size_t(LayerChannel::Gloss) + k][i] = std::uint8_t(std::min(255.0f, sums->finish[k][i] * 255 + 0.5f));
            std::uint8_t &covered = out[std::size_t(LayerChannel::FinishCover)][i];
            covered = std::max(covered, std::uint8_t(std::min(255.0f, sums->covered[k][i] * 255 + 0.5f)));
        }
}

RampColour rampAt(const ColourRamp &ramp, const Skin &skin, float value)
{
    if (ramp.stops.empty())
        return {{}, value};
    const auto colourOf = [&](const ColourRamp::Stop &s) {
        return s.ink.entry ? detail::entryLight(skin, s.ink.entry) : detail::lightOf(s.ink.colour);
    };
    const auto after = std::find_if(ramp.stops.begin(), ramp.stops.end(), [&](const auto &s) { return s.at >= value; });
    if (after == ramp.stops.begin() || after == ramp.stops.end()) {
        const ColourRamp::Stop &s = after == ramp.stops.end() ? ramp.stops.back() : ramp.stops.front();
        return {colourOf(s), s.cover};
    }
    const ColourRamp::Stop &a = *std::prev(after), &z = *after;
    const float t = (value - a.at) / std::max(z.at - a.at, 1e-6f), cover = std::lerp(a.cover, z.cover, t);
    if (cover <= 0)
        return {};
    return {(colourOf(a) * (a.cover * (1 - t)) + colourOf(z) * (z.cover * t)) * (1 / cover), cover};
}

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

void composeColours(Skin &skin, std::span<const std::uint32_t> blocks)
{
    if (skin.colourLayers.empty())
        return;
    const std::vector<LayerView> layers = detail::viewsOf(skin);
    std::vector<std::array<std::shared_ptr<mesh::Block<std::uint8_t>>, kSeenChannels>> made(blocks.size());
    std::vector<std::array<bool, kSeenChannels>> isSame(blocks.size());
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        thread_local Composed composed;
        const std::uint32_t b = blocks[r.begin];
        detail::composeBlock(skin, layers, b, composed);
        for (std::size_t c = 0; c < kSeenChannels; ++c) {
            const std::uint8_t *was = skin.paint.channels[c].data(b), *now = composed[c].data();
            const std::size_t n = composed[c].size();
            const bool isZero = isNone(now, n);
            isSame[r.begin][c] = was ? std::equal(now, now + n, was) : isZero;
            if (isSame[r.begin][c] || isZero)
                continue;
            made[r.begin][c] = std::make_shared<mesh::Block<std::uint8_t>>();
            made[r.begin][c]->values.assign(now, now + n);
        }
    });
    for (std::size_t k = 0; k < blocks.size(); ++k)
        for (std::size_t c = 0; c < kSeenChannels; ++c)
            if (!isSame[k][c])
                skin.paint.channels[c].put(blocks[k], std::move(made[k][c]));
}

void composeColours(Skin &skin)
{
    std::vector<std::uint32_t> all(skin.body.blockCount());
    std::iota(all.begin(), all.end(), 0u);
    composeColours(skin, all);
}

std::vector<float> coverIn(const Skin &skin, std::uint32_t layer, std::size_t b)
{
    LayerView view = detail::viewOf(skin, layer);
    std::vector<float> out(skin.body.countIn(b), 0.0f);
    if (!view.layer || !view.shows(b))
        return out;
    ColourLayer whole = *view.layer;
    whole.opacity = 1, whole.isOn = true, whole.isAside = false, whole.blend = ColourBlend::Mix;
    view.layer = &whole, view.channels[std::size_t(LayerChannel::Mask)] = nullptr;
    Composed composed;
    detail::composeBlock(skin, {&view, 1}, b, composed);
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] =
            float(std::max(composed[std::size_t(LayerChannel::Cover)][i], composed[std::size_t(LayerChannel::FinishCover)][i]))
            * kByte;
    return out;
}

double coveredShare(const Skin &skin, std::uint32_t layer)
{
    std::size_t n = 0;
    for (const std::uint32_t b : blocksOf(skin, layer))
        for (const float cover : coverIn(skin, layer, b))
            n += cover > 0.5f;
    return skin.body.size() == 0 ? 0 : double(n) / double(skin.body.size());
}

namespace {

/// Calls use(block, place in it) for each vertex that a face uses.
template <typename Use> void eachSeen(const Skin &skin, const Use &use)
{
    for (std::size_t b = 0; b < skin.body.blockCount(); ++b) {
        const std::vector<std::uint16_t> unused = skin.shown.topology->block(b).unused();
        std::size_t next = 0; // of those, rising
        for (std::size_t i = 0; i < skin.body.countIn(b); ++i)
            if (next < unused.size() && unused[next] == i)
                ++next;
            else
                use(b, i);
    }
}

} // namespace

Vec3f seenColour(const Skin &skin, std::size_t vertex)
{
    constexpr Vec3f kClay{0.60f, 0.555f, 0.475f};
    const std::size_t b = vertex / mesh::kBlockSize, i = vertex % mesh::kBlockSize;
    const auto at = [&](std::size_t c) {
        const std::uint8_t *v = skin.paint.channels[c].data(b);
        return v ? float(v[i]) : 0.0f;
    };
    const float cover = at(std::size_t(Channel::Cover));
    if (cover <= 0)
        return kClay;
    const auto own = [&](std::size_t c) { return detail::lightOfShare(std::min(1.0f, at(c) / cover)); };
    return lerp(kClay, Vec3f{own(0), own(1), own(2)}, cover * kByte);
}

std::vector<float> seenColours(const Skin &skin)
{
    std::vector<float> out;
    out.reserve(skin.body.size() * 3);
    eachSeen(skin, [&](std::size_t b, std::size_t i) {
        const Vec3f colour = seenColour(skin, b * mesh::kBlockSize + i);
        out.insert(out.end(), {colour.x, colour.y, colour.z});
    });
    return out;
}

std::vector<float> seenFinish(const Skin &skin)
{
    const auto &all = skin.paint.channels;
    if (std::all_of(all.begin() + kColourChannels, all.begin() + kSeenChannels, [](const Bytes &c) { return c.isBlank(); }))
        return {};
    std::vector<float> out;
    out.reserve(skin.body.size() * kFinishes);
    eachSeen(skin, [&](std::size_t b, std::size_t i) {
        for (std::size_t c = kColourChannels; c < kSeenChannels; ++c) {
            const std::uint8_t *v = all[c].data(b);
            out.push_back(v ? float(v[i]) * kByte : 0.0f);
        }
    });
    return out;
}

} // namespace bonemoss::skin
