#pragma once

#include "io/scene.h"
#include "portrait/path_tracer.h"

#include <cstdint>

namespace bonemoss::portrait {

/// A number that tells pictures apart by all they are made of: the same for the same scene, stage, camera and lights, on any machine.
/// O(points of the scene). FNV-1a over words of eight bytes (G. Fowler, L. Noll & K.-P. Vo 1991).
std::uint64_t digestOf(const io::Scene &scene, const Stage &stage, const Shot &shot);

} // namespace bonemoss::portrait
