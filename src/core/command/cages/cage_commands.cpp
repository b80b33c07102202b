// Commands about hard-edged cages.
#include "document/cage.h"
#include "command/params.h"
#include "mesh/cage_edit.h"
#include "mesh/subdivide.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace bonemoss::command {

namespace {

constexpr std::size_t kMostCageFaces = 20000;

Result<std::shared_ptr<Cage>> takeCage(const Creature &c, const Params &p, bool isForLock = false)
{
    Creature after = c;
    const auto cage = takeItemOf<Cage>(after, "cage", p.value("cage"), isForLock ? Lock::Allows : Lock::Refuses);
    return cage ? Result<std::shared_ptr<Cage>>(std::make_shared<Cage>(**cage)) : Result<std::shared_ptr<Cage>>(cage.error());
}

/// Whole numbers below `end`, none twice.
Result<std::vector<std::uint32_t>> indices(const Params &p, const char *name, std::size_t end, bool mayRepeat = false)
{
    std::vector<std::uint32_t> out;
    std::set<std::uint32_t> seen;
    for (const float v : p.numbers(name)) {
        if (!(v >= 0 && v < float(end)) || v != std::floor(v))
            return Error{ErrorCode::BadValue, name, fmt::format("{:g} is not one of its {}, counted from 0", v, end)};
        if (seen.insert(std::uint32_t(v)).second || mayRepeat)
            out.push_back(std::uint32_t(v));
    }
    if (out.empty())
        return Error{ErrorCode::Empty, name, "names nothing"};
    return out;
}

Result<Creature> withCage(const Creature &before, std::shared_ptr<Cage> cage)
{
    if (cage->mesh.faces.size() > kMostCageFaces)
        return Error{ErrorCode::TooLarge, cage->name,
                     fmt::format("a cage has at most {} faces; make it a piece", kMostCageFaces)};
    Creature after = before;
    for (auto &c : after.cages)
        if (c->id == cage->id) {
            c = std::move(cage);
            return after;
        }
    after.cages.push_back(std::move(cage));
    return after;
}

Result<Creature> addCage(const Creature &before, const Params &p, CommandContext &)
{
    auto cage = std::make_shared<Cage>();
    const std::string kind = p.text("kind");
    const Vec3f at = p.has("at") ? p.point("at") : Vec3f{}, size = p.has("size") ? p.point("size") : Vec3f{10, 10, 10};
    const Vec3f normal = p.has("normal") ? p.point("normal") : Vec3f{0, 1, 0};
    if (!(size.x > 0 && size.y > 0 && size.z > 0) || !(length(normal) > 1e-6f))
        return Error{ErrorCode::BadValue, "cage", "needs sizes above 0 mm and a normal with a direction"};
    if (kind == "box") {
        cage->mesh = mesh::boxCage(at, size * 0.5f);
    } else if (kind == "sheet") {
        const Vec3f n = normalized(normal), along = std::abs(n.z) < 0.9f ? Vec3f{0, 0, 1} : Vec3f{1, 0, 0};
        cage->mesh = mesh::sheetCage(at, n, along, size.x / 2, size.z / 2);
    } else {
        if (!p.has("points"))
            return Error{ErrorCode::BadValue, "cage", "a strip needs points"};
        const auto given = p.path("points");
        const auto facing = p.has("normals") ? p.path("normals") : std::vector<armature::PathPoint>{};
        if (!facing.empty() && facing.size() != given.size())
            return Error{ErrorCode::BadValue, "normals", "must be as many as the points"};
        std::vector<Vec3f> points, normals;
        for (std::size_t i = 0; i < given.size(); ++i)
            if (points.empty() || length(given[i].at - points.back()) > 1e-3f) {
                points.push_back(given[i].at);
                const Vec3f n = facing.empty() ? normal : facing[i].at;
                normals.push_back(normalized(length(n) > 1e-6f ? n : normal));
            }
        if (points.size() < 2)
            return Error{ErrorCode::BadValue, "cage", "a strip needs two points that lie apart"};
        cage->mesh = mesh::stripCage(points, normals, size.x);
    }
    Creature after = before;
    cage->id = after.nextId++;
    cage->name = after.uniqueName(p.text("name"));
    cage->smooth = int(p.integer("smooth"));
    cage->isMirrored = p.isOn("mirror");
    return withCage(after, std::move(cage));
}

Result<Creature> setCage(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takeCage(before, p, p.has("locked") || p.has("hidden"));
    if (!taken)
        return taken.error();
    const std::shared_ptr<Cage> cage = *taken;
    if (p.has("name") && p.text("name") != cage->name)
        cage->name = before.uniqueName(p.text("name"));
    if (p.has("smooth"))
        cage->smooth = int(p.integer("smooth"));
    if (p.has("mirror"))
        cage->isMirrored = p.isOn("mirror");
    if (p.has("hidden"))
        cage->isHidden = p.isOn("hidden");
    if (p.has("locked"))
        cage->isLocked = p.isOn("locked");
    return withCage(before, cage);
}

Result<Creature> removeCage(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takeCage(before, p);
    if (!taken)
        return taken.error();
    Creature after = before;
    if (const Status gone = removeItems(after, {(*taken)->id}); !gone)
        return gone.error();
    return after;
}

/// extrude, inset, bevel and delete work on faces.
Result<Creature> editFaces(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takeCage(before, p);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Cage> cage = *taken;
    const auto faces = indices(p, "faces", cage->mesh.faces.size());
    if (!faces)
        return faces.error();
    const std::string edit = p.text("edit");
    const float width = p.has("width") ? p.number("width") : 0;
    if (edit == "extrude") {
        if (!p.has("by") && !p.has("width"))
            return Error{ErrorCode::BadValue, cage->name, "say how far (width along the normal, or by)"};
        const Vec3f by = p.has("by") ? p.point("by") : meanNormal(cage->mesh, *faces) * width;
        cage->mesh = extruded(cage->mesh, *faces, by);
    } else if (edit == "delete") {
        if (faces->size() == cage->mesh.faces.size())
            return Error{ErrorCode::BadValue, cage->name, "would have no faces left; remove the cage instead"};
        cage->mesh = withoutFaces(cage->mesh, *faces);
    } else {
        if (!(width > 0))
            return Error{ErrorCode::BadValue, cage->name, "needs a width above 0 mm"};
        cage->mesh = edit == "inset" ? inset(cage->mesh, *faces, width) : bevelled(cage->mesh, *faces, width);
    }
    return withCage(before, cage);
}

/// extend works on open edges, ring on one edge: pairs of points.
Result<Creature> editEdges(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takeCage(before, p);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Cage> cage = *taken;
    const auto ends = indices(p, "edges", cage->mesh.positions.size(), true);
    if (!ends)
        return ends.error();
    if (ends->size() % 2)
        return Error{ErrorCode::BadValue, "edges", "must be pairs of points"};
    std::vector<mesh::EdgeKeyPair> edges;
    for (std::size_t i = 0; i < ends->size(); i += 2)
        edges.push_back({(*ends)[i], (*ends)[i + 1]});
    bool done = false;
    if (p.text("edit") == "ring")
        cage->mesh = withRing(cage->mesh, edges.front(), p.number("share"), done);
    else if (p.has("by"))
        cage->mesh = extended(cage->mesh, edges, p.point("by"), done);
    else if (p.has("width"))
        cage->mesh = extended(cage->mesh, edges, outwards(cage->mesh, edges) * p.number("width"), done);
    else
        return Error{ErrorCode::BadValue, cage->name, "say how far (width along its faces, or by)"};
    if (!done)
        return Error{ErrorCode::BadValue, cage->name,
                     p.text("edit") == "ring" ? "no band of quads crosses that edge"
                                              : "one of the edges is not open, as its face runs along it"};
    return withCage(before, cage);
}

Result<Creature> movePoints(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takeCage(before, p);
    if (!taken)
        return taken.error();
    const std::shared_ptr<Cage> cage = *taken;
    const auto points = indices(p, "points", cage->mesh.positions.size());
    if (!points)
        return points.error();
    cage->mesh = softMoved(cage->mesh, *points, p.point("by"), p.number("reach"));
    return withCage(before, cage);
}

Result<Creature> makePiece(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takeCage(before, p);
    if (!taken)
        return taken.error();
    auto piece = std::make_shared<Piece>();
    piece->skin = skin::makeSkin(shownCage(**taken), false);
    Creature after = before;
    if (!p.isOn("keep"))
        std::erase_if(after.cages, [id = (*taken)->id](const auto &c) { return c->id == id; });
    piece->id = after.nextId++;
    piece->name = after.uniqueName((*taken)->name);
    after.pieces.push_back(std::move(piece));
    return after;
}

} // namespace

