#pragma once

#include "skin/skin.h"

namespace bonemoss::skin {

/// Turns of the surface between two states, for the vertices of each block in which it changed at all.
using Turns = std::vector<std::vector<Quat>>;
/// O(vertices of those blocks), parallel.
Turns turnsBetween(const mesh::Topology &topology, const mesh::BlockArray<Vec3f> &before, const mesh::BlockArray<Vec3f> &after);

/// Detail that rides on a surface that turned: after + turn (fine - before), block by block where something changed; `changed`
/// tells where. A missing before or after stands for zeros.
mesh::BlockArray<Vec3f> ridden(const mesh::BlockArray<Vec3f> &fine, const mesh::BlockArray<Vec3f> *before,
                               const mesh::BlockArray<Vec3f> *after, const Turns &turns, std::vector<bool> &changed);

} // namespace bonemoss::skin
