// Commands about several forms at once.
#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/named_items.h"
#include "command/forms/form_edit.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using armature::Form;

Result<std::vector<std::uint32_t>> takeForms(const Creature &c, const std::vector<ItemName> &forms, Lock lock)
{
    std::vector<std::uint32_t> ids;
    for (const ItemName &name : forms) {
        const auto id = findForm(c, name);
        if (!id)
            return id.error();
        if (const Form *f = c.armature.find(*id); f->isLocked && lock == Lock::Refuses)
            return Error{ErrorCode::BadValue, f->name, "is locked; unlock it first"};
        if (std::find(ids.begin(), ids.end(), *id) == ids.end())
            ids.push_back(*id);
    }
    if (ids.empty())
        return Error{ErrorCode::Empty, "forms", "no form is named"};
    return ids;
}

namespace {

Vec3f middleOf(const armature::Armature &a, const std::vector<std::uint32_t> &ids)
{
    Vec3f sum;
    for (const std::uint32_t id : ids)
        sum += a.worldPlace(*a.find(id)).translation;
    return sum * (1 / float(ids.size()));
}

Result<Creature> moveForms(const Creature &before, const MoveForms &p, CommandContext &)
{
    const auto ids = need(takeForms(before, p.forms));
    Creature after = before;
    const std::vector<std::uint32_t> top = topmost(before.armature, ids);
    const Vec3f about = p.about ? *p.about : middleOf(before.armature, top);
    const Vec3f move = p.move.value_or(Vec3f{});
    const Quat turn = p.turn ? fromEulerDeg(*p.turn) : Quat{};
    const float scale = p.scale;
    for (const std::uint32_t id : top) {
        Form &f = *after.armature.find(id);
        Transform world = before.armature.worldPlace(f);
        world.translation = about + move + rotate(turn, (world.translation - about) * scale);
        world.rotation = normalized(turn * world.rotation);
        world.scale = world.scale * scale;
        setWorldPlace(after.armature, f, world);
    }
    return after;
}

Result<Creature> setForms(const Creature &before, const SetForms &p, CommandContext &)
{
    const auto ids = need(takeForms(before, p.forms, p.isLocked ? Lock::Allows : Lock::Refuses));
    Creature after = before;
    if (p.parent) {
        const std::uint32_t parent = isNone(*p.parent) ? 0 : need(findForm(before, *p.parent));
        for (const std::uint32_t id : topmost(before.armature, ids)) {
            if (parent == id || (parent && before.armature.isDescendant(parent, id)))
                return Error{ErrorCode::BadValue, before.armature.find(id)->name,
                             "a form cannot hang from itself or from its own branch"};
            Form &f = *after.armature.find(id);
            f.parent = parent;
            setWorldPlace(after.armature, f, before.armature.worldPlace(*before.armature.find(id)));
        }
    }
    for (const std::uint32_t id : ids) {
        Form &f = *after.armature.find(id);
        setIfGiven(f.melt, p.melt);
        if (p.role)
            f.role = *p.role;
        setIfGiven(f.isMirrored, p.isMirrored);
        setIfGiven(f.isHidden, p.isHidden);
        setIfGiven(f.isLocked, p.isLocked);
        if (p.colour) {
            const auto colour = colourNamed(*p.colour);
            if (!colour)
                return Error{ErrorCode::BadValue, f.name, "a colour is written #rrggbb; an empty one stands for clay"};
            f.colour = *colour;
        }
        followLink(after.armature, f);
    }
    sortByParent(after.armature);
    return after;
}

Result<Creature> removeForms(const Creature &before, const RemoveForms &p, CommandContext &)
{
    const auto ids = need(takeForms(before, p.forms));
    Creature after = before;
    need(removeBranches(after, ids));
    return after;
}

/// A group takes the place of its first member in the tree and stands in the middle of all.
Result<Creature> groupForms(const Creature &before, const GroupForms &p, CommandContext &)
{
    const auto ids = need(takeForms(before, p.forms));
    Creature after = before;
    const std::vector<std::uint32_t> top = topmost(before.armature, ids);
    Form group;
    group.kind = armature::FormKind::Group;
    group.id = after.nextId++;
    group.name = before.uniqueName(p.name);
    group.parent = before.armature.find(top.front())->parent;
    after.armature.forms.push_back(group);
    setWorldPlace(after.armature, after.armature.forms.back(), {middleOf(before.armature, top), {}, {1, 1, 1}});
    for (const std::uint32_t id : top) {
        Form &f = *after.armature.find(id);
        f.parent = group.id;
        setWorldPlace(after.armature, f, before.armature.worldPlace(*before.armature.find(id)));
    }
    sortByParent(after.armature);
    return after;
}

/// The group goes; what it carried stays where it is and hangs from what carried the group.
Result<Creature> ungroupForms(const Creature &before, const UngroupForms &p, CommandContext &)
{
    const auto id = need(findForm(before, p.form));
    const Form group = *before.armature.find(id);
    if (group.kind != armature::FormKind::Group)
        return Error{ErrorCode::BadValue, group.name, "is not a group"};
    if (group.isLocked)
        return Error{ErrorCode::BadValue, group.name, "is locked; unlock it first"};
    Creature after = before;
    for (Form &f : after.armature.forms)
        if (f.parent == id) {
            f.parent = group.parent;
            setWorldPlace(after.armature, f, before.armature.worldPlace(*before.armature.find(f.id)));
        }
    std::erase_if(after.armature.forms, [&](const Form &f) { return f.id == id; });
    sortByParent(after.armature);
    return after;
}

Result<Creature> setJoint(const Creature &before, const SetJoint &p, CommandContext &)
{
    const auto id = need(findForm(before, p.form));
    Creature after = before;
    Form &f = *after.armature.find(id);
    if (f.isLocked)
        return Error{ErrorCode::BadValue, f.name, "is locked; unlock it first"};
    if (p.isHere)
        f.joint.rest = toEulerDeg(f.place.rotation);
    setIfGiven(f.joint.rest, p.rest);
    setIfGiven(f.joint.low, p.low);
    setIfGiven(f.joint.high, p.high);
    const Vec3f low = f.joint.low, high = f.joint.high, rest = f.joint.rest;
    for (int axis = 0; axis < 3; ++axis)
        if (!(at(low, axis) >= -180 && at(low, axis) <= 0 && at(high, axis) >= 0 && at(high, axis) <= 180)
            || !(std::abs(at(rest, axis)) <= 180))
            return Error{ErrorCode::BadValue, f.name,
                         "least angles are -180 to 0 and greatest 0 to 180 degrees, counted from the rest"};
    return after;
}

} // namespace

