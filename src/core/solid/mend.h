#pragma once

#include "base/note.h"
#include "mesh/poly_mesh.h"

namespace bonemoss::solid {

struct Mended {
    mesh::PolyMesh mesh;
    std::vector<Note> notes; ///< each kind of fault with its count, what was done and where the first one lies
    bool isChanged = false;
};

/// Makes a mesh a closed manifold as far as that goes without making it anew: faces that stand there twice left out,
/// vertices doubled where more than two faces share an edge, neighbours that face against each other and shells that are
/// inside out turned, holes closed. Loose islands of a few faces are told and kept. No face is reduced. O(F log F).
Mended mend(const mesh::PolyMesh &mesh, bool isSmooth);

} // namespace bonemoss::solid
