#pragma once

#include "pose/blend.h"
#include "skin/skin.h"

namespace bonemoss::pose {

/// A skin as it stands in a pose, its layers by what drives them. Made after another of the same skin it costs what changed since:
/// blocks that rest as before and whose bones stand as before are taken over. O(vertices that move otherwise * bones of their blocks).
class PosedSkin
{
public:
    /// Whole: body and layers stand too, so that one can work on it; Seen: only what is shown.
    enum class Part { Whole, Seen };
    PosedSkin(const skin::Skin &rest, const Skeleton &skeleton, const Posture &posture, Part part = Part::Whole,
              const PosedSkin *before = nullptr);
    PosedSkin(const PosedSkin &) = delete;
    PosedSkin &operator=(const PosedSkin &) = delete;

    const skin::Skin &rest() const { return m_rest; }
    const skin::Skin &standing() const { return m_standing; }
    const Blend &blend() const { return m_blend; }
    Part part() const { return m_part; }
    /// Whether nothing stands otherwise than in the one it was made after.
    bool isAsBefore() const { return m_isAsBefore; }
    /// standing() after work on it, at rest: what was not touched is that of rest(), bit for bit. It must have the same faces.
    skin::Skin atRest(const skin::Skin &worked) const;

private:
    void drive(const std::vector<float> &shares, std::vector<bool> &needed, const PosedSkin *before);
    using Points = std::shared_ptr<mesh::Block<Vec3f>>;
    Points standingOf(const mesh::BlockArray<Vec3f> &values, const mesh::BlockArray<Vec3f> *extra, std::uint32_t block) const;

    /// What it is posed by: those of the skin, but for scales that keep their shape.
    struct Bound {
        Weights weights;
        mesh::BlockArray<Vec3f> body;
    };
    static Bound boundOf(const skin::Skin &rest, const PosedSkin *before);

    skin::Skin m_rest;
    Bound m_bound;
    Blend m_blend;
    Part m_part;
    skin::Skin m_standing;
    bool m_isAsBefore = false;
    bool m_isDriven = false;           ///< some layer hangs on stretch or corrects a pose
    std::vector<float> m_shares;       ///< of layers that correct poses
    mesh::BlockArray<Vec3f> m_bare;    ///< shown without what is driven, as it stands; where m_isDriven
    mesh::BlockArray<Vec3f> m_stretch; ///< what layers on stretch add at rest, beyond what they show there
    mesh::BlockArray<Vec3f> m_extra;   ///< the same and what corrections add
};

} // namespace bonemoss::pose
