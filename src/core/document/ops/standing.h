#pragma once

#include "document/creature.h"
#include "pose/posed_skin.h"

#include <memory>
#include <vector>

namespace bonemoss::document {

/// The bones of a creature, from its armature.
pose::Skeleton skeletonOf(const Creature &creature);

/// A creature as it stands in a posture: pieces, outgrowths and forms at their places, with nothing left to pose. Made after another
/// of the same creature it costs what changed since: pieces and outgrowths that stand as before are the same objects.
/// O(what moves otherwise).
class Standing
{
public:
    /// Whole: to be worked on; Seen: what is seen of it alone.
    using Part = pose::PosedSkin::Part;
    Standing(std::shared_ptr<const Creature> rest, const pose::Posture &posture, Part part = Part::Whole,
             const Standing *before = nullptr);
    ~Standing();

    const std::shared_ptr<const Creature> &creature() const { return m_creature; }
    const std::shared_ptr<const Creature> &rest() const { return m_rest; }
    const pose::Posture &posture() const { return m_posture; }
    /// A piece's skin in the pose; null at rest, and of pieces without a skin.
    const pose::PosedSkin *skin(std::uint32_t piece) const;

private:
    struct Stood;
    struct Rooted;
    std::shared_ptr<const outgrowth::Outgrowth> withChanges(const std::shared_ptr<const outgrowth::Outgrowth> &o,
                                                            const Standing *before);
    std::shared_ptr<const Rooted> rootedOf(const std::shared_ptr<const outgrowth::Outgrowth> &o, const Piece &skin,
                                           const Standing *before) const;

    std::shared_ptr<const Creature> m_rest, m_creature;
    pose::Posture m_posture;
    std::vector<Stood> m_pieces;
    /// An outgrowth that differs from rest in the posture, made anew for it.
    struct Changed {
        std::shared_ptr<const outgrowth::Outgrowth> rest, made;
        pose::OutgrowthPose by;
    };
    std::vector<Changed> m_changed;
    std::vector<std::shared_ptr<const Rooted>> m_outgrowths; ///< as in the creature; null for one that does not move
};

/// The same, once.
Creature posed(const Creature &creature, const pose::Posture &posture, Standing::Part part = Standing::Part::Whole);
inline Creature posed(const Creature &creature)
{
    return posed(creature, creature.posing.now);
}

/// Where a place on a skin in its pose is at rest, mm.
Vec3f restPlace(const pose::PosedSkin &skin, Vec3f standing);

/// Pen readings on a piece in its pose, on the other side: what is met is taken to rest, across the piece's plane of symmetry, and
/// back into the pose there. Readings that meet nothing are left out.
std::vector<sculpt::PenSample> twinsInPose(const Piece &piece, const pose::PosedSkin &skin,
                                           const std::vector<sculpt::PenSample> &samples);

} // namespace bonemoss::document
