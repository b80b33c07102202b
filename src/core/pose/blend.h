#pragma once

#include "pose/posture.h"
#include "pose/weights.h"

namespace bonemoss::pose {

/// A skin's weights, ready to be posed by the bones' places: a rigid map for each vertex, mixed of dual quaternions (L. Kavan, S. Collins,
/// J. Zara & C. O'Sullivan 2007, "Skinning with dual quaternions").
class Blend
{
public:
    /// weights: of the skin that is posed; vertices that no bone moves go with the whole. body: the skin at rest, in mm, along which
    /// the twist of a bone about its own length is spread from its joint to its end; null leaves it all at the joint. Both must outlive it.
    Blend(const Skeleton &skeleton, const Posture &posture, const Weights &weights,
          const mesh::BlockArray<Vec3f> *body = nullptr);

    /// Whether every vertex of a block stays as it is, bit for bit.
    bool isStill(std::size_t block) const;
    /// Whether it brings every vertex of a block where another does, if the body there is the same.
    bool isSame(const Blend &other, std::size_t block) const;
    /// Positions of a block, in place. O(vertices * bones of the block).
    void apply(std::size_t block, std::span<Vec3f> points) const;
    /// Directions (offsets, normals) of a block: turned only.
    void turn(std::size_t block, std::span<Vec3f> directions) const;
    /// Back to rest: the exact inverse at each vertex, within rounding.
    void undo(std::size_t block, std::span<Vec3f> points) const;
    void turnBack(std::size_t block, std::span<Vec3f> directions) const;
    /// The map of one vertex.
    Rigid at(std::size_t vertex) const;

private:
    struct Dual {
        std::array<float, 8> v{0, 0, 0, 1, 0, 0, 0, 0}; ///< x, y, z, w of both parts
        friend bool operator==(const Dual &, const Dual &) = default;
    };
    struct BoneMap {
        BoneKey bone;
        Dual dual; ///< of its end
        const mesh::BlockArray<std::uint8_t> *weights = nullptr;
        bool isStill = false;
        bool isTwisted = false; ///< head differs from dual
        Dual head;              ///< of its joint: without the twist
        Vec3f from, along;      ///< at rest: dot(p - from, along) is 0 at the joint, 1 at the end
        bool isSame(const BoneMap &o) const
        {
            return bone == o.bone && dual == o.dual && isTwisted == o.isTwisted && head == o.head && from == o.from
                   && along == o.along;
        }
    };
    static Dual dualOf(const Rigid &place);
    static Rigid rigidOf(const Dual &d);
    template <typename Use> void eachRun(std::size_t block, std::size_t count, const Use &use) const;
    template <typename Use> void each(std::size_t block, std::size_t count, const Use &use) const;

    std::vector<BoneMap> m_bones;
    Rigid m_whole;
    const mesh::BlockArray<Vec3f> *m_body = nullptr;
};

/// A surface as it stands in a pose: blocks that stay are shared with it. O(vertices of those that move * bones of their blocks).
mesh::Surface posed(const mesh::Surface &rest, const Blend &blend);

} // namespace bonemoss::pose
