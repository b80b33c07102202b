#include "command/params.h"
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

Result<field::Density> densityOf(const Params &p)
{
    field::Density d;
    if (p.has("spacing") == p.has("faces"))
        return Error{ErrorCode::BadValue, "knit", "give either a spacing in mm or a face count"};
    if (p.has("spacing"))
        d.spacing = p.number("spacing");
    else
        d.faces = p.integer("faces");
    return d;
}

Result<Creature> knitForms(const Creature &before, const Params &p, CommandContext &context)
{
    const auto density = densityOf(p);
    if (!density)
        return density.error();
    std::vector<std::uint32_t> only;
    if (p.has("forms"))
        for (const auto &r : p.value("forms")) {
            const auto id = findForm(before, r);
            if (!id)
                return id.error();
            only.push_back(*id);
        }
    auto knitted = field::knitSource(*armature::makeDistance(before.armature, only), *density, context.progress);
    if (!knitted)
        return knitted.error();
    context.notes.push_back(
        fmt::format("{} faces at {:.3g} mm", fmt::group_digits(knitted->mesh.faces.size()), knitted->report.spacing));
    if (knitted->report.crumbs > 0)
        context.notes.push_back(fmt::format("{} crumbs of tips thinner than the spacing were left out", knitted->report.crumbs));
    context.progress.say(0.8f, "blocks");
    Creature after = withNewPiece(before, p.text("name"), skin::makeSkin(knitted->mesh, true));
    for (armature::Form &f : after.armature.forms)
        if (only.empty() || std::find(only.begin(), only.end(), f.id) != only.end())
            f.isKnitted = true;
    return after;
}

