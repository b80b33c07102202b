#include "command/fields.h"
#include "command/skin/piece_fields.h"
#include "command/named_items.h"
#include "base/files.h"
#include "document/ops/reknit.h"

#include "skin/carry.h"
#include "skin/levels.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "solid/patch_in.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

Result<field::Density> densityOf(const KnitDensity &p)
{
    if (p.spacing.has_value() == p.faces.has_value())
        return Error{ErrorCode::BadValue, "knit", "give either a spacing in mm or a face count"};
    field::Density d;
    setIfGiven(d.spacing, p.spacing);
    setIfGiven(d.faces, p.faces);
    return d;
}

Result<Creature> knitForms(const Creature &before, const KnitForms &p, CommandContext &context)
{
    const auto density = need(densityOf(p.density));
    std::vector<std::uint32_t> only;
    if (p.forms)
        for (const ItemName &name : *p.forms)
            only.push_back(need(findForm(before, name)));
    auto knitted = need(field::knitSource(*armature::makeDistance(before.armature, only), density, context.progress));
    context.notes.push_back(
        fmt::format("{} faces at {:.3g} mm", fmt::group_digits(knitted.mesh.faces.size()), knitted.report.spacing));
    if (knitted.report.crumbs > 0)
        context.notes.push_back(fmt::format("{} crumbs of tips thinner than the spacing were left out", knitted.report.crumbs));
    context.progress.say(0.8f, "blocks");
    Creature after = withNewPiece(before, p.name, skin::makeSkin(knitted.mesh, true));
    for (armature::Form &f : after.armature.forms)
        if (only.empty() || std::find(only.begin(), only.end(), f.id) != only.end())
            f.isKnitted = true;
    return after;
}

Result<Creature> knitPieces(const Creature &before, const KnitPieces &p, CommandContext &context)
{
    const auto density = need(densityOf(p.density));
    mesh::PolyMesh all;
    std::vector<skin::Skin> skins;
    std::vector<std::uint32_t> used;
    for (const auto &piece : before.pieces) {
        const bool asked =
            !p.pieces ? !piece->isHidden
                      : std::any_of(p.pieces->begin(), p.pieces->end(), [&](const ItemName &n) { return isNamed(*piece, n); });
        if (!asked)
            continue;
        used.push_back(piece->id);
        skins.push_back(wholeSkin(*piece));
        mesh::append(all, toPolyMesh(skins.back().shown));
    }
    if (used.empty() || (p.pieces && used.size() != p.pieces->size()))
        return Error{ErrorCode::Unknown, "pieces", "one of them is not there, or none is shown"};
    auto knitted = need(field::knitMesh(all, density, context.progress));
    if (knitted.report.filledEdges > 0)
        context.notes.push_back("the input was open or inside out in places; its holes were closed");
    Creature after = before;
    if (!p.keepsOthers)
        std::erase_if(after.pieces, [&](const auto &x) { return std::find(used.begin(), used.end(), x->id) != used.end(); });
    std::vector<const skin::Skin *> parts;
    for (const skin::Skin &s : skins)
        parts.push_back(&s);
    return withNewPiece(after, p.name, carriedTo(skin::together(parts), knitted, context));
}

} // namespace

