#include "command/forms/form_edit.h"
#include "command/params.h"

#include <algorithm>
#include <fmt/format.h>
#include <optional>

namespace bonemoss::command {

using armature::Form;
using armature::FormKind;
using armature::hasPath;

namespace {

/// Takes over everything a command says about a form. Places and paths are in creature space.
Status readForm(const Creature &c, const Params &p, Form &f)
{
    if (p.has("name"))
        f.name = p.text("name") == f.name ? f.name : c.uniqueName(p.text("name"));
    Transform world = c.armature.worldPlace(f);
    if (p.has("parent")) {
        f.parent = 0;
        if (!(p.value("parent").is_string() && p.text("parent").empty()) && p.value("parent") != 0) {
            const auto parent = findForm(c, p.value("parent"));
            if (!parent)
                return parent.error();
            if (*parent == f.id || c.armature.isDescendant(*parent, f.id))
                return Error{ErrorCode::BadValue, f.name, "a form cannot hang from itself or from its own branch"};
            f.parent = *parent;
        }
    }
    if (p.has("at"))
        world.move = p.point("at");
    if (p.has("turn"))
        world.turn = fromEulerDeg(p.point("turn"));
    if (p.has("scale"))
        world.scale = p.point("scale");
    if (p.has("radius"))
        f.radii = Vec3f{1, 1, 1} * p.number("radius");
    if (p.has("radii"))
        f.radii = p.point("radii");
    if (p.has("rounding"))
        f.rounding = p.number("rounding");
    if (p.has("path") && hasPath(f.kind)) {
        f.path = p.path("path");
        if (f.path.empty())
            return Error{ErrorCode::BadValue, f.name, "the path is empty"};
        if (f.id == 0 && !p.has("at") && f.kind != FormKind::Turned)
            world.move = f.path.front().at; // the joint of a new limb is where it begins
        for (armature::PathPoint &q : f.path)
            q.at = world.applyInverse(q.at);
    }
    for (std::size_t k = 0; k < f.sides.size(); ++k)
        if (const char *side = armature::kSideNames[k].data(); p.has(side) && f.kind == FormKind::Body) {
            f.sides[k].clear();
            for (const armature::PathPoint &q : p.path(side))
                f.sides[k].push_back(world.applyInverse(q.at));
        }
    if (p.has("bore"))
        f.bore = p.number("bore");
    if (p.has("square"))
        f.square = p.number("square");
    if (p.has("colour")) {
        const auto colour = colourNamed(p.text("colour"));
        if (!colour)
            return Error{ErrorCode::BadValue, f.name, "a colour is written #rrggbb; an empty one stands for clay"};
        f.colour = *colour;
    }
    if (p.has("linked") && !p.isOn("linked"))
        f.link = 0;
    if (p.has("melt"))
        f.melt = p.number("melt");
    if (p.has("mirror"))
        f.isMirrored = p.isOn("mirror");
    if (p.has("role"))
        f.role = *armature::roleNamed(p.text("role"));
    if (p.has("hidden"))
        f.isHidden = p.isOn("hidden");
    if (p.has("locked"))
        f.isLocked = p.isOn("locked");
    const Form *parent = f.parent ? c.armature.find(f.parent) : nullptr;
    f.place = parent ? relativeTo(c.armature.worldPlace(*parent), world) : world;
    return checkForm(f);
}

/// What a new form looks like where nothing else is said.
void startShape(Form &f, const Params &p)
{
    switch (f.kind) {
    case FormKind::Torus: f.radii = {10, 3, 10}; break;
    case FormKind::Disc: f.radii = {12, 2, 12}, f.rounding = 1; break;
    case FormKind::Blob: f.melt = p.has("radius") ? p.number("radius") : f.radii.x; break;
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

Result<Creature> addForm(const Creature &before, const Params &p, CommandContext &)
{
    Form f;
    f.kind = *armature::kindNamed(p.text("kind"));
    f.name = before.uniqueName(p.has("name") ? p.text("name") : p.text("kind"));
    startShape(f, p);
    if (const Status read = readForm(before, p, f); !read)
        return read.error();
    Creature after = before;
    f.id = after.nextId++;
    after.armature.forms.push_back(f);
    sortByParent(after.armature);
    return after;
}

Result<Creature> setForm(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findForm(before, p.value("form"));
    if (!id)
        return id.error();
    Creature after = before;
    Form *f = after.armature.find(*id);
    if (f->isLocked && !p.has("locked") && !p.has("hidden"))
        return Error{ErrorCode::BadValue, f->name, "is locked; unlock it first"};
    if (const Status read = readForm(before, p, *f); !read)
        return read.error();
    followLink(after.armature, *f);
    if (p.isOn("branch"))
        for (const std::uint32_t other : before.armature.branch(*id)) {
            Form *o = after.armature.find(other);
            if (p.has("mirror"))
                o->isMirrored = p.isOn("mirror");
            if (p.has("hidden"))
                o->isHidden = p.isOn("hidden");
            if (p.has("locked"))
                o->isLocked = p.isOn("locked");
        }
    sortByParent(after.armature);
    return after;
}

Result<Creature> removeForm(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findForm(before, p.value("form"));
    if (!id)
        return id.error();
    Creature after = before;
    if (const Status gone = removeBranches(after, {*id}); !gone)
        return gone.error();
    return after;
}

Result<Creature> duplicateForm(const Creature &before, const Params &p, CommandContext &)
{
    const auto id = findForm(before, p.value("form"));
    if (!id)
        return id.error();
    Creature after = before;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> renamed;
    for (const std::uint32_t old : before.armature.branch(*id)) {
        Form copy = *before.armature.find(old);
        copy.name = after.uniqueName(copy.name);
        copy.id = after.nextId++;
        copy.isLocked = copy.isKnitted = false;
        if (p.isOn("linked")) {
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
        if (old == *id && p.has("move"))
            copy.place.move += p.point("move");
        after.armature.forms.push_back(copy);
    }
    sortByParent(after.armature);
    return after;
}

Result<Creature> setHeight(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    after.heightMm = p.number("mm");
    return after;
}

std::vector<ParamSpec> formParams()
{
    return {
        textParam("name", "as the anatomy shows it; made unique"),
        plainParam(ParamKind::Reference, "parent", "", "form it hangs from; 0 for none"),
        plainParam(ParamKind::Point, "at", "mm", "its joint, in creature space"),
        plainParam(ParamKind::Point, "turn", "deg", "turn about x, then y, then z, in creature space"),
        scaleParam("stretch along its own axes"),
        numberParam("radius", "mm", "of a ball", 0.01, 10000),
        plainParam(ParamKind::Point, "radii", "mm",
                   "of an ellipsoid; half sizes of a block or wedge; torus: ring, tube; disc: rim, half thickness"),
        numberParam("rounding", "mm", "of the edges of a block, wedge, disc or cylinder", 0, 10000),
        numberParam("bore", "", "cylinder: share of the radius that is hollow", 0, 0.95),
        numberParam("square", "", "body: 0 oval sections, 1 square ones", 0, 1),
        plainParam(
            ParamKind::Points, "path", "mm",
            "limb, cone, cylinder: two points; tube: two or more; turned: its profile, radius being the distance "
            "from the form's own upright axis; [x, y, z, radius] in creature space, and for a tube also squash (half width "
            "over half height), square (0 round, 1 square) and turn (deg)"),
        plainParam(ParamKind::Points, "crown", "mm", "body: its upper outline seen from the flank"),
        plainParam(ParamKind::Points, "belly", "mm", "body: its lower outline seen from the flank"),
        plainParam(ParamKind::Points, "left", "mm", "body: its left outline seen from the crown"),
        plainParam(ParamKind::Points, "right", "mm", "body: its right outline; without it the left one's twin"),
        numberParam("melt", "mm", "over how far it flows into what it touches", 0, 1000),
        switchParam("mirror", "has a twin across the middle plane"),
        choiceParam("role", "what it does when knitted", {"add", "cut", "apart"}),
        textParam("colour", "#rrggbb to tell it apart; empty for clay"),
        switchParam("linked", "false parts it from the forms it shares its shape with"),
        switchParam("hidden", "not shown and not knitted"),
        switchParam("locked", "cannot be changed"),
    };
}

std::vector<std::string> kindNames()
{
    std::vector<std::string> names;
    for (std::size_t i = 0; i < armature::kFormKinds; ++i)
        names.emplace_back(nameOf(FormKind(i)));
    return names;
}

std::vector<ParamSpec> withFront(ParamSpec first, std::vector<ParamSpec> rest)
{
    rest.insert(rest.begin(), std::move(first));
    return rest;
}

} // namespace

std::vector<CommandSpec> armatureCommands()
{
    const ParamSpec form = required(plainParam(ParamKind::Reference, "form", "", "name or id"));
    auto change = withFront(form, formParams());
    change.push_back(switchParam("branch", "mirror, hidden and locked go to all forms below it too", "false"));
    return {
        {"form.add", "Add form", "Adds a solid to the armature.",
         withFront(required(choiceParam("kind", "what solid", kindNames())), formParams()), addForm},
        {"form.set", "Change form", "Changes what is given of a form and leaves the rest.", change, setForm},
        {"form.remove", "Delete form", "Deletes a form and all that hangs from it.", {form}, removeForm},
        {"form.duplicate",
         "Duplicate form",
         "Copies a form with all that hangs from it.",
         {form, plainParam(ParamKind::Point, "move", "mm", "how far the copy stands from the first"),
          switchParam("linked", "the copy keeps following the shape of the first", "false")},
         duplicateForm},
        {"creature.height",
         "Final height",
         "The height the finished piece shall have.",
         {required(numberParam("mm", "mm", "from the floor to the crown", 1, 100000))},
         setHeight},
    };
}

} // namespace bonemoss::command
