#include "cli/commands.h"
#include "cli/reading.h"
#include "base/files.h"

#include "store/part.h"
#include "command/recipe.h"
#include "document/ops/posing.h"
#include "export/shown_scene.h"
#include "store/store.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "outgrowth/outgrowth.h"
#include "document/items.h"
#include "solid/crossings.h"

#include <chrono>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::cli {

using nlohmann::json;

int fail(const Error &e, int code)
{
    fmt::print(stderr, "bonemoss-cli: {}\n", e.text());
    return code;
}

bool isCreature(const std::filesystem::path &p)
{
    return p.extension() == ".bonemoss";
}

int writeOut(const std::filesystem::path &out, const io::Scene &scene)
{
    Status done = Done{};
    if (isCreature(out)) {
        document::Creature c;
        for (const io::Object &o : scene.objects) {
            auto piece = std::make_shared<document::Piece>();
            piece->id = c.nextId++, piece->name = c.uniqueName(o.name);
            const mesh::PolyMesh ordered = inSpatialOrder(io::meshOf(scene, o));
            if (!fitsBlocks(ordered))
                return fail({ErrorCode::TooLarge, o.name, "at too many of its points meet thousands of faces each"}, kFailed);
            piece->skin = skin::makeSkin(ordered, true);
            c.pieces.push_back(std::move(piece));
        }
        if (const auto saved = store::saveAs(out, c); !saved)
            done = saved.error();
    } else {
        done = io::writeScene(out, scene);
    }
    return done ? kDone : fail(done.error(), done.error().code == ErrorCode::Unsupported ? kUsage : kFailed);
}

int checkOut(const std::filesystem::path &out)
{
    const io::MeshFormat *f = io::formatFor(out);
    if (isCreature(out) || (f && f->write))
        return kDone;
    return fail({ErrorCode::Unsupported, shownPath(out), "write to .obj, .stl, .ply, .glb, .3mf or .bonemoss"}, kUsage);
}

