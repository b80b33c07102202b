// Commands about the levels of a piece.
#include "command/fields.h"
#include "command/skin/piece_fields.h"
#include "command/named_items.h"
#include "skin/carry.h"
#include "skin/levels.h"
#include "field/knit.h"
#include "mesh/nearest_faces.h"
#include "mesh/subdivide.h"

#include <cmath>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

constexpr std::size_t kMostFaces = 24'000'000;

std::string levelNote(const skin::Skin &skin)
{
    return fmt::format("level {} of {}: {} faces", skin.level + 1, skin.links.size() + 1,
                       fmt::group_digits(skin.shown.topology->faceCount()));
}

Result<Creature> changed(const Creature &before, std::shared_ptr<Piece> piece, Result<skin::Skin> skin, CommandContext &context)
{
    if (!skin)
        return Error{skin.error().code, piece->name, skin.error().detail};
    piece->skin = std::move(*skin);
    context.notes.push_back(levelNote(piece->skin));
    return putBack(before, std::move(piece));
}

Result<Creature> refinePiece(const Creature &before, const RefinePiece &p, CommandContext &context)
{
    const auto taken = need(takePiece(before, p.piece));
    if (taken->skin.shown.topology->faceCount() * 4 > kMostFaces)
        return Error{ErrorCode::TooLarge, taken->name, fmt::format("would pass {} faces", kMostFaces)};
    return changed(before, taken, skin::refine(taken->skin, context.progress), context);
}

Result<Creature> stepLevel(const Creature &before, const StepLevel &p, CommandContext &context)
{
    const auto taken = need(takePiece(before, p.piece));
    const skin::Skin &skin = taken->skin;
    if (p.number.has_value() == p.to.has_value())
        return Error{ErrorCode::BadValue, "level", "give either a number, or to: finer, coarser, finest or coarsest"};
    std::size_t level = p.number ? *p.number - 1 : skin.level;
    if (p.to) {
        const LevelTo to = *p.to;
        if ((to == LevelTo::Finer && level == skin.links.size()) || (to == LevelTo::Coarser && level == 0))
            return Error{ErrorCode::BadValue, taken->name, fmt::format("has no {} level", kLevelToNames[std::size_t(to)])};
        level = to == LevelTo::Finer     ? level + 1
                : to == LevelTo::Coarser ? level - 1
                : to == LevelTo::Finest  ? skin.links.size()
                                         : 0;
    }
    return changed(before, taken, skin::atLevel(skin, level, context.progress), context);
}

Result<Creature> dropLevels(const Creature &before, const DropLevels &p, CommandContext &context)
{
    const auto taken = need(takePiece(before, p.piece));
    skin::Skin skin = taken->skin;
    const std::size_t had = skin.links.size();
    p.which == LevelsDropped::Lower ? skin::dropLower(skin) : skin::dropHigher(skin);
    if (skin.links.size() == had)
        return Error{ErrorCode::BadValue, taken->name,
                     fmt::format("has no {} levels", kLevelsDroppedNames[std::size_t(p.which)])};
    return changed(before, taken, std::move(skin), context);
}

/// A skin knitted coarsely and refined again, each level laid on the old shape; what lay there is carried over.
Result<skin::Skin> knittedLevels(const skin::Skin &old, std::size_t count, CommandContext &context)
{
    const float edge = meanEdgeLength(old.shown);
    auto knitted = field::knitAgain(toPolyMesh(old.shown), edge * std::pow(2.0f, float(count)), context.progress);
    if (!knitted)
        return knitted.error();
    std::vector<skin::Skin> states;
    skin::Carried carried = skin::carryOver(old, knitted->mesh, knitted->report.spacing, context.progress);
    states.push_back(std::move(carried.skin));
    for (std::size_t k = 0; k < count; ++k) {
        if (context.progress.isCancelled())
            return Error{ErrorCode::Cancelled, "levels", "stopped on request"};
        const mesh::Surface &coarse = states.back().shown;
        if (coarse.topology->faceCount() * 4 > kMostFaces)
            return Error{ErrorCode::TooLarge, "levels", fmt::format("would pass {} faces", kMostFaces)};
        const mesh::Subdivision rule(coarse.positions.size(), coarse.topology->faces());
        mesh::PolyMesh fine{rule.apply(coarse.positions.flatten()), rule.faces()};
        const float reach = std::max(edge, meanEdgeLength(coarse));
        const auto nearest = nearestFaces(old.shown, fine.positions, reach);
        for (std::size_t v = 0; v < fine.positions.size(); ++v)
            fine.positions[v] = mesh::pointOf(old.shown, nearest[v]);
        carried = skin::carryOver(old, fine, reach, context.progress);
        states.push_back(std::move(carried.skin));
    }
    for (const skin::CarryLoss &loss : carried.losses)
        context.notes.push_back(loss.text());
    return skin::linked(std::move(states));
}

Result<Creature> findLevels(const Creature &before, const FindLevels &p, CommandContext &context)
{
    const auto taken = need(takePiece(before, p.piece));
    const std::size_t count = p.count;
    skin::Skin skin = taken->skin;
    const LevelsFoundBy how = p.how;
    if (how != LevelsFoundBy::Knit) {
        auto found = skin::findLower(skin, count, context.progress);
        if (found || how == LevelsFoundBy::Faces || !skin.links.empty())
            return changed(before, taken, std::move(found), context);
        context.notes.push_back("its faces were not made by subdivision; the levels were knitted");
    }
    return changed(before, taken, knittedLevels(skin::finest(skin, context.progress), count, context), context);
}

} // namespace

Fields<RefinePiece> RefinePiece::fields()
{
    using P = RefinePiece;
    return {pieceField<P>()};
}

Fields<StepLevel> StepLevel::fields()
{
    using P = StepLevel;
    return {pieceField<P>(), fieldOf<P>(&P::number, "number", "", "1 for the coarsest", 1, 16),
            choiceOf<P>(&P::to, "to", "which one", kLevelToNames)};
}

Fields<DropLevels> DropLevels::fields()
{
    using P = DropLevels;
    return {pieceField<P>(), choiceOf<P>(&P::which, "which", "seen from the level in hand", kLevelsDroppedNames).required()};
}

Fields<FindLevels> FindLevels::fields()
{
    using P = FindLevels;
    return {pieceField<P>(), fieldOf<P>(&P::count, "count", "", "how many levels below", 1, 6),
            choiceOf<P>(&P::how, "how", "from the faces that are there, by knitting, or as it is possible", kLevelsFoundByNames)};
}

std::vector<CommandSpec> levelCommands()
{
    return {
        commandOf(refinePiece),
        commandOf(stepLevel),
        commandOf(dropLevels),
        commandOf(findLevels),
    };
}

} // namespace bonemoss::command
