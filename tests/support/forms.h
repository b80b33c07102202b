#pragma once

#include "support/pieces.h"

#include <QtTest>
#include <nlohmann/json.hpp>

#include <numbers>

// Creatures made of forms by commands.
namespace bonemoss::test {

using armature::Form, armature::PathPoint;
using document::Creature;
using nlohmann::json;

inline Creature made(std::initializer_list<json> commands, Creature c = {})
{
    for (const json &command : commands) {
        auto next = run(c, command);
        if (!next)
            qFatal("%s: %s", command.dump().c_str(), next.error().text().c_str());
        c = std::move(*next);
    }
    return c;
}

inline const Form &form(const Creature &c, const char *name)
{
    for (const Form &f : c.armature.forms)
        if (f.name == name)
            return f;
    qFatal("no form %s", name);
}

inline Vec3f joint(const Creature &c, const char *name)
{
    return c.armature.worldPlace(form(c, name)).translation;
}

/// Points of a form's path in creature space.
inline std::vector<Vec3f> points(const Creature &c, const char *name)
{
    const Form &f = form(c, name);
    std::vector<Vec3f> out;
    for (const PathPoint &p : f.path)
        out.push_back(c.armature.worldPlace(f).apply(p.at));
    return out;
}

inline bool near(Vec3f a, Vec3f b, float within = 1e-3f)
{
    return length(a - b) < within;
}

inline Creature chain()
{
    return made(
        {{{"do", "form.add"}, {"kind", "limb"}, {"name", "upper"}, {"path", {{0, 30, 0, 4}, {0, 20, 0, 3}}}},
         {{"do", "form.add"}, {"kind", "limb"}, {"name", "lower"}, {"parent", "upper"}, {"path", {{0, 20, 0, 3}, {0, 10, 0, 2}}}},
         {{"do", "form.add"}, {"kind", "ball"}, {"name", "foot"}, {"parent", "lower"}, {"at", {0, 10, 2}}, {"radius", 2}},
         {{"do", "form.add"}, {"kind", "ball"}, {"name", "head"}, {"at", {0, 40, 10}}, {"radius", 5}}});
}

} // namespace bonemoss::test
