#pragma once

#include "growth/growth.h"
#include "growth/scatter.h"
#include "field/knit.h"
#include "support/shapes.h"

namespace bonemoss::test {

inline constexpr float kSide = 60;

/// A flat skin that faces +z, 60 mm long, with vertices 0.25 mm apart.
inline skin::Skin sheet(std::uint32_t n = 240)
{
    mesh::PolyMesh m = plane(kSide, n);
    for (Vec3f &p : m.positions)
        p = {p.x, -p.z, 0};
    return skin::makeSkin(m, false);
}

/// A tube with round ends along z, as a limb of the armature gives it.
inline constexpr float kTube = 10;
inline skin::Skin tube()
{
    mesh::PolyMesh m = sphere(kTube, 160, 200);
    for (Vec3f &p : m.positions)
        p = {p.x, p.z, p.y + (p.y > 0 ? 25.0f : -25.0f)};
    return skin::makeSkin(field::knitMesh(m, {0.35f, 0})->mesh, true);
}

inline growth::Growth rule(const char *kind, bool isMirrored = false)
{
    growth::Growth g = growth::growthOf(*growth::growthNamed(kind));
    g.isMirrored = isMirrored;
    return g;
}

inline skin::Skin grown(skin::Skin skin, const growth::Growth &g, const growth::Surroundings &about = {},
                        const mesh::BlockArray<std::uint8_t> &mask = {})
{
    skin.layers.emplace_back(skin.body.size()).id = 1;
    if (mask.size() > 0)
        skin.layers.back().mask = mask;
    if (!growth::grow(skin, 1, g, about))
        qFatal("not grown");
    return skin;
}

inline bool isInside(Vec3f p, float margin)
{
    return std::abs(p.x) < kSide / 2 - margin && std::abs(p.y) < kSide / 2 - margin;
}

/// Sites as thrown, not evened out.
inline std::vector<growth::Site> thrown(const growth::Ground &ground, float size, const growth::Surroundings &about = {})
{
    const growth::Flow flow(ground, about);
    growth::ScatterSettings s;
    s.size = size, s.settle = 0, s.isMirrored = false;
    return growth::scatter(ground, flow, about, {}, s);
}

} // namespace bonemoss::test
