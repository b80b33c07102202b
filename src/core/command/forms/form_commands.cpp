#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/named_items.h"
#include "command/forms/form_edit.h"

#include <algorithm>
#include <fmt/format.h>
#include <optional>

namespace bonemoss::command {

using armature::Form;
using armature::FormKind;
using armature::hasPath;

namespace {

/// Takes over everything a command says about a form. Places and paths are in creature space.
Status readForm(const Creature &c, const FormChanges &p, Form &f)
{
    if (p.name)
        f.name = *p.name == f.name ? f.name : c.uniqueName(*p.name);
    Transform world = c.armature.worldPlace(f);
    if (p.parent) {
        f.parent = 0;
        if (!isNone(*p.parent)) {
            const auto parent = need(findForm(c, *p.parent));
            if (parent == f.id || c.armature.isDescendant(parent, f.id))
                return Error{ErrorCode::BadValue, f.name, "a form cannot hang from itself or from its own branch"};
            f.parent = parent;
        }
    }
    setIfGiven(world.translation, p.at);
    if (p.turn)
        world.rotation = fromEulerDeg(*p.turn);
    setIfGiven(world.scale, p.scale);
    if (p.radius)
        f.radii = Vec3f{1, 1, 1} * *p.radius;
    setIfGiven(f.radii, p.radii);
    setIfGiven(f.rounding, p.rounding);
    if (p.path && hasPath(f.kind)) {
        f.path = *p.path;
        if (f.path.empty())
            return Error{ErrorCode::BadValue, f.name, "the path is empty"};
        if (f.id == 0 && !p.at && f.kind != FormKind::Turned)
            world.translation = f.path.front().at; // the joint of a new limb is where it begins
        for (armature::PathPoint &q : f.path)
            q.at = world.applyInverse(q.at);
    }
    const std::array outlines{&p.crown, &p.belly, &p.left, &p.right}; // as armature::kSideNames has them
    for (std::size_t k = 0; k < f.sides.size(); ++k)
        if (*outlines[k] && f.kind == FormKind::Body) {
            f.sides[k].clear();
            for (const Vec3f q : **outlines[k])
                f.sides[k].push_back(world.applyInverse(q));
        }
    setIfGiven(f.bore, p.bore);
    setIfGiven(f.square, p.square);
    if (p.colour) {
        const auto colour = colourNamed(*p.colour);
        if (!colour)
            return Error{ErrorCode::BadValue, f.name, "a colour is written #rrggbb; an empty one stands for clay"};
        f.colour = *colour;
    }
    if (p.isLinked.has_value() && !*p.isLinked)
        f.link = 0;
    setIfGiven(f.melt, p.melt);
    setIfGiven(f.isMirrored, p.isMirrored);
    setIfGiven(f.role, p.role);
    setIfGiven(f.isHidden, p.isHidden);
    setIfGiven(f.isLocked, p.isLocked);
    const Form *parent = f.parent ? c.armature.find(f.parent) : nullptr;
    f.place = parent ? relativeTo(c.armature.worldPlace(*parent), world) : world;
    return checkForm(f);
}

/// What a new form looks like where nothing else is said.
void startShape(Form &f, const FormChanges &p)
{
    switch (f.kind) {
    case FormKind::Torus: f.radii = {10, 3, 10}; break;
    case FormKind::Disc: f.radii = {12, 2, 12}, f.rounding = 1; break;
    case FormKind::Blob: f.melt = p.radius.value_or(f.radii.x); break;
    case FormKind::Cone: f.path = {{{0, 0, 0}, 8}, {{0, 0, 24}, 0}}; break;
    case FormKind::Turned: f.path = {{{0, -12, 0}, 4}, {{0, 0, 0}, 9}, {{0, 12, 0}, 3}}; break;
    case FormKind::Body:
        f.sides[0] = {{0, 0, -24}, {0, 12, 0}, {0, 0, 24}};
        f.sides[1] = {{0, 0, -24}, {0, -12, 0}, {0, 0, 24}};
        break;
    default:
        if (hasPath(f.kind))
            f.path = {{{0, 0, 0}, 8}, {{0, 0, 24}, 5}};
    }
}

Result<Creature> addForm(const Creature &before, const AddForm &p, CommandContext &)
{
    Form f;
    f.kind = p.kind;
    f.name = before.uniqueName(p.changes.name.value_or(std::string(nameOf(p.kind))));
    startShape(f, p.changes);
    need(readForm(before, p.changes, f));
    Creature after = before;
    f.id = after.nextId++;
    after.armature.forms.push_back(f);
    sortByParent(after.armature);
    return after;
}

Result<Creature> setForm(const Creature &before, const SetForm &p, CommandContext &)
{
    const auto id = need(findForm(before, p.form));
    Creature after = before;
    Form *f = after.armature.find(id);
    if (f->isLocked && !p.changes.isLocked.has_value() && !p.changes.isHidden.has_value())
        return Error{ErrorCode::BadValue, f->name, "is locked; unlock it first"};
    need(readForm(before, p.changes, *f));
    followLink(after.armature, *f);
    if (p.takesBranch)
        for (const std::uint32_t other : before.armature.branch(id)) {
            Form *o = after.armature.find(other);
            setIfGiven(o->isMirrored, p.changes.isMirrored);
            setIfGiven(o->isHidden, p.changes.isHidden);
            setIfGiven(o->isLocked, p.changes.isLocked);
        }
    sortByParent(after.armature);
    return after;
}

Result<Creature> removeForm(const Creature &before, const RemoveForm &p, CommandContext &)
{
    const auto id = need(findForm(before, p.form));
    Creature after = before;
    need(removeBranches(after, {id}));
    return after;
}

Result<Creature> duplicateForm(const Creature &before, const DuplicateForm &p, CommandContext &)
{
    const auto id = need(findForm(before, p.form));
    Creature after = before;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> renamed;
    for (const std::uint32_t old : before.armature.branch(id)) {
        Form copy = *before.armature.find(old);
        copy.name = after.uniqueName(copy.name);
        copy.id = after.nextId++;
        copy.isLocked = copy.isKnitted = false;
        if (p.isLinked) {
            Form *first = after.armature.find(old);
            if (!first->link)
                first->link = after.nextId++;
            copy.link = first->link;
        } else {
            copy.link = 0;
        }
        for (const auto &[from, to] : renamed)
            if (copy.parent == from)
                copy.parent = to;
        renamed.push_back({old, copy.id});
        if (old == id && p.move)
            copy.place.translation += *p.move;
        after.armature.forms.push_back(copy);
    }
    sortByParent(after.armature);
    return after;
}

Result<Creature> setHeight(const Creature &before, const SetHeight &p, CommandContext &)
{
    Creature after = before;
    after.heightMm = p.mm;
    return after;
}

} // namespace

Fields<FormChanges> FormChanges::fields()
{
    using P = FormChanges;
    return {fieldOf<P>(&P::name, "name", "", "as the anatomy shows it; made unique"),
            fieldOf<P>(&P::parent, "parent", "", "form it hangs from; 0 for none"),
            fieldOf<P>(&P::at, "at", "mm", "its joint, in creature space"),
            fieldOf<P>(&P::turn, "turn", "deg", "turn about x, then y, then z, in creature space"),
            fieldOf<P>(&P::scale, "scale", "", "stretch along its own axes", 1e-06, 1000000),
            fieldOf<P>(&P::radius, "radius", "mm", "of a ball", 0.01, 10000),
            fieldOf<P>(&P::radii, "radii", "mm",
                       "of an ellipsoid; half sizes of a block or wedge; torus: ring, tube; disc: rim, half thickness"),
            fieldOf<P>(&P::rounding, "rounding", "mm", "of the edges of a block, wedge, disc or cylinder", 0, 10000),
            fieldOf<P>(&P::bore, "bore", "", "cylinder: share of the radius that is hollow", 0, 0.95),
            fieldOf<P>(&P::square, "square", "", "body: 0 oval sections, 1 square ones", 0, 1),
            fieldOf<P>(&P::path, "path", "mm",
                       "limb, cone, cylinder: two points; tube: two or more; turned: its profile, radius being the distance from "
                       "the form's own upright axis; [x, y, z, radius] in creature space, and for a tube also squash (half width "
                       "over half height), square (0 round, 1 square) and turn (deg)"),
            fieldOf<P>(&P::crown, "crown", "mm", "body: its upper outline seen from the flank"),
            fieldOf<P>(&P::belly, "belly", "mm", "body: its lower outline seen from the flank"),
            fieldOf<P>(&P::left, "left", "mm", "body: its left outline seen from the crown"),
            fieldOf<P>(&P::right, "right", "mm", "body: its right outline; without it the left one's twin"),
            fieldOf<P>(&P::melt, "melt", "mm", "over how far it flows into what it touches", 0, 1000),
            fieldOf<P>(&P::isMirrored, "mirror", "", "has a twin across the middle plane"),
            choiceOf<P>(&P::role, "role", "what it does when knitted", armature::kRoleNames),
            fieldOf<P>(&P::colour, "colour", "", "#rrggbb to tell it apart; empty for clay"),
            fieldOf<P>(&P::isLinked, "linked", "", "false parts it from the forms it shares its shape with"),
            fieldOf<P>(&P::isHidden, "hidden", "", "not shown and not knitted"),
            fieldOf<P>(&P::isLocked, "locked", "", "cannot be changed")};
}

Fields<AddForm> AddForm::fields()
{
    using P = AddForm;
    return fieldList<P>({choiceOf<P>(&P::kind, "kind", "what solid", armature::kKindNames).required(),
                         nested<P>(&P::changes, FormChanges::fields())});
}

Fields<SetForm> SetForm::fields()
{
    using P = SetForm;
    return fieldList<P>({formField<P>(), nested<P>(&P::changes, FormChanges::fields()),
                         fieldOf<P>(&P::takesBranch, "branch", "", "mirror, hidden and locked go to all forms below it too")});
}

Fields<RemoveForm> RemoveForm::fields()
{
    using P = RemoveForm;
    return {formField<P>()};
}

Fields<DuplicateForm> DuplicateForm::fields()
{
    using P = DuplicateForm;
    return {formField<P>(), fieldOf<P>(&P::move, "move", "mm", "how far the copy stands from the first"),
            fieldOf<P>(&P::isLinked, "linked", "", "the copy keeps following the shape of the first")};
}

Fields<SetHeight> SetHeight::fields()
{
    using P = SetHeight;
    return {fieldOf<P>(&P::mm, "mm", "mm", "from the floor to the crown", 1, 100000).required()};
}

std::vector<CommandSpec> armatureCommands()
{
    return {
        commandOf(addForm), commandOf(setForm), commandOf(removeForm), commandOf(duplicateForm), commandOf(setHeight),
    };
}

} // namespace bonemoss::command