Fields<MoveForms> MoveForms::fields()
{
    using P = MoveForms;
    return {fieldOf<P>(&P::forms, "forms", "", "names or ids").required(), fieldOf<P>(&P::move, "move", "mm", "how far"),
            fieldOf<P>(&P::turn, "turn", "deg", "about x, then y, then z"),
            fieldOf<P>(&P::scale, "scale", "", "times their size", 0.001, 1000),
            fieldOf<P>(&P::about, "about", "mm", "what turn and scale keep in place; the middle of their joints when not given")};
}

Fields<SetForms> SetForms::fields()
{
    using P = SetForms;
    return {fieldOf<P>(&P::forms, "forms", "", "names or ids").required(),
            fieldOf<P>(&P::parent, "parent", "", "form they hang from; 0 for none"),
            fieldOf<P>(&P::melt, "melt", "mm", "over how far they flow into what they touch", 0, 1000),
            choiceOf<P>(&P::role, "role", "what they do when knitted", armature::kRoleNames),
            fieldOf<P>(&P::colour, "colour", "", "#rrggbb to tell them apart; empty for clay"),
            fieldOf<P>(&P::isMirrored, "mirror", "", "have a twin across the middle plane"),
            fieldOf<P>(&P::isHidden, "hidden", "", "not shown and not knitted"),
            fieldOf<P>(&P::isLocked, "locked", "", "cannot be changed")};
}

Fields<RemoveForms> RemoveForms::fields()
{
    using P = RemoveForms;
    return {fieldOf<P>(&P::forms, "forms", "", "names or ids").required()};
}

Fields<GroupForms> GroupForms::fields()
{
    using P = GroupForms;
    return {fieldOf<P>(&P::forms, "forms", "", "names or ids").required(), fieldOf<P>(&P::name, "name", "", "of the group")};
}

Fields<UngroupForms> UngroupForms::fields()
{
    using P = UngroupForms;
    return {formField<P>()};
}

Fields<SetJoint> SetJoint::fields()
{
    using P = SetJoint;
    return {formField<P>(), fieldOf<P>(&P::isHere, "here", "", "it rests as it stands now"),
            fieldOf<P>(&P::rest, "rest", "deg", "rest angles"),
            fieldOf<P>(&P::low, "low", "deg", "how far it turns back from its rest: -180 to 0"),
            fieldOf<P>(&P::high, "high", "deg", "how far it turns on from its rest: 0 to 180")};
}

std::vector<CommandSpec> manyCommands()
{
    return {
        commandOf(moveForms),  commandOf(setForms),     commandOf(removeForms),
        commandOf(groupForms), commandOf(ungroupForms), commandOf(setJoint),
    };
}

} // namespace bonemoss::command
