#pragma once

#include "base/item.h"
#include "mesh/poly_mesh.h"

#include <string_view>

namespace bonemoss::io {
struct Scene;
}

namespace bonemoss::document {

/// A low mesh of hard edges beside the skin: props, straps, brow strips. Shown smooth, edited as it is.
struct Cage : Item {
    mesh::PolyMesh mesh; ///< in creature space, mm
    int smooth = 2;      ///< Catmull-Clark steps that it is shown and handed over with, 0 to 4
    bool isMirrored = false;

    // What an item kind says of itself (items.h).
    static constexpr std::string_view kKind = "cage", kKinds = "cages";
    Box3f bounds() const;
    void shift(Vec3f by);
    void show(io::Scene &scene) const;
    std::string notFinite(const Cage *before) const;
    std::size_t memoryBytes() const { return mesh.positions.size() * sizeof(Vec3f) + mesh.faces.size() * sizeof(mesh::Face); }
    std::string about() const;
};

/// With its twin across the middle plane, the two sharing what lies on it; then smoothed.
mesh::PolyMesh shownCage(const Cage &cage);

} // namespace bonemoss::document