namespace {

/// The masked part of a skin knitted anew at a spacing; the rest keeps its faces.
Result<skin::Skin> reknittedWhereMasked(const skin::Skin &skin, float spacing, CommandContext &context)
{
    const mesh::PolyMesh shown = toPolyMesh(skin.shown);
    std::vector<bool> region(shown.faces.size(), true);
    for (std::size_t f = 0; f < region.size(); ++f)
        for (int k = 0; k < shown.faces[f].size(); ++k)
            region[f] = region[f] && skin.mask[shown.faces[f].v[std::size_t(k)]] > 127;
    const auto count = std::size_t(std::count(region.begin(), region.end(), true));
    if (count == 0 || count == region.size())
        return Error{ErrorCode::BadValue, "mask", "nothing, or everything, is masked; mask the part that shall be knitted again"};
    const auto knitted = field::knitAgain(shown, spacing, context.progress);
    if (!knitted)
        return knitted.error();
    const auto patched = solid::patchedIn(shown, std::move(region), knitted->mesh, knitted->near, spacing);
    if (!patched)
        return patched.error();
    const mesh::PolyMesh ordered = inSpatialOrder(*patched);
    skin::Carried carried =
        skin::carryOver(skin, ordered, std::max(spacing, 1.5f * meanEdgeLength(skin.shown)), context.progress);
    context.notes.push_back(
        fmt::format("{} faces, {:.3g} mm where it was masked", fmt::group_digits(ordered.faces.size()), spacing));
    for (const skin::CarryLoss &loss : carried.losses)
        context.notes.push_back(loss.text());
    return std::move(carried.skin);
}

Result<Creature> reknit(const Creature &before, const Reknit &p, CommandContext &context)
{
    const auto density = need(densityOf(p.density));
    if (p.where == ReknitWhere::Masked) {
        if (density.faces > 0)
            return Error{ErrorCode::BadValue, "faces", "are for the whole skin; give a spacing for a part of it"};
        const auto whole = need(takeWhole(before, p.piece, context));
        auto part = reknittedWhereMasked(whole->skin, density.spacing, context);
        if (!part)
            return Error{part.error().code, whole->name, part.error().text()};
        whole->skin = std::move(*part);
        return putBack(before, whole);
    }
    const auto taken = need(takePiece(before, p.piece));
    auto skin = need(reknitted(taken->skin, density, context));
    taken->skin = std::move(skin);
    return putBack(before, taken);
}

/// What an imported mesh has that stands in the way of a solid, or may be meant in other units. Nothing is changed.
void tellFaults(const mesh::PolyMesh &mesh, float scale, CommandContext &context)
{
    constexpr float kSmall = 2, kLarge = 20000; // mm
    const mesh::Measures m = measure(mesh);
    const auto tell = [&](std::size_t n, const char *what, std::optional<Vec3f> first) {
        if (n > 0)
            context.notes.push_back({fmt::format("{} {}", n, what), first ? std::optional(*first * scale) : first});
    };
    tell(m.boundaryEdges, "open edges: holes, which Repair or a re-knit close", m.firstBoundary);
    tell(m.nonManifoldEdges, "edges of more than two faces, which Repair parts", m.firstNonManifold);
    tell(m.flippedEdges, "edges between faces that are turned against each other, which Repair turns", m.firstFlipped);
    if (m.components > 1)
        context.notes.push_back(fmt::format("{} islands; all were kept", m.components));
    const Vec3f size = m.bounds.size() * scale;
    const float longest = std::max({size.x, size.y, size.z});
    if (longest < kSmall || longest > kLarge)
        context.notes.push_back(
            fmt::format("its longest side is {:.4g} mm; if the file was in {}, import it with a scale of {:g}", longest,
                        longest < kSmall ? "metres" : "thousandths of a millimetre", longest < kSmall ? 1000 : 0.001));
}

Result<Creature> importPiece(const Creature &before, const ImportPiece &p, CommandContext &context)
{
    std::filesystem::path path = p.path;
    if (path.is_relative())
        path = context.folder / path;
    auto mesh = need(io::readMesh(path, context.progress));
    for (const io::Repair &r : mesh.repairs)
        context.notes.push_back(
            {fmt::format("{}: {}", r.what, r.count), r.first ? std::optional(*r.first * p.scale) : std::nullopt});
    for (const std::string &name : mesh.leftOut)
        context.notes.push_back("the file's " + name + " were not taken in");
    tellFaults(mesh.mesh, p.scale, context);
    const float scale = p.scale;
    for (Vec3f &q : mesh.mesh.positions)
        q *= scale;
    const mesh::PolyMesh ordered = inSpatialOrder(mesh.mesh);
    if (!fitsBlocks(ordered))
        return Error{ErrorCode::TooLarge, shownPath(path), "at too many of its points meet thousands of faces each"};
    return withNewPiece(before, p.name ? *p.name : shownPath(path.stem()), skin::makeSkin(ordered, true));
}

Result<Creature> setPiece(const Creature &before, const SetPiece &p, CommandContext &)
{
    const auto id = need(findPiece(before, p.piece));
    auto piece = std::make_shared<Piece>(*before.piece(id));
    if (p.name && *p.name != piece->name)
        piece->name = before.uniqueName(*p.name);
    setIfGiven(piece->isHidden, p.isHidden);
    setIfGiven(piece->isLocked, p.isLocked);
    setIfGiven(piece->liveSpacing, p.live);
    setIfGiven(piece->inside.depth, p.lightDepth), setIfGiven(piece->inside.tint, p.lightTint);
    return putBack(before, std::move(piece));
}

Result<Creature> removePiece(const Creature &before, const RemovePiece &p, CommandContext &)
{
    const auto id = need(findPiece(before, p.piece));
    Creature after = before;
    need(removeItems(after, {id}));
    return after;
}

} // namespace

