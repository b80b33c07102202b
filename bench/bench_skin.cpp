#include "bench/creature_given.h"
#include "bench/figure.h"

#include "base/large_pages.h"
#include "base/parallel.h"
#include "base/random.h"
#include "command/stroke_command.h"
#include "growth/growth.h"
#include "growth/scatter.h"
#include "sculpt/dab.h"

#include <embree3/rtcore.h>
#include <fmt/format.h>
#include <nanoflann.hpp>
#include <malloc.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bonemoss::bench {

namespace {

sculpt::StrokeSettings raise(float size)
{
    sculpt::StrokeSettings s;
    s.size = size;
    s.isMirrored = false;
    return s;
}

/// Radius in mm under which n vertices lie on an even sheet.
float radiusFor(double n, double vertices, double side)
{
    return float(std::sqrt(n / vertices * side * side / 3.14159265));
}

/// Median seconds of one Raise dab at places spread over the sheet.
double dabSeconds(mesh::Surface &s, float radius, int runs)
{
    mesh::BlockArray<std::uint8_t> mask(s.positions.size());
    const sculpt::StrokeSettings settings = raise(radius);
    const mesh::Surface start = s;
    const sculpt::StrokeNeeds needs;
    const std::vector<sculpt::Isometry> places(1);
    sculpt::DabWork dabWork{s, mask, settings, start, needs, places};
    std::vector<double> times;
    for (int i = 0; i < runs; ++i) {
        sculpt::Dab d;
        d.centre = {randomSigned(1, std::uint64_t(i) * 2) * 15, 0, randomSigned(1, std::uint64_t(i) * 2 + 1) * 15};
        d.normal = {0, 1, 0};
        d.radius = radius;
        d.amount = 0.01f;
        const sculpt::DabSet pair{d};
        const auto work = [&] { applyDab(dabWork, pair, blocksOf(s, pair), nullptr); };
        work(); // blocks are this state's own from now on
        times.push_back(seconds(work));
    }
    return median(times);
}

Figure dabScale()
{
    const ThreadLimit one(1);
    mesh::Surface small = mesh::makeSurface(waves(1000, 100)), large = mesh::makeSurface(waves(3162, 100));
    const double a = dabSeconds(large, radiusFor(50000, 1e7, 100), 31), b = dabSeconds(small, radiusFor(50000, 1e6, 100), 31);
    return {"dab.scale", a * 1e3, "ms",  "the same dab in 1 million vertices, ms",   b * 1e3,
            a / b,       1.25,    false, "50,000 vertices of 10 million, one thread"};
}

/// The bare loop: flat arrays in good order, faces about each vertex in compressed rows.
struct Flat {
    std::vector<Vec3f> positions, normals;
    std::vector<mesh::Face> faces;
    std::vector<std::uint32_t> start, around;

