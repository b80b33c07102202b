#pragma once

#include "document/creature.h"

#include <map>

namespace bonemoss::app {

/// Forms as surfaces for picking; each is made anew when it changed.
class FormShapes
{
public:
    struct Hit {
        std::uint32_t form = 0;
        Vec3f point, normal;
        Vec3f middle; ///< halfway through what the ray goes into there
        bool isTwin = false;
    };
    /// The nearest visible form on a ray; `form` is 0 for none. Points of a twin are where it is seen.
    Hit pick(const armature::Armature &armature, const mesh::Ray &ray);
    /// A visible form's box in creature space, without its twin; empty for one without shape.
    Box3f boxOf(const armature::Armature &armature, const armature::Form &form);

private:
    struct Shape {
        armature::Form form;
        std::vector<Transform> places;
        mesh::Surface surface;
    };
    const mesh::Surface &surfaceOf(const armature::Armature &armature, const armature::Form &form);
    std::map<std::uint32_t, Shape> m_shapes;
};

} // namespace bonemoss::app