std::vector<CommandSpec> cageCommands()
{
    const ParamSpec cage = required(plainParam(ParamKind::Reference, "cage", "", "name or id"));
    ParamSpec smooth = numberParam("smooth", "", "Catmull-Clark steps it is shown with", 0, 4);
    smooth.kind = ParamKind::Integer;
    ParamSpec smoothNew = numberParam("smooth", "", "Catmull-Clark steps it is shown with", 0, 4, "2");
    smoothNew.kind = ParamKind::Integer;
    return {
        {"cage.add",
         "Add cage",
         "Begins a hard-edged cage: a box, a sheet, or a strip along points.",
         {required(choiceParam("kind", "what it begins as", {"box", "sheet", "strip"})),
          textParam("name", "made unique", "\"cage\""), plainParam(ParamKind::Point, "at", "mm", "its middle"),
          plainParam(ParamKind::Point, "size", "mm", "box: its sides; sheet: x long and z wide; strip: x wide"),
          plainParam(ParamKind::Point, "normal", "", "sheet and strip: where it faces"),
          plainParam(ParamKind::Points, "points", "mm", "strip: its middle line"),
          plainParam(ParamKind::Points, "normals", "", "strip: where it faces at each of its points, instead of one normal"),
          smoothNew, switchParam("mirror", "has a twin across the middle plane", "false")},
         addCage},
        {"cage.set",
         "Change cage",
         "Name, smoothness, twin, visibility and lock of a cage.",
         {cage, textParam("name", "made unique"), smooth, switchParam("mirror", "has a twin across the middle plane"),
          switchParam("hidden", "not shown"), switchParam("locked", "cannot be changed")},
         setCage},
        {"cage.faces",
         "Edit faces",
         "Extrudes, insets, bevels or deletes faces of a cage.",
         {cage, required(choiceParam("edit", "what is done", {"extrude", "inset", "bevel", "delete"})),
          required(plainParam(ParamKind::Numbers, "faces", "", "which, counted from 0")),
          numberParam("width", "mm", "how far along their normal, or how wide the rim", -10000, 10000),
          plainParam(ParamKind::Point, "by", "mm", "extrude: how far, instead")},
         editFaces},
        {"cage.edges",
         "Edit edges",
         "Extends open edges by new quads, or sets a ring across the band of quads over an edge.",
         {cage, required(choiceParam("edit", "what is done", {"extend", "ring"})),
          required(plainParam(ParamKind::Numbers, "edges", "", "pairs of points, as their face runs along them")),
          numberParam("width", "mm", "extend: how far, along the faces the edges belong to", -10000, 10000),
          plainParam(ParamKind::Point, "by", "mm", "extend: how far, instead"),
          numberParam("share", "", "ring: where on the edge", 0.01, 0.99, "0.5")},
         editEdges},
        {"cage.move",
         "Move points",
         "Moves points of a cage; others within reach follow softly.",
         {cage, required(plainParam(ParamKind::Numbers, "points", "", "which, counted from 0")),
          required(plainParam(ParamKind::Point, "by", "mm", "how far")),
          numberParam("reach", "mm", "how far others follow", 0, 1e5, "0")},
         movePoints},
        {"cage.piece",
         "Make cage a piece",
         "Makes the smooth shape of a cage a piece to sculpt on.",
         {cage, switchParam("keep", "the cage stays too", "false")},
         makePiece},
        {"cage.remove", "Delete cage", "Deletes a cage.", {cage}, removeCage},
    };
}

} // namespace bonemoss::command
