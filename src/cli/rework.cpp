// Verbs that give meshes new faces; each is one command of the recipe format on pieces read from files.
#include "cli/commands.h"
#include "base/files.h"

#include "command/command.h"
#include "store/store.h"
#include "skin/levels.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

/// Runs one command and tells its notes.
Status run(document::Creature &c, const json &command)
{
    command::CommandContext context;
    context.folder = std::filesystem::current_path();
    auto next = command::apply(c, command, context);
    for (const Note &note : context.notes)
        fmt::print(stderr, "bonemoss-cli: {}\n", command::told(note));
    if (!next)
        return next.error();
    c = std::move(*next);
    return Done{};
}

/// The pieces of creatures and mesh files, in that order; ids of the pieces in `ids`.
Status readPieces(const std::vector<std::filesystem::path> &inputs, document::Creature &c, json &ids)
{
    for (const auto &in : inputs) {
        if (in.extension() == ".bonemoss") {
            auto loaded = store::loadStore(in);
            if (!loaded)
                return loaded.error();
            for (const std::string &d : loaded->damage)
                fmt::print(stderr, "bonemoss-cli: {}: {}\n", shownPath(in), d);
            if (loaded->creature.pieces.empty())
                return Error{ErrorCode::Empty, shownPath(in), "has no skin yet; knit its forms first"};
            // Ids of one file follow those of the one before: what points to a layer, at whichever level, goes on pointing to it.
            const std::uint32_t by = c.nextId;
            for (const auto &p : loaded->creature.pieces) {
                auto piece = std::make_shared<document::Piece>(*p);
                piece->id += by;
                piece->name = c.uniqueName(p->name);
                piece->isLocked = false;
                skin::eachState(piece->skin, [&](skin::Skin &state) {
                    for (skin::Layer &l : state.layers)
                        l.id += by, l.handOver += l.handOver ? by : 0;
                });
                ids.push_back(piece->id);
                c.pieces.push_back(std::move(piece));
            }
            c.nextId += loaded->creature.nextId;
        } else {
            const std::uint32_t id = c.nextId;
            if (const Status done = run(c, {{"do", "piece.import"}, {"path", std::filesystem::absolute(in).native()}}); !done)
                return done;
            ids.push_back(id);
        }
    }
    return Done{};
}

Status write(const document::Creature &c, const std::filesystem::path &out)
{
    if (out.extension() == ".bonemoss") {
        const auto saved = store::saveAs(out, c);
        return saved ? Status(Done{}) : saved.error();
    }
    mesh::PolyMesh all;
    for (const auto &p : c.pieces)
        mesh::append(all, document::meshOf(*p));
    return io::writeMesh(out, all);
}

} // namespace

int rework(const std::vector<std::filesystem::path> &inputs, const std::filesystem::path &out, json command, bool asJson)
{
    const io::MeshFormat *format = io::formatFor(out);
    if (out.extension() != ".bonemoss" && !(format && format->write))
        return fail({ErrorCode::Unsupported, shownPath(out), "write to .obj, .stl, .ply, .glb, .3mf or .bonemoss"}, kUsage);
    document::Creature c;
    json ids = json::array();
    if (const Status read = readPieces(inputs, c, ids); !read)
        return fail(read.error(), kUnreadable);
    if (command.contains("pieces"))
        command["pieces"] = ids;
    else if (ids.size() > 1 && command["do"] == "piece.project")
        command["piece"] = ids[0], command["onto"] = ids[1];
    else if (!ids.empty())
        command["piece"] = ids[0];
    if (const Status done = run(c, command); !done)
        return fail(done.error(), kFailed);
    if (command["do"] == "piece.project") // what it was laid on is not part of the result
        std::erase_if(c.pieces, [&](const auto &p) { return p->id == ids[1]; });
    if (const Status written = write(c, out); !written)
        return fail(written.error(), kFailed);
    if (asJson) {
        json pieces = json::array();
        for (const auto &p : c.pieces) {
            const mesh::Measures m = measure(document::meshOf(*p));
            pieces.push_back({{"name", p->name},
                              {"vertices", m.vertices},
                              {"faces", m.faces},
                              {"closed", m.closed},
                              {"genus", m.genus},
                              {"nonManifoldEdges", m.nonManifoldEdges},
                              {"volumeMm3", m.volumeMm3},
                              {"areaMm2", m.areaMm2}});
        }
        fmt::print("{}\n", json{{"pieces", pieces}}.dump(2));
    }
    return kDone;
}

} // namespace bonemoss::cli
