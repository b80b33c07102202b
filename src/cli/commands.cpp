#include "cli/commands.h"

#include "creature/part.h"
#include "creature/recipe.h"
#include "creature/store.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "portrait/clay_picture.h"

#include <chrono>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

constexpr std::size_t kDistanceSamples = 200'000;
constexpr int kLargestPicture = 16384;

double now()
{
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

int fail(const Error &e, int code)
{
    fmt::print(stderr, "bonemoss-cli: {}\n", e.text());
    return code;
}

bool isCreature(const std::filesystem::path &p)
{
    return p.extension() == ".bonemoss";
}

struct Part {
    std::string name;
    mesh::PolyMesh mesh;
    std::optional<Vec3f> colour{}; ///< linear light; clay when there is none
};

/// A form kept apart is an eye unless it has a colour of its own (teeth).
std::optional<Vec3f> colourOf(const armature::Form &f)
{
    if (f.role != armature::FormRole::Apart)
        return {};
    if (!f.colour)
        return Vec3f{0.035f, 0.03f, 0.026f};
    const auto part = [&](int shift) { return std::pow(float(f.colour >> shift & 255) / 255, 2.2f); };
    return Vec3f{part(16), part(8), part(0)};
}

/// The pieces of a creature, or a mesh file as one piece.
Result<std::vector<Part>> readParts(const std::filesystem::path &file)
{
    std::vector<Part> parts;
    if (isCreature(file)) {
        const auto loaded = creature::loadStore(file);
        if (!loaded)
            return loaded.error();
        for (const std::string &d : loaded->damage)
            fmt::print(stderr, "bonemoss-cli: {}: {}\n", file.string(), d);
        for (const auto &p : loaded->creature.pieces)
            if (!p->isHidden)
                parts.push_back({p->name, creature::meshOf(*p)});
        return parts;
    }
    auto read = io::readMesh(file);
    if (!read)
        return read.error();
    for (const io::Repair &r : read->repairs)
        fmt::print(stderr, "bonemoss-cli: {}: {}: {}\n", file.string(), r.what, r.count);
    parts.push_back({file.stem().string(), std::move(read->mesh)});
    return parts;
}

/// A ready part as the skin it would knit into, for its picture.
Result<std::vector<Part>> knittedPart(const std::filesystem::path &file, armature::Armature &forms)
{
    auto part = creature::readPart(file);
    if (!part)
        return part.error();
    forms = std::move(part->armature);
    const auto source = armature::makeDistance(forms);
    auto skin = field::previewSource(*source, source->bounds().diagonal() / 220);
    if (!skin)
        return skin.error();
    return std::vector<Part>{{part->title, std::move(*skin)}};
}

mesh::PolyMesh joined(const std::vector<Part> &parts)
{
    mesh::PolyMesh all;
    for (const Part &p : parts) {
        mesh::append(all, p.mesh);
    }
    return all;
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

int writeOut(const std::filesystem::path &out, const mesh::PolyMesh &mesh, const std::string &name)
{
    Status done = Done{};
    if (isCreature(out)) {
        creature::Creature c;
        auto piece = std::make_shared<creature::Piece>();
        piece->id = c.nextId++, piece->name = name;
        piece->skin = detail::makeSkin(mesh, false);
        c.pieces.push_back(std::move(piece));
        done = creature::saveAs(out, c);
    } else {
        done = io::writeMesh(out, mesh);
    }
    return done ? kDone : fail(done.error(), done.error().code == ErrorCode::Unsupported ? kUsage : kFailed);
}

/// A wrong output name is told before any work is done.
int checkOut(const std::filesystem::path &out)
{
    const io::MeshFormat *f = io::formatFor(out);
    if (isCreature(out) || (f && f->write))
        return kDone;
    return fail({ErrorCode::Unsupported, out.string(), "write to .obj, .stl, .ply, .glb or .bonemoss"}, kUsage);
}

void warnOpen(const std::string &name, const mesh::Measures &m)
{
    if (!m.closed)
        fmt::print(stderr, "bonemoss-cli: {}: not closed ({} open edges, {} edges of more than two faces)\n", name,
                   m.boundaryEdges, m.nonManifoldEdges);
}

} // namespace

int info(const std::filesystem::path &file, bool asJson)
{
    const auto parts = readParts(file);
    if (!parts)
        return fail(parts.error(), kUnreadable);
    json pieces = json::array();
    for (const Part &p : *parts)
        pieces.push_back(toJson(p.name, mesh::measure(p.mesh)));
    const mesh::Measures total = parts->size() == 1 ? mesh::measure(parts->front().mesh) : mesh::measure(joined(*parts));
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
    std::vector<Part> parts;
    for (const auto &file : in) {
        auto some = readParts(file);
        if (!some)
            return fail(some.error(), kUnreadable);
        for (Part &p : *some)
            parts.push_back(std::move(p));
    }
    const mesh::PolyMesh input = joined(parts);
    const double read = now();
    auto knitted = field::knitMesh(input, density);
    if (!knitted)
        return fail(knitted.error(), kFailed);
    if (knitted->report.filledEdges > 0)
        fmt::print(stderr, "bonemoss-cli: the input was open or inside out in places; its holes were closed\n");
    const double measuring = now();
    const mesh::DistanceStats d = mesh::distanceTo(input, knitted->mesh.positions, kDistanceSamples);
    const double writing = now();
    if (const int failed = writeOut(out, knitted->mesh, "skin"))
        return failed;
    const double done = now();
    const field::KnitReport &r = knitted->report;
    const json report = {{"forecastFaces", r.forecastFaces},
                         {"faces", knitted->mesh.faces.size()},
                         {"vertices", knitted->mesh.positions.size()},
                         {"spacingMm", r.spacing},
                         {"filledEdges", r.filledEdges},
                         {"seconds",
                          {{"read", read - start},
                           {"field", r.fieldSeconds},
                           {"contour", r.contourSeconds},
                           {"project", writing - measuring},
                           {"write", done - writing}}},
                         {"meanDistanceMm", d.mean},
                         {"maxDistanceMm", d.largest},
                         {"distanceSamples", d.samples}};
    if (asJson)
        fmt::print("{}\n", report.dump(2));
    else
        fmt::print("{} faces at {:.4g} mm (forecast {}); {:.3g} mm from the input on average, {:.3g} mm at most\n",
                   knitted->mesh.faces.size(), r.spacing, r.forecastFaces, d.mean, d.largest);
    return kDone;
}

int replay(const std::filesystem::path &recipe, const std::filesystem::path &out,
           const std::vector<std::filesystem::path> &exports)
{
    if (!isCreature(out))
        return fail({ErrorCode::Unsupported, out.string(), "write to a .bonemoss file"}, kUsage);
    for (const auto &e : exports)
        if (const int wrong = checkOut(e))
            return wrong;
    const auto commands = creature::readRecipe(recipe);
    if (!commands)
        return fail(commands.error(), kUnreadable);
    creature::CommandContext context;
    context.folder = recipe.parent_path();
    const auto made = creature::replay({}, *commands, context);
    if (!made)
        return fail(made.error(), kFailed);
    for (const Note &note : context.notes)
        fmt::print(stderr, "bonemoss-cli: {}\n", creature::told(note));
    if (const Status saved = creature::saveAs(out, *made); !saved)
        return fail(saved.error(), kFailed);
    for (const auto &path : exports) {
        std::vector<Part> parts;
        for (const auto &p : made->pieces)
            if (!p->isHidden)
                parts.push_back({p->name, creature::meshOf(*p)});
        if (const int failed = writeOut(path, joined(parts), "skin"))
            return failed;
    }
    fmt::print("{} commands, {} pieces, {} faces\n", commands->size(), made->pieces.size(), made->faceCount());
    return kDone;
}

int convert(const std::filesystem::path &in, const std::filesystem::path &out)
{
    if (const int wrong = checkOut(out))
        return wrong;
    const auto parts = readParts(in);
    if (!parts)
        return fail(parts.error(), kUnreadable);
    const mesh::PolyMesh all = joined(*parts);
    warnOpen(in.string(), mesh::measure(all));
    return writeOut(out, all, in.stem().string());
}

int render(const RenderOptions &o)
{
    int width = 0, height = 0;
    char rest = 0;
    if (std::sscanf(o.size.c_str(), "%dx%d%c", &width, &height, &rest) != 2 || width < 1 || height < 1 || width > kLargestPicture
        || height > kLargestPicture)
        return fail({ErrorCode::BadValue, "--size", "must be WIDTHxHEIGHT, 1 to 16384 each"}, kUsage);
    const auto turn = portrait::viewTurn(o.view);
    if (!turn)
        return fail({ErrorCode::BadValue, "--view", "must be nose, left, tail, right, crown, belly or three-quarter"}, kUsage);
    armature::Armature forms;
    auto parts = o.in.string().ends_with(".part.json") ? knittedPart(o.in, forms) : readParts(o.in);
    if (!parts)
        return fail(parts.error(), kUnreadable);
    if (isCreature(o.in))
        if (auto loaded = creature::loadStore(o.in))
            forms = std::move(loaded->creature.armature);
    { // forms kept apart (eyes, teeth), and all forms where there is no skin yet
        const bool isBare = parts->empty();
        for (const auto &f : forms.forms)
            if (!f.isHidden && (f.role == armature::FormRole::Apart || isBare)) {
                mesh::PolyMesh m = tessellateAll(forms, f);
                parts->push_back({f.name, m, colourOf(f)});
                if (f.isMirrored)
                    parts->push_back({f.name, mesh::mirrored(std::move(m)), colourOf(f)});
            }
    }
    std::vector<Vec3f> shown; // what shall fill the picture
    std::vector<portrait::ClayMesh> meshes;
    for (const Part &p : *parts) {
        if (o.on.empty() || p.name == o.on)
            shown.insert(shown.end(), p.mesh.positions.begin(), p.mesh.positions.end());
        meshes.push_back(p.colour ? portrait::ClayMesh{&p.mesh, *p.colour, true} : portrait::ClayMesh{&p.mesh});
    }
    if (shown.empty() && !o.on.empty()) {
        const auto form = std::find_if(forms.forms.begin(), forms.forms.end(), [&](const auto &f) { return f.name == o.on; });
        if (form == forms.forms.end())
            return fail({ErrorCode::Unknown, "--on", "there is no piece and no form of the name " + o.on}, kUsage);
        shown = tessellateAll(forms, *form).positions;
    }
    portrait::Camera camera;
    camera.turn = *turn;
    camera.isParallel = o.parallel;
    camera = portrait::framing(camera, shown, float(width) / float(height));
    const auto picture = portrait::clayPicture(meshes, camera, width, height, o.samples);
    if (!picture)
        return fail(picture.error(), kFailed);
    const Status written = image::writePng(o.out, *picture);
    return written ? kDone : fail(written.error(), kFailed);
}

int schema()
{
    fmt::print("{}\n", creature::commandSchema().dump(2));
    return kDone;
}

} // namespace bonemoss::cli