double now()
{
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

Result<document::Creature> loadTold(const std::filesystem::path &file)
{
    auto loaded = store::loadStore(file);
    if (!loaded)
        return loaded.error();
    for (const std::string &d : loaded->damage)
        fmt::print(stderr, "bonemoss-cli: {}: {}\n", shownPath(file), d);
    return std::move(loaded->creature);
}

namespace {

constexpr std::size_t kDistanceSamples = 200'000;

enum class Read {
    All,
    Rigged,
    Picture,
    Skins
}; ///< what of a creature: all that is seen, with its finish, or its visible pieces alone

/// What of a creature there is, or what a mesh file has.
Result<io::Scene> readScene(const std::filesystem::path &file, Read what)
{
    if (isCreature(file)) {
        const auto creature = loadTold(file);
        if (!creature)
            return creature.error();
        switch (what) {
        case Read::All: return exporting::colouredScene(document::posed(*creature));
        case Read::Rigged: return exporting::sceneForFile(*creature, true);
        case Read::Picture: return exporting::pictureScene(document::posed(*creature));
        case Read::Skins: return exporting::skinScene(document::posed(*creature));
        }
    }
    auto read = io::readScene(file);
    if (!read)
        return read.error();
    for (const io::Repair &r : read->repairs)
        fmt::print(stderr, "bonemoss-cli: {}: {}: {}\n", shownPath(file), r.what, r.count);
    for (io::Object &o : read->scene.objects)
        if (o.name.empty() || read->scene.objects.size() == 1)
            o.name = shownPath(file.stem());
    return std::move(read->scene);
}

io::Scene sceneOf(const std::string &name, mesh::PolyMesh mesh)
{
    io::Scene scene;
    scene.add({name, std::move(mesh)});
    return scene;
}

/// A ready part as the skin it would knit into, with what is kept apart from that, for its picture.
Result<io::Scene> knittedPart(const std::filesystem::path &file)
{
    auto part = store::readPart(file);
    if (!part)
        return part.error();
    const auto source = armature::makeDistance(part->armature);
    auto skin = field::previewSource(*source, source->bounds().diagonal() / 220);
    if (!skin)
        return skin.error();
    document::Creature apart;
    apart.armature = std::move(part->armature);
    for (armature::Form &f : apart.armature.forms)
        f.isHidden = f.isHidden || f.role != armature::FormRole::Apart;
    io::Scene scene = exporting::shownScene(apart);
    scene.add({part->title, std::move(*skin)});
    return scene;
}

json toJson(const std::string &name, const mesh::Measures &m)
{
    const auto row = [](Vec3f v) { return json{v.x, v.y, v.z}; };
    json bounds = m.bounds.isEmpty() ? json(nullptr) : json{{"min", row(m.bounds.lo)}, {"max", row(m.bounds.hi)}};
    return {{"name", name},
            {"vertices", m.vertices},
            {"faces", m.faces},
            {"triangles", m.triangles},
            {"quads", m.quads},
            {"boundaryEdges", m.boundaryEdges},
            {"nonManifoldEdges", m.nonManifoldEdges},
            {"components", m.components},
            {"genus", m.genus},
            {"closed", m.closed},
            {"volumeMm3", m.volumeMm3},
            {"areaMm2", m.areaMm2},
            {"centreOfMassMm", {m.centreOfMassMm[0], m.centreOfMassMm[1], m.centreOfMassMm[2]}},
            {"boundsMm", bounds}};
}

void warnOpen(const std::string &name, const mesh::Measures &m)
{
    if (!m.closed)
        fmt::print(stderr, "bonemoss-cli: {}: not closed ({} open edges, {} edges of more than two faces)\n", name,
                   m.boundaryEdges, m.nonManifoldEdges);
}

} // namespace

namespace {

/// One item of a creature: measures of all it shows, and how it is made up. Crossings of each shape count once, and are not looked for
/// where a shape has more faces than are counted in a moment.
json aboutItem(const Item &item, std::string_view kind, const io::Scene &scene)
{
    constexpr std::size_t kMostLookedThrough = 300'000;
    json out = toJson(item.name, mesh::measure(io::joined(scene)));
    std::size_t members = 0, crossings = 0;
    bool areCounted = true;
    for (const io::Object &o : scene.objects)
        members += o.places.size();
    for (const io::Shape &shape : scene.shapes) {
        areCounted = areCounted && shape.faceCount() <= kMostLookedThrough;
        if (areCounted)
            crossings += solid::selfCrossings(shape.toPolyMesh());
    }
    out.update({{"kind", kind},
                {"members", members},
                {"linked", scene.shapes.size() < members},
                {"selfCrossings", areCounted ? json(crossings) : json()}});
    return out;
}

json aboutItems(const document::Creature &c, io::Scene &all)
{
    json out = json::array();
    document::eachItem(c, [&](const document::ItemKind &kind, std::size_t k, const Item &item) {
        io::Scene own;
        if (kind.isSeen(c, k, document::Shown::All))
            kind.show(c, k, own);
        if (own.isEmpty())
            return;
        const outgrowth::Outgrowth *o = c.outgrowth(item.id);
        out.push_back(aboutItem(item, o ? o->kind->name : kind.name, own));
        all.append(std::move(own));
    });
    return out;
}

} // namespace

int info(const std::filesystem::path &file, bool asJson)
{
    io::Scene scene;
    json pieces = json::array();
    if (isCreature(file)) {
        const auto creature = loadTold(file);
        if (!creature)
            return fail(creature.error(), kUnreadable);
        pieces = aboutItems(*creature, scene);
    } else {
        auto read = readScene(file, Read::All);
        if (!read)
            return fail(read.error(), kUnreadable);
        scene = std::move(*read);
        for (const io::Object &o : scene.objects)
            pieces.push_back(toJson(o.name, mesh::measure(io::meshOf(scene, o))));
    }
    const mesh::Measures total = mesh::measure(io::joined(scene));
    const json report = {{"pieces", pieces}, {"total", toJson("total", total)}};
    if (asJson) {
        fmt::print("{}\n", report.dump(2));
        return kDone;
    }
    for (const json &p : pieces)
        fmt::print("{}: {} faces, {} points, {}, {} island(s), {:.6g} mm3, {:.6g} mm2\n", p["name"].get<std::string>(),
                   p["faces"].get<std::size_t>(), p["vertices"].get<std::size_t>(), p["closed"].get<bool>() ? "closed" : "open",
                   p["components"].get<std::size_t>(), p["volumeMm3"].get<double>(), p["areaMm2"].get<double>());
    return kDone;
}

int knit(const std::vector<std::filesystem::path> &in, const std::filesystem::path &out, field::Density density, bool asJson)
{
    if (const int wrong = checkOut(out))
        return wrong;
    const double start = now();
    mesh::PolyMesh input;
    for (const auto &file : in) {
        auto some = readScene(file, Read::Skins);
        if (!some)
            return fail(some.error(), kUnreadable);
        if (in.size() == 1)
            input = io::joined(std::move(*some));
        else
            append(input, io::joined(*some));
    }
    const double read = now();
    auto knitted = field::knitMesh(input, density);
    if (!knitted)
        return fail(knitted.error(), kFailed);
    if (knitted->report.filledEdges > 0)
        fmt::print(stderr, "bonemoss-cli: the input was open or inside out in places; its holes were closed\n");
    const double measuring = now();
    const mesh::DistanceStats d = mesh::distanceTo(input, knitted->mesh.positions, kDistanceSamples);
    const double writing = now();
    const std::size_t vertices = knitted->mesh.positions.size(), knittedFaces = knitted->mesh.faces.size();
    if (const int failed = writeOut(out, sceneOf("skin", std::move(knitted->mesh))))
        return failed;
    const double done = now();
    const field::KnitReport &r = knitted->report;
    const json report = {{"forecastFaces", r.forecastFaces},
                         {"faces", knittedFaces},
                         {"vertices", vertices},
                         {"spacingMm", r.spacing},
                         {"filledEdges", r.filledEdges},
                         {"seconds",
                          {{"read", read - start},
                           {"field", r.fieldSeconds},
                           {"contour", r.contourSeconds},
                           {"measure", writing - measuring},
                           {"write", done - writing}}},
                         {"meanDistanceMm", d.mean},
                         {"maxDistanceMm", d.largest},
                         {"distanceSamples", d.samples}};
    if (asJson)
        fmt::print("{}\n", report.dump(2));
    else
        fmt::print("{} faces at {:.4g} mm (forecast {}); {:.3g} mm from the input on average, {:.3g} mm at most\n", knittedFaces,
                   r.spacing, r.forecastFaces, d.mean, d.largest);
    return kDone;
}

int replay(const std::filesystem::path &recipe, const std::filesystem::path &on, const std::filesystem::path &out,
           const std::vector<std::filesystem::path> &exports)
{
    if (!isCreature(out))
        return fail({ErrorCode::Unsupported, shownPath(out), "write to a .bonemoss file"}, kUsage);
    for (const auto &e : exports)
        if (const int wrong = checkOut(e))
            return wrong;
    const auto commands = command::readRecipe(recipe);
    if (!commands)
        return fail(commands.error(), kUnreadable);
    command::CommandContext context;
    context.folder = recipe.parent_path();
    document::Creature start;
    if (!on.empty()) {
        auto loaded = store::loadStore(on);
        if (!loaded)
            return fail(loaded.error(), kUnreadable);
        for (const std::string &d : loaded->damage)
            fmt::print(stderr, "bonemoss-cli: {}: {}\n", shownPath(on), d);
        start = std::move(loaded->creature);
    }
    const auto made = command::replay(start, *commands, context);
    if (!made)
        return fail(made.error(), kFailed);
    for (const Note &note : context.notes)
        fmt::print(stderr, "bonemoss-cli: {}\n", command::told(note));
    if (const auto saved = store::saveAs(out, *made); !saved)
        return fail(saved.error(), kFailed);
    for (const auto &path : exports)
        if (const int failed = writeOut(path, exporting::sceneForFile(*made, path.extension() == ".glb")))
            return failed;
    fmt::print("{} commands, {} pieces, {} faces\n", commands->size(), made->pieces.size(), made->faceCount());
    return kDone;
}

int convert(const std::filesystem::path &in, const std::filesystem::path &out)
{
    if (const int wrong = checkOut(out))
        return wrong;
    if (isCreature(in) && isCreature(out)) { // as it is, with all layers, in the newest format
        const auto loaded = store::loadStore(in);
        if (!loaded)
            return fail(loaded.error(), kUnreadable);
        for (const std::string &d : loaded->damage)
            fmt::print(stderr, "bonemoss-cli: {}: {}\n", shownPath(in), d);
        const auto saved = store::saveAs(out, loaded->creature);
        return saved ? kDone : fail(saved.error(), kFailed);
    }
    auto scene = readScene(in, out.extension() == ".glb" ? Read::Rigged : Read::All);
    if (!scene)
        return fail(scene.error(), kUnreadable);
    if (scene->isEmpty())
        return fail({ErrorCode::Empty, shownPath(in), "there is nothing in it that is shown"}, kFailed);
    for (const io::Object &o : scene->objects)
        warnOpen(scene->objects.size() == 1 ? shownPath(in) : shownPath(in) + ": " + o.name,
                 mesh::measure(io::meshOf(*scene, o)));
    if (isCreature(out) && !isCreature(in)) // a mesh comes in as one piece, as in the window
        return writeOut(out, sceneOf(shownPath(in.stem()), io::joined(std::move(*scene))));
    return writeOut(out, *scene);
}

Result<io::Scene> readPictureScene(const std::filesystem::path &file)
{
    return file.native().ends_with(".part.json") ? knittedPart(file) : readScene(file, Read::Picture);
}

int schema()
{
    fmt::print("{}\n", command::commandSchema().dump(2));
    return kDone;
}

} // namespace bonemoss::cli
