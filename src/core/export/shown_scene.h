#pragma once

#include "document/creature.h"
#include "io/mesh_file.h"

#include <optional>

namespace bonemoss::exporting {

using document::Creature;

/// One thing a person sees, as files, pictures and checks take it.
struct ShownPart {
    std::string name;
    mesh::PolyMesh mesh;           ///< mm, creature space; with its twin
    std::optional<Vec3f> colour{}; ///< linear light; clay when there is none
    bool isGlossy = false;         ///< an eye, a tooth
};

/// All that is seen: visible pieces, cages as they are shown, and shownForms with twins and copies. O(what is shown).
std::vector<ShownPart> shownScene(const Creature &creature);

/// The same as files take it; borrows the parts.
std::vector<io::MeshPart> meshParts(const std::vector<ShownPart> &parts);

} // namespace bonemoss::exporting
