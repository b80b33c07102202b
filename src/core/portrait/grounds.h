#pragma once

#include "io/scene.h"
#include "portrait/stage.h"

namespace bonemoss::portrait {

/// What a creature can stand on.
struct GroundKind {
    std::string_view id, title, hint;
    /// Adds it for a creature of that box; y: where the creature stands. Null for none.
    void (*build)(io::Scene &scene, const Ground &ground, const Box3f &box, float y) = nullptr;
    /// mm below y of an endless floor that shows the backdrop with the shadow on it; negative for none. For a creature of a size of 1 mm.
    float floor = -1;
};
std::span<const GroundKind> groundKinds();
/// The row of that id, or that of none.
const GroundKind &groundKind(std::string_view id);

} // namespace bonemoss::portrait
