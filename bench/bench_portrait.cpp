#include "bench/figure.h"

#include "base/parallel.h"
#include "io/scene.h"
#include "portrait/develop.h"
#include "portrait/filter.h"
#include "portrait/frame.h"
#include "portrait/path_tracer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bonemoss::bench {

namespace {

using namespace portrait;

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
    return {{"trace.noise", traceNoise}};
}

} // namespace bonemoss::bench
