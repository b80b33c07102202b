// Commands that give pieces new faces: joins and cuts, splitting, trimming, holes, plates, fewer or more faces. What lies
// on the old skin is carried over to the new one.
#include "document/ops/melting.h"
#include "command/params.h"
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
Result<Creature> combineSoftly(const Creature &before, const Pieces &all, const Params &p, CommandContext &context)
{
    const std::string how = p.text("how");
    Melting m{how == "join" ? field::Blend::Join : how == "cut" ? field::Blend::Cut : field::Blend::Common, p.number("melt")};
    m.spacing = p.has("spacing") ? p.number("spacing") : meanEdgeLength(all.front()->skin.shown);
    m.isSeamOnly = p.text("where") == "seam";
    const auto mesh = melted(all, m, context);
    if (!mesh)
        return mesh.error();
    std::vector<const skin::Skin *> skins;
    for (const auto &piece : all)
        skins.push_back(&piece->skin);
    return withCombined(before, all, skinOn(*mesh, skin::together(skins), context, true), p.isOn("keep"));
}

Result<Creature> combinePieces(const Creature &before, const Params &p, CommandContext &context)
{
    Pieces all;
    for (const auto &r : p.value("pieces")) {
        const auto it = std::find_if(before.pieces.begin(), before.pieces.end(),
                                     [&](const auto &x) { return r.is_string() ? r == x->name : r == x->id; });
        if (it == before.pieces.end())
            return Error{ErrorCode::Unknown, "pieces", fmt::format("there is no piece {}", r.dump())};
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
    if (p.has("melt"))
        return combineSoftly(before, all, p, context);
    const std::string how = p.text("how");
    const auto kind = how == "join" ? solid::Combine::Join : how == "cut" ? solid::Combine::Cut : solid::Combine::Common;
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
    return withCombined(before, all, skinOn(mesh, skin::together(skins), context, true), p.isOn("keep"));
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

Result<Creature> splitPiece(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    const skin::Skin old = piece->skin;
    std::vector<mesh::PolyMesh> parts;
    std::vector<std::string> names; // of the parts, where they have one
    const std::string by = p.text("by");
    if (by == "groups") {
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
    } else if (by == "islands") {
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
        m = closedIf(p.isOn("close"), std::move(m), piece->name, context);
    piece->skin = skinOn(parts.front(), old, context, true);
    Creature after = before;
    after.put(piece);
    for (std::size_t k = 1; k < parts.size(); ++k) {
        CommandContext quiet{{context.progress, {}}, context.folder}; // the losses were told once
        const std::string name = p.has("name") ? p.text("name") : names.empty() ? piece->name + " part" : names[k];
        after = withNewPiece(std::move(after), name, skinOn(parts[k], old, quiet));
    }
    return after;
}

Result<Creature> trimPiece(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    const skin::Skin old = piece->skin;
    solid::Sweep s;
    for (const armature::PathPoint &q : p.path("line"))
        s.line.push_back(q.at);
    s.isClosed = p.isOn("closed");
    s.direction = p.point("direction");
    s.depth = p.number("depth");
    if (p.has("eye"))
        s.eye = p.point("eye");
    s.edge = meanEdgeLength(old.shown);
    const auto knife = solid::sweep(s, old.shown.box());
    if (!knife)
        return knife.error();
    const mesh::PolyMesh mesh = toPolyMesh(old.shown);
    context.progress.say(0.1f, "cutting");
    auto rest = solid::combine(mesh, *knife, solid::Combine::Cut, context.progress);
    if (!rest)
        return rest.error().code == ErrorCode::Empty ? Error{ErrorCode::Empty, piece->name, "nothing would be left of it"}
                                                     : rest.error();
    const std::string keep = p.text("keep");
    std::optional<solid::Combined> other;
    if (keep != "rest") {
        auto common = solid::combine(mesh, *knife, solid::Combine::Common, context.progress);
        if (!common)
            return common.error().code == ErrorCode::Empty ? Error{ErrorCode::Empty, piece->name, "the line does not meet it"}
                                                           : common.error();
        other = std::move(*common);
    }
    context.notes.insert(context.notes.end(), rest->notes.begin(), rest->notes.end());
    piece->skin = skinOn(keep == "part" ? other->mesh : rest->mesh, old, context, true);
    Creature after = before;
    after.put(piece);
    if (keep == "both") {
        CommandContext quiet{{context.progress, {}}, context.folder};
        after = withNewPiece(std::move(after), p.has("name") ? p.text("name") : piece->name + " part",
                             skinOn(other->mesh, old, quiet));
    }
    return after;
}

Result<Creature> closeHoles(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    const mesh::PolyMesh mesh = toPolyMesh(piece->skin.shown);
    const auto borders = solid::openBorders(mesh);
    std::vector<std::size_t> only;
    if (p.has("near") && !borders.empty()) {
        std::size_t best = 0;
        float least = std::numeric_limits<float>::max();
        for (std::size_t k = 0; k < borders.size(); ++k)
            for (const std::uint32_t v : borders[k])
                if (const float d = squaredLength(mesh.positions[v] - p.point("near")); d < least)
                    least = d, best = k;
        only.push_back(best);
    }
    if (borders.empty())
        return Error{ErrorCode::Empty, piece->name, "has no holes"};
    const solid::Closed closed = solid::closeHoles(mesh, p.isOn("smooth") ? solid::Fill::Smooth : solid::Fill::Flat, only);
    if (closed.holes == 0)
        return Error{ErrorCode::BadValue, piece->name, "its borders touch themselves and cannot be closed; re-knit it"};
    context.notes.push_back(
        fmt::format("{} holes closed{}", closed.holes,
                    closed.left ? fmt::format(", {} left open: their borders touch themselves", closed.left) : std::string()));
    piece->skin = skinOn(closed.mesh, skin::Skin(piece->skin), context);
    return putBack(before, piece);
}

Result<Creature> openAtMask(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    const mesh::CutMesh cut = cutAtMask(piece->skin);
    const mesh::PolyMesh rest = extract(cut.mesh, flipped(cut.isIn));
    if (rest.isEmpty() || rest.faces.size() == cut.mesh.faces.size())
        return Error{ErrorCode::BadValue, piece->name, "nothing, or everything, is masked; mask where the hole shall be"};
    piece->skin = skinOn(rest, skin::Skin(piece->skin), context, true);
    return putBack(before, piece);
}

/// A plate over a sheet; sunk ones lie under its surface, centred ones half and half.
mesh::PolyMesh plateOver(const mesh::PolyMesh &sheet, const Params &p)
{
    const mesh::Surface surface = mesh::makeSurface(sheet);
    std::vector<Vec3f> normals;
    for (std::size_t v = 0; v < sheet.positions.size(); ++v)
        normals.push_back(surface.normals[v].unpack());
    const float t = p.number("thickness");
    const std::string side = p.text("side");
    const float above = side == "raised" ? t : side == "sunk" ? 0 : t / 2;
    return solid::plate(sheet, normals, above, above - t, p.text("rim") == "round" ? solid::Rim::Round : solid::Rim::Square);
}

Result<Creature> makeShell(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findPiece(before, p); // a locked piece may be copied from
    if (!id)
        return id.error();
    const Piece &piece = *before.piece(*id);
    const mesh::CutMesh cut = cutAtMask(wholeSkin(piece));
    const mesh::PolyMesh sheet = extract(cut.mesh, cut.isIn);
    if (sheet.isEmpty())
        return Error{ErrorCode::BadValue, piece.name, "nothing is masked; mask where the plate shall be"};
    return withNewPiece(before, p.has("name") ? p.text("name") : piece.name + " plate",
                        skin::makeSkin(plateOver(sheet, p), false));
}

/// A piece of its own at an even distance outside or inside of another.
Result<Creature> offsetCopy(const Creature &before, const Params &p, CommandContext &context)
{
    const auto id = findPiece(before, p); // a locked piece may be copied from
    if (!id)
        return id.error();
    const Piece &piece = *before.piece(*id);
    const float by = p.number("by"), spacing = p.has("spacing") ? p.number("spacing") : meanEdgeLength(piece.skin.shown);
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
    return withNewPiece(before, p.has("name") ? p.text("name") : piece.name + " offset", skin::makeSkin(knitted->mesh, true));
}

Result<Creature> solidify(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    const mesh::PolyMesh sheet = toPolyMesh(piece->skin.shown);
    if (solid::openBorders(sheet).empty())
        return Error{ErrorCode::BadValue, piece->name, "is closed already; a plate comes from an open sheet or a mask"};
    piece->skin = skinOn(plateOver(sheet, p), skin::Skin(piece->skin), context);
    return putBack(before, piece);
}

Result<Creature> simplifyPiece(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    std::vector<float> keep;
    if (p.isOn("mask") && piece->skin.hasMask())
        for (const std::uint8_t m : piece->skin.mask.flatten())
            keep.push_back(float(m) / 255);
    const mesh::PolyMesh shown = toPolyMesh(piece->skin.shown);
    if (!piece->skin.groups.empty())
        solid::keepRims(shown, piece->skin.groupOf.flatten(), keep);
    const auto light = solid::simplify(shown, p.integer("faces"), keep, context.progress);
    if (!light)
        return light.error();
    const skin::Skin old = piece->skin;
    const mesh::PolyMesh ordered = inSpatialOrder(*light);
    skin::Carried carried = skin::carryOver(old, ordered, 2 * meanEdgeLength(old.shown), context.progress);
    context.notes.push_back(fmt::format("{} triangles", fmt::group_digits(ordered.faces.size())));
    for (const skin::CarryLoss &loss : carried.losses)
        context.notes.push_back(loss.text());
    piece->skin = std::move(carried.skin);
    return putBack(before, piece);
}

Result<Creature> changeDensity(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    const mesh::PolyMesh mesh = toPolyMesh(piece->skin.shown);
    const std::string where = p.text("where");
    mesh::BlockArray<std::uint8_t> mask = piece->skin.mask;
    if (where == "layer") {
        const auto id = p.has("layer") ? findLayer(*piece, p.value("layer")) : Result<std::uint32_t>(0u);
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
        if (where == "all" || (where == "masked" ? masked == mesh.faces[f].size() : masked == 0))
            faces.push_back(f);
    }
    if (faces.empty())
        return Error{ErrorCode::BadValue, piece->name, where == "masked" ? "nothing is masked" : "everything is masked"};
    // Splitting ends where the faces asked for would pass what a skin may have.
    double area = 0;
    for (const std::uint32_t f : faces) {
        const mesh::Face &q = mesh.faces[f];
        for (int k = 0; k + 2 < q.size(); ++k)
            area += double(length(cross(mesh.positions[q.v[std::size_t(k + 1)]] - mesh.positions[q.v[0]],
                                        mesh.positions[q.v[std::size_t(k + 2)]] - mesh.positions[q.v[0]])))
                    / 2;
    }
    const double edge = double(p.number("edge")), wanted = area / (edge * edge * 0.433);
    if (wanted > 5e6)
        return Error{ErrorCode::TooLarge, piece->name,
                     fmt::format("would need {:.0f} million faces there; use a longer edge", wanted / 1e6)};
    context.progress.say(0.1f, "even faces");
    const auto even = solid::remesh(mesh, faces, p.number("edge"));
    if (!even)
        return even.error();
    context.notes.push_back(fmt::format("{} faces", fmt::group_digits(even->faces.size())));
    piece->skin = skinOn(*even, skin::Skin(piece->skin), context);
    return putBack(before, piece);
}

/// Everything that keeps a piece from being a solid, as far as it can be mended without making it anew.
Result<Creature> repairPiece(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeWhole(before, p, context);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Piece> piece = *taken;
    solid::Mended mended = solid::mend(toPolyMesh(piece->skin.shown), p.isOn("smooth"));
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

std::vector<CommandSpec> rebuildCommands()
{
    ParamSpec faces = required(numberParam("faces", "", "triangles wanted, met within 1 %", 4, 20'000'000));
    faces.kind = ParamKind::Integer;
    const ParamSpec name = textParam("name", "of the new piece"),
                    thickness = required(numberParam("thickness", "mm", "of the plate", 0.001, 1000)),
                    side = choiceParam("side", "where the plate lies", {"raised", "sunk", "centred"}, "\"raised\""),
                    rim = choiceParam("rim", "its border", {"square", "round"}, "\"square\"");
    return {
        {"pieces.combine",
         "Combine pieces",
         "Join, cut or common part of pieces; the first one takes the result. Exact with a sharp seam, or (melt) knitted anew "
         "with a soft one.",
         {required(plainParam(ParamKind::References, "pieces", "", "two or more; cut: the others from the first")),
          required(choiceParam("how", "what is kept", {"join", "cut", "common"})),
          switchParam("keep", "leave the others beside it", "false"),
          numberParam("melt", "mm", "over how many mm the pieces melt into each other; left out: exact", 0, 1000),
          numberParam("spacing", "mm", "with melt: size of a cell; left out: as the first piece has it", 0.001, 1000),
          choiceParam("where", "with melt: knitted anew are all, or only what melts", {"whole", "seam"}, "\"whole\"")},
         combinePieces},
        {"piece.split",
         "Split piece",
         "Makes pieces of its islands, of its groups, or of what is masked and what is not, closed on both sides.",
         {pieceParam(), required(choiceParam("by", "what parts it", {"islands", "mask", "groups"})),
          switchParam("close", "close both sides", "true"), name},
         splitPiece},
        {"piece.trim",
         "Trim piece",
         "Cuts along a line, curve or outline swept in a direction; the cut is closed. A line takes away what lies to its left.",
         {pieceParam(), required(plainParam(ParamKind::Points, "line", "mm", "points of the line or outline")),
          switchParam("closed", "the line is an outline", "false"),
          required(plainParam(ParamKind::Point, "direction", "", "along which it is swept")),
          plainParam(ParamKind::Point, "eye", "mm", "swept along rays from here instead, as in a perspective view"),
          numberParam("depth", "mm", "how deep from the nearest point of the piece; 0 all the way through", 0, 100000, "0"),
          choiceParam("keep", "what stays: the rest, the part cut off, or both as two pieces", {"rest", "part", "both"},
                      "\"rest\""),
          name},
         trimPiece},
        {"piece.close",
         "Close holes",
         "Closes open borders: flat, or going on with the curvature around them.",
         {pieceParam(), switchParam("smooth", "follow the curvature around", "true"),
          plainParam(ParamKind::Point, "near", "mm", "only the hole nearest to this point")},
         closeHoles},
        {"piece.open", "Make a hole", "Takes away what is masked and leaves the border open.", {pieceParam()}, openAtMask},
        {"piece.shell",
         "Plate from mask",
         "Makes a closed plate of even thickness over what is masked, as a piece of its own.",
         {pieceParam(), thickness, side, rim, name},
         makeShell},
        {"piece.offset",
         "Offset copy",
         "Knits a closed copy at an even distance outside or inside, as a piece of its own.",
         {pieceParam(), required(numberParam("by", "mm", "how far outside; below 0 inside", -1000, 1000)),
          numberParam("spacing", "mm", "size of a cell; left out: as the piece has it", 0.001, 1000), name},
         offsetCopy},
        {"piece.solidify",
         "Give thickness",
         "Makes a closed plate of an open sheet.",
         {pieceParam(), thickness, side, rim},
         solidify},
        {"piece.simplify",
         "Simplify",
         "Fewer triangles of the same shape, as fine as before along open borders and between groups; layers and mask are "
         "carried over.",
         {pieceParam(), faces, switchParam("mask", "keep more faces where it is masked", "true")},
         simplifyPiece},
        {"piece.density",
         "Density",
         "Even triangles of a given edge length where it is masked, where it is not, where a layer may show, or everywhere; the "
         "rest "
         "stays.",
         {pieceParam(), required(numberParam("edge", "mm", "length of their edges", 0.001, 1000)),
          choiceParam("where", "which faces", {"masked", "free", "all", "layer"}, "\"masked\""),
          plainParam(ParamKind::Reference, "layer", "", "layer: where it may show")},
         changeDensity},
        {"piece.repair",
         "Repair",
         "Mends doubled faces, edges of more than two faces, inside-out shells and holes, each told; nothing is reduced.",
         {pieceParam(), switchParam("smooth", "holes go on with the curvature around", "true")},
         repairPiece},
    };
}

} // namespace bonemoss::command
