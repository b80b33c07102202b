#pragma once

#include "base/operation.h"
#include "document/creature.h"
#include "field/mesh_distance.h"

namespace bonemoss::document {

/// How pieces melt into each other.
struct Melting {
    field::Blend how = field::Blend::Join;
    float melt = 0;          ///< mm from the seam to where it ends
    float spacing = 1;       ///< mm, of the new faces
    bool isSeamOnly = false; ///< only what melts is knitted; all other faces stay as they are
};

/// One skin of several pieces, joined, cut or kept in common through the field. Where the seam alone cannot be knitted (it has no
/// room, or the pieces do not make a solid), the whole is, and that is said. Errors as field::knitSource.
Result<mesh::PolyMesh> melted(std::span<const std::shared_ptr<const Piece>> pieces, const Melting &melting, Operation &context);

} // namespace bonemoss::document
