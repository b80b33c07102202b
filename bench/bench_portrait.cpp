#include "bench/figure.h"

#include "base/parallel.h"
#include "base/random.h"
#include "document/creature.h"
#include "export/shown_scene.h"
#include "io/scene.h"
#include "portrait/develop.h"
#include "portrait/filter.h"
#include "portrait/frame.h"
#include "portrait/path_tracer.h"
#include "portrait/picture_look.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bonemoss::bench {

namespace {

using namespace portrait;
constexpr int kFirstPixels = 8; ///< the view's first picture has one for so many by so many

/// A large mesh with spots of colour and gloss.
io::Scene spotted()
{
    const mesh::PolyMesh mesh = largeMesh();
    io::Shape shape("creature", mesh);
    io::Attribute colour{std::string(io::kColour), mesh::Domain::Vertex, 3, {}},
        finish{std::string(io::kFinish), mesh::Domain::Vertex, kFinishes, {}};
    const float size = mesh::boundsOf(mesh.positions).diagonal();
    for (const Vec3f p : mesh.positions) {
        const float a = std::sin(p.x * 60 / size) * std::sin(p.y * 60 / size) * std::sin(p.z * 60 / size);
        const Vec3f c = a > 0.15f ? Vec3f{0.12f, 0.08f, 0.06f} : Vec3f{0.55f, 0.42f, 0.28f};
        colour.values.insert(colour.values.end(), {c.x, c.y, c.z});
        finish.values.insert(finish.values.end(), {a > 0.15f ? 0.7f : 0.3f, 0.0f, 0.0f, 0.0f, 0.0f});
    }
    shape.attributes = {std::move(colour), std::move(finish)};
    io::Scene scene;
    scene.add(std::move(shape), {.colour = Vec3f{1, 1, 1}});
    return scene;
}

std::unique_ptr<PathTracer> tracerOf(const io::Scene &scene, const char *set, float aspect)
{
    Shot shot;
    shot.aspect = aspect;
    shot.camera.rotation = *viewRotation("three-quarter");
    shot.camera = framing(shot.camera, scene.box(), aspect);
    auto made = PathTracer::make(scene, lightSet(set)->make(scene.box().diagonal()), shot);
    if (!made)
        throw std::runtime_error(made.error().text());
    return std::move(*made);
}

/// A skin of two million faces in three colours with a finish, as a creature holds it.
document::Creature paintedSheet()
{
    document::Creature c;
    auto piece = std::make_shared<document::Piece>();
    piece->id = c.nextId++, piece->name = "sheet";
    piece->skin = skin::makeSkin(waves(1414, 300), true);
    auto &paint = piece->skin.paint;
    const std::size_t n = piece->skin.body.size();
    for (std::size_t b = 0; b * mesh::kBlockSize < n; ++b) {
        auto *red = paint.of(skin::Channel::Red).edit(b), *green = paint.of(skin::Channel::Green).edit(b),
             *blue = paint.of(skin::Channel::Blue).edit(b), *cover = paint.of(skin::Channel::Cover).edit(b);
        for (std::size_t i = 0; i < piece->skin.body.countIn(b); ++i)
            red[i] = 180, green[i] = std::uint8_t(100 + i % 80), blue[i] = 60, cover[i] = 255;
    }
    c.pieces.push_back(std::move(piece));
    return c;
}

/// From a stroke to a whole picture in the view, coarse at first.
Figure traceFirst()
{
    document::Creature creature = paintedSheet();
    Shot shot;
    shot.aspect = 1.6f;
    shot.camera.rotation = *viewRotation("three-quarter");
    shot.camera = framing(shot.camera, creature.bounds(), 1.6f);
    const Stage stage = lightSet("museum")->make(creature.bounds().diagonal());
    auto made = PathTracer::make(exporting::pictureScene(creature), stage, shot, TracedScene::Upkeep::Live);
    if (!made)
        throw std::runtime_error(made.error().text());
    std::unique_ptr<PathTracer> tracer = std::move(*made);
    std::vector<double> times, scenes;
    for (int k = 0; k < 9; ++k) {
        auto piece = std::make_shared<document::Piece>(*creature.pieces[0]);
        const Vec3f middle = piece->skin.shown.positions[std::size_t(piece->skin.body.size() * (k + 1) / 11)];
        std::vector<std::uint32_t> touched = blocksNear(piece->skin.shown, middle, 15);
        for (const std::uint32_t b : touched) {
            Vec3f *p = piece->skin.shown.positions.edit(b);
            for (std::size_t i = 0; i < piece->skin.shown.positions.countIn(b); ++i)
                if (const float d = length(p[i] - middle); d < 15)
                    p[i].y += 2 * (1 - d / 15);
        }
        std::vector<std::uint32_t> around = touched;
        for (const std::uint32_t b : touched)
            for (const std::uint32_t o : piece->skin.shown.topology->block(b).blocksBeside())
                around.push_back(o);
        std::sort(around.begin(), around.end());
        around.erase(std::unique(around.begin(), around.end()), around.end());
        updateBlocks(piece->skin.shown, around);
        creature.pieces[0] = piece;
        scenes.push_back(0);
        times.push_back(seconds([&] {
            scenes.back() = seconds([&] {
                tracer = std::move(*PathTracer::make(exporting::pictureScene(creature), stage, shot, TracedScene::Upkeep::Live,
                                                     std::move(tracer)));
            });
            Gathered g = tracer->blank(1280 / kFirstPixels, 800 / kFirstPixels);
            tracer->gather(g, {.samples = 1});
            shownPicture(g, {}, filtered(g, FilterQuality::Quick), stage.film);
        }));
    }
    const double ms = median(times) * 1e3;
    return {"trace.first",
            ms,
            "ms",
            "a quarter of a second",
            250,
            ms,
            250,
            false,
            fmt::format("{} faces, of it the scene {:.0f} ms", creature.faceCount(), median(scenes) * 1e3)};
}

/// Fibres that stand on a mesh.
std::shared_ptr<const mesh::Curves> fibresOn(const mesh::PolyMesh &mesh, std::size_t count)
{
    auto out = std::make_shared<mesh::Curves>();
    const float size = mesh::boundsOf(mesh.positions).diagonal();
    const mesh::Surface surface = mesh::makeSurface(mesh);
    for (std::size_t k = 0; k < count; ++k) {
        const auto v = std::size_t(randomUnit(1, k) * float(mesh.positions.size() - 1));
        const Vec3f n = surface.normals[v].unpack();
        out->starts.push_back(std::uint32_t(out->points.size()));
        for (int i = 0; i < 6; ++i) {
            const float t = float(i) / 5;
            out->points.push_back(mesh.positions[v] + (n * t - Vec3f{0, 0.6f * t * t, 0}) * (0.03f * size));
            out->radii.push_back(0.0002f * size * (1 - 0.8f * t));
        }
    }
    return out;
}

/// Samples a second of a path tracer against its own rays cast bare, one thread; and how much faster two threads are.
struct Rate {
    double share = 0, threads = 0, rays = 0;
};
Rate rateOf(PathTracer &tracer)
{
    constexpr int kWide = 240, kHigh = 150;
    Rate out;
    std::vector<double> shares, both;
    for (int k = 0; k < 5; ++k) {
        const Gathering how{.samples = 4, .seed = std::uint64_t(k + 1)};
        Gathered g = tracer.blank(kWide, kHigh), again = g, logged = g;
        RayLog log;
        double one = 0, bare = 0, two = 0;
        {
            const ThreadLimit alone(1);
            one = seconds([&] { tracer.gather(g, how); });
            tracer.traced().setLog(&log);
            tracer.gather(logged, how);
            tracer.traced().setLog(nullptr);
            std::size_t met = 0;
            bare = seconds([&] { met = tracer.traced().replay(log); });
            out.rays = double(log.rays.size()) / bare;
        }
        two = seconds([&] { tracer.gather(again, how); });
        shares.push_back(bare / one), both.push_back(one / two);
    }
    out.share = median(shares), out.threads = median(both);
    return out;
}

Figure traceRays()
{
    io::Scene scene = spotted();
    const auto skin = tracerOf(scene, "museum", 1.6f);
    const Rate bare = rateOf(*skin);
    const mesh::PolyMesh mesh = largeMesh();
    io::Shape fur("fur", mesh::PolyMesh{{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, {mesh::Face{{0, 1, 2, kNone}}}});
    fur.curves = fibresOn(mesh, 200000);
    scene.add(std::move(fur), {.name = "fur", .colour = Vec3f{0.3f, 0.2f, 0.12f}});
    const auto furred = tracerOf(scene, "museum", 1.6f);
    const Rate hair = rateOf(*furred);
    const double worst = std::min({bare.share / 0.5, hair.share / 0.7, bare.threads / 1.8});
    return {
        "trace.rays",
        worst,
        "of the goal",
        "Embree casting the same rays bare",
        1,
        worst,
        1,
        true,
        fmt::format("on skin {:.2f} of the bare rate ({:.1f} million rays a second), with 200,000 fibres {:.2f} ({:.1f}); two "
                    "threads {:.2f} times one",
                    bare.share, bare.rays / 1e6, hair.share, hair.rays / 1e6, bare.threads)};
}

/// Eight million faces in blocks and two thousand linked copies.
Figure traceMemory()
{
    io::Scene scene;
    scene.add({"skin", mesh::makeSurface(waves(2828, 300))});
    io::Object &plates = scene.add({"plate", waves(20, 3)});
    plates.places.clear();
    for (int k = 0; k < 2000; ++k)
        plates.places.push_back({{1, 0, 0, 0, 1, 0, 0, 0, 1, float(k % 50) * 6, 4, float(k / 50) * 7}});
    const TracedScene traced(std::move(scene));
    // What any use of it has: the hierarchy, and the points and triangles that it is given.
    const double points = double(2829) * 2829 * 12, triangles = 16e6 * 12,
                 bare = double(traced.hierarchyBytes()) + points + triangles;
    const double ratio = double(traced.memoryBytes()) / bare;
    return {"trace.memory",
            double(traced.memoryBytes()) / 1e6,
            "MB",
            "Embree's structures with the points and triangles it is given",
            bare / 1e6,
            ratio,
            1.15,
            false,
            fmt::format("hierarchy {:.0f} MB", double(traced.hierarchyBytes()) / 1e6)};
}

/// Relative mean square error against a picture of many samples, whose own is taken off.
Figure traceNoise()
{
    const io::Scene scene = spotted();
    const auto tracer = tracerOf(scene, "museum", 480.0f / 304);
    Gathered fine = tracer->blank(480, 304);
    tracer->gather(fine, {.samples = 2048, .seed = 77});
    const auto errorOf = [&](const std::vector<Vec3f> &p) {
        double sum = 0;
        for (std::size_t i = 0; i < p.size(); ++i) {
            const Vec3f is = fine.all(i), d = p[i] - is;
            sum += double(dot(d, d) / (dot(is, is) + 0.01f));
        }
        return sum / double(p.size());
    };
    std::string note;
    double worst = 1e9, micro = 0, quickly = 0;
    Gathered g = tracer->blank(480, 304);
    for (const int samples : {8, 16, 64}) {
        tracer->gather(g, {.samples = samples});
        const double raw = errorOf(mixed(g).light);
        std::vector<Vec3f> full, quick;
        const ThreadLimit one(1);
        micro = seconds([&] { full = filtered(g, FilterQuality::Full); }) * 1e6 / double(g.size());
        quickly = seconds([&] { quick = filtered(g, FilterQuality::Quick); }) * 1e6 / double(g.size());
        const double worth = raw / errorOf(full), goal = samples < 64 ? 20 : 10;
        worst = std::min(worst, worth / goal);
        note += fmt::format("{} samples: raw {:.5f}, worth {:.1f} times, quick {:.1f} times; ", samples, raw, worth,
                            raw / errorOf(quick));
    }
    note += fmt::format("{:.1f} us a pixel, quick {:.1f} us, one thread", micro, quickly);
    return {"trace.noise", worst, "of the goal", "20 times at 8 and 16 samples, 10 at 64", 1, worst, 1, true, note};
}

} // namespace

std::vector<Entry> portraitFigures()
{
    return {{"trace.rays", traceRays}, {"trace.first", traceFirst}, {"trace.memory", traceMemory}, {"trace.noise", traceNoise}};
}

} // namespace bonemoss::bench
