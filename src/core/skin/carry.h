#pragma once

#include "skin/skin.h"
#include "mesh/nearest_faces.h"
#include "sculpt/symmetry.h"

#include <string>
#include <vector>

namespace bonemoss::skin {

/// What a thing lost on its way to a new mesh: how far what is found there now lies from what was there before.
struct CarryLoss {
    std::string what; ///< "skin", a layer's name, "mask", "mask NAME", "colour", "finish", "groups", "hidden parts"
    double mean = 0, largest = 0;
    bool isShare = false; ///< of the whole range of a mask, or of the skin that is in another group or hidden now; else mm
    std::string text() const;
};

/// What is known about a mesh that things are carried to.
struct CarryHints {
    bool isPart =
        false; ///< it follows a part of the skin only; what lies farther than an eighth of reach from it was meant to go, and is no loss
    bool isMeasured = true; ///< losses are looked for
    /// Faces of the old shown skin about each of its vertices, and the vertex in whose place it stands, as knitAgain tells.
    std::span<const mesh::FacesNear> near = {};
    std::span<const std::uint32_t> kept = {};
    const mesh::PolyMesh *from = nullptr; ///< with them: toPolyMesh of the old shown skin
};

struct Carried {
    Skin skin;
    std::vector<CarryLoss> losses; ///< the skin's own first, then layers from below, then the mask
};

/// Brings body, layers (each apart, with its strength and switch), masks, groups and hidden parts of a skin on to a new
/// mesh that follows
/// its shown surface, each vertex taking over what lies nearest to it there. The new skin shows the new mesh; without
/// a layer it shows what the old one did without it. The losses are measured backwards: at up to 50,000 old
/// vertices, against the new surface.
/// mesh  in the order its vertices shall have (as a knit gives them); reach (mm) as nearestFaces takes it, the
///       distance within which most of it lies from the old surface
/// O(vertices of both). Same bits on any number of threads.
Carried carryOver(const Skin &old, const mesh::PolyMesh &mesh, float reach, const Progress &progress = {}, CarryHints hints = {});

/// What a layer of one skin is on another, by where it lies: each vertex of `to` takes over what is found at the place that
/// `place` brings it to, turned back. Beyond reach (mm) from the old skin there is nothing. O(vertices of both).
struct LayerCopy {
    mesh::BlockArray<Vec3f> offsets;
    mesh::BlockArray<std::uint8_t> mask;
    double missed = 0; ///< share of the vertices of `to` with nothing within reach
};
LayerCopy copiedLayer(const Skin &from, const Layer &layer, const Skin &to, const sculpt::Isometry &place, float reach);

/// Lays a copy of a colour layer of another skin on top of one, by where it lies, with the colours of the palette that it uses; where
/// nothing of the other skin is near, nothing. `missed`: the share of the vertices there. Returns the new layer's id; the paint is
/// composed. O(vertices of both).
std::uint32_t copyColoursOver(Skin &to, const Skin &from, std::uint32_t layer, const std::string &name, std::uint32_t &nextId,
                              double &missed);

/// Several skins as one surface of several shells. Layers of one name (and strength and switch) become one, others
/// stay apart; so do kept masks and groups, by their names.
Skin together(std::span<const Skin *const> skins);

} // namespace bonemoss::skin
