#pragma once

#include "mesh/surface.h"

#include <optional>
#include <span>
#include <vector>

namespace bonemoss::growth {

/// A place where a hair stands.
struct Dart {
    Vec3f at, normal;
    float share = 1; ///< of the mask there, 0 to 1
    float inner = 1; ///< 0 where the mask ends, 1 as far from there as was asked for
    std::uint64_t number = 0;
};

struct DartSettings {
    float apart = 1;  ///< mm
    float border = 0; ///< mm from the end of the mask to where inner is 1
    std::uint64_t seed = 1;
    std::optional<Vec3f> plane, planeNormal; ///< only what lies before it, or nearly so
};

/// Places over a masked skin, no two on the same side of it nearer than they shall be apart, and hardly room for another: darts in an
/// order that a hash of each gives (Bridson 2007, "Fast Poisson disk sampling in arbitrary dimensions", has the bounds; here all are
/// thrown at once at the faces, as many as their size asks for). area: 0 to 255, nothing stands where it is 0; blocks: those whose faces
/// are looked at. O(faces of the blocks + places), the same on any number of threads; near ones follow each other.
std::vector<Dart> dartsOn(const mesh::Surface &skin, const mesh::BlockArray<std::uint8_t> &area,
                          std::span<const std::uint32_t> blocks, const DartSettings &settings);

} // namespace bonemoss::growth
