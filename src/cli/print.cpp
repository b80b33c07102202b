// What is made for a printer: one body, hollow, on a base, in parts, with supports.
#include "cli/commands.h"
#include "cli/reading.h"

#include "command/command.h"
#include "command/recipe.h"
#include "document/ops/pieces.h"
#include "export/shown_scene.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "proof/proof.h"
#include "solid/crossings.h"
#include "solid/seal.h"
#include "store/store.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cstdio>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

/// What creatures and mesh files have to print, as one mesh.
Result<mesh::PolyMesh> meshToPrint(const std::vector<std::filesystem::path> &inputs, float height,
                                   document::PrintPlan *plan = nullptr)
{
    io::Scene all;
    for (const auto &in : inputs) {
        auto scene = printSource(in, plan);
        if (!scene)
            return scene.error();
        all.append(proof::printable(std::move(*scene)));
    }
    if (all.isEmpty())
        return Error{ErrorCode::Empty, shownPath(inputs.front()), "there is nothing to print: only surfaces can be"};
    mesh::PolyMesh mesh = io::joined(std::move(all));
    if (height > 0) {
        const float scale = height / std::max(mesh::boundsOf(mesh.positions).size().y, 1e-6f);
        for (Vec3f &p : mesh.positions)
            p = p * scale;
    }
    return mesh;
}

Status writePieces(const document::Creature &c, const std::filesystem::path &out)
{
    if (out.extension() == ".bonemoss") {
        const auto saved = store::saveAs(out, c);
        return saved ? Status(Done{}) : saved.error();
    }
    return io::writeMesh(out, io::joined(exporting::skinScene(c)));
}

json toJson(const mesh::PolyMesh &mesh)
{
    const mesh::Measures m = measure(mesh);
    return {{"closed", m.closed},
            {"nonManifoldEdges", m.nonManifoldEdges},
            {"faces", m.faces},
            {"genus", m.genus},
            {"volumeMm3", m.volumeMm3},
            {"areaMm2", m.areaMm2},
            {"sizeMm", {m.bounds.size().x, m.bounds.size().y, m.bounds.size().z}}};
}

} // namespace

int solid(const PrintOptions &o)
{
    if (const int wrong = checkOut(o.out); wrong != kDone && o.out.extension() != ".bonemoss")
        return wrong;
    const auto source = meshToPrint(o.inputs, o.height);
    if (!source)
        return fail(source.error(), kUnreadable);
    const double start = now();
    const auto sealed = solid::seal(*source, !o.keepsPockets);
    if (!sealed)
        return fail(sealed.error(), kFailed);
    const double seconds = now() - start;
    for (const std::string &note : sealed->notes)
        fmt::print(stderr, "bonemoss-cli: {}\n", note);
    const document::Creature c = document::withNewPiece({}, "Print body", skin::makeSkin(sealed->mesh, false));
    if (const Status written = writePieces(c, o.out); !written)
        return fail(written.error(), kFailed);
    if (o.json) {
        json told = toJson(sealed->mesh);
        const auto far = mesh::distanceTo(*source, sealed->mesh.positions, 50000);
        told["selfCrossings"] = solid::selfCrossings(sealed->mesh);
        told["bodies"] = sealed->bodies, told["bodiesLeft"] = sealed->left, told["pocketsRemoved"] = sealed->pockets;
        told["crossings"] = sealed->crossings, told["seconds"] = seconds;
        told["meanDistanceMm"] = far.mean, told["maxDistanceMm"] = far.largest;
        fmt::print("{}\n", told.dump(2));
    } else {
        fmt::print("{} bodies are {} now, {} pockets filled, {:.2f} s\n", sealed->bodies, sealed->left, sealed->pockets, seconds);
    }
    return kDone;
}

int makeForPrint(const PrintOptions &o, const json &command)
{
    if (const int wrong = checkOut(o.out); wrong != kDone && o.out.extension() != ".bonemoss")
        return wrong;
    document::PrintPlan plan;
    auto mesh = meshToPrint(o.inputs, o.height, &plan);
    if (!mesh)
        return fail(mesh.error(), kUnreadable);
    auto sealed = solid::seal(*mesh, !o.keepsPockets); // everything these commands do is done to one body
    if (!sealed)
        return fail(sealed.error(), kFailed);
    document::Creature c = document::withNewPiece({}, "Print body", skin::makeSkin(sealed->mesh, false));
    command::CommandContext context;
    context.folder = std::filesystem::current_path();
    const auto run = [&](json one) {
        auto next = command::apply(c, one, context);
        if (next)
            c = std::move(*next);
        return next ? Status(Done{}) : Status(next.error());
    };
    Status done = run({{"do", "print.set"}, {"printer", o.profile.empty() ? plan.printer : o.profile}});
    if (done)
        done = run(command);
    for (const Note &note : context.notes)
        fmt::print(stderr, "bonemoss-cli: {}\n", command::told(note));
    if (!done)
        return fail(done.error(), kFailed);
    if (const Status written = writePieces(c, o.out); !written)
        return fail(written.error(), kFailed);
    if (o.json) {
        json pieces = json::array(), notes = json::array();
        for (const auto &p : c.pieces) {
            json one = toJson(document::meshOf(*p));
            one["name"] = p->name;
            pieces.push_back(std::move(one));
        }
        for (const Note &note : context.notes)
            notes.push_back(note.text);
        fmt::print("{}\n", json{{"pieces", pieces}, {"notes", notes}}.dump(2));
    }
    return kDone;
}

} // namespace bonemoss::cli
