#pragma once

#include "mesh/measures.h"
#include "sculpt/stroke.h"

namespace bonemoss::test {

/// A surface to be stroked, with its mask.
struct Bed {
    mesh::Surface surface;
    mesh::BlockArray<std::uint8_t> mask;
    explicit Bed(const mesh::PolyMesh &m) : surface(mesh::makeSurface(inSpatialOrder(m))), mask(surface.positions.size()) {}
};

inline sculpt::StrokeSettings plainSettings(sculpt::Tool tool)
{
    sculpt::StrokeSettings s;
    s.tool = tool;
    s.size = 4;
    s.strength = 1;
    s.isMirrored = false;
    s.depth = 0.1f;
    return s;
}

/// A layer to go back from: everything lifted by 0.2 mm.
inline sculpt::StrokeNeeds liftedBy(const mesh::Surface &s)
{
    sculpt::StrokeNeeds needs;
    needs.layer = mesh::BlockArray<Vec3f>(std::vector<Vec3f>(s.positions.size(), Vec3f{0, 0.2f, 0}));
    needs.layerStrength = 1;
    return needs;
}

inline void stroke(Bed &bed, const sculpt::StrokeSettings &settings, const std::vector<Vec3f> &points)
{
    sculpt::Stroke s(bed.surface, bed.mask, settings,
                     settings.tool == sculpt::Tool::Restore ? liftedBy(bed.surface) : sculpt::StrokeNeeds{});
    for (const Vec3f p : points)
        s.add({p, {}, 1, 0});
}

} // namespace bonemoss::test
