// Setting ready parts down on a creature.
#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/named_items.h"
#include "command/forms/form_edit.h"
#include "store/part.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using store::Part, store::readPart, store::ShelfEntry, store::shippedParts;

using armature::Form;

namespace {

Result<Part> findPart(const InsertPart &p, const CommandContext &context)
{
    if (p.path == p.part)
        return Error{ErrorCode::BadValue, "part", "name one of the shelf (part) or a file (path)"};
    if (p.path)
        return readPart(context.folder / *p.path);
    for (const ShelfEntry &e : shippedParts())
        if (e.name == *p.part)
            return readPart(e.path);
    std::vector<std::string> names;
    for (const ShelfEntry &e : shippedParts())
        names.push_back(e.name);
    return Error{ErrorCode::Unknown, "part",
                 fmt::format("there is none named {} on the shelf, which holds {}", *p.part, fmt::join(names, ", "))};
}

Result<Creature> insertPart(const Creature &before, const InsertPart &p, CommandContext &context)
{
    const auto part = need(findPart(p, context));
    std::uint32_t parent = 0;
    if (p.parent && !isNone(*p.parent)) {
        const auto found = need(findForm(before, *p.parent));
        parent = found;
    }
    Quat turn = p.turn ? fromEulerDeg(*p.turn) : Quat{};
    if (p.normal && part.turnsToNormal) {
        if (!(length(*p.normal) > 1e-6f))
            return Error{ErrorCode::BadValue, "normal", "has no direction"};
        turn = normalized(turn * rotationFromTo(part.outward, normalized(*p.normal)));
    }
    const float scale = p.radius ? *p.radius / part.fitsRadius * p.scale : p.scale;
    const Transform root{p.at, turn, Vec3f{1, 1, 1} * scale};
    Creature after = before;
    const std::uint32_t first = after.nextId;
    const auto renamed = [&](std::uint32_t id) { // in the order of the part's forms
        const auto &forms = part.armature.forms;
        const auto at = std::find_if(forms.begin(), forms.end(), [&](const Form &f) { return f.id == id; });
        return at == forms.end() ? 0 : first + std::uint32_t(at - forms.begin());
    };
    std::vector<std::pair<std::uint32_t, std::uint32_t>> links;
    after.nextId += std::uint32_t(part.armature.forms.size());
    for (const Form &f : part.armature.forms) {
        Form copy = f;
        copy.id = renamed(f.id);
        copy.name = after.uniqueName(f.name);
        if (f.parent == 0) {
            copy.parent = parent;
            setWorldPlace(after.armature, copy, compose(root, f.place));
            copy.repeat.centre = root.apply(f.repeat.centre); // where its parent's frame is the creature's, below
            if (const Form *onto = after.armature.find(parent); onto && f.repeat.mode == armature::RepeatMode::Around) {
                const Transform frame = after.armature.worldPlace(*onto);
                copy.repeat.centre = frame.applyInverse(copy.repeat.centre);
                copy.repeat.axis = rotate(frame.rotation.conjugate(), rotate(turn, f.repeat.axis));
            }
        } else {
            copy.parent = renamed(f.parent);
        }
        copy.repeat.guide = f.repeat.guide ? renamed(f.repeat.guide) : 0;
        if (f.link) {
            auto link = std::find_if(links.begin(), links.end(), [&](const auto &l) { return l.first == f.link; });
            if (link == links.end())
                link = links.insert(links.end(), {f.link, after.nextId++});
            copy.link = link->second;
        }
        if (p.isMirrored)
            copy.isMirrored = true;
        after.armature.forms.push_back(std::move(copy));
    }
    sortByParent(after.armature);
    return after;
}

} // namespace

Fields<InsertPart> InsertPart::fields()
{
    using P = InsertPart;
    return {
        fieldOf<P>(&P::part, "part", "", "of the shelf: paw, hoof, beak, ear and more, named after their files in data/parts"),
        fieldOf<P>(&P::path, "path", "", "a .part.json file"),
        fieldOf<P>(&P::at, "at", "mm", "where it is joined on, in creature space").required(),
        fieldOf<P>(&P::parent, "parent", "", "form it hangs from; 0 for none"),
        fieldOf<P>(&P::normal, "normal", "", "the way out of the body there; parts that are made to follow it do"),
        fieldOf<P>(&P::turn, "turn", "deg", "turned by this as well"),
        fieldOf<P>(&P::radius, "radius", "mm", "thickness of what it sits on: the part is scaled to fit", 0.01, 10000),
        fieldOf<P>(&P::scale, "scale", "", "times that size", 0.001, 1000),
        fieldOf<P>(&P::isMirrored, "mirror", "", "with twins across the middle plane")};
}

std::vector<CommandSpec> partCommands()
{
    return {
        commandOf(insertPart, true),
    };
}

} // namespace bonemoss::command
