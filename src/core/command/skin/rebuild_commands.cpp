// Commands that give pieces new faces: joins and cuts, splitting, trimming, holes, plates, fewer or more faces. What lies
// on the old skin is carried over to the new one.
#include "command/fields.h"
#include "command/skin/piece_fields.h"
#include "command/named_items.h"
#include "document/ops/melting.h"
#include "document/ops/rebuild.h"
#include "document/ops/reknit.h"
#include "skin/carry.h"
#include "skin/local_density.h"
#include "mesh/parts.h"
#include "solid/combine.h"
#include "solid/density.h"
#include "solid/holes.h"
#include "solid/mend.h"
#include "solid/shape_tools.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

using Pieces = std::vector<std::shared_ptr<const Piece>>;

skin::Skin togetherOf(const Pieces &all)
{
    std::vector<const skin::Skin *> skins;
    for (const auto &piece : all)
        skins.push_back(&piece->skin);
    return skin::together(skins);
}

/// The first of some pieces with its new skin; the others gone unless they are kept.
Creature withCombined(const Creature &before, const Pieces &all, skin::Skin skin, bool isKept)
{
    auto piece = std::make_shared<Piece>(*all.front());
    piece->skin = std::move(skin);
    Creature after = before;
    after.put(piece);
    if (!isKept)
        std::erase_if(after.pieces, [&](const auto &x) {
            return std::any_of(all.begin() + 1, all.end(), [&](const auto &gone) { return gone->id == x->id; });
        });
    return after;
}

/// Through the field, with a seam that melts.
Result<Creature> combineSoftly(const Creature &before, const Pieces &all, const CombinePieces &p, CommandContext &context)
{
    const solid::Boolean how = p.how;
    Melting m{how == solid::Boolean::Join  ? field::Blend::Join
              : how == solid::Boolean::Cut ? field::Blend::Cut
                                           : field::Blend::Common,
              *p.melt};
    m.spacing = p.spacing ? *p.spacing : meanEdgeLength(all.front()->skin.shown);
    m.isSeamOnly = p.where == CombineWhere::Seam;
    const auto mesh = need(melted(all, m, context));
    return withCombined(before, all, skinOn(mesh, togetherOf(all), context, true), p.keepsOthers);
}

Result<Creature> combinePieces(const Creature &before, const CombinePieces &p, CommandContext &context)
{
    Pieces all;
    for (const ItemName &name : p.pieces) {
        const auto it =
            std::find_if(before.pieces.begin(), before.pieces.end(), [&](const auto &x) { return isNamed(*x, name); });
        if (it == before.pieces.end())
            return Error{ErrorCode::Unknown, "pieces", fmt::format("there is no piece {}", told(name))};
        if ((*it)->isLocked)
            return Error{ErrorCode::BadValue, (*it)->name, "is locked; unlock it first"};
        if (std::any_of(all.begin(), all.end(), [&](const auto &x) { return x->id == (*it)->id; }))
            continue;
        all.push_back(*it);
        if (!(*it)->skin.links.empty())
            context.notes.push_back(fmt::format("the finest level of {} was taken", (*it)->name));
        auto whole = std::make_shared<Piece>(**it);
        whole->skin = wholeSkin(**it);
        all.back() = std::move(whole);
    }
    if (all.size() < 2)
        return Error{ErrorCode::BadValue, "pieces", "name two or more"};
    if (p.melt)
        return combineSoftly(before, all, p, context);
    const auto mesh = need(document::combined(all, p.how, context));
    return withCombined(before, all, skinOn(mesh, togetherOf(all), context, true), p.keepsOthers);
}

std::vector<document::SkinPart> partsOf(const Piece &piece, const SplitPiece &p)
{
    switch (p.by) {
    case SplitBy::Groups: return need(document::partsByGroup(piece.skin, piece.name));
    case SplitBy::Islands: return need(document::partsByIsland(piece.skin, piece.name));
    default: return need(document::partsByMask(piece.skin, piece.name));
    }
}

Result<Creature> splitPiece(const Creature &before, const SplitPiece &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const skin::Skin old = piece->skin;
    auto parts = partsOf(*piece, p);
    if (p.closes)
        for (document::SkinPart &part : parts)
            part.mesh = document::closedFlat(part.mesh, piece->name, context);
    piece->skin = skinOn(parts.front().mesh, old, context, true);
    Creature after = before;
    after.put(piece);
    for (std::size_t k = 1; k < parts.size(); ++k) {
        CommandContext quiet{{context.progress, {}}, context.folder}; // the losses were told once
        const std::string own = parts[k].name.empty() ? piece->name + " part" : parts[k].name;
        after = withNewPiece(std::move(after), p.name.value_or(own), skinOn(parts[k].mesh, old, quiet));
    }
    return after;
}

