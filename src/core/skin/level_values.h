#pragma once

#include "skin/skin_maps.h"
#include "mesh/subdivide.h"

namespace bonemoss::skin {

// What lies on one level, seen from the next; shared by what changes levels and what finds them.

/// Values of all vertices in blocks, but for those in which all is zero.
template <typename T> mesh::BlockArray<T> sparse(const std::vector<T> &values)
{
    mesh::BlockArray<T> out(values);
    dropBlank(out);
    return out;
}
/// a - b; blocks that both share stay blank.
mesh::BlockArray<Vec3f> difference(const mesh::BlockArray<Vec3f> &a, const mesh::BlockArray<Vec3f> &b);
void add(mesh::BlockArray<Vec3f> &to, const mesh::BlockArray<Vec3f> &what);
mesh::BlockArray<Vec3f> subdivided(const mesh::Subdivision &rule, const mesh::BlockArray<Vec3f> &coarse);
/// The same of bytes, rounded.
mesh::BlockArray<std::uint8_t> subdivided(const mesh::Subdivision &rule, const mesh::BlockArray<std::uint8_t> &coarse);
/// The coarse values whose subdivision lies nearest, by least squares.
mesh::BlockArray<Vec3f> fitted(const mesh::Subdivision &rule, const mesh::BlockArray<Vec3f> &fine);
/// Numbers that are not to be mixed: each fine vertex has one of its coarse neighbours'.
template <typename T> mesh::BlockArray<T> spread(const mesh::Subdivision &rule, const mesh::BlockArray<T> &coarse)
{
    if (coarse.isBlank())
        return mesh::BlockArray<T>(rule.vertexCount());
    const std::vector<T> values = coarse.flatten();
    const std::vector<std::uint16_t> fine = rule.spread({values.begin(), values.end()});
    return sparse(std::vector<T>(fine.begin(), fine.end()));
}

/// Adds to `changed` the blocks in which a layer holds anything.
void note(std::vector<bool> &changed, const Layer &layer);
/// Whether it can be seen, and not only compared with.
inline bool hasSurface(const Skin &skin)
{
    return !skin.shown.bounds.empty();
}
/// mixBlocks of those that changed, where there is a surface.
void remix(Skin &skin, const std::vector<bool> &changed);
/// Surface and sums of a skin that has everything else; what of it is hidden stays.
void assemble(Skin &skin, std::shared_ptr<const mesh::Topology> topology);

} // namespace bonemoss::skin
