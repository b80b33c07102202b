#pragma once

#include "base/operation.h"
#include "document/creature.h"
#include "outgrowth/outgrowth.h"

#include <span>
#include <vector>

namespace bonemoss::document {

/// The place on a piece nearest to a point. Errors: BadValue when the skin is farther than `reach` (mm) from it.
Result<outgrowth::Root> rootNear(const Piece &piece, Vec3f at, float reach);
/// A line on a piece under the points of a drawn one, at even places of about a mean edge, no more than 2,000; normals are evened along
/// it. Errors: BadValue with fewer than two points that differ, or where it leaves the skin by more than `reach` (mm).
Result<std::vector<outgrowth::Root>> rootsAlong(const Piece &piece, std::span<const Vec3f> points, float reach);

/// Where toes and fingers end: the free ends of limbs and tubes of the armature that are near the lowest of the creature (within `low`
/// of its height, 0 to 1; 1 for all free ends) and much thinner than its thickest limb, on the skin and turned the way the limb
/// runs; of mirrored forms those on the left. Empty where there are none.
std::vector<outgrowth::Root> toeTips(const Creature &creature, const Piece &piece, float low);

/// Along the edge of a jaw, from the middle of its front to its joint, on the left where it lies in the middle: the outline of the form
/// from above, on the skin next to it. isUpper: of an upper jaw, whose teeth point down. Errors: BadValue where the form has no shape,
/// Empty where no skin is near.
Result<std::vector<outgrowth::Root>> gumLine(const Creature &creature, const Piece &piece, std::uint32_t form, bool isUpper);

/// Raises a map over an area under a line (or one point), or lowers it where amount (-1 to 1) is below 0: most in the middle, down to
/// nothing at the radius, mm. Both are kept masks; the map is made where there is none, at half over the whole area. Whether
/// any of the area lies within the stroke.
bool brushMap(skin::Skin &skin, const std::string &area, const std::string &map, std::span<const Vec3f> line, float radius,
              float amount);

/// The size of a creature that usual lengths on a piece are for, mm.
float usualSizeOn(const Piece &piece);

/// An outgrowth made anew on the piece that is its parent; what is left out or made smaller is told. Errors: as outgrowth::make, and
/// Unknown where that piece is gone.
Result<outgrowth::Outgrowth> regrown(const Creature &creature, outgrowth::Outgrowth outgrowth, Operation &context);

/// Makes those anew that stand between members of one of these. What could not be made stays as it was, and is told.
Creature withThoseBetween(Creature creature, std::span<const std::uint32_t> changed, Operation &context);

/// Raises the skin round the roots of all members into that layer, in place of what it held: highest at the outline of a member, down to
/// nothing over the rim's width (mm), and towards the root itself, which keeps its place. Cost follows the blocks near the roots.
void raiseRim(skin::Skin &skin, std::uint32_t layer, const outgrowth::Outgrowth &outgrowth);

/// Whether what takes long, as fur does, is made anew at once or left stale.
enum class Slow { Now, Later };
bool hasStaleOutgrowths(const Creature &creature);
/// All that are stale made anew; what cannot be stays as it was, and is told.
Creature withFreshOutgrowths(Creature creature, Operation &context);

/// A skin with what lies within a margin (mm) of members taken away, closed smoothly, with what lay on the rest. Errors: Empty where
/// nothing of it does, or nothing would be left.
Result<skin::Skin> skinWithout(const skin::Skin &skin, const mesh::PolyMesh &members, float margin, Operation &context);

/// After a change of skins: roots of the outgrowths that the change itself left alone ride on their piece, and what moved is made
/// anew. On the same faces a root stays at its place of its face; on others it goes to the nearest place, and how far is told.
/// Outgrowths whose piece is gone stay where they are, on another piece that is there, or on none. Cost follows the blocks that changed.
Creature withOutgrowthsRiding(const Creature &before, Creature after, Operation &context, Slow slow = Slow::Now);

} // namespace bonemoss::document
