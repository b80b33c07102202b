#pragma once

#include "base/operation.h"
#include "document/creature.h"
#include "field/knit.h"
#include "mesh/parts.h"
#include "solid/combine.h"
#include "solid/shape_tools.h"

namespace bonemoss::document {

// New faces for pieces: what joins, cuts, splits, plates, holes, offsets and evening work out. What lay on the old skin is carried over
// afterwards (reknit.h). All O(faces) but where said.

/// Pieces joined, cut or kept in common exactly, one after the other; context is told what solid::combine tells. Errors as there,
/// naming the piece; Cancelled.
Result<mesh::PolyMesh> combined(std::span<const std::shared_ptr<const Piece>> pieces, solid::Boolean how, Operation &context);

/// Both sides of the line where the mask is half; in: what is masked.
mesh::CutMesh cutAtMask(const skin::Skin &skin);

/// A part of a skin on its way to be a piece.
struct SkinPart {
    mesh::PolyMesh mesh;
    std::string name; ///< empty: none of its own
};
/// By group: a face is in the group that all its corners are in, one between two in that with the higher number. What is in no group
/// comes first, as `rest`. Errors: BadValue where there are not two.
Result<std::vector<SkinPart>> partsByGroup(const skin::Skin &skin, const std::string &rest);
/// By island; most is how many there may be. Errors: BadValue for one, TooLarge.
Result<std::vector<SkinPart>> partsByIsland(const skin::Skin &skin, const std::string &name, std::size_t most = 200);
/// What is not masked, and what is. Errors: BadValue where either is nothing.
Result<std::vector<SkinPart>> partsByMask(const skin::Skin &skin, const std::string &name);
/// All borders closed with flat patches; context is told which stay open, under that name.
mesh::PolyMesh closedFlat(const mesh::PolyMesh &mesh, const std::string &name, Operation &context);

/// A plate over a sheet, so many mm thick, of which a share (0 to 1) lies above the sheet.
mesh::PolyMesh plateOver(const mesh::PolyMesh &sheet, float thickness, float above, solid::Rim rim);

/// The border of the hole nearest to a point, of those that solid::openBorders gives.
std::size_t nearestBorder(const mesh::PolyMesh &mesh, const std::vector<std::vector<std::uint32_t>> &borders, Vec3f at);

/// A closed skin at an even distance (mm) outside, or below 0 inside, of a piece. Errors: BadValue for an open one, Empty where
/// nothing would be left. As field::knitSource.
Result<field::Knitted> offsetOf(const Piece &piece, float by, float spacing, Operation &context);

/// About how many faces that would have: told by a coarse lattice, in a fraction of the time. Errors alike.
Result<std::size_t> offsetForecast(const Piece &piece, float by, float spacing);

/// Which faces have all corners, or no corner, where a mask is above half.
enum class MaskedFaces { All, Inside, Outside };
std::vector<std::uint32_t> facesBy(const mesh::PolyMesh &mesh, const mesh::BlockArray<std::uint8_t> &mask, MaskedFaces which);
/// How many even triangles of that edge (mm) a spot of faces would need.
double facesNeeded(const mesh::PolyMesh &mesh, std::span<const std::uint32_t> faces, float edge);

} // namespace bonemoss::document
