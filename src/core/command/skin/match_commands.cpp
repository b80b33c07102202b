// Commands that make a skin match another shape: that of another piece, or its own mirror image.
#include "command/params.h"
#include "document/ops/reknit.h"
#include "skin/levels.h"
#include "skin/local_density.h"
#include "skin/symmetry.h"
#include "mesh/nearest_faces.h"

#include <algorithm>
#include <fmt/format.h>
#include <optional>

namespace bonemoss::command {

namespace {

/// The faces of one piece on the shape of another, with what lies on it.
Result<Creature> projectPiece(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const auto onto = findPiece(before, p, "onto");
    if (!onto)
        return onto.error();
    const std::shared_ptr<Piece> piece = *taken;
    if (*onto == piece->id)
        return Error{ErrorCode::BadValue, "onto", "must be another piece"};
    const skin::Skin fine = wholeSkin(*before.piece(*onto));
    mesh::PolyMesh mesh = toPolyMesh(piece->skin.shown);
    const auto nearest = nearestFaces(fine.shown, mesh.positions, p.number("reach"));
    double sum = 0, largest = 0;
    for (std::size_t v = 0; v < mesh.positions.size(); ++v) {
        mesh.positions[v] = mesh::pointOf(fine.shown, nearest[v]);
        sum += double(nearest[v].distance), largest = std::max(largest, double(nearest[v].distance));
    }
    context.notes.push_back(fmt::format("points went {:.2g} mm on average, {:.2g} mm at most",
                                        sum / double(std::max<std::size_t>(1, mesh.positions.size())), largest));
    piece->skin = skinOn(mesh, fine, context);
    return putBack(before, piece);
}

Result<Creature> symmetrisePiece(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    const std::string from = p.text("from");
    const auto how = from == "left"      ? skin::Symmetry::FromLeft
                     : from == "right"   ? skin::Symmetry::FromRight
                     : from == "average" ? skin::Symmetry::Average
                                         : skin::Symmetry::Layer;
    Creature after = before;
    if (piece->skin.links.empty())
        skin::compact(piece->skin);
    const std::uint32_t id = how == skin::Symmetry::Layer ? after.nextId++ : 0;
    std::optional<skin::SymmetryReport> first; // of the level in hand
    const Status done = skin::onAllLevels(piece->skin, 0, [&](skin::Skin &state) -> Status {
        if (context.progress.isCancelled())
            return Error{ErrorCode::Cancelled, piece->name, "stopped on request"};
        const auto said = skin::symmetrise(state, how, id);
        first = first ? first : said;
        return Done{};
    });
    if (!done)
        return done.error();
    const skin::SymmetryReport &report = *first;
    context.notes.push_back(
        fmt::format("the halves lay {:.2g} mm apart on average, {:.2g} mm at most", report.meanMm, report.largestMm));
    if (!report.byTopology)
        context.notes.emplace_back("its faces are not mirrored themselves; the halves match as closely as they can");
    after.put(piece);
    return after;
}

} // namespace

std::vector<CommandSpec> matchCommands()
{
    return {
        {"piece.project",
         "Project",
         "Lays the faces of a piece on the shape of another, whose layers and mask it takes over.",
         {pieceParam(), required(plainParam(ParamKind::Reference, "onto", "", "whose shape it takes")),
          numberParam("reach", "mm", "how far most points have to go (a hint for speed)", 0.001, 1000, "2")},
         projectPiece},
        {"piece.symmetrise",
         "Make symmetric",
         "Makes both halves alike: from one of them, as their mean, or as the mean with the difference in a layer.",
         {pieceParam(), required(choiceParam("from", "which half rules", {"left", "right", "average", "layer"}))},
         symmetrisePiece},
    };
}

} // namespace bonemoss::command
