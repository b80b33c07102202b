// Commands that edit curves and deform branches and pieces.
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

Result<Creature> editCurve(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findForm(before, p.value("form"));
    if (!id)
        return id.error();
    Creature after = before;
    Form &f = *after.armature.find(*id);
    const auto bad = [&](std::string why) { return Error{ErrorCode::BadValue, f.name, std::move(why)}; };
    if (f.isLocked)
        return bad("is locked; unlock it first");
    if (!hasPath(f.kind))
        return bad("has no curve");
    const bool isFree = f.kind == FormKind::Tube || f.kind == FormKind::Turned;
    const std::size_t n = f.path.size(), point = p.has("point") ? p.integer("point") : 0;
    const std::size_t first = p.has("first") ? p.integer("first") : 0, last = p.has("last") ? p.integer("last") : n - 1;
    const std::string op = p.text("edit");
    if (point >= n || last >= n || first > last)
        return bad(fmt::format("has {} points, counted from 0", n));
    const Transform world = before.armature.worldPlace(f);
    if (op == "move") {
        if (!p.has("by"))
            return bad("say how far to move it (by)");
        const float even = std::min({world.scale.x, world.scale.y, world.scale.z});
        const Vec3f own = world.applyInverse(world.move + p.point("by"));
        f.path = softMoved(f.path, point, own, p.number("reach") / std::max(even, 1e-6f));
    } else if (op == "round") {
        f.path = rounded(f.path, first, last);
    } else if (op == "arc") {
        f.path = laidOnArc(f.path, first, last);
    } else if (op == "straighten") {
        f.path = straightened(f.path, first, last);
    } else if (!isFree) {
        return bad("has two points and no more; a tube takes any number");
    } else if (op == "insert") {
        f.path = inserted(f.path, point);
    } else {
        if (n <= 2)
            return bad("needs two points at least");
        f.path.erase(f.path.begin() + std::ptrdiff_t(point));
    }
    if (const Status fine = checkForm(f); !fine)
        return fine.error();
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

Result<SpaceMap> readMap(const Params &p)
{
    SpaceMap map;
    const auto kind = std::find(kSpaceMapNames.begin(), kSpaceMapNames.end(), p.text("kind"));
    map.kind = SpaceMapKind(kind - kSpaceMapNames.begin());
    map.a = p.point("from"), map.b = p.point("to");
    if (!(length(map.b - map.a) > 1e-3f))
        return Error{ErrorCode::BadValue, "axis", "from and to are the same place"};
    const bool isAngle = map.kind == SpaceMapKind::Bend || map.kind == SpaceMapKind::Twist;
    map.amount = p.number("amount") * (isAngle ? kRadiansPerDegree : 1);
    if (!isAngle && !(map.amount >= 0.05f && map.amount <= 20))
        return Error{ErrorCode::BadValue, "amount", "must be 0.05 to 20 times"};
    if (map.kind == SpaceMapKind::Bend) {
        if (!p.has("side"))
            return Error{ErrorCode::BadValue, "side", "say towards where it bends"};
        map.side = p.point("side");
        const Vec3f axis = normalized(map.b - map.a);
        if (length(map.side - axis * dot(map.side, axis)) < 1e-3f * length(map.side) + 1e-6f)
            return Error{ErrorCode::BadValue, "side", "must not lie along the axis"};
    }
    return map;
}

/// Joints ride along and turn; paths follow the map point by point; other solids become tubes where they can, and
/// are moved, turned and scaled as a whole where they cannot.
Result<Creature> deformForms(const Creature &before, const Params &p, CommandContext &context)
{
    const auto taken = takeForms(before, p);
    const auto map = readMap(p);
    if (!taken)
        return taken.error();
    if (!map)
        return map.error();
    std::vector<std::uint32_t> ids;
    for (const std::uint32_t id : *taken)
        for (const std::uint32_t b : p.isOn("branch") ? before.armature.branch(id) : std::vector<std::uint32_t>{id})
            if (std::find(ids.begin(), ids.end(), b) == ids.end())
                ids.push_back(b);
    Creature after = before;
    std::vector<std::string> tubes;
    for (Form &f : after.armature.forms) { // parents first, so that children find them where they are now
        const Form &old = *before.armature.find(f.id);
        const Transform was = before.armature.worldPlace(old);
        if (std::find(ids.begin(), ids.end(), f.id) == ids.end()) {
            if (const Form *parent = before.armature.find(f.parent);
                parent && !p.isOn("branch") && std::find(ids.begin(), ids.end(), parent->id) != ids.end())
                setWorldPlace(after.armature, f, was); // what hangs from a form deformed alone stays
            continue;
        }
        if (f.isLocked)
            return Error{ErrorCode::BadValue, f.name, "is locked; unlock it first"};
        if (f.link)
            return Error{ErrorCode::BadValue, f.name, "shares its shape with others; part it from them first"};
        const SpaceMap::Local at = map->at(was.move);
        Transform now{at.at, normalized(at.turn * was.turn), was.scale};
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
            const SpaceMap::Local there = map->at(was.apply(q.at));
            q.at = frame.applyInverse(there.at);
            q.radius *= there.across;
        }
        if (const Status fine = checkForm(bent); !fine)
            return fine.error();
        f = std::move(bent);
    }
    if (!tubes.empty())
        context.notes.push_back(fmt::format("made tubes so that they can follow: {}", fmt::join(tubes, ", ")));
    return after;
}