    explicit Flat(const mesh::PolyMesh &m)
        : positions(m.positions), normals(m.positions.size()), faces(m.faces), start(m.positions.size() + 1, 0)
    {
        for (const mesh::Face &f : faces)
            for (const std::uint32_t v : f.v)
                ++start[v + 1];
        std::partial_sum(start.begin(), start.end(), start.begin());
        around.resize(start.back());
        auto cursor = start;
        for (std::uint32_t f = 0; f < faces.size(); ++f)
            for (const std::uint32_t v : faces[f].v)
                around[cursor[v]++] = f;
    }
    void dab(const std::vector<std::uint32_t> &touched, Vec3f centre, float radius)
    {
        for (const std::uint32_t v : touched) {
            const float t = length(positions[v] - centre) / radius;
            positions[v] += Vec3f{0, 0.01f, 0} * sculpt::weightOf(sculpt::Falloff::Dome, t);
        }
        for (const std::uint32_t v : touched) {
            Vec3f n;
            for (std::uint32_t i = start[v]; i < start[v + 1]; ++i) {
                const auto &c = faces[around[i]].v;
                n += cross(positions[c[2]] - positions[c[0]], positions[c[3]] - positions[c[1]]);
            }
            normals[v] = normalized(n);
        }
    }
};

Figure dabLimit()
{
    const ThreadLimit one(1);
    const mesh::PolyMesh sheet = waves(1000, 100);
    const float radius = radiusFor(100000, 1e6, 100);
    mesh::Surface s = mesh::makeSurface(sheet);
    Flat flat(sheet);
    std::vector<std::uint32_t> touched;
    for (std::uint32_t v = 0; v < sheet.positions.size(); ++v)
        if (length(sheet.positions[v]) < radius)
            touched.push_back(v);
    const double ours = dabSeconds(s, radius, 21);
    std::vector<double> times;
    for (int i = 0; i < 21; ++i)
        times.push_back(seconds([&] { flat.dab(touched, {}, radius); }));
    const double theirs = median(times);
    return {"dab.limit",
            ours * 1e3,
            "ms",
            "bare loop on flat arrays, ms",
            theirs * 1e3,
            ours / theirs,
            0.6,
            false,
            fmt::format("{} vertices, one thread; ours with bounds and the ring of blocks around", touched.size())};
}

Figure strokeLatency()
{
    const mesh::PolyMesh sheet = waves(1414, 100); // 2 million faces
    skin::Skin skin = skin::makeSkin(sheet, true);
    sculpt::StrokeSettings s = raise(float(std::sqrt(0.02 * 100 * 100 / 3.14159265))); // 2 % of the area
    s.isMirrored = true;
    document::LiveStroke live(skin, s, 0);
    std::vector<double> times;
    for (int i = 0; i < 160; ++i) {
        const float t = float(i) / 160;
        const sculpt::PenSample sample{{-30 + 60 * t, 60, 20 * std::sin(t * 9)}, {0, -1, 0}, 1, float(i) * 8};
        times.push_back(seconds([&] {
            live.add(sample);
            live.takeDirty();
        }));
    }
    std::sort(times.begin(), times.end());
    const double p95 = times[std::size_t(double(times.size()) * 0.95)] * 1e3;
    return {"stroke.latency",
            p95,
            "ms",
            "16 ms a sample",
            16,
            p95 / 16,
            1,
            false,
            "95th percentile, mirrored Raise of 2 % of 2 million faces, all threads"};
}

/// A sheet with ten layers over all of it.
skin::Skin tenLayers()
{
    const mesh::PolyMesh sheet = waves(2000, 100);
    skin::Skin skin = skin::makeSkin(sheet, true);
    const std::size_t n = sheet.positions.size();
    for (std::uint32_t l = 1; l <= 10; ++l) {
        skin::Layer layer(n);
        layer.id = l;
        layer.offsets = mesh::BlockArray<Vec3f>(std::vector<Vec3f>(n, Vec3f{0, 0.001f * float(l), 0}));
        skin.layers.push_back(layer);
    }
    return skin;
}

/// Bytes that must move when those blocks are mixed: body and layers with their masks, what is shown, its normals, and the
/// faces that these are made from.
double bytesToMix(const skin::Skin &skin, const std::vector<std::uint32_t> &blocks)
{
    double bytes = 0;
    for (const std::uint32_t b : blocks) {
        std::size_t each = 12 + 12 + 8;
        for (const skin::Layer &l : skin.layers)
            if (l.offsets.has(b))
                each += 12 + l.mask.has(b);
        const mesh::BlockFaces &faces = skin.shown.topology->block(b);
        bytes += double(skin.body.countIn(b) * each + faces.faces.size() * sizeof(mesh::LocalFace) + faces.borrowed.size() * 4);
    }
    return bytes;
}

/// Lays layers over those blocks until ten lie over each.
void fillToTen(skin::Skin &skin, const std::vector<std::uint32_t> &blocks)
{
    std::vector<skin::Layer> more(10, skin::Layer(skin.body.size()));
    for (const std::uint32_t b : blocks)
        for (auto n = std::size_t(
                 std::count_if(skin.layers.begin(), skin.layers.end(), [&](const skin::Layer &l) { return l.offsets.has(b); }));
             n < more.size(); ++n)
            std::fill_n(more[n].offsets.edit(b), skin.body.countIn(b), Vec3f{0, 0.001f * float(n + 1), 0});
    for (std::size_t n = 0; n < more.size(); ++n) {
        more[n].id = 1000000 + std::uint32_t(n);
        skin.layers.push_back(std::move(more[n]));
    }
}

Figure layerMix(const std::string &creature)
{
    skin::Skin skin = creature.empty() ? tenLayers() : creatureGiven(creature).pieces[0]->skin;
    if (skin.layers.empty())
        throw std::runtime_error("layer.mix: the creature has no layers");
    const std::size_t own = skin.layers.size();
    const std::uint32_t id = std::max_element(skin.layers.begin(), skin.layers.end(), [](const auto &a, const auto &b) {
                                 return skin::blocksWith(a).size() < skin::blocksWith(b).size();
                             })->id;
    const auto blocks = skin::blocksWith(*skin.layer(id));
    std::size_t n = 0;
    double lying = 0; // layers over a vertex
    for (const std::uint32_t b : blocks) {
        n += skin.body.countIn(b);
        for (const skin::Layer &l : skin.layers)
            lying += l.offsets.has(b) ? double(skin.body.countIn(b)) : 0;
    }
    lying /= double(n);
    // Bandwidth: read and write, all threads, in pages as large as blocks have them.
    std::vector<PagedVector<float>> a(n * 12 / 16384, PagedVector<float>(16384)), b = a;
    const auto copy = [&] {
        forEachBlock(a.size(), 4, [&](BlockRange r) {
            for (std::size_t k = r.begin; k < r.end; ++k)
                std::transform(a[k].begin(), a[k].end(), b[k].begin(), [](float v) { return v * 1.5f; });
        });
    };
    const double copied = double(a.size()) * 16384 * 8;
    float strength = 0.2f;
    const auto mix = [&] {
        skin.layer(id)->strength = strength += 0.02f;
        skin::mixBlocks(skin, blocks);
    };
    mix();
    std::string alone;
    if (!creature.empty()) {
        const Pair t = medians(5, mix, copy);
        alone = fmt::format("; as it is, {:.1f} layers over one vertex, in {:.0f} ms, {:.2f} of the bandwidth", lying, t.a * 1e3,
                            bytesToMix(skin, blocks) / t.a * t.b / copied);
        fillToTen(skin, blocks);
        mix();
    }
    skin::Skin held = skin;
    const Pair inCopy = medians(
        5,
        [&] {
            skin::Skin shown = skin;
            shown.layer(id)->strength = strength += 0.02f;
            skin::mixBlocks(shown, blocks);
            held = std::move(shown);
        },
        [] {});
    held = {};
    const Pair t = medians(5, mix, copy);
    const double bandwidth = copied / t.b;
    const double ours = bytesToMix(skin, blocks) / t.a;
    return {"layer.mix",
            ours / 1e9,
            "GB/s",
            "read and write bandwidth, GB/s",
            bandwidth / 1e9,
            ours / bandwidth,
            0.5,
            true,
            fmt::format("one of {} over {} vertices in {:.0f} ms, normals and bounds with it; {:.0f} ms beside the state that "
                        "was shown before, as in the window{}",
                        creature.empty() ? "10 layers" : fmt::format("{} layers and what fills them up to ten", own), n,
                        t.a * 1e3, inCopy.a * 1e3, alone)};
}

/// Bytes that are taken from the heap, and for blocks beside it, and not given back.
double inUse()
{
    const auto info = mallinfo2();
    return double(info.uordblks + info.hblkhd + pagedBytesInUse());
}

Figure memoryFigure(double bytesPerVertex, std::string note)
{
    return {"memory", bytesPerVertex, "bytes a vertex", "goal", 120, bytesPerVertex / 120, 1, false, std::move(note)};
}

Figure memoryOf(const std::string &creature)
{
    const double before = inUse();
    const document::Creature c = creatureGiven(creature);
    std::size_t n = 0;
    for (const auto &piece : c.pieces)
        n += piece->skin.body.size();
    const skin::Skin &skin = c.pieces[0]->skin;
    return memoryFigure(
        (inUse() - before) / double(n),
        fmt::format("{} vertices, as the heap grew by opening it with all levels; its largest skin alone, with {} "
                    "layers, {:.0f} by its own count",
                    n, skin.layers.size(), double(skin.memoryBytes()) / double(skin.body.size())));
}

Figure memory()
{
    const mesh::PolyMesh sheet = waves(2000, 100);
    const std::size_t n = sheet.positions.size();
    const double before = inUse();
    skin::Skin skin = skin::makeSkin(sheet, true);
    for (std::uint32_t l = 1; l <= 3; ++l) {
        skin::Layer layer(n);
        layer.id = l;
        for (std::size_t b = 0; b < layer.offsets.blockCount(); ++b)
            std::fill_n(layer.offsets.edit(b), layer.offsets.countIn(b), Vec3f{0, 0.001f * float(l), 0});
        skin.layers.push_back(std::move(layer));
    }
    skin::mixBlocks(skin, skin::blocksWith(skin.layers[0]));
    return memoryFigure((inUse() - before) / double(n),
                        fmt::format("{} vertices, 3 full layers, as the heap grew by making them; {:.0f} by the skin's own count",
                                    n, double(skin.memoryBytes()) / double(n)));
}

/// The places of scales, as a k-d tree takes them.
struct Places {
    std::vector<Vec3f> at;
    std::size_t kdtree_get_point_count() const { return at.size(); }
    float kdtree_get_pt(std::size_t i, std::size_t axis) const { return bonemoss::at(at[i], int(axis)); }
    template <typename Box> bool kdtree_get_bbox(Box &) const { return false; }
};

Figure growScales(const std::string &creature)
{
    constexpr float kSide = 300; // mm; scales of about a millimetre
    skin::Skin bare = creature.empty() ? skin::makeSkin(waves(2000, kSide), true) : creatureGiven(creature).pieces[0]->skin;
    growth::Growth rule = growthOf(*growth::growthNamed("scales"));
    rule.isMirrored = false;
    rule.values[0] = creature.empty() ? 0.81f : std::sqrt(growth::groundOf(bare).area / 1.35e5f); // about 100,000
    rule.values[1] = 0.2f;
    const auto sites = growth::sitesOf(bare, rule, mesh::BlockArray<std::uint8_t>(bare.body.size()), {});
    Places places;
    for (const growth::Site &s : sites)
        places.at.push_back(s.at);
    const std::vector<Vec3f> points = bare.body.flatten();
    std::vector<float> border(points.size());
    const auto ours = [&] {
        skin::Skin skin = bare;
        skin.layers.emplace_back(skin.body.size()).id = 1000;
        if (!growth::grow(skin, 1000, rule, {}))
            throw std::runtime_error("grow.scales: not grown");
    };
    const auto tree = [&] { // with the building of it, as ours finds its sites first
        using Tree = nanoflann::KDTreeSingleIndexAdaptor<nanoflann::L2_Simple_Adaptor<float, Places>, Places, 3>;
        const Tree kd(3, places, {10});
        forEachBlock(points.size(), 4096, [&](BlockRange r) {
            for (std::size_t i = r.begin; i < r.end; ++i) {
                std::size_t which[2] = {};
                float off[2] = {};
                nanoflann::KNNResultSet<float> found(2);
                found.init(which, off);
                kd.findNeighbors(found, &points[i].x, {});
                border[i] = std::sqrt(off[1]) - std::sqrt(off[0]);
            }
        });
    };
    const Pair t = medians(3, ours, tree);
    return {"grow.scales",
            t.a,
            "s",
            "nearest two by a k-d tree, s",
            t.b,
            t.a / t.b,
            1.5,
            false,
            fmt::format("{} overlapping scales over {} vertices: ground, flow, places evened out, heights, normals", sites.size(),
                        points.size())};
}

/// Half of the rays from anywhere about the sheet, half from an eye above, each a little beside the last.
std::vector<mesh::Ray> raysAt(std::size_t n)
{
    std::vector<mesh::Ray> rays;
    for (std::size_t i = 0; i < n; ++i) {
        const auto r = [&](std::uint64_t k) { return randomSigned(7, i * 4 + k); };
        const Vec3f target{r(0) * 48, 0, r(1) * 48};
        const Vec3f from = i % 2 ? Vec3f{r(2) * 80, 30 + 20 * r(3), 70 * r(1)} : Vec3f{0, 90, 40};
        const Vec3f near{-45 + 90 * float(i % 1000) / 1000, 0, -45 + 90 * float(i / 1000) / float(n / 1000 + 1)};
        rays.push_back({from, normalized((i % 2 ? target : near) - from)});
    }
    return rays;
}

Figure pick()
{
    const ThreadLimit one(1);
    const mesh::PolyMesh sheet = waves(2000, 100); // 4 million faces
    skin::Skin skin = skin::makeSkin(sheet, true);
    document::LiveStroke live(skin, raise(12), 0); // part of it moves before it is asked
    for (int i = 0; i < 20; ++i)
        live.add({{float(i) - 10, 60, 3}, {0, -1, 0}, 1, float(i) * 8});
    const mesh::Surface &moved = live.surface();
    const std::vector<mesh::Ray> rays = raysAt(4000);
    const mesh::PolyMesh now = toPolyMesh(moved);
    RTCDevice device = rtcNewDevice("threads=1");
    RTCScene scene = rtcNewScene(device);
    RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_QUAD);
    std::vector<Vec3f> padded = now.positions;
    padded.push_back({}); // the hierarchy reads 16 bytes at the last vertex
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, padded.data(), 0, sizeof(Vec3f),
                               now.positions.size());
    rtcSetSharedGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT4, now.faces.data(), 0, sizeof(mesh::Face),
                               now.faces.size());
    rtcCommitGeometry(g);
    rtcAttachGeometry(scene, g);
    rtcReleaseGeometry(g);
    rtcCommitScene(scene);
    std::size_t ours = 0, theirs = 0, apart = 0;
    std::vector<float> far(rays.size());
    const Pair t = medians(
        5,
        [&] {
            ours = 0;
            for (std::size_t i = 0; i < rays.size(); ++i) {
                const auto hit = mesh::castRay(moved, rays[i]);
                ours += hit.has_value();
                far[i] = hit ? hit->distance : -1;
            }
        },
        [&] {
            theirs = apart = 0;
            for (std::size_t i = 0; i < rays.size(); ++i) {
                const mesh::Ray &r = rays[i];
                RTCRayHit q{};
                q.ray.org_x = r.origin.x, q.ray.org_y = r.origin.y, q.ray.org_z = r.origin.z;
                q.ray.dir_x = r.direction.x, q.ray.dir_y = r.direction.y, q.ray.dir_z = r.direction.z;
                q.ray.tfar = std::numeric_limits<float>::infinity(), q.ray.mask = 0xffffffffu;
                q.hit.geomID = RTC_INVALID_GEOMETRY_ID;
                RTCIntersectContext context;
                rtcInitIntersectContext(&context);
                rtcIntersect1(scene, &context, &q);
                const bool isHit = q.hit.geomID != RTC_INVALID_GEOMETRY_ID;
                theirs += isHit;
                apart += isHit && far[i] >= 0 && std::abs(q.ray.tfar - far[i]) > 1e-2f;
            }
        });
    rtcReleaseScene(scene);
    rtcReleaseDevice(device);
    const double scale = 1e6 / double(rays.size());
    return {"pick",
            t.a * scale,
            "us",
            "Embree on a static scene, us a ray",
            t.b * scale,
            t.a / t.b,
            3,
            false,
            fmt::format("{} rays at {} faces, one thread, no rebuild; {} and {} hits, {} apart", rays.size(), now.faces.size(),
                        ours, theirs, apart)};
}

} // namespace

std::vector<Entry> skinFigures(const std::string &creature)
{
    return {{"pick", pick},
            {"dab.scale", dabScale},
            {"dab.limit", dabLimit},
            {"stroke.latency", strokeLatency},
            {"layer.mix", [creature] { return layerMix(creature); }},
            {"grow.scales", [creature] { return growScales(creature); }},
            {"memory", [creature] { return creature.empty() ? memory() : memoryOf(creature); }}};
}

} // namespace bonemoss::bench
