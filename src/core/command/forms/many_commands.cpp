// Commands about several forms at once.
#include "command/forms/form_edit.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using armature::Form;

Result<std::vector<std::uint32_t>> takeForms(const Creature &c, const Params &p)
{
    std::vector<std::uint32_t> ids;
    for (const auto &reference : p.value("forms")) {
        const auto id = findForm(c, reference);
        if (!id)
            return id.error();
        if (const Form *f = c.armature.find(*id); f->isLocked && !p.has("locked"))
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
        sum += a.worldPlace(*a.find(id)).move;
    return sum * (1 / float(ids.size()));
}

Result<Creature> moveForms(const Creature &before, const Params &p, CommandContext &)
{
    const auto ids = takeForms(before, p);
    if (!ids)
        return ids.error();
    Creature after = before;
    const std::vector<std::uint32_t> top = topmost(before.armature, *ids);
    const Vec3f about = p.has("about") ? p.point("about") : middleOf(before.armature, top);
    const Vec3f move = p.has("move") ? p.point("move") : Vec3f{};
    const Quat turn = p.has("turn") ? fromEulerDeg(p.point("turn")) : Quat{};
    const float scale = p.number("scale");
    for (const std::uint32_t id : top) {
        Form &f = *after.armature.find(id);
        Transform world = before.armature.worldPlace(f);
        world.move = about + move + rotate(turn, (world.move - about) * scale);
        world.turn = normalized(turn * world.turn);
        world.scale = world.scale * scale;
        setWorldPlace(after.armature, f, world);
    }
    return after;
}

Result<Creature> setForms(const Creature &before, const Params &p, CommandContext &)
{
    const auto ids = takeForms(before, p);
    if (!ids)
        return ids.error();
    Creature after = before;
    if (p.has("parent")) {
        std::uint32_t parent = 0;
        if (p.value("parent") != 0) {
            const auto found = findForm(before, p.value("parent"));
            if (!found)
                return found.error();
            parent = *found;
        }
        for (const std::uint32_t id : topmost(before.armature, *ids)) {
            if (parent == id || (parent && before.armature.isDescendant(parent, id)))
                return Error{ErrorCode::BadValue, before.armature.find(id)->name,
                             "a form cannot hang from itself or from its own branch"};
            Form &f = *after.armature.find(id);
            f.parent = parent;
            setWorldPlace(after.armature, f, before.armature.worldPlace(*before.armature.find(id)));
        }
    }
    for (const std::uint32_t id : *ids) {
        Form &f = *after.armature.find(id);
        if (p.has("melt"))
            f.melt = p.number("melt");
        if (p.has("role"))
            f.role = *armature::roleNamed(p.text("role"));
        if (p.has("mirror"))
            f.isMirrored = p.isOn("mirror");
        if (p.has("hidden"))
            f.isHidden = p.isOn("hidden");
        if (p.has("locked"))
            f.isLocked = p.isOn("locked");
        if (p.has("colour")) {
            const auto colour = colourNamed(p.text("colour"));
            if (!colour)
                return Error{ErrorCode::BadValue, f.name, "a colour is written #rrggbb; an empty one stands for clay"};
            f.colour = *colour;
        }
        followLink(after.armature, f);
    }
    sortByParent(after.armature);
    return after;
}

Result<Creature> removeForms(const Creature &before, const Params &p, CommandContext &)
{
    const auto ids = takeForms(before, p);
    if (!ids)
        return ids.error();
    Creature after = before;
    if (const Status gone = removeBranches(after, *ids); !gone)
        return gone.error();
    return after;
}

/// A group takes the place of its first member in the tree and stands in the middle of all.
Result<Creature> groupForms(const Creature &before, const Params &p, CommandContext &)
{
    const auto ids = takeForms(before, p);
    if (!ids)
        return ids.error();
    Creature after = before;
    const std::vector<std::uint32_t> top = topmost(before.armature, *ids);
    Form group;
    group.kind = armature::FormKind::Group;
    group.id = after.nextId++;
    group.name = before.uniqueName(p.text("name"));
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
Result<Creature> ungroupForms(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findForm(before, p.value("form"));
    if (!id)
        return id.error();
    const Form group = *before.armature.find(*id);
    if (group.kind != armature::FormKind::Group)
        return Error{ErrorCode::BadValue, group.name, "is not a group"};
    if (group.isLocked)
        return Error{ErrorCode::BadValue, group.name, "is locked; unlock it first"};
    Creature after = before;
    for (Form &f : after.armature.forms)
        if (f.parent == *id) {
            f.parent = group.parent;
            setWorldPlace(after.armature, f, before.armature.worldPlace(*before.armature.find(f.id)));
        }
    std::erase_if(after.armature.forms, [&](const Form &f) { return f.id == *id; });
    sortByParent(after.armature);
    return after;
}

Result<Creature> setJoint(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findForm(before, p.value("form"));
    if (!id)
        return id.error();
    Creature after = before;
    Form &f = *after.armature.find(*id);
    if (f.isLocked)
        return Error{ErrorCode::BadValue, f.name, "is locked; unlock it first"};
    if (p.isOn("here"))
        f.joint.rest = toEulerDeg(f.place.turn);
    if (p.has("rest"))
        f.joint.rest = p.point("rest");
    if (p.has("low"))
        f.joint.low = p.point("low");
    if (p.has("high"))
        f.joint.high = p.point("high");
    const Vec3f low = f.joint.low, high = f.joint.high, rest = f.joint.rest;
    for (int axis = 0; axis < 3; ++axis)
        if (!(at(low, axis) >= -180 && at(low, axis) <= 0 && at(high, axis) >= 0 && at(high, axis) <= 180)
            || !(std::abs(at(rest, axis)) <= 180))
            return Error{ErrorCode::BadValue, f.name,
                         "least angles are -180 to 0 and greatest 0 to 180 degrees, counted from the rest"};
    return after;
}

} // namespace

std::vector<CommandSpec> manyCommands()
{
    const ParamSpec forms = required(plainParam(ParamKind::References, "forms", "", "names or ids"));
    const ParamSpec form = required(plainParam(ParamKind::Reference, "form", "", "name or id"));
    return {
        {"forms.move",
         "Move forms",
         "Moves, turns and scales several forms as one; what hangs from them goes along.",
         {forms, plainParam(ParamKind::Point, "move", "mm", "how far"),
          plainParam(ParamKind::Point, "turn", "deg", "about x, then y, then z"),
          numberParam("scale", "", "times their size", 0.001, 1000, "1"),
          plainParam(ParamKind::Point, "about", "mm",
                     "what turn and scale keep in place; the middle of their joints when not given")},
         moveForms},
        {"forms.set",
         "Change forms",
         "Changes what is given of several forms.",
         {forms, plainParam(ParamKind::Reference, "parent", "", "form they hang from; 0 for none"),
          numberParam("melt", "mm", "over how far they flow into what they touch", 0, 1000),
          choiceParam("role", "what they do when knitted", {"add", "cut", "apart"}),
          textParam("colour", "#rrggbb to tell them apart; empty for clay"),
          switchParam("mirror", "have a twin across the middle plane"), switchParam("hidden", "not shown and not knitted"),
          switchParam("locked", "cannot be changed")},
         setForms},
        {"forms.remove", "Delete forms", "Deletes several forms and all that hangs from them.", {forms}, removeForms},
        {"form.group",
         "Group forms",
         "Hangs several forms from a new group, which carries, hides and turns them as one.",
         {forms, textParam("name", "of the group", "\"group\"")},
         groupForms},
        {"form.ungroup", "Break up group", "Removes a group; what it carried stays where it is.", {form}, ungroupForms},
        {"form.joint",
         "Set joint",
         "Says how a form rests and how far it may turn at its joint, against its parent; posing keeps to it.",
         {form, switchParam("here", "it rests as it stands now", "false"),
          plainParam(ParamKind::Point, "rest", "deg", "rest angles"),
          plainParam(ParamKind::Point, "low", "deg", "how far it turns back from its rest: -180 to 0"),
          plainParam(ParamKind::Point, "high", "deg", "how far it turns on from its rest: 0 to 180")},
         setJoint},
    };
}

} // namespace bonemoss::command