Result<Creature> trimPiece(const Creature &before, const TrimPiece &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const skin::Skin old = piece->skin;
    solid::Sweep s;
    s.line = p.line;
    s.isClosed = p.isClosed;
    s.direction = p.direction;
    s.depth = p.depth;
    setIfGiven(s.eye, p.eye);
    s.edge = meanEdgeLength(old.shown);
    const auto knife = need(solid::sweep(s, old.shown.box()));
    const mesh::PolyMesh mesh = toPolyMesh(old.shown);
    context.progress.say(0.1f, "cutting");
    auto rest = solid::combine(mesh, knife, solid::Boolean::Cut, context.progress);
    if (!rest)
        return rest.error().code == ErrorCode::Empty ? Error{ErrorCode::Empty, piece->name, "nothing would be left of it"}
                                                     : rest.error();
    const TrimKeep keep = p.keep;
    std::optional<solid::Combined> other;
    if (keep != TrimKeep::Rest) {
        auto common = solid::combine(mesh, knife, solid::Boolean::Common, context.progress);
        if (!common)
            return common.error().code == ErrorCode::Empty ? Error{ErrorCode::Empty, piece->name, "the line does not meet it"}
                                                           : common.error();
        other = std::move(*common);
    }
    context.notes.insert(context.notes.end(), rest->notes.begin(), rest->notes.end());
    piece->skin = skinOn(keep == TrimKeep::Part ? other->mesh : rest->mesh, old, context, true);
    Creature after = before;
    after.put(piece);
    if (keep == TrimKeep::Both) {
        CommandContext quiet{{context.progress, {}}, context.folder};
        after = withNewPiece(std::move(after), p.name ? *p.name : piece->name + " part", skinOn(other->mesh, old, quiet));
    }
    return after;
}

Result<Creature> closeHoles(const Creature &before, const CloseHoles &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const mesh::PolyMesh mesh = toPolyMesh(piece->skin.shown);
    const auto borders = solid::openBorders(mesh);
    std::vector<std::size_t> only;
    if (borders.empty())
        return Error{ErrorCode::Empty, piece->name, "has no holes"};
    if (p.near)
        only.push_back(document::nearestBorder(mesh, borders, *p.near));
    const solid::Closed closed = solid::closeHoles(mesh, p.isSmooth ? solid::Fill::Smooth : solid::Fill::Flat, only);
    if (closed.holes == 0)
        return Error{ErrorCode::BadValue, piece->name, "its borders touch themselves and cannot be closed; re-knit it"};
    context.notes.push_back(
        fmt::format("{} holes closed{}", closed.holes,
                    closed.left ? fmt::format(", {} left open: their borders touch themselves", closed.left) : std::string()));
    piece->skin = skinOn(closed.mesh, skin::Skin(piece->skin), context);
    return putBack(before, piece);
}

Result<Creature> openAtMask(const Creature &before, const OpenAtMask &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const auto parts = document::partsByMask(piece->skin, piece->name);
    if (!parts)
        return Error{ErrorCode::BadValue, piece->name, "nothing, or everything, is masked; mask where the hole shall be"};
    piece->skin = skinOn(parts->front().mesh, skin::Skin(piece->skin), context, true);
    return putBack(before, piece);
}

/// Sunk plates lie under the surface of the sheet, centred ones half and half.
mesh::PolyMesh plateOver(const mesh::PolyMesh &sheet, const Plate &p)
{
    const float above = p.side == PlateSide::Raised ? 1 : p.side == PlateSide::Sunk ? 0 : 0.5f;
    return document::plateOver(sheet, p.thickness, above, p.rim);
}

Result<Creature> makeShell(const Creature &before, const MakeShell &p, CommandContext &)
{
    const auto id = need(findPiece(before, p.piece)); // a locked piece may be copied from
    const Piece &piece = *before.piece(id);
    const mesh::CutMesh cut = document::cutAtMask(wholeSkin(piece));
    const mesh::PolyMesh sheet = extract(cut.mesh, cut.isIn);
    if (sheet.isEmpty())
        return Error{ErrorCode::BadValue, piece.name, "nothing is masked; mask where the plate shall be"};
    return withNewPiece(before, p.name ? *p.name : piece.name + " plate", skin::makeSkin(plateOver(sheet, p.plate), false));
}

