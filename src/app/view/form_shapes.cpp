#include "app/view/form_shapes.h"

#include <limits>

namespace bonemoss::app {

const mesh::Surface &FormShapes::surfaceOf(const armature::Armature &a, const armature::Form &f)
{
    Shape &s = m_shapes[f.id];
    std::vector<Transform> places = placesOf(a, f);
    if (s.form.id == 0 || !(s.form == f) || s.places != places)
        s = {f, std::move(places), mesh::makeSurface(tessellateAll(a, f))};
    return s.surface;
}

Box3f FormShapes::boxOf(const armature::Armature &a, const armature::Form &f)
{
    return hasShape(f.kind) ? surfaceOf(a, f).box() : Box3f{};
}

FormShapes::Hit FormShapes::pick(const armature::Armature &a, const mesh::Ray &ray)
{
    std::erase_if(m_shapes, [&](const auto &s) { return !a.find(s.first); });
    Hit best;
    float nearest = std::numeric_limits<float>::max();
    for (const armature::Form &f : a.forms) {
        if (f.isHidden || !hasShape(f.kind))
            continue;
        const mesh::Surface &surface = surfaceOf(a, f);
        for (int twin = 0; twin < (f.isMirrored ? 2 : 1); ++twin) {
            const mesh::Ray r = twin ? mesh::Ray{mirrored(ray.origin), mirrored(ray.direction)} : ray;
            const auto hit = mesh::castRay(surface, r);
            if (!hit || hit->distance >= nearest)
                continue;
            nearest = hit->distance;
            const float step = 1e-3f * (1 + hit->distance);
            const auto out = mesh::castRay(surface, {hit->point + r.direction * step, r.direction});
            const Vec3f middle = out ? (hit->point + out->point) * 0.5f : hit->point;
            best = twin ? Hit{f.id, mirrored(hit->point), mirrored(hit->normal), mirrored(middle), true}
                        : Hit{f.id, hit->point, hit->normal, middle, false};
        }
    }
    return best;
}

} // namespace bonemoss::app
