// Commands that give pieces new faces: joins and cuts, splitting, trimming, holes, plates, fewer or more faces. What lies
// on the old skin is carried over to the new one.
#include "command/fields.h"
#include "command/skin/piece_fields.h"
#include "command/named_items.h"
#include "document/ops/melting.h"
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
    std::vector<const skin::Skin *> skins;
    for (const auto &piece : all)
        skins.push_back(&piece->skin);
    return withCombined(before, all, skinOn(mesh, skin::together(skins), context, true), p.keepsOthers);
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
    const solid::Boolean how = p.how;
    const auto kind = how == solid::Boolean::Join  ? solid::Boolean::Join
                      : how == solid::Boolean::Cut ? solid::Boolean::Cut
                                                   : solid::Boolean::Common;
    mesh::PolyMesh mesh = toPolyMesh(all.front()->skin.shown);
    std::vector<const skin::Skin *> skins{&all.front()->skin};
    for (std::size_t i = 1; i < all.size(); ++i) {
        context.progress.say(0.6f * float(i) / float(all.size()), all[i]->name);
        auto combined = solid::combine(mesh, toPolyMesh(all[i]->skin.shown), kind, context.progress);
        if (!combined)
            return Error{combined.error().code, all[i]->name, combined.error().text()};
        if (context.progress.isCancelled())
            return Error{ErrorCode::Cancelled, "join", "stopped on request"};
        mesh = std::move(combined->mesh);
        context.notes.insert(context.notes.end(), combined->notes.begin(), combined->notes.end());
        skins.push_back(&all[i]->skin);
    }
    return withCombined(before, all, skinOn(mesh, skin::together(skins), context, true), p.keepsOthers);
}

/// Both sides of the line where the mask is half; in: what is masked.
mesh::CutMesh cutAtMask(const skin::Skin &skin)
{
    std::vector<float> values;
    for (const std::uint8_t m : skin.mask.flatten())
        values.push_back(float(m) - 127.5f);
    return cutAlong(toPolyMesh(skin.shown), std::move(values));
}

std::vector<bool> flipped(std::vector<bool> flags)
{
    flags.flip();
    return flags;
}

mesh::PolyMesh closedIf(bool isWanted, mesh::PolyMesh mesh, const std::string &name, CommandContext &context)
{
    if (!isWanted)
        return mesh;
    solid::Closed closed = solid::closeHoles(mesh, solid::Fill::Flat);
    if (closed.left > 0)
        context.notes.push_back(fmt::format("{}: {} borders touch themselves and stay open", name, closed.left));
    return std::move(closed.mesh);
}

