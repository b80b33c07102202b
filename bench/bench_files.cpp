#include "bench/creature_given.h"
#include "bench/figure.h"

#include "base/parallel.h"
#include "store/store.h"
#include "command/stroke_command.h"
#include "io/mesh_file.h"

#include <Model/COM/NMR_DLLInterfaces.h>
#include <assimp/Importer.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <sqlite3.h>
#include <zstd.h>
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
    // STL shares no points: to get what we give, faces over shared points, the other has to join them too.
    const unsigned steps = ending == "stl" ? unsigned(aiProcess_JoinIdenticalVertices) : 0u;
    const Pair t = medians(
        3, [&] { (void)io::readMesh(path); },
        [&] {
            Assimp::Importer importer;
            importer.ReadFile(path.string(), steps);
        });
    std::filesystem::remove(path);
    return {"import." + ending, t.a, "s",  steps ? "assimp, equal points joined, s" : "assimp, s",     t.b,
            t.b / t.a,          5,   true, fmt::format("{} triangles, repair and all", m.faces.size())};
}

/// A closed ring of two million triangles with bumps.
mesh::PolyMesh largeRing()
{
    constexpr std::uint32_t kAround = 1000;
    mesh::PolyMesh m;
    for (std::uint32_t i = 0; i < kAround; ++i)
        for (std::uint32_t k = 0; k < kAround; ++k) {
            const float a = 2 * kPi * float(i) / kAround, b = 2 * kPi * float(k) / kAround;
            const float r = 20 + 0.3f * std::sin(31 * a) * std::sin(17 * b), out = 50 + r * std::cos(b);
            m.positions.push_back({out * std::cos(a), r * std::sin(b), -out * std::sin(a)});
            const auto at = [&](std::uint32_t x, std::uint32_t y) { return x % kAround * kAround + y % kAround; };
            m.faces.push_back({{at(i, k), at(i + 1, k), at(i + 1, k + 1), at(i, k + 1)}});
        }
    return m;
}

/// Both write the same triangles with a colour at each corner.
Figure write3mf()
{
    using namespace NMR;
    const mesh::PolyMesh m = largeRing();
    const auto triangles = mesh::triangulate(m);
    io::Scene scene;
    io::Shape shape("skin", m);
    io::Attribute colours{std::string(io::kColour), mesh::Domain::Vertex, 3, {}};
    const auto levelOf = [](std::size_t v) { return float(v % 97) / 96; };
    for (std::size_t v = 0; v < m.positions.size(); ++v)
        colours.values.insert(colours.values.end(), {levelOf(v), 0.5f, 0.2f});
    shape.attributes.push_back(std::move(colours));
    scene.add(std::move(shape));
    const auto own = scratch("own.3mf"), other = scratch("other.3mf");
    const Pair t = medians(
        3, [&] { (void)io::writeScene(own, scene); },
        [&] {
            std::vector<MODELMESHVERTEX> points(m.positions.size());
            for (std::size_t v = 0; v < points.size(); ++v)
                points[v] = {{m.positions[v].x, m.positions[v].y, m.positions[v].z}};
            std::vector<MODELMESHTRIANGLE> faces(triangles.size());
            std::vector<MODELMESH_TRIANGLECOLOR_SRGB> at(triangles.size());
            for (std::size_t k = 0; k < faces.size(); ++k)
                for (std::size_t c = 0; c < 3; ++c) {
                    faces[k].m_nIndices[c] = triangles[k][c];
                    at[k].m_Colors[c] = {BYTE(255 * levelOf(triangles[k][c])), 188, 124, 255};
                }
            PLib3MFModel *model = nullptr;
            PLib3MFModelMeshObject *object = nullptr;
            PLib3MFPropertyHandler *handler = nullptr;
            PLib3MFModelBuildItem *item = nullptr;
            PLib3MFModelWriter *writer = nullptr;
            lib3mf_createmodel(&model), lib3mf_model_addmeshobject(model, &object);
            lib3mf_meshobject_setgeometry(object, points.data(), DWORD(points.size()), faces.data(), DWORD(faces.size()));
            lib3mf_meshobject_createpropertyhandler(object, &handler);
            lib3mf_propertyhandler_setgradientcolorarray(handler, at.data());
            PLib3MFDefaultPropertyHandler *whole = nullptr; // it does not write without
            lib3mf_object_createdefaultpropertyhandler(object, &whole);
            lib3mf_defaultpropertyhandler_setcolorrgb(whole, 128, 128, 128);
            lib3mf_model_addbuilditem(model, object, nullptr, &item), lib3mf_model_querywriter(model, "3mf", &writer);
            if (lib3mf_writer_writetofileutf8(writer, other.c_str()) != 0)
                throw std::runtime_error("lib3mf could not write");
            lib3mf_release(writer), lib3mf_release(handler), lib3mf_release(model);
        });
    const auto size = [](const std::filesystem::path &p) { return double(std::filesystem::file_size(p)) / 1e6; };
    const std::string note =
        fmt::format("{} triangles with colours; files of {:.0f} and {:.0f} MB", triangles.size(), size(own), size(other));
    std::filesystem::remove(own), std::filesystem::remove(other);
    return {"write.3mf", t.a, "s", "lib3mf, s", t.b, t.b / t.a, 3, true, note};
}