Result<Creature> deformPiece(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findPiece(before, p);
    const auto map = readMap(p);
    if (!id)
        return id.error();
    if (!map)
        return map.error();
    if (before.piece(*id)->isLocked)
        return Error{ErrorCode::BadValue, before.piece(*id)->name, "is locked; unlock it first"};
    auto piece = std::make_shared<Piece>(*before.piece(*id));
    const auto shares = regionShares(*piece, p);
    if (!shares)
        return shares.error();
    skin::deform(piece->skin, *shares, *map);
    Creature after = before;
    after.put(std::move(piece));
    return after;
}

} // namespace

std::vector<CommandSpec> shapeCommands()
{
    const ParamSpec form = required(plainParam(ParamKind::Reference, "form", "", "name or id"));
    const auto point = [](const char *name, const char *text) {
        ParamSpec s = numberParam(name, "", text, 0, 199);
        s.kind = ParamKind::Integer;
        return s;
    };
    const std::vector<ParamSpec> map{
        required(choiceParam("kind", "what happens along the axis", {kSpaceMapNames.begin(), kSpaceMapNames.end()})),
        required(plainParam(ParamKind::Point, "from", "mm", "where the axis begins: what lies before stays")),
        required(plainParam(ParamKind::Point, "to", "mm", "where the axis ends: what lies beyond goes along")),
        required(numberParam("amount", "",
                             "bend and twist: degrees; taper: thickness at the end against the beginning; "
                             "stretch: times its length, volume kept",
                             -3600, 3600)),
        plainParam(ParamKind::Point, "side", "", "bend: the direction it bends to")};
    std::vector<ParamSpec> forms{required(plainParam(ParamKind::References, "forms", "", "names or ids"))}, piece{pieceParam()};
    forms.insert(forms.end(), map.begin(), map.end());
    piece.insert(piece.end(), map.begin(), map.end());
    for (ParamSpec &s : regionParams())
        piece.push_back(std::move(s));
    forms.push_back(switchParam("branch", "what hangs from them is deformed too", "true"));
    return {
        {"form.curve",
         "Edit curve",
         "Edits the path of a form: moves a point softly, rounds a stretch, lays it on an arc or straight, inserts or "
         "removes a point.",
         {form, required(choiceParam("edit", "what is done", kCurveOps)),
          point("point", "move, insert (after it), remove: which"),
          point("first", "round, arc, straighten: where the stretch begins; the first when not given"),
          point("last", "where it ends; the last when not given"),
          plainParam(ParamKind::Point, "by", "mm", "move: how far, in creature space"),
          numberParam("reach", "mm", "move: along the curve, how far others follow", 0, 1e5, "0")},
         editCurve},
        {"forms.deform", "Deform forms", "Bends, twists, tapers or stretches forms and what hangs from them along an axis.",
         forms, deformForms},
        {"piece.deform", "Deform piece", "Bends, twists, tapers or stretches a piece along an axis; layers ride along.", piece,
         deformPiece},
    };
}

} // namespace bonemoss::command
