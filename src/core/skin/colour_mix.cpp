// Colour that is dragged and blurred.
#include "base/parallel.h"
#include "skin/detail/layer_view.h"

#include <algorithm>
#include <unordered_map>

namespace bonemoss::skin {

namespace {

constexpr float kByte = 1.0f / 255;
constexpr std::size_t kOwn = 4; ///< slots of a vertex that hold its own colour: linear light times the cover, and the cover

} // namespace

/// What the layer's arrays hold in the blocks met so far: for each vertex own colour and cover, then the other arrays, 0 to 1.
struct ColourMixer::Values {
    std::uint32_t layer = 0;
    std::vector<std::string> names; ///< of the other arrays
    std::unordered_map<std::uint32_t, std::vector<float>> blocks;
    std::size_t slots() const { return kOwn + names.size(); }

    static std::array<const Bytes *, kOwn> own(const Skin &skin, std::uint32_t layer)
    {
        std::array<const Bytes *, kOwn> out{};
        for (std::size_t c = 0; c < kOwn; ++c)
            out[c] = layerValues(skin, layer, LayerChannel(c));
        return out;
    }
    static const Bytes *named(const Skin &skin, const std::string &name)
    {
        for (const KeptMask &m : skin.colourValues)
            if (m.name == name)
                return &m.values;
        return nullptr;
    }

    std::vector<float> read(const Skin &skin, std::uint32_t b) const
    {
        const std::size_t n = skin.body.countIn(b), width = slots();
        std::vector<float> out(n * width, 0.0f);
        const auto arrays = own(skin, layer);
        if (const std::uint8_t *cover = arrays[3] ? arrays[3]->data(b) : nullptr)
            for (std::size_t i = 0; i < n; ++i) {
                const float whole = float(cover[i]);
                for (std::size_t c = 0; c < 3 && whole > 0; ++c)
                    if (const std::uint8_t *v = arrays[c] ? arrays[c]->data(b) : nullptr)
                        out[i * width + c] = detail::lightOfShare(std::min(1.0f, float(v[i]) / whole)) * whole * kByte;
                out[i * width + 3] = whole * kByte;
            }
        for (std::size_t k = 0; k < names.size(); ++k)
            if (const Bytes *values = named(skin, names[k]))
                if (const std::uint8_t *v = values->data(b))
                    for (std::size_t i = 0; i < n; ++i)
                        out[i * width + kOwn + k] = float(v[i]) * kByte;
        return out;
    }

    void write(Skin &skin, std::uint32_t b) const
    {
        const std::vector<float> &from = blocks.at(b);
        const std::size_t n = skin.body.countIn(b), width = slots();
        const auto byte = [](float v) { return std::uint8_t(std::clamp(v * 255 + 0.5f, 0.0f, 255.0f)); };
        const auto put = [&](Bytes &to, const auto &value) {
            bool any = to.has(b);
            for (std::size_t i = 0; i < n && !any; ++i)
                any = value(i) != 0;
            if (!any)
                return;
            std::uint8_t *out = to.edit(b);
            for (std::size_t i = 0; i < n; ++i)
                out[i] = value(i);
        };
        const auto arrays = own(skin, layer);
        for (std::size_t c = 0; c < kOwn; ++c)
            if (arrays[c])
                put(layerValuesOf(skin, layer, LayerChannel(c)), [&](std::size_t i) {
                    const float *v = from.data() + i * width;
                    return c == 3 ? byte(v[3])
                                  : byte(v[3] > 1e-6f ? detail::shareOfLight(std::min(1.0f, v[c] / v[3])) * v[3] : 0.0f);
                });
        for (std::size_t k = 0; k < names.size(); ++k)
            if (Bytes *to = const_cast<Bytes *>(named(skin, names[k])))
                put(*to, [&](std::size_t i) { return byte(from[i * width + kOwn + k]); });
    }
};

ColourMixer::ColourMixer(const Skin &skin, std::uint32_t layer) : m_values(std::make_unique<Values>())
{
    m_values->layer = layer;
    const detail::LayerView view = detail::viewOf(skin, layer);
    const auto add = [&](const Bytes *values) {
        for (const KeptMask &m : skin.colourValues)
            if (&m.values == values)
                m_values->names.push_back(m.name);
    };
    for (const LayerChannel c : {LayerChannel::Gloss, LayerChannel::Metal, LayerChannel::Wet, LayerChannel::Translucent,
                                 LayerChannel::Grain, LayerChannel::FinishCover})
        add(view.of(c));
    for (const auto &e : view.entries)
        add(e.values);
}

ColourMixer::~ColourMixer() = default;

void ColourMixer::mix(Skin &skin, std::span<const std::uint32_t> blocks, std::span<const std::vector<float>> shares, Vec3f along,
                      int passes)
{
    Values &all = *m_values;
    const mesh::Topology &topology = *skin.shown.topology;
    const std::size_t width = all.slots();
    const auto fetch = [&](std::uint32_t b) {
        if (const auto [at, isNew] = all.blocks.try_emplace(b); isNew)
            at->second = all.read(skin, b);
    };
    for (const std::uint32_t b : blocks) {
        fetch(b);
        for (const std::uint32_t beside : topology.block(b).blocksBeside())
            fetch(beside);
    }
    std::vector<std::vector<float>> made(blocks.size());
    for (int pass = 0; pass < passes; ++pass) {
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            const std::vector<float> &share = shares[r.begin];
            if (share.empty())
                return;
            const std::uint32_t b = blocks[r.begin];
            const mesh::BlockFaces &faces = topology.block(b);
            const std::vector<float> &own = all.blocks.at(b);
            std::vector<float> sum(own.size(), 0.0f), weight(faces.own, 0.0f);
            const Vec3f *p = skin.shown.positions.data(b);
            const auto add = [&](std::uint16_t a, std::uint16_t d) {
                if (share[a] <= 0)
                    return;
                const std::uint32_t other = topology.vertexOf(b, d);
                float w = 1;
                if (!(along == Vec3f{}))
                    w = std::max(0.0f, dot(p[a] - skin.shown.positions[other], along));
                if (w <= 0)
                    return;
                const float *from =
                    all.blocks.at(other / std::uint32_t(mesh::kBlockSize)).data() + (other % mesh::kBlockSize) * width;
                for (std::size_t s = 0; s < width; ++s)
                    sum[a * width + s] += w * from[s];
                weight[a] += w;
            };
            for (const mesh::LocalFace &f : faces.faces)
                for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
                    const std::uint16_t a = f.v[c], d = f.v[c + 1 < n ? c + 1 : 0];
                    if (a < faces.own)
                        add(a, d);
                    if (d < faces.own)
                        add(d, a);
                }
            made[r.begin] = own;
            for (std::size_t i = 0; i < faces.own; ++i)
                if (weight[i] > 0)
                    for (std::size_t s = 0; s < width; ++s)
                        made[r.begin][i * width + s] =
                            std::lerp(own[i * width + s], sum[i * width + s] / weight[i], std::min(share[i], 1.0f));
        });
        for (std::size_t k = 0; k < blocks.size(); ++k)
            if (!made[k].empty())
                all.blocks.at(blocks[k]).swap(made[k]);
    }
    for (std::size_t k = 0; k < blocks.size(); ++k)
        if (!shares[k].empty())
            all.write(skin, blocks[k]);
}

} // namespace bonemoss::skin
