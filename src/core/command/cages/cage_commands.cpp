// Commands about hard-edged cages.
#include "command/fields.h"
#include "command/cages/cage_fields.h"
#include "command/named_items.h"
#include "document/cage.h"
#include "mesh/cage_edit.h"
#include "mesh/subdivide.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace bonemoss::command {

namespace {

constexpr std::size_t kMostCageFaces = 20000;

/// A copy of a cage, to be changed and put back.
std::shared_ptr<Cage> takeCage(const Creature &c, const ItemName &name, Lock lock = Lock::Refuses)
{
    Creature after = c;
    return std::make_shared<Cage>(*need(takeItemOf<Cage>(after, "cage", name, lock)));
}

/// Whole numbers below `end`, none twice.
Result<std::vector<std::uint32_t>> indices(const std::vector<float> &values, const char *name, std::size_t end,
                                           bool mayRepeat = false)
{
    std::vector<std::uint32_t> out;
    std::set<std::uint32_t> seen;
    for (const float v : values) {
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

Result<Creature> addCage(const Creature &before, const AddCage &p, CommandContext &)
{
    auto cage = std::make_shared<Cage>();
    const CageKind kind = p.kind;
    const Vec3f at = p.at.value_or(Vec3f{}), size = p.size.value_or(Vec3f{10, 10, 10});
    const Vec3f normal = p.normal.value_or(Vec3f{0, 1, 0});
    if (!(size.x > 0 && size.y > 0 && size.z > 0) || !(length(normal) > 1e-6f))
        return Error{ErrorCode::BadValue, "cage", "needs sizes above 0 mm and a normal with a direction"};
    if (kind == CageKind::Box) {
        cage->mesh = mesh::boxCage(at, size * 0.5f);
    } else if (kind == CageKind::Sheet) {
        const Vec3f n = normalized(normal), along = std::abs(n.z) < 0.9f ? Vec3f{0, 0, 1} : Vec3f{1, 0, 0};
        cage->mesh = mesh::sheetCage(at, n, along, size.x / 2, size.z / 2);
    } else {
        if (!p.points)
            return Error{ErrorCode::BadValue, "cage", "a strip needs points"};
        const std::vector<Vec3f> &given = *p.points, facing = p.normals.value_or(std::vector<Vec3f>{});
        if (!facing.empty() && facing.size() != given.size())
            return Error{ErrorCode::BadValue, "normals", "must be as many as the points"};
        std::vector<Vec3f> points, normals;
        for (std::size_t i = 0; i < given.size(); ++i)
            if (points.empty() || length(given[i] - points.back()) > 1e-3f) {
                points.push_back(given[i]);
                const Vec3f n = facing.empty() ? normal : facing[i];
                normals.push_back(normalized(length(n) > 1e-6f ? n : normal));
            }
        if (points.size() < 2)
            return Error{ErrorCode::BadValue, "cage", "a strip needs two points that lie apart"};
        cage->mesh = mesh::stripCage(points, normals, size.x);
    }
    Creature after = before;
    cage->id = after.nextId++;
    cage->name = after.uniqueName(p.name);
    cage->smooth = int(p.smooth);
    cage->isMirrored = p.isMirrored;
    return withCage(after, std::move(cage));
}

Result<Creature> setCage(const Creature &before, const SetCage &p, CommandContext &)
{
    const auto cage = takeCage(before, p.cage, p.isLocked || p.isHidden ? Lock::Allows : Lock::Refuses);
    if (p.name && *p.name != cage->name)
        cage->name = before.uniqueName(*p.name);
    if (p.smooth)
        cage->smooth = int(*p.smooth);
    setIfGiven(cage->isMirrored, p.isMirrored);
    setIfGiven(cage->isHidden, p.isHidden);
    setIfGiven(cage->isLocked, p.isLocked);
    return withCage(before, cage);
}

Result<Creature> removeCage(const Creature &before, const RemoveCage &p, CommandContext &)
{
    const auto taken = takeCage(before, p.cage);
    Creature after = before;
    need(removeItems(after, {taken->id}));
    return after;
}

/// extrude, inset, bevel and delete work on faces.
Result<Creature> editFaces(const Creature &before, const EditFaces &p, CommandContext &)
{
    const auto cage = takeCage(before, p.cage);
    const auto faces = need(indices(p.faces, "faces", cage->mesh.faces.size()));
    const FacesEdit edit = p.edit;
    const float width = p.width.value_or(0);
    if (edit == FacesEdit::Extrude) {
        if (!p.by && !p.width)
            return Error{ErrorCode::BadValue, cage->name, "say how far (width along the normal, or by)"};
        const Vec3f by = p.by ? *p.by : meanNormal(cage->mesh, faces) * width;
        cage->mesh = extruded(cage->mesh, faces, by);
    } else if (edit == FacesEdit::Delete) {
        if (faces.size() == cage->mesh.faces.size())
            return Error{ErrorCode::BadValue, cage->name, "would have no faces left; remove the cage instead"};
        cage->mesh = withoutFaces(cage->mesh, faces);
    } else {
        if (!(width > 0))
            return Error{ErrorCode::BadValue, cage->name, "needs a width above 0 mm"};
        cage->mesh = edit == FacesEdit::Inset ? inset(cage->mesh, faces, width) : bevelled(cage->mesh, faces, width);
    }
    return withCage(before, cage);
}

/// extend works on open edges, ring on one edge: pairs of points.
Result<Creature> editEdges(const Creature &before, const EditEdges &p, CommandContext &)
{
    const auto cage = takeCage(before, p.cage);
    const auto ends = need(indices(p.edges, "edges", cage->mesh.positions.size(), true));
    if (ends.size() % 2)
        return Error{ErrorCode::BadValue, "edges", "must be pairs of points"};
    std::vector<mesh::EdgeKeyPair> edges;
    for (std::size_t i = 0; i < ends.size(); i += 2)
        edges.push_back({ends[i], ends[i + 1]});
    bool done = false;
    if (p.edit == EdgesEdit::Ring)
        cage->mesh = withRing(cage->mesh, edges.front(), p.share, done);
    else if (p.by)
        cage->mesh = extended(cage->mesh, edges, *p.by, done);
    else if (p.width)
        cage->mesh = extended(cage->mesh, edges, outwards(cage->mesh, edges) * *p.width, done);
    else
        return Error{ErrorCode::BadValue, cage->name, "say how far (width along its faces, or by)"};
    if (!done)
        return Error{ErrorCode::BadValue, cage->name,
                     p.edit == EdgesEdit::Ring ? "no band of quads crosses that edge"
                                               : "one of the edges is not open, as its face runs along it"};
    return withCage(before, cage);
}

Result<Creature> movePoints(const Creature &before, const MovePoints &p, CommandContext &)
{
    const auto cage = takeCage(before, p.cage);
    const auto points = need(indices(p.points, "points", cage->mesh.positions.size()));
    cage->mesh = softMoved(cage->mesh, points, p.by, p.reach);
    return withCage(before, cage);
}

Result<Creature> makePiece(const Creature &before, const MakePiece &p, CommandContext &)
{
    const auto taken = takeCage(before, p.cage);
    auto piece = std::make_shared<Piece>();
    piece->skin = skin::makeSkin(shownCage(*taken), false);
    Creature after = before;
    if (!p.isKept)
        std::erase_if(after.cages, [id = taken->id](const auto &cage) { return cage->id == id; });
    piece->id = after.nextId++;
    piece->name = after.uniqueName(taken->name);
    after.pieces.push_back(std::move(piece));
    return after;
}

} // namespace

Fields<AddCage> AddCage::fields()
{
    using P = AddCage;
    return {choiceOf<P>(&P::kind, "kind", "what it begins as", kCageKindNames).required(),
            fieldOf<P>(&P::name, "name", "", "made unique"),
            fieldOf<P>(&P::at, "at", "mm", "its middle"),
            fieldOf<P>(&P::size, "size", "mm", "box: its sides; sheet: x long and z wide; strip: x wide"),
            fieldOf<P>(&P::normal, "normal", "", "sheet and strip: where it faces"),
            fieldOf<P>(&P::points, "points", "mm", "strip: its middle line"),
            fieldOf<P>(&P::normals, "normals", "", "strip: where it faces at each of its points, instead of one normal"),
            fieldOf<P>(&P::smooth, "smooth", "", "Catmull-Clark steps it is shown with", 0, 4),
            fieldOf<P>(&P::isMirrored, "mirror", "", "has a twin across the middle plane")};
}

Fields<SetCage> SetCage::fields()
{
    using P = SetCage;
    return {fieldOf<P>(&P::cage, "cage", "", "name or id").required(),
            fieldOf<P>(&P::name, "name", "", "made unique"),
            fieldOf<P>(&P::smooth, "smooth", "", "Catmull-Clark steps it is shown with", 0, 4),
            fieldOf<P>(&P::isMirrored, "mirror", "", "has a twin across the middle plane"),
            fieldOf<P>(&P::isHidden, "hidden", "", "not shown"),
            fieldOf<P>(&P::isLocked, "locked", "", "cannot be changed")};
}

Fields<EditFaces> EditFaces::fields()
{
    using P = EditFaces;
    return {fieldOf<P>(&P::cage, "cage", "", "name or id").required(),
            choiceOf<P>(&P::edit, "edit", "what is done", kFacesEditNames).required(),
            fieldOf<P>(&P::faces, "faces", "", "which, counted from 0").required(),
            fieldOf<P>(&P::width, "width", "mm", "how far along their normal, or how wide the rim", -10000, 10000),
            fieldOf<P>(&P::by, "by", "mm", "extrude: how far, instead")};
}

Fields<EditEdges> EditEdges::fields()
{
    using P = EditEdges;
    return {fieldOf<P>(&P::cage, "cage", "", "name or id").required(),
            choiceOf<P>(&P::edit, "edit", "what is done", kEdgesEditNames).required(),
            fieldOf<P>(&P::edges, "edges", "", "pairs of points, as their face runs along them").required(),
            fieldOf<P>(&P::width, "width", "mm", "extend: how far, along the faces the edges belong to", -10000, 10000),
            fieldOf<P>(&P::by, "by", "mm", "extend: how far, instead"),
            fieldOf<P>(&P::share, "share", "", "ring: where on the edge", 0.01, 0.99)};
}

Fields<MovePoints> MovePoints::fields()
{
    using P = MovePoints;
    return {fieldOf<P>(&P::cage, "cage", "", "name or id").required(),
            fieldOf<P>(&P::points, "points", "", "which, counted from 0").required(),
            fieldOf<P>(&P::by, "by", "mm", "how far").required(),
            fieldOf<P>(&P::reach, "reach", "mm", "how far others follow", 0, 100000)};
}

Fields<MakePiece> MakePiece::fields()
{
    using P = MakePiece;
    return {fieldOf<P>(&P::cage, "cage", "", "name or id").required(), fieldOf<P>(&P::isKept, "keep", "", "the cage stays too")};
}

Fields<RemoveCage> RemoveCage::fields()
{
    using P = RemoveCage;
    return {fieldOf<P>(&P::cage, "cage", "", "name or id").required()};
}

std::vector<CommandSpec> cageCommands()
{
    return {
        commandOf(addCage),    commandOf(setCage),   commandOf(editFaces),  commandOf(editEdges),
        commandOf(movePoints), commandOf(makePiece), commandOf(removeCage),
    };
}

} // namespace bonemoss::command
