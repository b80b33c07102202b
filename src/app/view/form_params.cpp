#include "app/view/form_params.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bonemoss::app {

using armature::Form;
using armature::FormKind;
using Changes = command::FormChanges;

namespace {

float part(Vec3f v, int axis)
{
    return axis == 0 ? v.x : axis == 1 ? v.y : v.z;
}

Vec3f withPart(Vec3f v, int axis, float value)
{
    (axis == 0 ? v.x : axis == 1 ? v.y : v.z) = value;
    return v;
}

class Builder
{
public:
    Builder(const Form &form, const Transform &world) : m_form(form), m_world(world) {}

    /// A handle at `from + direction * reach` in the form's own frame; own lengths change by perOwn each mm.
    void add(const char *name, Vec3f from, Vec3f direction, float reach, float value, float perOwn, float min, float max,
             std::function<Changes(float)> change)
    {
        const Vec3f at = m_world.apply(from + direction * reach), base = m_world.apply(from + direction * (reach - 1));
        const float mm = length(at - base); // of one own unit
        out.push_back({name, at, normalized(at - base), value, perOwn / std::max(mm, 1e-6f), min, max, std::move(change)});
    }
    void radius(const char *name, int axis, int component)
    {
        const float r = part(m_form.radii, component);
        add(name, {}, withPart({}, axis, 1), r, r, 1, 0.05f, 10000,
            [f = m_form.radii, component](float v) { return Changes{.radii = withPart(f, component, v)}; });
    }

    std::vector<FormParam> out;

private:
    const Form &m_form;
    const Transform &m_world;
};

} // namespace

std::vector<FormParam> paramsOf(const Form &f, const Transform &world, std::size_t point)
{
    Builder b(f, world);
    switch (f.kind) {
    case FormKind::Ball:
    case FormKind::Blob:
        b.add("radius", {}, {1, 0, 0}, f.radii.x, f.radii.x, 1, 0.05f, 10000, [](float v) { return Changes{.radius = v}; });
        break;
    case FormKind::Ellipsoid:
    case FormKind::Block:
    case FormKind::Wedge:
        for (int axis = 0; axis < 3; ++axis)
            b.radius(axis == 0 ? "width" : axis == 1 ? "height" : "length", axis, axis);
        break;
    case FormKind::Torus:
        b.radius("ring", 0, 0);
        b.add("tube", {f.radii.x, 0, 0}, {0, 1, 0}, f.radii.y, f.radii.y, 1, 0.05f, f.radii.x * 0.98f, [r = f.radii](float v) {
            return Changes{.radii = Vec3f{r.x, v, r.z}};
        });
        break;
    case FormKind::Disc:
        b.radius("rim", 0, 0);
        b.radius("thickness", 1, 1);
        break;
    case FormKind::Cylinder: {
        const armature::PathPoint &end = f.path.back();
        const Vec3f axis = normalized(end.at - f.path.front().at);
        const Vec3f side = normalized(cross(axis, std::abs(axis.x) < 0.8f ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0}));
        b.add("bore", end.at, side, std::max(f.bore, 0.12f) * end.radius, f.bore, 1 / std::max(end.radius, 0.05f), 0, 0.95f,
              [](float v) { return Changes{.bore = v}; });
        break;
    }
    case FormKind::Tube: {
        const std::size_t i = std::min(point, f.path.size() - 1), next = std::min(i + 1, f.path.size() - 1);
        const std::size_t last = i > 0 ? i - 1 : 0;
        const armature::PathPoint &p = f.path[i];
        const Vec3f axis = normalized(f.path[next].at - f.path[last].at);
        const Vec3f side = normalized(cross(std::abs(axis.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, axis));
        const Vec3f high = cross(axis, side);
        const auto change = [f, world, i](float armature::PathPoint::*member) {
            return [f, world, i, member](float v) {
                auto path = f.path;
                path[i].*member = v;
                for (auto &q : path)
                    q.at = world.apply(q.at);
                return Changes{.path = path};
            };
        };
        b.add("squash", p.at, side, p.radius * p.squash, p.squash, 1 / p.radius, 0.05f, 20, change(&armature::PathPoint::squash));
        const Vec3f corner = normalized(side * p.squash + high);
        b.add("square", p.at, corner, p.radius * (0.75f + 0.45f * p.square), p.square, 1 / (0.45f * p.radius), 0, 1,
              change(&armature::PathPoint::square));
        break;
    }
    case FormKind::Limb:
    case FormKind::Cone:
    case FormKind::Turned:
    case FormKind::Body:
    case FormKind::Group: break;
    }
    return std::move(b.out);
}

} // namespace bonemoss::app
