#include "bench/figure.h"

#include "base/parallel.h"
#include "base/random.h"
#include "colour/rule_input.h"
#include "document/ops/live_stroke.h"
#include "field/knit.h"
#include "skin/colour_layers.h"
#include "skin/skin_maps.h"

#include <embree3/rtcore.h>
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

/// A modelled creature knitted to a million vertices.
skin::Skin knittedCreature(std::size_t vertices)
{
    const auto knitted = field::knitMesh(largeMesh(), {0, vertices});
    if (!knitted)
        throw std::runtime_error("the creature could not be knitted");
    return skin::makeSkin(knitted->mesh, true);
}

/// A coat of about 700 marks grown again at another size over a million vertices, the ground once prepared.
Figure coatPattern()
{
    constexpr double kGoal = 0.5;
    skin::Skin skin = knittedCreature(1'000'000);
    std::uint32_t nextId = 1;
    const std::uint32_t layer = skin::addColourLayer(skin, "coat", nextId);
    skin::colourLayer(skin, layer)->ramp = std::make_shared<const skin::ColourRamp>(colour::rampOf({{0.2f, 0.1f, 0.05f}, 0}));
    double area = 0;
    toPolyMesh(skin.shown); // warm
    for (const mesh::Face &f : skin.shown.topology->faces()) {
        const Vec3f a = skin.shown.positions[f.v[0]], b = skin.shown.positions[f.v[1]], c = skin.shown.positions[f.v[2]];
        area += double(length(cross(b - a, c - a))) * (f.size() == 4 ? 1.0 : 0.5);
    }
    const auto size = float(std::sqrt(area / 700 / 0.866));
    colour::Rule rule = colour::ruleOf(*colour::ruleNamed("spots"));
    rule.settings[4] = 0; // all marks of one size
    const growth::Surroundings about;
    const colour::RuleGround ground(skin, about);
    std::vector<double> times;
    double prepared = 0;
    for (int k = 0; k < 6; ++k) {
        rule.settings[0] = size * (1 + 0.02f * float(k));
        const colour::RuleInput in{rule, skin, about, ground, {}, {}, skin::Bytes(skin.body.size()), {}, 77, {}};
        const double t = seconds([&] {
            if (!colour::run(skin, layer, rule, in))
                throw std::runtime_error("coat.pattern: not grown");
        });
        k == 0 ? void(prepared = t) : times.push_back(t);
    }
    const double again = median(times);
    return {
        "coat.pattern",
        again * 1e3,
        "ms",
        "half a second, ms",
        kGoal * 1e3,
        again / kGoal,
        1,
        false,
        fmt::format("spots of {:.3g} over {} vertices, values, blending and composing; the first time, with the ground, {:.2f} s",
                    size, skin.body.size(), prepared)};
}