Result<Creature> splitPiece(const Creature &before, const SplitPiece &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const skin::Skin old = piece->skin;
    std::vector<mesh::PolyMesh> parts;
    std::vector<std::string> names; // of the parts, where they have one
    const SplitBy by = p.by;
    if (by == SplitBy::Groups) {
        // A face is in the group that all its corners are in, those between two in that with the higher number.
        const mesh::PolyMesh mesh = toPolyMesh(old.shown);
        std::vector<std::uint16_t> groupOf(mesh.faces.size());
        for (std::size_t f = 0; f < groupOf.size(); ++f)
            for (int k = 0; k < mesh.faces[f].size(); ++k)
                groupOf[f] = std::max(groupOf[f], old.groupOf[mesh.faces[f].v[std::size_t(k)]]);
        std::vector<std::pair<std::uint16_t, std::string>> wanted{{std::uint16_t(0), piece->name}};
        for (const skin::Group &g : old.groups)
            wanted.push_back({g.number, g.name});
        for (const auto &[number, name] : wanted) {
            std::vector<bool> chosen(groupOf.size());
            for (std::size_t f = 0; f < chosen.size(); ++f)
                chosen[f] = groupOf[f] == number;
            if (std::find(chosen.begin(), chosen.end(), true) == chosen.end())
                continue;
            parts.push_back(extract(mesh, chosen));
            names.push_back(name);
        }
        if (parts.size() < 2)
            return Error{ErrorCode::BadValue, piece->name, "is all in one group, or in none; make groups first"};
    } else if (by == SplitBy::Islands) {
        const mesh::PolyMesh mesh = toPolyMesh(old.shown);
        std::uint32_t count = 0;
        const std::vector<std::uint32_t> island = islandsOf(mesh, count);
        if (count < 2)
            return Error{ErrorCode::BadValue, piece->name, "is one island; there is nothing to split"};
        if (count > 200)
            return Error{ErrorCode::TooLarge, piece->name, fmt::format("has {} islands; that would be as many pieces", count)};
        for (std::uint32_t k = 0; k < count; ++k) {
            std::vector<bool> chosen(mesh.faces.size());
            for (std::size_t f = 0; f < chosen.size(); ++f)
                chosen[f] = island[mesh.faces[f].v[0]] == k;
            parts.push_back(extract(mesh, chosen));
        }
    } else {
        const mesh::CutMesh cut = cutAtMask(old);
        if (std::find(cut.isIn.begin(), cut.isIn.end(), true) == cut.isIn.end()
            || std::find(cut.isIn.begin(), cut.isIn.end(), false) == cut.isIn.end())
            return Error{ErrorCode::BadValue, piece->name, "nothing, or everything, is masked; mask the part that shall go"};
        parts.push_back(extract(cut.mesh, flipped(cut.isIn)));
        parts.push_back(extract(cut.mesh, cut.isIn));
    }
    std::erase_if(parts, [](const mesh::PolyMesh &m) { return m.isEmpty(); });
    for (mesh::PolyMesh &m : parts)
        m = closedIf(p.closes, std::move(m), piece->name, context);
    piece->skin = skinOn(parts.front(), old, context, true);
    Creature after = before;
    after.put(piece);
    for (std::size_t k = 1; k < parts.size(); ++k) {
        CommandContext quiet{{context.progress, {}}, context.folder}; // the losses were told once
        const std::string name = p.name ? *p.name : names.empty() ? piece->name + " part" : names[k];
        after = withNewPiece(std::move(after), name, skinOn(parts[k], old, quiet));
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
    if (p.near && !borders.empty()) {
        std::size_t best = 0;
        float least = std::numeric_limits<float>::max();
        for (std::size_t k = 0; k < borders.size(); ++k)
            for (const std::uint32_t v : borders[k])
                if (const float d = squaredLength(mesh.positions[v] - *p.near); d < least)
                    least = d, best = k;
        only.push_back(best);
    }
    if (borders.empty())
        return Error{ErrorCode::Empty, piece->name, "has no holes"};
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
    const mesh::CutMesh cut = cutAtMask(piece->skin);
    const mesh::PolyMesh rest = extract(cut.mesh, flipped(cut.isIn));
    if (rest.isEmpty() || rest.faces.size() == cut.mesh.faces.size())
        return Error{ErrorCode::BadValue, piece->name, "nothing, or everything, is masked; mask where the hole shall be"};
    piece->skin = skinOn(rest, skin::Skin(piece->skin), context, true);
    return putBack(before, piece);
}

/// A plate over a sheet; sunk ones lie under its surface, centred ones half and half.
mesh::PolyMesh plateOver(const mesh::PolyMesh &sheet, const Plate &p)
{
    const mesh::Surface surface = mesh::makeSurface(sheet);
    std::vector<Vec3f> normals;
    for (std::size_t v = 0; v < sheet.positions.size(); ++v)
        normals.push_back(surface.normals[v].unpack());
    const float t = p.thickness;
    const PlateSide side = p.side;
    const float above = side == PlateSide::Raised ? t : side == PlateSide::Sunk ? 0 : t / 2;
    return solid::plate(sheet, normals, above, above - t, p.rim == solid::Rim::Round ? solid::Rim::Round : solid::Rim::Square);
}

Result<Creature> makeShell(const Creature &before, const MakeShell &p, CommandContext &)
{
    const auto id = need(findPiece(before, p.piece)); // a locked piece may be copied from
    const Piece &piece = *before.piece(id);
    const mesh::CutMesh cut = cutAtMask(wholeSkin(piece));
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
    const float by = p.by, spacing = p.spacing ? *p.spacing : meanEdgeLength(piece.skin.shown);
    if (by == 0)
        return Error{ErrorCode::BadValue, "by", "must be above 0 for a copy outside, below 0 for one inside"};
    if (!solid::openBorders(toPolyMesh(piece.skin.shown)).empty())
        return Error{ErrorCode::BadValue, piece.name, "has open borders, so it has no inside; close its holes first"};
    auto distance = field::distanceOf(piece.skin.shown, spacing);
    if (!distance)
        return Error{distance.error().code, piece.name, distance.error().detail};
    const auto moved = field::offsetBy(std::move(*distance), by);
    auto knitted = field::knitSource(*moved, {spacing, 0}, context.progress);
    if (!knitted)
        return knitted.error().code == ErrorCode::Empty
                   ? Error{ErrorCode::Empty, piece.name,
                           fmt::format("is nowhere thicker than {:g} mm; nothing would be left", -2 * by)}
                   : knitted.error();
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
    std::vector<std::uint32_t> faces;
    for (std::uint32_t f = 0; f < mesh.faces.size(); ++f) {
        int masked = 0;
        for (int k = 0; k < mesh.faces[f].size(); ++k)
            masked += mask[mesh.faces[f].v[std::size_t(k)]] > 127;
        if (where == DensityWhere::All || (where == DensityWhere::Masked ? masked == mesh.faces[f].size() : masked == 0))
            faces.push_back(f);
    }
    if (faces.empty())
        return Error{ErrorCode::BadValue, piece->name,
                     where == DensityWhere::Masked ? "nothing is masked" : "everything is masked"};
    // Splitting ends where the faces asked for would pass what a skin may have.
    double area = 0;
    for (const std::uint32_t f : faces) {
        const mesh::Face &q = mesh.faces[f];
        for (int k = 0; k + 2 < q.size(); ++k)
            area += double(length(cross(mesh.positions[q.v[std::size_t(k + 1)]] - mesh.positions[q.v[0]],
                                        mesh.positions[q.v[std::size_t(k + 2)]] - mesh.positions[q.v[0]])))
                    / 2;
    }
    const double edge = double(p.edge), wanted = area / (edge * edge * 0.433);
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
