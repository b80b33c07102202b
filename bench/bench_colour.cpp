#include "bench/figure.h"

#include "base/parallel.h"
#include "base/random.h"
#include "document/ops/live_stroke.h"
#include "skin/colour_layers.h"

#include <fmt/format.h>

#include <cstring>
#include <numeric>

namespace bonemoss::bench {

namespace {

/// A dab of Paint until its colours are composed, against one of Raise until its normals are there, both over a skin of 100,000 vertices.
Figure paintDab()
{
    const ThreadLimit one(1);
    skin::Skin skin = skin::makeSkin(waves(700, 200), true);
    std::uint32_t nextId = 1;
    const std::uint32_t layer = skin::addColourLayer(skin, "Colour", nextId);
    constexpr int kDabs = 40;
    const auto run = [&](sculpt::Tool tool) {
        sculpt::StrokeSettings settings;
        settings.tool = tool, settings.size = 50, settings.isMirrored = false, settings.isConnected = false;
        document::LiveStroke live(skin, settings, tool == sculpt::Tool::Paint ? layer : 0);
        for (int k = 0; k < kDabs; ++k) {
            live.add({{-20 + float(k), 0, 0}, {}, 1, float(k)});
            (void)live.takeDirty();
        }
    };
    const Pair p = medians(
        9, [&] { run(sculpt::Tool::Paint); }, [&] { run(sculpt::Tool::Raise); });
    return {"paint.dab",
            p.a * 1e3 / kDabs,
            "ms",
            "a dab of Raise, ms",
            p.b * 1e3 / kDabs,
            p.a / p.b,
            0.4,
            false,
            "about 100,000 vertices under the ring, a mean step of a stroke of 40; one thread"};
}

/// The opacity of one of eight layers over four million vertices, against reading and writing as many bytes.
Figure paintMix()
{
    skin::Skin skin = skin::makeSkin(waves(2000, 300), true);
    std::uint32_t nextId = 1;
    for (std::uint64_t k = 0; k < 8; ++k) {
        const std::uint32_t id = skin::addColourLayer(skin, "layer", nextId);
        for (std::size_t c = 0; c < 4; ++c) {
            skin::Bytes &to = layerValuesOf(skin, id, skin::LayerChannel(c));
            for (std::size_t b = 0; b < to.blockCount(); ++b) {
                std::uint8_t *v = to.edit(b);
                for (std::size_t i = 0; i < to.countIn(b); ++i)
                    v[i] = c < 3 ? std::uint8_t(100 * randomUnit(k, i + c)) : std::uint8_t(100 + 155 * randomUnit(k, i + 7));
            }
        }
    }
    std::vector<std::uint8_t> from(8 * 4 * skin.body.size()), to(4 * skin.body.size());
    float opacity = 0.5f;
    const Pair p = medians(
        5,
        [&] {
            skin.colourLayers[3].opacity = opacity = 1.1f - opacity;
            composeColours(skin);
        },
        [&] {
            std::uint64_t sum = 0;
            for (std::size_t i = 0; i + 8 <= from.size(); i += 8) {
                std::uint64_t v;
                std::memcpy(&v, from.data() + i, 8);
                sum ^= v;
            }
            std::fill(to.begin(), to.end(), std::uint8_t(sum));
        });
    return {"paint.mix",
            p.a * 1e3,
            "ms",
            "reading and writing the bytes, ms",
            p.b * 1e3,
            p.a / p.b,
            2,
            false,
            fmt::format("8 full layers over {} vertices, in linear light", skin.body.size())};
}

} // namespace

std::vector<Entry> colourFigures()
{
    return {{"paint.dab", paintDab}, {"paint.mix", paintMix}};
}

} // namespace bonemoss::bench