Result<Creature> knitPieces(const Creature &before, const Params &p, CommandContext &context)
{
    const auto density = densityOf(p);
    if (!density)
        return density.error();
    mesh::PolyMesh all;
    std::vector<skin::Skin> skins;
    std::vector<std::uint32_t> used;
    for (const auto &piece : before.pieces) {
        const bool asked = !p.has("pieces") ? !piece->isHidden
                                            : std::any_of(p.value("pieces").begin(), p.value("pieces").end(), [&](const auto &r) {
                                                  return r.is_string() ? r == piece->name : r == piece->id;
                                              });
        if (!asked)
            continue;
        used.push_back(piece->id);
        skins.push_back(wholeSkin(*piece));
        mesh::append(all, toPolyMesh(skins.back().shown));
    }
    if (used.empty() || (p.has("pieces") && used.size() != p.value("pieces").size()))
        return Error{ErrorCode::Unknown, "pieces", "one of them is not there, or none is shown"};
    auto knitted = field::knitMesh(all, *density, context.progress);
    if (!knitted)
        return knitted.error();
    if (knitted->report.filledEdges > 0)
        context.notes.push_back("the input was open or inside out in places; its holes were closed");
    Creature after = before;
    if (!p.isOn("keep"))
        std::erase_if(after.pieces, [&](const auto &x) { return std::find(used.begin(), used.end(), x->id) != used.end(); });
    std::vector<const skin::Skin *> parts;
    for (const skin::Skin &s : skins)
        parts.push_back(&s);
    return withNewPiece(after, p.text("name"), carriedTo(skin::together(parts), *knitted, context));
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

Result<Creature> reknit(const Creature &before, const Params &p, CommandContext &context)
{
    const auto density = densityOf(p);
    if (!density)
        return density.error();
    if (p.text("where") == "masked") {
        if (density->faces > 0)
            return Error{ErrorCode::BadValue, "faces", "are for the whole skin; give a spacing for a part of it"};
        const auto whole = takeWhole(before, p, context);
        if (!whole)
            return whole.error();
        auto part = reknittedWhereMasked((*whole)->skin, density->spacing, context);
        if (!part)
            return Error{part.error().code, (*whole)->name, part.error().text()};
        (*whole)->skin = std::move(*part);
        return putBack(before, *whole);
    }
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    auto skin = reknitted((*taken)->skin, *density, context);
    if (!skin)
        return skin.error();
    (*taken)->skin = std::move(*skin);
    return putBack(before, *taken);
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

Result<Creature> importPiece(const Creature &before, const Params &p, CommandContext &context)
{
    std::filesystem::path path = p.text("path");
    if (path.is_relative())
        path = context.folder / path;
    auto mesh = io::readMesh(path, context.progress);
    if (!mesh)
        return mesh.error();
    for (const io::Repair &r : mesh->repairs)
        context.notes.push_back(
            {fmt::format("{}: {}", r.what, r.count), r.first ? std::optional(*r.first * p.number("scale")) : std::nullopt});
    tellFaults(mesh->mesh, p.number("scale"), context);
    const float scale = p.number("scale");
    for (Vec3f &q : mesh->mesh.positions)
        q *= scale;
    const mesh::PolyMesh ordered = inSpatialOrder(mesh->mesh);
    if (!fitsBlocks(ordered))
        return Error{ErrorCode::TooLarge, shownPath(path), "at too many of its points meet thousands of faces each"};
    return withNewPiece(before, p.has("name") ? p.text("name") : shownPath(path.stem()), skin::makeSkin(ordered, true));
}

Result<Creature> setPiece(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findPiece(before, p);
    if (!id)
        return id.error();
    auto piece = std::make_shared<Piece>(*before.piece(*id));
    if (p.has("name") && p.text("name") != piece->name)
        piece->name = before.uniqueName(p.text("name"));
    if (p.has("hidden"))
        piece->isHidden = p.isOn("hidden");
    if (p.has("locked"))
        piece->isLocked = p.isOn("locked");
    if (p.has("live"))
        piece->liveSpacing = p.number("live");
    return putBack(before, std::move(piece));
}

Result<Creature> removePiece(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findPiece(before, p);
    if (!id)
        return id.error();
    Creature after = before;
    if (const Status gone = removeItems(after, {*id}); !gone)
        return gone.error();
    return after;
}

} // namespace

std::vector<CommandSpec> skinCommands()
{
    const ParamSpec spacing = numberParam("spacing", "mm", "size of a cell; give this or faces", 0.001, 1000);
    ParamSpec faces = numberParam("faces", "", "faces wanted, met within 3 %; give this or spacing", 50, 20'000'000);
    faces.kind = ParamKind::Integer;
    const ParamSpec name = textParam("name", "of the new piece", "\"skin\"");
    return {
        {"knit.forms",
         "Knit forms",
         "Melts the forms into one closed skin of quads; the armature stays.",
         {name, spacing, faces, plainParam(ParamKind::References, "forms", "", "only these forms")},
         knitForms},
        {"knit.pieces",
         "Knit pieces",
         "Fuses pieces into one closed skin by winding count.",
         {name, spacing, faces, plainParam(ParamKind::References, "pieces", "", "only these; else all shown"),
          switchParam("keep", "leave the old pieces beside the new one", "false")},
         knitPieces},
        {"piece.reknit",
         "Re-knit",
         "Rebuilds a skin, or what of it is masked, at another spacing; layers and masks are carried over.",
         {pieceParam(), spacing, faces,
          choiceParam("where", "the whole skin, or what is masked, with all other faces left as they are", {"whole", "masked"},
                      "\"whole\"")},
         reknit},
        {"piece.import",
         "Import",
         "Reads a mesh file (OBJ, STL, PLY, glTF, OFF) as a piece, with repairs told.",
         {required(pathParam("path", "file; relative to the recipe")), textParam("name", "of the piece"),
          numberParam("scale", "", "from the file's units to mm", 1e-6, 1e6, "1")},
         importPiece,
         true},
        {"piece.set",
         "Change piece",
         "Name, visibility, lock and live re-knit of a piece.",
         {pieceParam(), textParam("name", "new name"), switchParam("hidden", "not shown"),
          switchParam("locked", "cannot be changed"),
          numberParam("live", "mm", "knitted again at this spacing at the end of each stroke; 0 for not", 0, 1000)},
         setPiece},
        {"piece.remove", "Delete piece", "Deletes a piece.", {pieceParam()}, removePiece},
    };
}

} // namespace bonemoss::command
