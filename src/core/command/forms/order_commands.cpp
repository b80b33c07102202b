// Commands about the order of forms: copies by a rule, proportions, and where the whole stands.
#include "command/fields.h"
#include "command/forms/form_edit.h"

#include <algorithm>
#include <fmt/format.h>
#include <unordered_map>

namespace bonemoss::command {

using armature::Form;
using armature::FormKind;
using armature::hasPath;

namespace {

struct MoveJoint {
    static constexpr const char *kName = "form.pivot", *kTitle = "Move joint",
                                *kText =
                                    "Moves the joint that a form with a path turns about; its shape and what hangs from it stay.";
    ItemName form;
    Vec3f at;
    static Fields<MoveJoint> fields()
    {
        using P = MoveJoint;
        return {fieldOf<P>(&P::form, "form", "", "name or id").required(),
                fieldOf<P>(&P::at, "at", "mm", "the joint, in creature space").required()};
    }
};

struct AdjustCopy {
    static constexpr const char *kName = "form.copy", *kTitle = "Adjust copy",
                                *kText = "Changes one copy of a repeated form against its rule.";
    ItemName form;
    std::uint32_t copy = 0;
    std::optional<Vec3f> move, turn;
    std::optional<float> scale;
    std::optional<bool> isHidden;
    static Fields<AdjustCopy> fields()
    {
        using P = AdjustCopy;
        return {fieldOf<P>(&P::form, "form", "", "name or id").required(),
                fieldOf<P>(&P::copy, "copy", "", "which one, the form itself being 0", 0, 999).required(),
                fieldOf<P>(&P::move, "move", "mm", "beside its place"),
                fieldOf<P>(&P::turn, "turn", "deg", "against its turn"),
                fieldOf<P>(&P::scale, "scale", "", "against its size", 0.01, 100),
                fieldOf<P>(&P::isHidden, "hidden", "", "left out")};
    }
};

struct BreakCopies {
    static constexpr const char *kName = "form.break", *kTitle = "Break copies free",
                                *kText = "Makes every copy of a repeated form a form of its own.";
    ItemName form;
    static Fields<BreakCopies> fields()
    {
        return {fieldOf<BreakCopies>(&BreakCopies::form, "form", "", "name or id").required()};
    }
};

struct Stand {
    static constexpr const char *kName = "creature.stand", *kTitle = "Stand on the floor",
                                *kText = "Moves everything until its lowest point touches the floor at y = 0.";
    static Fields<Stand> fields() { return {}; }
};

/// The form a command is about, in the new creature; refuses locked ones.
Result<Form *> takeForm(Creature &after, const ItemName &name)
{
    return takeItemOf<Form>(after, "form", value::Of<ItemName>::write(name));
}
Result<Form *> takeForm(Creature &after, const Params &p)
{
    return takeItemOf<Form>(after, "form", p.value("form"));
}

/// Moves a form's joint; its shape and what hangs from it stay where they are.
Result<Creature> movePivot(const Creature &before, const MoveJoint &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takeForm(after, p.form);
    if (!taken)
        return taken.error();
    Form &f = **taken;
    if (!hasPath(f.kind) || f.kind == FormKind::Turned)
        return Error{ErrorCode::BadValue, f.name, "is shaped about its joint; only forms with a free path have one to move"};
    if (f.link)
        return Error{ErrorCode::BadValue, f.name, "shares its shape with others; part it from them first"};
    const Transform old = before.armature.worldPlace(f);
    Transform now = old;
    now.move = p.at;
    for (armature::PathPoint &q : f.path)
        q.at = now.applyInverse(old.apply(q.at));
    const Form *parent = before.armature.find(f.parent);
    f.place = parent ? relativeTo(before.armature.worldPlace(*parent), now) : now;
    for (Form &child : after.armature.forms)
        if (child.parent == f.id)
            child.place = relativeTo(now, before.armature.worldPlace(*before.armature.find(child.id)));
    return after;
}

Result<Creature> repeatForm(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takeForm(after, p);
    if (!taken)
        return taken.error();
    Form &f = **taken;
    armature::Repeat &r = f.repeat;
    const auto mode = std::find(armature::kRepeatNames.begin(), armature::kRepeatNames.end(), p.text("mode"));
    r.mode = armature::RepeatMode(mode - armature::kRepeatNames.begin());
    r.count = std::uint32_t(p.integer("count"));
    if (r.mode == armature::RepeatMode::None)
        r = {};
    if (r.mode == armature::RepeatMode::Around) {
        const Form *parent = before.armature.find(f.parent);
        const Transform frame = parent ? before.armature.worldPlace(*parent) : Transform{};
        if (p.has("centre"))
            r.centre = frame.applyInverse(p.point("centre"));
        if (p.has("axis")) {
            if (!(length(p.point("axis")) > 1e-6f))
                return Error{ErrorCode::BadValue, f.name, "the axis has no direction"};
            r.axis = normalized(rotate(frame.turn.conjugate(), p.point("axis")));
        }
        if (p.has("spread"))
            r.spread = p.number("spread") * kRadiansPerDegree;
    }
    if (r.mode == armature::RepeatMode::Along) {
        if (p.has("guide")) {
            const auto guide = findForm(before, p.value("guide"));
            if (!guide)
                return guide.error();
            r.guide = *guide;
        }
        const Form *guide = before.armature.find(r.guide);
        if (!guide || guide->id == f.id || !(hasPath(guide->kind) || guide->kind == FormKind::Body))
            return Error{ErrorCode::BadValue, f.name, "needs another form with a path as its guide"};
        if (before.armature.isDescendant(guide->id, f.id))
            return Error{ErrorCode::BadValue, f.name, "cannot follow a form that hangs from itself"};
        r.from = p.has("from") ? p.number("from") : r.from;
        r.to = p.has("to") ? p.number("to") : r.to;
    }
    if (p.has("sizes")) {
        r.sizes = p.numbers("sizes");
        if (std::any_of(r.sizes.begin(), r.sizes.end(), [](float s) { return !(s > 0.001f && s < 1000); }))
            return Error{ErrorCode::BadValue, f.name, "sizes must be between 0.001 and 1000"};
    }
    std::erase_if(r.changes, [&](const auto &c) { return c.index >= r.count; });
    return after;
}

Result<Creature> adjustCopy(const Creature &before, const AdjustCopy &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takeForm(after, p.form);
    if (!taken)
        return taken.error();
    Form &f = **taken;
    const std::uint32_t index = p.copy;
    if (f.repeat.mode == armature::RepeatMode::None || index >= f.repeat.count)
        return Error{ErrorCode::BadValue, f.name, fmt::format("has no copy {}", index)};
    auto &changes = f.repeat.changes;
    auto change = std::find_if(changes.begin(), changes.end(), [&](const auto &c) { return c.index == index; });
    if (change == changes.end())
        change = changes.insert(changes.end(), {index, {}, {}, 1, false});
    if (p.move)
        change->move = *p.move;
    if (p.turn)
        change->turn = fromEulerDeg(*p.turn);
    if (p.scale)
        change->scale = *p.scale;
    if (p.isHidden)
        change->isHidden = *p.isHidden;
    return after;
}

/// Every copy becomes a form of its own, where it stands.
Result<Creature> breakCopies(const Creature &before, const BreakCopies &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takeForm(after, p.form);
    if (!taken)
        return taken.error();
    const Form whole = **taken;
    const std::vector<Transform> places = placesOf(before.armature, whole);
    if (whole.repeat.mode == armature::RepeatMode::None)
        return Error{ErrorCode::BadValue, whole.name, "is not repeated"};
    const Form *parent = before.armature.find(whole.parent);
    const Transform frame = parent ? before.armature.worldPlace(*parent) : Transform{};
    for (std::size_t i = 0; i < places.size(); ++i) {
        Form copy = whole;
        copy.repeat = {};
        copy.place = parent ? relativeTo(frame, places[i]) : places[i];
        if (i == 0) {
            *after.armature.find(whole.id) = copy;
            continue;
        }
        copy.id = after.nextId++;
        copy.name = after.uniqueName(whole.name);
        after.armature.forms.push_back(std::move(copy));
    }
    sortByParent(after.armature);
    return after;
}

/// What a proportion is about: a form or a piece, by name or id.
Result<std::uint32_t> findMeasured(const Creature &c, const Params &p)
{
    if (const auto form = findForm(c, p.value("form")))
        return form;
    if (const auto piece = findPiece(c, p, "form"))
        return piece;
    return Error{ErrorCode::Unknown, "form", fmt::format("there is no form or piece {}", p.value("form").dump())};
}

Result<Creature> setUnit(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    after.armature.unitForm = 0;
    if (p.value("form") != 0) {
        const auto id = findMeasured(before, p);
        if (!id)
            return id.error();
        after.armature.unitForm = *id;
    }
    return after;
}

Result<Creature> setTarget(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findMeasured(before, p);
    if (!id)
        return id.error();
    Creature after = before;
    auto &targets = after.armature.targets;
    std::erase_if(targets, [&](const auto &t) { return t.form == *id; });
    if (p.number("ratio") > 0)
        targets.push_back({*id, p.number("ratio"), p.number("tolerance")});
    return after;
}

/// Lowers or lifts everything until its lowest point touches y = 0. Forms that hang from others go along.
Result<Creature> standOnFloor(const Creature &before, const Stand &, CommandContext &context)
{
    const ShownShapes shapes = shownBodies(before);
    Box3f box;
    for (const mesh::Surface *s : shapes.surfaces)
        box.add(s->box());
    if (box.isEmpty())
        return Error{ErrorCode::Empty, "floor", "there is nothing to stand on it"};
    Creature after = before;
    const Vec3f by{0, -box.lo.y, 0};
    eachItem(before, [&](const ItemKind &kind, std::size_t k, const Item &item) {
        if (item.parent == 0)
            kind.shift(after, k, by);
    });
    context.notes.push_back(fmt::format("moved by {:.2f} mm", by.y));
    return after;
}

} // namespace

std::vector<CommandSpec> orderCommands()
{
    const ParamSpec form = required(plainParam(ParamKind::Reference, "form", "", "name or id"));
    return {
        {"form.repeat",
         "Repeat form",
         "Lets a form stand several times: round an axis, or along the path of another form.",
         {form, required(choiceParam("mode", "how the copies are laid", {"none", "around", "along"})),
          [] {
              ParamSpec s = numberParam("count", "", "how many in all", 1, 1000, "3");
              s.kind = ParamKind::Integer;
              return s;
          }(),
          plainParam(ParamKind::Point, "centre", "mm", "around: a point of the axis, in creature space"),
          plainParam(ParamKind::Point, "axis", "", "around: direction of the axis, in creature space"),
          numberParam("spread", "deg", "around: from the first copy to the last; 360 closes evenly", -360, 360),
          plainParam(ParamKind::Reference, "guide", "", "along: the form whose path is followed"),
          numberParam("from", "", "along: share of the path's length where the first stands", 0, 1),
          numberParam("to", "", "along: share of the path's length where the last stands", 0, 1),
          plainParam(ParamKind::Numbers, "sizes", "", "sizes at even steps from the first copy to the last")},
         repeatForm},
        commandOf<MoveJoint>(movePivot),
        commandOf<AdjustCopy>(adjustCopy),
        commandOf<BreakCopies>(breakCopies),
        {"proportion.unit",
         "Unit of proportion",
         "Chooses the form or piece whose length is one unit; 0 for none.",
         {form},
         setUnit},
        {"proportion.target",
         "Wanted proportion",
         "Says how long a form or piece shall be in units; a ratio of 0 takes the wish back.",
         {form, required(numberParam("ratio", "units", "wanted length", 0, 1000)),
          numberParam("tolerance", "", "share of the ratio it may be off by", 0, 1, "0.05")},
         setTarget},
        commandOf<Stand>(standOnFloor),
    };
}

} // namespace bonemoss::command
