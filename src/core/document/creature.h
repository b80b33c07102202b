#pragma once

#include "armature/proportions.h"
#include "document/cage.h"
#include "document/posing.h"
#include "document/reference.h"
#include "document/scheme.h"
#include "portrait/stage.h"
#include "document/stamp.h"
#include "growth/ground.h"
#include "skin/skin.h"
#include "sculpt/symmetry.h"

#include <memory>
#include <string>
#include <tuple>
#include <vector>

namespace bonemoss::outgrowth {
struct Outgrowth;
}

namespace bonemoss::document {

/// Any separate surface: a skin, a jaw, an eye.
struct Piece : Item {
    float liveSpacing = 0;             ///< mm at which it is knitted again after each stroke; 0 for not
    sculpt::Symmetry symmetry;         ///< where strokes are repeated
    std::vector<growth::Guide> guides; ///< which way growths run
    Scattering inside;                 ///< where it is translucent
    skin::Skin skin;

    // What an item kind says of itself (items.h).
    static constexpr std::string_view kKind = "piece", kKinds = "pieces";
    Box3f bounds() const { return skin.shown.box(); }
    void shift(Vec3f by);
    void show(io::Scene &scene) const; ///< shares its blocks
    std::string notFinite(const Piece *before) const;
    std::size_t memoryBytes() const { return skin.memoryBytes(); }
    std::string about() const;
};

/// For what it is printed.
struct PrintPlan {
    std::string printer = "resin"; ///< id of a ready profile, or a file of one
    float heightMm = 0;                  ///< of the print; 0: as it is
    friend bool operator==(const PrintPlan &, const PrintPlan &) = default;
};

/// The document: an immutable value once published. Copying shares all blocks.
struct Creature {
    armature::Armature armature;
    std::vector<std::shared_ptr<const Piece>> pieces;
    std::vector<std::shared_ptr<const Cage>> cages;
    std::vector<std::shared_ptr<const outgrowth::Outgrowth>> outgrowths;
    std::vector<Reference> references;        ///< pictures to work from
    std::vector<Stamp> stamps;                ///< its own, beside those that come with the program
    std::vector<skin::PaletteColour> palette; ///< colours to paint with, that can be changed afterwards
    std::vector<Scheme> schemes;
    std::uint32_t scheme = 0; ///< the one in use; 0 for none
    Posing posing;
    portrait::Stage stage;    ///< light, camera and surroundings of its portraits
    PrintPlan print;
    float heightMm = 180;     ///< final height; sizes are in real mm already, this is the target shown
    std::uint32_t nextId = 1; ///< for forms, pieces and layers alike; never reused

    const Piece *piece(std::uint32_t id) const;
    const Reference *reference(std::uint32_t id) const;
    const Cage *cage(std::uint32_t id) const;
    const outgrowth::Outgrowth *outgrowth(std::uint32_t id) const;
    /// Replaces the piece of the same id; it must be there.
    void put(std::shared_ptr<const Piece> piece);
    std::string uniqueName(const std::string &wanted) const;
    Box3f bounds() const; ///< of visible pieces, and of visible forms where there are none
    std::size_t faceCount() const;
    std::size_t memoryBytes() const;
};

/// Lists of shared items, whose kind follows from what they hold (items.h); in the order in which they are shown.
inline constexpr std::tuple kItemLists{&Creature::pieces, &Creature::cages, &Creature::outgrowths};

/// The faces of a piece as files take them: without unused vertices.
mesh::PolyMesh meshOf(const Piece &piece);

/// Forms and pieces in the length of the unit that was chosen.
std::vector<armature::Proportion> proportionsOf(const Creature &creature);
/// Length of that unit in mm; 0 when there is none.
float unitLength(const Creature &creature);

} // namespace bonemoss::document
