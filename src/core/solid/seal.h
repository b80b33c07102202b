#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "mesh/poly_mesh.h"

#include <string>
#include <vector>

namespace bonemoss::solid {

struct Sealed {
    mesh::PolyMesh mesh;            ///< closed; quads away from where bodies met
    std::vector<std::string> notes; ///< what was changed on the way
    std::size_t bodies = 0;         ///< that were given, and
    std::size_t left = 0;           ///< what they are now: bodies that touch no other
    std::size_t pockets = 0;        ///< closed hollows that were filled
    std::size_t crossings = 0;      ///< pairs of faces that passed through each other
};

/// What is inside any of many closed bodies, as one surface without anything inside it: exact, but for faces that lie on each other,
/// which are moved by some millionths of the whole. Bodies may cross themselves and each other. Shells that face inwards within a body
/// are its hollows and stay, unless nothing opens them and `fillsPockets`. Errors: Empty, BadValue where a body is open or faces cannot be
/// told apart, Cancelled. O(F log F + what crosses), parallel, the same on any number of threads.
Result<Sealed> seal(const mesh::PolyMesh &bodies, bool fillsPockets = true, const Progress &progress = {});

} // namespace bonemoss::solid
