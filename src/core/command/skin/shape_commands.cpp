// Commands that edit curves and deform branches and pieces.
#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/skin/piece_fields.h"
#include "command/named_items.h"
#include "armature/curve_edit.h"
#include "base/parallel.h"
#include "base/space_map.h"
#include "command/forms/form_edit.h"
#include "command/region.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using armature::Form;
using armature::FormKind;
using armature::PathPoint;

namespace {

const std::vector<std::string> kCurveOps{"move", "round", "arc", "straighten", "insert", "remove"};

Result<Creature> editCurve(const Creature &before, const EditCurve &p, CommandContext &)
{
    const auto id = need(findForm(before, p.form));
    Creature after = before;
    Form &f = *after.armature.find(id);
    const auto bad = [&](std::string why) { return Error{ErrorCode::BadValue, f.name, std::move(why)}; };
    if (f.isLocked)
        return bad("is locked; unlock it first");
    if (!hasPath(f.kind))
        return bad("has no curve");
    const bool isFree = f.kind == FormKind::Tube || f.kind == FormKind::Turned;
    const std::size_t n = f.path.size(), point = p.point.value_or(0);
    const std::size_t first = p.first.value_or(0), last = p.last ? *p.last : n - 1;
    const CurveEdit op = p.edit;
    if (point >= n || last >= n || first > last)
        return bad(fmt::format("has {} points, counted from 0", n));
    const Transform world = before.armature.worldPlace(f);
    if (op == CurveEdit::Move) {
        if (!p.by)
            return bad("say how far to move it (by)");
        const float even = std::min({world.scale.x, world.scale.y, world.scale.z});
        const Vec3f own = world.applyInverse(world.translation + *p.by);
        f.path = softMoved(f.path, point, own, p.reach / std::max(even, 1e-6f));
    } else if (op == CurveEdit::Round) {
        f.path = rounded(f.path, first, last);
    } else if (op == CurveEdit::Arc) {
        f.path = laidOnArc(f.path, first, last);
    } else if (op == CurveEdit::Straighten) {
        f.path = straightened(f.path, first, last);
    } else if (!isFree) {
        return bad("has two points and no more; a tube takes any number");
    } else if (op == CurveEdit::Insert) {
        f.path = inserted(f.path, point);
    } else {
        if (n <= 2)
            return bad("needs two points at least");
        f.path.erase(f.path.begin() + std::ptrdiff_t(point));
    }
    need(checkForm(f));
    followLink(after.armature, f);
    return after;
}

/// A form without a path of its own as a tube along its longest axis, near enough to bend; nothing where it has no
/// such shape.
std::optional<Form> asTube(const Form &f)
{
    Form t = f;
    t.kind = FormKind::Tube;
    const auto lay = [&](float to, auto section) {
        constexpr int kPoints = 9;
        t.path.clear();
        for (int i = 0; i < kPoints; ++i)
            t.path.push_back(section(to * (-1 + 2 * float(i) / (kPoints - 1))));
    };
    const Vec3f r = f.radii;
    const int axis = r.z >= r.x && r.z >= r.y ? 2 : r.y >= r.x ? 1 : 0;
    switch (f.kind) {
    case FormKind::Limb:
    case FormKind::Tube: return f;
    case FormKind::Cone:
    case FormKind::Cylinder: {
        if (f.bore > 0)
            return {};
        const PathPoint a = f.path.front(), b = f.path.back();
        t.path.clear();
        for (int i = 0; i <= 6; ++i) {
            const float w = float(i) / 6;
            t.path.push_back({lerp(a.at, b.at, w), std::max(0.05f, a.radius + (b.radius - a.radius) * w)});
        }
        return t;
    }
    case FormKind::Ellipsoid:
    case FormKind::Block: {
        const bool isBlock = f.kind == FormKind::Block;
        const float half = axis == 2 ? r.z : axis == 1 ? r.y : r.x;
        const Vec3f along = axis == 2 ? Vec3f{0, 0, 1} : axis == 1 ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0};
        const float high = axis == 1 ? r.z : r.y, wide = axis == 0 ? r.z : r.x;
        lay(std::max(half - (isBlock ? 0.3f : 1) * std::min({r.x, r.y, r.z}), half * 0.3f), [&](float at) {
            const float share = isBlock ? 1 : std::sqrt(std::max(0.02f, 1 - at * at / (half * half)));
            return PathPoint{along * at, high * share, wide / high, isBlock ? 0.9f : 0.0f, 0};
        });
        return t;
    }
    default: return {};
    }
}