/// Ambient occlusion of a million vertices, as rays in a second, against bare rays of Embree.
Figure fillRays()
{
    constexpr int kRays = 16, kSides = 96;
    const skin::Skin skin = knittedCreature(1'000'000);
    const mesh::PolyMesh mesh = toPolyMesh(skin.shown);
    RTCDevice device = rtcNewDevice("");
    RTCScene scene = rtcNewScene(device);
    RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_QUAD);
    std::vector<Vec3f> padded = mesh.positions;
    padded.push_back({}); // the hierarchy reads 16 bytes at the last vertex
    std::vector<std::array<std::uint32_t, 4>> quads;
    for (const mesh::Face &f : mesh.faces)
        quads.push_back({f.v[0], f.v[1], f.v[2], f.size() == 4 ? f.v[3] : f.v[2]});
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, padded.data(), 0, sizeof(Vec3f),
                               mesh.positions.size());
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT4, quads.data(), 0, sizeof quads[0], quads.size());
    rtcCommitGeometry(g);
    rtcAttachGeometry(scene, g);
    rtcReleaseGeometry(g);
    rtcCommitScene(scene);
    std::vector<Vec3f> normals;
    for (std::size_t v = 0; v < skin.body.size(); ++v)
        normals.push_back(skin.shown.normals[v].unpack());
    const float little = 0.02f * meanEdgeLength(skin.shown);
    std::vector<float> open(skin.body.size());
    const Pair t = medians(
        3, [&] { (void)mapOf(skin, skin::SkinMap::AmbientOcclusion, {}); },
        [&] {
            forEachBlock(skin.body.size(), 4096, [&](BlockRange r) {
                RTCIntersectContext context;
                rtcInitIntersectContext(&context);
                for (std::size_t v = r.begin; v < r.end; ++v) {
                    int free = 0;
                    for (int k = 0; k < kRays; ++k) {
                        Vec3f d{randomSigned(3, v * 64 + k * 3), randomSigned(3, v * 64 + k * 3 + 1),
                                randomSigned(3, v * 64 + k * 3 + 2)};
                        d = normalized(d + normals[v] * 1.2f);
                        const Vec3f p = skin.shown.positions[v] + normals[v] * little;
                        RTCRay ray{};
                        ray.org_x = p.x, ray.org_y = p.y, ray.org_z = p.z, ray.dir_x = d.x, ray.dir_y = d.y, ray.dir_z = d.z;
                        ray.tfar = std::numeric_limits<float>::infinity(), ray.mask = 0xffffffffu;
                        rtcOccluded1(scene, &context, &ray);
                        free += ray.tfar >= 0;
                    }
                    open[v] = float(free) / kRays;
                }
            });
        });
    rtcReleaseScene(scene);
    rtcReleaseDevice(device);
    const double n = double(skin.body.size()), ours = n * kSides / t.a / 1e6, theirs = n * kRays / t.b / 1e6;
    return {"fill.rays",
            ours,
            "million sides looked at a second",
            "million bare rays of Embree a second",
            theirs,
            ours / theirs,
            0.9,
            true,
            fmt::format("ambient occlusion of {} vertices from {} sides in {:.2f} s; {} rays of Embree a vertex in {:.2f} s",
                        skin.body.size(), kSides, t.a, kRays, t.b)};
}

/// What five colour layers take, two painted whole, two by rule, one painted with a palette colour, and what they add up to.
Figure memoryOfColours()
{
    constexpr double kRoom = 33; // what the goal of `memory` leaves beside three full detail layers
    skin::Skin skin = skin::makeSkin(waves(1000, 100), true);
    const double before = double(skin.memoryBytes()), n = double(skin.body.size());
    std::uint32_t nextId = 1;
    const skin::Bytes all = [&] {
        skin::Bytes out(skin.body.size());
        for (std::size_t b = 0; b < out.blockCount(); ++b)
            std::fill_n(out.edit(b), out.countIn(b), std::uint8_t(255));
        return out;
    }();
    std::vector<std::uint32_t> blocks(all.blockCount());
    std::iota(blocks.begin(), blocks.end(), 0u);
    skin::usePaletteColour(skin, {90, "moss", {0.3f, 0.4f, 0.2f}});
    for (int k = 0; k < 5; ++k) {
        const std::uint32_t id = skin::addColourLayer(skin, "layer", nextId);
        const skin::Skin from = skin;
        if (k == 1 || k == 3) {
            skin::colourLayer(skin, id)->ramp =
                std::make_shared<const skin::ColourRamp>(colour::rampOf({{0.2f, 0.1f, 0.05f}, 0}));
            skin::layerValuesOf(skin, id, skin::LayerChannel::Rule) = all;
        } else {
            skin::ColourCoat coat;
            coat.colour = skin::Ink{{0.5f, 0.4f, 0.3f}, k == 4 ? 90u : 0u};
            skin::layCoat(skin, from, id, coat, all, blocks);
        }
    }
    skin::composeColours(skin);
    const double each = (double(skin.memoryBytes()) - before) / n;
    return {"memory.colours",
            each,
            "bytes a vertex",
            "room beside three detail layers",
            kRoom,
            each / kRoom,
            1,
            false,
            fmt::format("five full colour layers over {} vertices, by the skin's own count", skin.body.size())};
}

} // namespace

std::vector<Entry> colourFigures()
{
    return {{"paint.dab", paintDab},
            {"paint.mix", paintMix},
            {"coat.pattern", coatPattern},
            {"fill.rays", fillRays},
            {"memory.colours", memoryOfColours}};
}

} // namespace bonemoss::bench