/// A piece of its own at an even distance outside or inside of another.
Result<Creature> offsetCopy(const Creature &before, const OffsetCopy &p, CommandContext &context)
{
    const auto id = need(findPiece(before, p.piece)); // a locked piece may be copied from
    const Piece &piece = *before.piece(id);
    if (p.by == 0)
        return Error{ErrorCode::BadValue, "by", "must be above 0 for a copy outside, below 0 for one inside"};
    const float spacing = p.spacing ? *p.spacing : meanEdgeLength(piece.skin.shown);
    const auto knitted = document::offsetOf(piece, p.by, spacing, context);
    if (!knitted)
        return knitted.error();
    context.notes.push_back(fmt::format("{} faces at {:.3g} mm", fmt::group_digits(knitted->mesh.faces.size()), spacing));
    return withNewPiece(before, p.name ? *p.name : piece.name + " offset", skin::makeSkin(knitted->mesh, true));
}

Result<Creature> solidify(const Creature &before, const Solidify &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const mesh::PolyMesh sheet = toPolyMesh(piece->skin.shown);
    if (solid::openBorders(sheet).empty())
        return Error{ErrorCode::BadValue, piece->name, "is closed already; a plate comes from an open sheet or a mask"};
    piece->skin = skinOn(plateOver(sheet, p.plate), skin::Skin(piece->skin), context);
    return putBack(before, piece);
}

Result<Creature> simplifyPiece(const Creature &before, const SimplifyPiece &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    std::vector<float> keep;
    if (p.followsMask && piece->skin.hasMask())
        for (const std::uint8_t m : piece->skin.mask.flatten())
            keep.push_back(float(m) / 255);
    const mesh::PolyMesh shown = toPolyMesh(piece->skin.shown);
    if (!piece->skin.groups.empty())
        solid::keepRims(shown, piece->skin.groupOf.flatten(), keep);
    const auto light = need(solid::simplify(shown, p.faces, keep, context.progress));
    const skin::Skin old = piece->skin;
    const mesh::PolyMesh ordered = inSpatialOrder(light);
    skin::Carried carried = skin::carryOver(old, ordered, 2 * meanEdgeLength(old.shown), context.progress);
    context.notes.push_back(fmt::format("{} triangles", fmt::group_digits(ordered.faces.size())));
    for (const skin::CarryLoss &loss : carried.losses)
        context.notes.push_back(loss.text());
    piece->skin = std::move(carried.skin);
    return putBack(before, piece);
}

Result<Creature> changeDensity(const Creature &before, const ChangeDensity &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const mesh::PolyMesh mesh = toPolyMesh(piece->skin.shown);
    const DensityWhere where = p.where;
    mesh::BlockArray<std::uint8_t> mask = piece->skin.mask;
    if (where == DensityWhere::Layer) {
        const auto id = p.layer ? findLayer(*piece, *p.layer) : Result<std::uint32_t>(0u);
        const skin::Layer *layer = id ? piece->skin.layer(*id) : nullptr;
        if (!layer)
            return Error{ErrorCode::BadValue, piece->name, "say which layer the faces are for"};
        mask = layer->mask;
    }
    const auto which = where == DensityWhere::All      ? document::MaskedFaces::All
                       : where == DensityWhere::Masked ? document::MaskedFaces::Inside
                                                       : document::MaskedFaces::Outside;
    const std::vector<std::uint32_t> faces = document::facesBy(mesh, mask, which);
    if (faces.empty())
        return Error{ErrorCode::BadValue, piece->name,
                     where == DensityWhere::Masked ? "nothing is masked" : "everything is masked"};
    // Splitting ends where the faces asked for would pass what a skin may have.
    const double wanted = document::facesNeeded(mesh, faces, p.edge);
    if (wanted > 5e6)
        return Error{ErrorCode::TooLarge, piece->name,
                     fmt::format("would need {:.0f} million faces there; use a longer edge", wanted / 1e6)};
    context.progress.say(0.1f, "even faces");
    const auto even = need(solid::remesh(mesh, faces, p.edge));
    context.notes.push_back(fmt::format("{} faces", fmt::group_digits(even.faces.size())));
    piece->skin = skinOn(even, skin::Skin(piece->skin), context);
    return putBack(before, piece);
}

/// Everything that keeps a piece from being a solid, as far as it can be mended without making it anew.
Result<Creature> repairPiece(const Creature &before, const RepairPiece &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    solid::Mended mended = solid::mend(toPolyMesh(piece->skin.shown), p.isSmooth);
    for (const Note &note : mended.notes)
        context.notes.push_back(note);
    if (!mended.isChanged) {
        context.notes.push_back("nothing had to be mended");
        return before;
    }
    piece->skin = skinOn(mended.mesh, skin::Skin(piece->skin), context);
    return putBack(before, piece);
}

} // namespace

Fields<Plate> Plate::fields()
{
    using P = Plate;
    return {fieldOf<P>(&P::thickness, "thickness", "mm", "of the plate", 0.001, 1000).required(),
            choiceOf<P>(&P::side, "side", "where the plate lies", kPlateSideNames),
            choiceOf<P>(&P::rim, "rim", "its border", solid::kRimNames)};
}

