// Commands about the order of forms: copies by a rule, proportions, and where the whole stands.
#include "command/forms/form_fields.h"
#include "command/named_items.h"
#include "command/fields.h"
#include "command/forms/form_edit.h"
#include "export/shown_scene.h"

#include <algorithm>
#include <fmt/format.h>
#include <unordered_map>

namespace bonemoss::command {

using armature::Form;
using armature::FormKind;
using armature::hasPath;

namespace {

/// The form a command is about, in the new creature; refuses locked ones.
Result<Form *> takeForm(Creature &after, const ItemName &name)
{
    return takeItemOf<Form>(after, "form", name);
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
    now.translation = p.at;
    for (armature::PathPoint &q : f.path)
        q.at = now.applyInverse(old.apply(q.at));
    const Form *parent = before.armature.find(f.parent);
    f.place = parent ? relativeTo(before.armature.worldPlace(*parent), now) : now;
    for (Form &child : after.armature.forms)
        if (child.parent == f.id)
            child.place = relativeTo(now, before.armature.worldPlace(*before.armature.find(child.id)));
    return after;
}

Result<Creature> repeatForm(const Creature &before, const RepeatForm &p, CommandContext &)
{
    Creature after = before;
    Form &f = *need(takeForm(after, p.form));
    armature::Repeat &r = f.repeat;
    r.mode = p.mode, r.count = p.count;
    if (r.mode == armature::RepeatMode::None)
        r = {};
    if (r.mode == armature::RepeatMode::Around) {
        const Form *parent = before.armature.find(f.parent);
        const Transform frame = parent ? before.armature.worldPlace(*parent) : Transform{};
        if (p.centre)
            r.centre = frame.applyInverse(*p.centre);
        if (p.axis) {
            if (!(length(*p.axis) > 1e-6f))
                return Error{ErrorCode::BadValue, f.name, "the axis has no direction"};
            r.axis = normalized(rotate(frame.rotation.conjugate(), *p.axis));
        }
        if (p.spread)
            r.spread = *p.spread * kRadiansPerDegree;
    }
    if (r.mode == armature::RepeatMode::Along) {
        if (p.guide)
            r.guide = need(findForm(before, *p.guide));
        const Form *guide = before.armature.find(r.guide);
        if (!guide || guide->id == f.id || !(hasPath(guide->kind) || guide->kind == FormKind::Body))
            return Error{ErrorCode::BadValue, f.name, "needs another form with a path as its guide"};
        if (before.armature.isDescendant(guide->id, f.id))
            return Error{ErrorCode::BadValue, f.name, "cannot follow a form that hangs from itself"};
        setIfGiven(r.from, p.from);
        setIfGiven(r.to, p.to);
    }
    if (p.sizes) {
        r.sizes = *p.sizes;
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
    setIfGiven(change->translation, p.move);
    if (p.turn)
        change->rotation = fromEulerDeg(*p.turn);
    setIfGiven(change->scale, p.scale);
    setIfGiven(change->isHidden, p.isHidden);
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
Result<std::uint32_t> findMeasured(const Creature &c, const ItemName &name)
{
    if (const auto form = findForm(c, name))
        return form;
    if (const auto piece = findPiece(c, name))
        return piece;
    return Error{ErrorCode::Unknown, "form", fmt::format("there is no form or piece {}", told(name))};
}

Result<Creature> setUnit(const Creature &before, const SetUnit &p, CommandContext &)
{
    Creature after = before;
    after.armature.unitForm = 0;
    if (!isNone(p.form)) {
        const auto id = need(findMeasured(before, p.form));
        after.armature.unitForm = id;
    }
    return after;
}

Result<Creature> setTarget(const Creature &before, const SetTarget &p, CommandContext &)
{
    const auto id = need(findMeasured(before, p.form));
    Creature after = before;
    auto &targets = after.armature.targets;
    std::erase_if(targets, [&](const auto &t) { return t.form == id; });
    if (p.ratio > 0)
        targets.push_back({id, p.ratio, p.tolerance});
    return after;
}

/// Lowers or lifts everything until its lowest point touches y = 0. Forms that hang from others go along.
Result<Creature> standOnFloor(const Creature &before, const Stand &, CommandContext &context)
{
    const Box3f box = exporting::shownScene(before, exporting::Shown::Bodies).box();
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

Fields<MoveJoint> MoveJoint::fields()
{
    using P = MoveJoint;
    return {fieldOf<P>(&P::form, "form", "", "name or id").required(),
            fieldOf<P>(&P::at, "at", "mm", "the joint, in creature space").required()};
}

Fields<AdjustCopy> AdjustCopy::fields()
{
    using P = AdjustCopy;
    return {fieldOf<P>(&P::form, "form", "", "name or id").required(),
            fieldOf<P>(&P::copy, "copy", "", "which one, the form itself being 0", 0, 999).required(),
            fieldOf<P>(&P::move, "move", "mm", "beside its place"),
            fieldOf<P>(&P::turn, "turn", "deg", "against its turn"),
            fieldOf<P>(&P::scale, "scale", "", "against its size", 0.01, 100),
            fieldOf<P>(&P::isHidden, "hidden", "", "left out")};
}

Fields<BreakCopies> BreakCopies::fields()
{
    return {fieldOf<BreakCopies>(&BreakCopies::form, "form", "", "name or id").required()};
}

Fields<Stand> Stand::fields()
{
    return {};
}

Fields<RepeatForm> RepeatForm::fields()
{
    using P = RepeatForm;
    return {formField<P>(),
            choiceOf<P>(&P::mode, "mode", "how the copies are laid", armature::kRepeatNames).required(),
            fieldOf<P>(&P::count, "count", "", "how many in all", 1, 1000),
            fieldOf<P>(&P::centre, "centre", "mm", "around: a point of the axis, in creature space"),
            fieldOf<P>(&P::axis, "axis", "", "around: direction of the axis, in creature space"),
            fieldOf<P>(&P::spread, "spread", "deg", "around: from the first copy to the last; 360 closes evenly", -360, 360),
            fieldOf<P>(&P::guide, "guide", "", "along: the form whose path is followed"),
            fieldOf<P>(&P::from, "from", "", "along: share of the path's length where the first stands", 0, 1),
            fieldOf<P>(&P::to, "to", "", "along: share of the path's length where the last stands", 0, 1),
            fieldOf<P>(&P::sizes, "sizes", "", "sizes at even steps from the first copy to the last")};
}

Fields<SetUnit> SetUnit::fields()
{
    using P = SetUnit;
    return {formField<P>()};
}

Fields<SetTarget> SetTarget::fields()
{
    using P = SetTarget;
    return {formField<P>(), fieldOf<P>(&P::ratio, "ratio", "units", "wanted length", 0, 1000).required(),
            fieldOf<P>(&P::tolerance, "tolerance", "", "share of the ratio it may be off by", 0, 1)};
}

std::vector<CommandSpec> orderCommands()
{
    return {
        commandOf(repeatForm),
        commandOf<MoveJoint>(movePivot),
        commandOf<AdjustCopy>(adjustCopy),
        commandOf<BreakCopies>(breakCopies),
        commandOf(setUnit),
        commandOf(setTarget),
        commandOf<Stand>(standOnFloor),
    };
}

} // namespace bonemoss::command
