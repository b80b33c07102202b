// Commands that make a skin match another shape: that of another piece, or its own mirror image.
#include "command/fields.h"
#include "command/skin/piece_fields.h"
#include "command/named_items.h"
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
Result<Creature> projectPiece(const Creature &before, const ProjectPiece &p, CommandContext &context)
{
    const auto taken = need(takeWhole(before, p.piece, context));
    const auto onto = need(findPiece(before, p.onto, "onto"));
    const std::shared_ptr<Piece> piece = taken;
    if (onto == piece->id)
        return Error{ErrorCode::BadValue, "onto", "must be another piece"};
    const skin::Skin fine = wholeSkin(*before.piece(onto));
    mesh::PolyMesh mesh = toPolyMesh(piece->skin.shown);
    const auto nearest = nearestFaces(fine.shown, mesh.positions, p.reach);
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

Result<Creature> symmetrisePiece(const Creature &before, const SymmetrisePiece &p, CommandContext &context)
{
    const auto piece = need(takePiece(before, p.piece));
    const SymmetriseFrom from = p.from;
    const auto how = from == SymmetriseFrom::Left      ? skin::Symmetry::FromLeft
                     : from == SymmetriseFrom::Right   ? skin::Symmetry::FromRight
                     : from == SymmetriseFrom::Average ? skin::Symmetry::Average
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

Fields<ProjectPiece> ProjectPiece::fields()
{
    using P = ProjectPiece;
    return {pieceField<P>(), fieldOf<P>(&P::onto, "onto", "", "whose shape it takes").required(),
            fieldOf<P>(&P::reach, "reach", "mm", "how far most points have to go (a hint for speed)", 0.001, 1000)};
}

Fields<SymmetrisePiece> SymmetrisePiece::fields()
{
    using P = SymmetrisePiece;
    return {pieceField<P>(), choiceOf<P>(&P::from, "from", "which half rules", kSymmetriseFromNames).required()};
}

std::vector<CommandSpec> matchCommands()
{
    return {
        commandOf(projectPiece),
        commandOf(symmetrisePiece),
    };
}

} // namespace bonemoss::command