Result<SpaceMap> readMap(const AxisMap &p)
{
    SpaceMap map;
    map.kind = p.kind;
    map.a = p.from, map.b = p.to;
    if (!(length(map.b - map.a) > 1e-3f))
        return Error{ErrorCode::BadValue, "axis", "from and to are the same place"};
    const bool isAngle = map.kind == SpaceMapKind::Bend || map.kind == SpaceMapKind::Twist;
    map.amount = p.amount * (isAngle ? kRadiansPerDegree : 1);
    if (!isAngle && !(map.amount >= 0.05f && map.amount <= 20))
        return Error{ErrorCode::BadValue, "amount", "must be 0.05 to 20 times"};
    if (map.kind == SpaceMapKind::Bend) {
        if (!p.side)
            return Error{ErrorCode::BadValue, "side", "say towards where it bends"};
        map.side = *p.side;
        const Vec3f axis = normalized(map.b - map.a);
        if (length(map.side - axis * dot(map.side, axis)) < 1e-3f * length(map.side) + 1e-6f)
            return Error{ErrorCode::BadValue, "side", "must not lie along the axis"};
    }
    return map;
}

/// Joints ride along and turn; paths follow the map point by point; other solids become tubes where they can, and
/// are moved, turned and scaled as a whole where they cannot.
Result<Creature> deformForms(const Creature &before, const DeformForms &p, CommandContext &context)
{
    const auto taken = need(takeForms(before, p.forms));
    const auto map = need(readMap(p.map));
    std::vector<std::uint32_t> ids;
    for (const std::uint32_t id : taken)
        for (const std::uint32_t b : p.takesBranch ? before.armature.branch(id) : std::vector<std::uint32_t>{id})
            if (std::find(ids.begin(), ids.end(), b) == ids.end())
                ids.push_back(b);
    Creature after = before;
    std::vector<std::string> tubes;
    for (Form &f : after.armature.forms) { // parents first, so that children find them where they are now
        const Form &old = *before.armature.find(f.id);
        const Transform was = before.armature.worldPlace(old);
        if (std::find(ids.begin(), ids.end(), f.id) == ids.end()) {
            if (const Form *parent = before.armature.find(f.parent);
                parent && !p.takesBranch && std::find(ids.begin(), ids.end(), parent->id) != ids.end())
                setWorldPlace(after.armature, f, was); // what hangs from a form deformed alone stays
            continue;
        }
        if (f.isLocked)
            return Error{ErrorCode::BadValue, f.name, "is locked; unlock it first"};
        if (f.link)
            return Error{ErrorCode::BadValue, f.name, "shares its shape with others; part it from them first"};
        const SpaceMap::Local at = map.at(was.translation);
        Transform now{at.at, normalized(at.rotation * was.rotation), was.scale};
        const auto tube = asTube(f);
        if (!tube) {
            now.scale = now.scale * at.across;
            setWorldPlace(after.armature, f, now);
            continue;
        }
        if (tube->kind != f.kind)
            tubes.push_back(f.name);
        Form bent = *tube;
        setWorldPlace(after.armature, bent, now);
        const Form *parent = after.armature.find(bent.parent);
        const Transform frame = parent ? compose(after.armature.worldPlace(*parent), bent.place) : bent.place;
        for (PathPoint &q : bent.path) {
            const SpaceMap::Local there = map.at(was.apply(q.at));
            q.at = frame.applyInverse(there.at);
            q.radius *= there.across;
        }
        need(checkForm(bent));
        f = std::move(bent);
    }
    if (!tubes.empty())
        context.notes.push_back(fmt::format("made tubes so that they can follow: {}", fmt::join(tubes, ", ")));
    return after;
}

Result<Creature> deformPiece(const Creature &before, const DeformPiece &p, CommandContext &)
{
    const auto map = need(readMap(p.map));
    auto piece = need(takePiece(before, p.piece));
    skin::deform(piece->skin, need(regionShares(*piece, p.region)), map);
    return putBack(before, std::move(piece));
}

} // namespace

Fields<EditCurve> EditCurve::fields()
{
    using P = EditCurve;
    return {
        formField<P>(),
        choiceOf<P>(&P::edit, "edit", "what is done", kCurveEditNames).required(),
        fieldOf<P>(&P::point, "point", "", "move, insert (after it), remove: which", 0, 199),
        fieldOf<P>(&P::first, "first", "", "round, arc, straighten: where the stretch begins; the first when not given", 0, 199),
        fieldOf<P>(&P::last, "last", "", "where it ends; the last when not given", 0, 199),
        fieldOf<P>(&P::by, "by", "mm", "move: how far, in creature space"),
        fieldOf<P>(&P::reach, "reach", "mm", "move: along the curve, how far others follow", 0, 100000)};
}

Fields<DeformForms> DeformForms::fields()
{
    using P = DeformForms;
    return fieldList<P>({fieldOf<P>(&P::forms, "forms", "", "names or ids").required(), nested<P>(&P::map, AxisMap::fields()),
                         fieldOf<P>(&P::takesBranch, "branch", "", "what hangs from them is deformed too")});
}

Fields<DeformPiece> DeformPiece::fields()
{
    using P = DeformPiece;
    return fieldList<P>({pieceField<P>(), nested<P>(&P::map, AxisMap::fields()), nested<P>(&P::region, Region::fields())});
}

std::vector<CommandSpec> shapeCommands()
{
    return {
        commandOf(editCurve),
        commandOf(deformForms),
        commandOf(deformPiece),
    };
}

} // namespace bonemoss::command