Fields<CombinePieces> CombinePieces::fields()
{
    using P = CombinePieces;
    return {
        fieldOf<P>(&P::pieces, "pieces", "", "two or more; cut: the others from the first").required(),
        choiceOf<P>(&P::how, "how", "what is kept", solid::kBooleanNames).required(),
        fieldOf<P>(&P::keepsOthers, "keep", "", "leave the others beside it"),
        fieldOf<P>(&P::melt, "melt", "mm", "over how many mm the pieces melt into each other; left out: exact", 0, 1000),
        fieldOf<P>(&P::spacing, "spacing", "mm", "with melt: size of a cell; left out: as the first piece has it", 0.001, 1000),
        choiceOf<P>(&P::where, "where", "with melt: knitted anew are all, or only what melts", kCombineWhereNames)};
}

Fields<SplitPiece> SplitPiece::fields()
{
    using P = SplitPiece;
    return {pieceField<P>(), choiceOf<P>(&P::by, "by", "what parts it", kSplitByNames).required(),
            fieldOf<P>(&P::closes, "close", "", "close both sides"), fieldOf<P>(&P::name, "name", "", "of the new piece")};
}

Fields<TrimPiece> TrimPiece::fields()
{
    using P = TrimPiece;
    return {
        pieceField<P>(),
        fieldOf<P>(&P::line, "line", "mm", "points of the line or outline").required(),
        fieldOf<P>(&P::isClosed, "closed", "", "the line is an outline"),
        fieldOf<P>(&P::direction, "direction", "", "along which it is swept").required(),
        fieldOf<P>(&P::eye, "eye", "mm", "swept along rays from here instead, as in a perspective view"),
        fieldOf<P>(&P::depth, "depth", "mm", "how deep from the nearest point of the piece; 0 all the way through", 0, 100000),
        choiceOf<P>(&P::keep, "keep", "what stays: the rest, the part cut off, or both as two pieces", kTrimKeepNames),
        fieldOf<P>(&P::name, "name", "", "of the new piece")};
}

Fields<CloseHoles> CloseHoles::fields()
{
    using P = CloseHoles;
    return {pieceField<P>(), fieldOf<P>(&P::isSmooth, "smooth", "", "follow the curvature around"),
            fieldOf<P>(&P::near, "near", "mm", "only the hole nearest to this point")};
}

Fields<OpenAtMask> OpenAtMask::fields()
{
    using P = OpenAtMask;
    return {pieceField<P>()};
}

Fields<MakeShell> MakeShell::fields()
{
    using P = MakeShell;
    return fieldList<P>(
        {pieceField<P>(), nested<P>(&P::plate, Plate::fields()), fieldOf<P>(&P::name, "name", "", "of the new piece")});
}

Fields<OffsetCopy> OffsetCopy::fields()
{
    using P = OffsetCopy;
    return {pieceField<P>(), fieldOf<P>(&P::by, "by", "mm", "how far outside; below 0 inside", -1000, 1000).required(),
            fieldOf<P>(&P::spacing, "spacing", "mm", "size of a cell; left out: as the piece has it", 0.001, 1000),
            fieldOf<P>(&P::name, "name", "", "of the new piece")};
}

Fields<Solidify> Solidify::fields()
{
    using P = Solidify;
    return fieldList<P>({pieceField<P>(), nested<P>(&P::plate, Plate::fields())});
}

Fields<SimplifyPiece> SimplifyPiece::fields()
{
    using P = SimplifyPiece;
    return {pieceField<P>(), fieldOf<P>(&P::faces, "faces", "", "triangles wanted, met within 1 %", 4, 20000000).required(),
            fieldOf<P>(&P::followsMask, "mask", "", "keep more faces where it is masked")};
}

Fields<ChangeDensity> ChangeDensity::fields()
{
    using P = ChangeDensity;
    return {pieceField<P>(), fieldOf<P>(&P::edge, "edge", "mm", "length of their edges", 0.001, 1000).required(),
            choiceOf<P>(&P::where, "where", "which faces", kDensityWhereNames),
            fieldOf<P>(&P::layer, "layer", "", "layer: where it may show")};
}

Fields<RepairPiece> RepairPiece::fields()
{
    using P = RepairPiece;
    return {pieceField<P>(), fieldOf<P>(&P::isSmooth, "smooth", "", "holes go on with the curvature around")};
}

std::vector<CommandSpec> rebuildCommands()
{
    return {
        commandOf(combinePieces), commandOf(splitPiece),    commandOf(trimPiece),   commandOf(closeHoles),
        commandOf(openAtMask),    commandOf(makeShell),     commandOf(offsetCopy),  commandOf(solidify),
        commandOf(simplifyPiece), commandOf(changeDensity), commandOf(repairPiece),
    };
}

} // namespace bonemoss::command
