#pragma once

#include "base/operation.h"
#include "document/creature.h"
#include "pose/weights.h"

namespace bonemoss::document {

/// The bones of a creature, from its armature.
pose::Skeleton skeletonOf(const Creature &creature);

/// Gives pieces that have none weights: a piece that hangs from a form, or is small beside the bones, goes with one bone; a skin by heat.
/// only: that piece alone, anew; 0 for all that have none, or have some of
/// bones that are gone. Errors: Empty without bones; Cancelled.
Status bind(Creature &creature, std::uint32_t only, Operation &operation);

/// Turns bones so that a place on one comes to another, mm, and what is pinned stays. from: the place at rest; none for the bone's end.
/// Returns how far it is off in the end.
float reachTo(Posing &posing, const pose::Skeleton &skeleton, std::uint32_t bone, std::optional<Vec3f> from, Vec3f to,
              bool keepsLimits = true);
/// Brings the pinned bones back to their pins.
void keepPins(Posing &posing, const pose::Skeleton &skeleton);

/// How much of a posed creature is worked out: all of it, to be worked on, or what is seen of it alone.
enum class Posed { Whole, Seen };
/// The creature as it stands in a posture: pieces, outgrowths and forms at their places, with nothing left to pose. At rest it is the
/// creature itself. Blocks that stay are shared. O(what moves).
Creature posed(const Creature &creature, const pose::Posture &posture, Posed what = Posed::Whole);
inline Creature posed(const Creature &creature)
{
    return posed(creature, creature.posing.now);
}

/// Lets the creature down, or lifts it, so that its lowest skin stands as high as at rest. Returns the bones that bear it then.
std::vector<std::string> settle(Creature &creature);

/// One piece in the pose of its creature, to be worked on there and brought back to rest. The creature must outlive it.
class PieceInPose
{
public:
    PieceInPose(const Creature &creature, const Piece &piece);
    ~PieceInPose();
    const skin::Skin &standing() const { return m_standing; } ///< as it stands
    /// What was made of standing(), at rest: see pose::atRest.
    skin::Skin atRest(const skin::Skin &worked) const;
    /// The same pen readings on the other side: what is met is taken to rest, across the piece's plane of symmetry, and back into the
    /// pose there. Readings that meet nothing are left out.
    std::vector<sculpt::PenSample> twins(const std::vector<sculpt::PenSample> &samples) const;

private:
    struct Blended;
    const Piece &m_piece;
    std::unique_ptr<Blended> m_blended;
    skin::Skin m_standing;
};

/// What a check of a pose tells.
struct PoseCheck {
    double weightError = 0;          ///< largest difference of the sum of a vertex's weights from 1
    std::size_t unmoved = 0;         ///< vertices that no bone moves
    double stretch = 1;              ///< largest edge length against rest, where edges are no shorter than half the mean
    std::vector<std::string> beyond; ///< bones turned beyond their limits
};
PoseCheck checkPose(const Creature &creature);

} // namespace bonemoss::document
