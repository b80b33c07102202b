#include "document/ops/forms.h"

#include "document/items.h"

#include <algorithm>
#include <fmt/format.h>
#include <unordered_map>

namespace bonemoss::document {

using armature::Form;
using armature::FormKind;
using armature::hasPath;

constexpr std::size_t kMostPathPoints = 200;

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

Status checkForm(const Form &f)
{
    const auto bad = [&](std::string why) -> Status { return Error{ErrorCode::BadValue, f.name, std::move(why)}; };
    if (!(f.radii.x > 0 && f.radii.y > 0 && f.radii.z > 0))
        return bad("radii must be above 0 mm");
    if (!(f.place.scale.x > 0 && f.place.scale.y > 0 && f.place.scale.z > 0))
        return bad("scale must be above 0");
    if (!(f.bore >= 0 && f.bore <= 0.95f) || !(f.square >= 0 && f.square <= 1))
        return bad("bore must be 0 to 0.95 of the radius, square 0 to 1");
    if (f.kind == FormKind::Torus && f.radii.y >= f.radii.x)
        return bad("a torus needs a ring wider than its tube");
    if (f.kind == FormKind::Body && bodyPath(f, 4).empty())
        return bad("needs a crown and a belly curve of two or more points that share a stretch from tail to nose");
    if (hasPath(f.kind)) {
        const std::size_t n = f.path.size();
        if (f.kind != FormKind::Tube && f.kind != FormKind::Turned && n != 2)
            return bad("needs a path of two points, [x, y, z, radius] each");
        if (n < 2 || n > kMostPathPoints)
            return bad(fmt::format("needs a path of 2 to {} points", kMostPathPoints));
        for (std::size_t i = 0; i < n; ++i)
            if (!(f.path[i].radius > 0) && !(f.path[i].radius == 0 && (f.kind == FormKind::Cone || f.kind == FormKind::Turned)))
                return bad("radii along the path must be above 0 mm");
        for (const armature::PathPoint &q : f.path)
            if (!(q.squash >= 0.05f && q.squash <= 20) || !(q.square >= 0 && q.square <= 1))
                return bad("squash must be 0.05 to 20 and square 0 to 1 at every point");
        for (std::size_t i = 1; i < n; ++i)
            if (f.path[i].at == f.path[i - 1].at)
                return bad("two neighbouring points of the path are the same");
    }
    return Done{};
}

void followLink(armature::Armature &a, const Form &changed)
{
    if (!changed.link)
        return;
    for (Form &f : a.forms)
        if (f.link == changed.link && f.id != changed.id) {
            f.kind = changed.kind, f.radii = changed.radii, f.rounding = changed.rounding, f.bore = changed.bore;
            f.square = changed.square, f.path = changed.path, f.sides = changed.sides, f.melt = changed.melt;
            f.role = changed.role, f.colour = changed.colour;
        }
}

void setWorldPlace(armature::Armature &a, Form &f, const Transform &world)
{
    const Form *parent = a.find(f.parent);
    f.place = parent ? relativeTo(a.worldPlace(*parent), world) : world;
}

std::optional<std::uint32_t> colourNamed(const std::string &text)
{
    if (text.empty())
        return 0u;
    if (text.size() != 7 || text[0] != '#' || text.find_first_not_of("0123456789abcdefABCDEF", 1) != std::string::npos)
        return {};
    return std::uint32_t(std::stoul(text.substr(1), nullptr, 16));
}

void forgetMeasured(Creature &c, const std::vector<std::uint32_t> &ids)
{
    const auto isGone = [&](std::uint32_t id) { return std::find(ids.begin(), ids.end(), id) != ids.end(); };
    std::erase_if(c.armature.targets, [&](const auto &t) { return isGone(t.form); });
    if (isGone(c.armature.unitForm))
        c.armature.unitForm = 0;
}

Status removeBranches(Creature &c, const std::vector<std::uint32_t> &ids)
{
    std::vector<std::uint32_t> gone;
    for (const std::uint32_t id : ids)
        for (const std::uint32_t g : c.armature.branch(id)) {
            if (const Status free = refuseLocked(*c.armature.find(g)); !free)
                return free;
            gone.push_back(g);
        }
    const auto isGone = [&](std::uint32_t other) { return std::find(gone.begin(), gone.end(), other) != gone.end(); };
    std::erase_if(c.armature.forms, [&](const armature::Form &f) { return isGone(f.id); });
    forgetMeasured(c, gone);
    return Done{};
}

std::vector<std::uint32_t> topmost(const armature::Armature &a, const std::vector<std::uint32_t> &ids)
{
    std::vector<std::uint32_t> out;
    for (const std::uint32_t id : ids)
        if (std::none_of(ids.begin(), ids.end(), [&](std::uint32_t other) { return a.isDescendant(id, other); }))
            out.push_back(id);
    return out;
}

} // namespace bonemoss::document
