#include "bench/figure.h"

#include "creature/store.h"
#include "creature/stroke_command.h"
#include "io/mesh_file.h"

#include <assimp/Importer.hpp>
#include <assimp/scene.h>

#include <cmath>
#include <filesystem>
#include <fmt/format.h>
#include <stdexcept>
#include <unistd.h>

namespace bonemoss::bench {

namespace {

std::filesystem::path scratch(const char *name)
{
    return std::filesystem::temp_directory_path() / fmt::format("bonemoss-bench-{}-{}", ::getpid(), name);
}

/// ending  without its dot
Figure importFigure(const std::string &ending)
{
    const mesh::PolyMesh m = largeMesh();
    const auto path = scratch(("mesh." + ending).c_str());
    if (!io::writeMesh(path, m))
        throw std::runtime_error("cannot write to the temporary folder");
    const Pair t = medians(
        3, [&] { (void)io::readMesh(path); },
        [&] {
            Assimp::Importer importer;
            importer.ReadFile(path.string(), 0);
        });
    std::filesystem::remove(path);
    return {"import." + ending,
            t.a,
            "s",
            "assimp, s",
            t.b,
            t.b / t.a,
            5,
            true,
            fmt::format("{} triangles, repair and all", m.faces.size())};
}

Figure saveStep()
{
    creature::Creature c;
    auto piece = std::make_shared<creature::Piece>();
    piece->id = c.nextId++;
    piece->name = "skin";
    piece->skin = detail::makeSkin(waves(2236, 100), true); // 5 million vertices
    c.pieces.push_back(piece);
    const auto path = scratch("step.bonemoss");
    std::filesystem::remove(path);
    auto store = creature::Store::open(path);
    if (!store)
        throw std::runtime_error(store.error().text());
    const double first = seconds([&] { (void)(*store)->save(c); });
    std::vector<double> times;
    std::size_t written = 0;
    for (int i = 0; i < 7; ++i) {
        sculpt::StrokeSettings s;
        s.size = float(std::sqrt(0.01 * 100 * 100 / 3.14159265)) * 0.7f; // with its short way 1 % of the skin
        s.isMirrored = false;
        auto changed = std::make_shared<creature::Piece>(*c.pieces[0]);
        creature::LiveStroke live(changed->skin, s, 0);
        live.add({{float(i) * 8 - 25, 60, 3}, {0, -1, 0}, 1, 0});
        live.add({{float(i) * 8 - 23, 60, 3}, {0, -1, 0}, 1, 8});
        if (!live.finish(changed->skin))
            throw std::runtime_error("the stroke failed");
        c.put(changed);
        times.push_back(seconds([&] { written = (*store)->save(c)->blocksWritten; }));
    }
    std::filesystem::remove(path);
    const double step = median(times);
    return {"save.step",
            step * 1e3,
            "ms",
            "the full first save, ms",
            first * 1e3,
            step / first,
            0.03,
            false,
            fmt::format("{} of {} blocks written", written, c.pieces[0]->skin.body.blockCount())};
}

Figure start()
{
    const std::string ours = std::string(BONEMOSS_BIN_DIR) + "/bonemoss --quit-when-painted",
                      empty = std::string(BONEMOSS_BIN_DIR) + "/bench-empty-window";
    const auto run = [](const std::string &command) {
        if (std::system((command + " >/dev/null 2>&1").c_str()) != 0)
            throw std::runtime_error(command + " failed");
    };
    const Pair t = medians(
        7, [&] { run(ours); }, [&] { run(empty); });
    return {"start",
            t.a,
            "s",
            "an empty Qt window with a GL view, s",
            t.b,
            t.a / t.b,
            2,
            false,
            "from start to first painted window and out again"};
}

} // namespace

std::vector<Entry> fileFigures()
{
    return {{"save.step", saveStep},
            {"import.ply", [] { return importFigure("ply"); }},
            {"import.obj", [] { return importFigure("obj"); }},
            {"import.stl", [] { return importFigure("stl"); }},
            {"start", start}};
}

} // namespace bonemoss::bench