Fields<KnitDensity> KnitDensity::fields()
{
    using P = KnitDensity;
    return {fieldOf<P>(&P::spacing, "spacing", "mm", "size of a cell; give this or faces", 0.001, 1000),
            fieldOf<P>(&P::faces, "faces", "", "faces wanted, met within 3 %; give this or spacing", 50, 20000000)};
}

Fields<KnitForms> KnitForms::fields()
{
    using P = KnitForms;
    return fieldList<P>({fieldOf<P>(&P::name, "name", "", "of the new piece"), nested<P>(&P::density, KnitDensity::fields()),
                         fieldOf<P>(&P::forms, "forms", "", "only these forms")});
}

Fields<KnitPieces> KnitPieces::fields()
{
    using P = KnitPieces;
    return fieldList<P>({fieldOf<P>(&P::name, "name", "", "of the new piece"), nested<P>(&P::density, KnitDensity::fields()),
                         fieldOf<P>(&P::pieces, "pieces", "", "only these; else all shown"),
                         fieldOf<P>(&P::keepsOthers, "keep", "", "leave the old pieces beside the new one")});
}

Fields<Reknit> Reknit::fields()
{
    using P = Reknit;
    return fieldList<P>(
        {pieceField<P>(), nested<P>(&P::density, KnitDensity::fields()),
         choiceOf<P>(&P::where, "where", "the whole skin, or what is masked, with all other faces left as they are",
                     kReknitWhereNames)});
}

Fields<ImportPiece> ImportPiece::fields()
{
    using P = ImportPiece;
    return {fieldOf<P>(&P::path, "path", "", "file; relative to the recipe").required(),
            fieldOf<P>(&P::name, "name", "", "of the piece"),
            fieldOf<P>(&P::scale, "scale", "", "from the file's units to mm", 1e-06, 1000000)};
}

Fields<SetPiece> SetPiece::fields()
{
    using P = SetPiece;
    return {pieceField<P>(),
            fieldOf<P>(&P::name, "name", "", "new name"),
            fieldOf<P>(&P::isHidden, "hidden", "", "not shown"),
            fieldOf<P>(&P::isLocked, "locked", "", "cannot be changed"),
            fieldOf<P>(&P::live, "live", "mm", "knitted again at this spacing at the end of each stroke; 0 for not", 0, 1000),
            fieldOf<P>(&P::lightDepth, "lightDepth", "mm",
                       "how far light goes inside where it is translucent, with what grows on it; 0: by the size of the creature",
                       0, 1000),
            fieldOf<P>(&P::lightTint, "lightTint", "", "shares of that depth for red, green and blue", 0.01, 1)};
}

Fields<RemovePiece> RemovePiece::fields()
{
    using P = RemovePiece;
    return {pieceField<P>()};
}

std::vector<CommandSpec> skinCommands()
{
    return {
        commandOf(knitForms),         commandOf(knitPieces), commandOf(reknit),
        commandOf(importPiece, true), commandOf(setPiece),   commandOf(removePiece),
    };
}

} // namespace bonemoss::command