document::Creature creatureOf(std::uint32_t n)
{
    document::Creature c;
    auto piece = std::make_shared<document::Piece>();
    piece->id = c.nextId++;
    piece->name = "skin";
    piece->skin = skin::makeSkin(waves(n, 100), true);
    c.pieces.push_back(piece);
    return c;
}

/// Bytes after reading and decompressing every blob of a store, in one pass.
std::size_t readAll(const std::filesystem::path &path)
{
    sqlite3 *db = nullptr;
    sqlite3_stmt *rows = nullptr;
    std::size_t total = 0;
    if (sqlite3_open_v2(path.c_str(), &db, SQLITE_OPEN_READONLY, nullptr) != SQLITE_OK
        || sqlite3_prepare_v2(db, "SELECT raw, data FROM blob", -1, &rows, nullptr) != SQLITE_OK)
        throw std::runtime_error("cannot read back what was saved");
    std::vector<std::vector<char>> packed;
    std::vector<std::size_t> raw;
    while (sqlite3_step(rows) == SQLITE_ROW) {
        const auto *data = static_cast<const char *>(sqlite3_column_blob(rows, 1));
        packed.emplace_back(data, data + sqlite3_column_bytes(rows, 1));
        raw.push_back(std::size_t(sqlite3_column_int64(rows, 0)));
        total += raw.back();
    }
    sqlite3_finalize(rows);
    sqlite3_close(db);
    std::vector<std::vector<char>> out(packed.size()); // kept, as an open file is
    forEachBlock(packed.size(), 1, [&](BlockRange r) {
        out[r.begin].resize(raw[r.begin]);
        ZSTD_decompress(out[r.begin].data(), out[r.begin].size(), packed[r.begin].data(), packed[r.begin].size());
    });
    return total;
}

/// Up to everything that a picture is drawn from: faces, positions, normals, boxes.
Figure open(const std::string &creature)
{
    const std::filesystem::path path = creature.empty() ? scratch("open.bonemoss") : std::filesystem::path(creature);
    if (creature.empty()) {
        std::filesystem::remove(path);
        if (!store::saveAs(path, creatureOf(2236)))
            throw std::runtime_error("cannot write to the temporary folder");
    }
    std::size_t bytes = 0;
    const Pair t = medians(
        3,
        [&] {
            if (!store::loadStore(path))
                throw std::runtime_error("cannot read back what was saved");
        },
        [&] { bytes = readAll(path); });
    if (creature.empty())
        std::filesystem::remove(path);
    return {"open",
            t.a,
            "s",
            "reading and decompressing its bytes, s",
            t.b,
            t.a / t.b,
            2,
            false,
            fmt::format("{}, {:.0f} MB unpacked; to a surface ready to be drawn",
                        creature.empty() ? "5 million vertices" : creature, double(bytes) / 1e6)};
}

/// How far from what lies under a place a hundredth of the vertices reach, mm.
float radiusAbout(const mesh::Surface &skin, Vec3f above)
{
    const auto hit = mesh::castRay(skin, {above, {0, -1, 0}});
    if (!hit)
        throw std::runtime_error("save.step: no skin under the middle of the creature");
    std::vector<float> off;
    for (std::size_t v = 0; v < skin.positions.size(); ++v)
        off.push_back(squaredLength(skin.positions[v] - hit->point));
    const auto at = off.begin() + std::ptrdiff_t(off.size() / 100);
    std::nth_element(off.begin(), at, off.end());
    return std::sqrt(*at);
}

