// Commands about the order of forms: copies by a rule, proportions, and where the whole stands.
#include "creature/detail/form_edit.h"

#include <algorithm>
#include <fmt/format.h>
#include <numbers>
#include <unordered_map>

namespace bonemoss::creature {

using armature::Form;
using armature::FormKind;
using armature::hasPath;

void sortByParent(armature::Armature &a)
{
    std::unordered_map<std::uint32_t, std::vector<std::size_t>> children; // in the order they stand in
    for (std::size_t i = 0; i < a.forms.size(); ++i)
        children[a.forms[i].parent].push_back(i);
    std::vector<Form> sorted;
    sorted.reserve(a.forms.size());
    const auto place = [&](auto &&self, std::uint32_t parent) -> void {
        if (const auto of = children.find(parent); of != children.end())
            for (const std::size_t i : of->second) {
                sorted.push_back(a.forms[i]);
                self(self, a.forms[i].id);
            }
    };
    place(place, 0);
    a.forms = std::move(sorted);
}

namespace {

constexpr float kRadians = std::numbers::pi_v<float> / 180;

/// The form a command is about, in the new creature; refuses locked ones.
Result<Form *> takeForm(Creature &after, const Params &p)
{
    const auto id = findForm(after, p.value("form"));
    if (!id)
        return id.error();
    Form *f = after.armature.find(*id);
    if (f->isLocked)
        return Error{ErrorCode::BadValue, f->name, "is locked; unlock it first"};
    return f;
}

/// Moves a form's joint; its shape and what hangs from it stay where they are.
Result<Creature> movePivot(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takeForm(after, p);
    if (!taken)
        return taken.error();
    Form &f = **taken;
    if (!hasPath(f.kind) || f.kind == FormKind::Turned)
        return Error{ErrorCode::BadValue, f.name, "is shaped about its joint; only forms with a free path have one to move"};
    if (f.link)
        return Error{ErrorCode::BadValue, f.name, "shares its shape with others; part it from them first"};
    const Transform old = before.armature.worldPlace(f);
    Transform now = old;
    now.move = p.point("at");
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
            r.spread = p.number("spread") * kRadians;
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

Result<Creature> adjustCopy(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takeForm(after, p);
    if (!taken)
        return taken.error();
    Form &f = **taken;
    const auto index = std::uint32_t(p.integer("copy"));
    if (f.repeat.mode == armature::RepeatMode::None || index >= f.repeat.count)
        return Error{ErrorCode::BadValue, f.name, fmt::format("has no copy {}", index)};
    auto &changes = f.repeat.changes;
    auto change = std::find_if(changes.begin(), changes.end(), [&](const auto &c) { return c.index == index; });
    if (change == changes.end())
        change = changes.insert(changes.end(), {index, {}, {}, 1, false});
    if (p.has("move"))
        change->move = p.point("move");
    if (p.has("turn"))
        change->turn = fromEulerDeg(p.point("turn"));
    if (p.has("scale"))
        change->scale = p.number("scale");
    if (p.has("hidden"))
        change->isHidden = p.isOn("hidden");
    return after;
}

/// Every copy becomes a form of its own, where it stands.
Result<Creature> breakCopies(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takeForm(after, p);
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
Result<Creature> standOnFloor(const Creature &before, const Params &, CommandContext &context)
{
    const ShownShapes shapes = shownBodies(before);
    Box3f box;
    for (const mesh::Surface *s : shapes.surfaces)
        box.add(s->box());
    if (box.isEmpty())
        return Error{ErrorCode::Empty, "floor", "there is nothing to stand on it"};
    Creature after = before;
    const Vec3f by{0, -box.lo.y, 0};
    for (Form &f : after.armature.forms)
        if (f.parent == 0) {
            f.place.move += by;
            f.repeat.centre += by; // an axis that hangs from nothing goes along
        }
    for (const auto &old : before.pieces) {
        auto piece = std::make_shared<Piece>(*old);
        detail::shift(piece->skin, by);
        after.put(std::move(piece));
    }
    for (auto &old : after.cages) {
        auto cage = std::make_shared<Cage>(*old);
        for (Vec3f &q : cage->mesh.positions)
            q += by;
        old = std::move(cage);
    }
    context.notes.push_back(fmt::format("moved by {:.2f} mm", by.y));
    return after;
}

/// Visibility of forms, pieces, cages and pictures alike, in one step.
Result<Creature> showItems(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    for (const auto &[list, isHidden] : {std::pair{"show", false}, std::pair{"hide", true}}) {
        if (!p.has(list))
            continue;
        for (const nlohmann::json &r : p.value(list)) {
            const auto is = [&](std::uint32_t id, const std::string &name) {
                return r.is_string() ? name == r.get_ref<const std::string &>() : id == r.get<std::uint32_t>();
            };
            bool isThere = false;
            for (Form &f : after.armature.forms)
                if (is(f.id, f.name))
                    f.isHidden = isHidden, isThere = true;
            for (Reference &picture : after.references)
                if (is(picture.id, picture.name))
                    picture.isHidden = isHidden, isThere = true;
            const auto each = [&](auto &items) {
                for (auto &item : items)
                    if (is(item->id, item->name)) {
                        auto changed = std::make_shared<std::remove_cvref_t<decltype(*item)>>(*item);
                        changed->isHidden = isHidden, isThere = true;
                        item = std::move(changed);
                    }
            };
            each(after.pieces), each(after.cages);
            if (!isThere)
                return Error{ErrorCode::Unknown, list, fmt::format("there is nothing called {}", r.dump())};
        }
    }
    return after;
}

} // namespace

std::vector<CommandSpec> orderCommands()
{
    const ParamSpec form = required(plainParam(ParamKind::Reference, "form", "", "name or id"));
    return {
        {"items.show",
         "Show and hide",
         "Shows and hides forms, pieces, cages and pictures in one step.",
         {plainParam(ParamKind::References, "show", "", "what shall be seen"),
          plainParam(ParamKind::References, "hide", "", "what shall not")},
         showItems},
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
        {"form.pivot",
         "Move joint",
         "Moves the joint that a form with a path turns about; its shape and what hangs from it stay.",
         {form, required(plainParam(ParamKind::Point, "at", "mm", "the joint, in creature space"))},
         movePivot},
        {"form.copy",
         "Adjust copy",
         "Changes one copy of a repeated form against its rule.",
         {form, required([] {
              ParamSpec s = numberParam("copy", "", "which one, the form itself being 0", 0, 999);
              s.kind = ParamKind::Integer;
              return s;
          }()),
          plainParam(ParamKind::Point, "move", "mm", "beside its place"),
          plainParam(ParamKind::Point, "turn", "deg", "against its turn"),
          numberParam("scale", "", "against its size", 0.01, 100), switchParam("hidden", "left out")},
         adjustCopy},
        {"form.break", "Break copies free", "Makes every copy of a repeated form a form of its own.", {form}, breakCopies},
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
        {"creature.stand",
         "Stand on the floor",
         "Moves everything until its lowest point touches the floor at y = 0.",
         {},
         standOnFloor},
    };
}

} // namespace bonemoss::creature