Figure saveStep(const std::string &creature)
{
    document::Creature c = creature.empty() ? creatureOf(2236) : creatureGiven(creature); // 5 million vertices
    const Box3f box = c.pieces[0]->skin.shown.box();
    const float length = creature.empty() ? 100 : 0.5f * box.size().z;
    const auto path = scratch("step.bonemoss");
    std::filesystem::remove(path);
    auto store = store::Store::open(path);
    if (!store)
        throw std::runtime_error(store.error().text());
    const double first = seconds([&] { (void)(*store)->save(c); });
    std::vector<double> times;
    std::size_t written = 0;
    for (int i = 0; i < 7; ++i) {
        sculpt::StrokeSettings s;
        const Vec3f from = box.centre() + Vec3f{0.003f * length, box.size().y, (0.08f * float(i) - 0.25f) * length};
        s.size = 0.7f * radiusAbout(c.pieces[0]->skin.shown, from); // with its short way 1 % of the skin
        s.isMirrored = false;
        auto changed = std::make_shared<document::Piece>(*c.pieces[0]);
        document::LiveStroke live(changed->skin, s, 0);
        live.add({from, {0, -1, 0}, 1, 0});
        live.add({from + Vec3f{0, 0, 0.02f * length}, {0, -1, 0}, 1, 8});
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

/// What bench-window measures, in a window of its own.
nlohmann::json measuredInWindow()
{
    FILE *pipe = popen((std::string(BONEMOSS_BIN_DIR) + "/bench-window").c_str(), "r");
    std::string text;
    char buffer[4096];
    while (pipe && std::fgets(buffer, sizeof buffer, pipe))
        text += buffer;
    if (!pipe || pclose(pipe) != 0)
        throw std::runtime_error("bench-window failed");
    return nlohmann::json::parse(text);
}

Figure frame()
{
    const nlohmann::json m = measuredInWindow();
    const double ours = m["frame"][0], plain = m["frame"][1];
    return {"frame",
            ours * 1e3,
            "ms",
            "the same triangles with the plainest lit shader, ms",
            plain * 1e3,
            ours / plain,
            1.5,
            false,
            fmt::format("{} triangles, 1280 x 800, four samples a pixel", m["triangles"].get<std::size_t>())};
}

Figure frameOutgrowths()
{
    const nlohmann::json m = measuredInWindow();
    const double with = m["grown"][0], bare = m["grown"][1];
    return {"frame.outgrowths",
            with * 1e3,
            "ms",
            "a bare skin of as many faces, ms",
            bare * 1e3,
            with / bare,
            1.1,
            false,
            fmt::format("50 outgrowths with {} members, {} faces with their skin, 1280 x 800, four samples a pixel",
                        m["members"].get<std::size_t>(), m["grownFaces"].get<std::size_t>())};
}

Figure undo()
{
    const nlohmann::json m = measuredInWindow();
    const double back = m["undo"][0], copy = m["undo"][1], sent = m["undo"][2];
    return {
        "undo",
        (back + sent) * 1e3,
        "ms",
        "copying the touched blocks, ms",
        copy * 1e3,
        (back + sent) / copy,
        4,
        false,
        fmt::format(
            "{} blocks of 5 million vertices; the state itself {:.1f} us, the rest finds what changed and sends it to the card",
            m["blocks"].get<std::size_t>(), back * 1e6)};
}

} // namespace

std::vector<Entry> fileFigures(const std::string &creature)
{
    return {{"save.step", [creature] { return saveStep(creature); }},
            {"open", [creature] { return open(creature); }},
            {"import.ply", [] { return importFigure("ply"); }},
            {"import.obj", [] { return importFigure("obj"); }},
            {"import.stl", [] { return importFigure("stl"); }},
            {"write.3mf", write3mf},
            {"start", start},
            {"frame", frame},
            {"frame.outgrowths", frameOutgrowths},
            {"undo", undo}};
}

} // namespace bonemoss::bench
