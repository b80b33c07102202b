#pragma once

#include "pose/posture.h"
#include "pose/weights.h"

namespace bonemoss::pose {

/// A skin's weights, ready to be posed by the bones' places: a rigid map for each vertex, mixed of dual quaternions (L. Kavan, S. Collins,
/// J. Zara & C. O'Sullivan 2007, "Skinning with dual quaternions").
class Blend
{
public:
    /// weights: of the skin that is posed; vertices that no bone moves go with the whole.
    Blend(const Skeleton &skeleton, const Posture &posture, const Weights &weights);

    /// Whether every vertex of a block stays as it is, bit for bit.
    bool isStill(std::size_t block) const;
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
    };
    struct BoneMap {
        Dual dual;
        const mesh::BlockArray<std::uint8_t> *weights = nullptr;
        bool isStill = false;
    };
    static Dual dualOf(const Rigid &place);
    static Rigid rigidOf(const Dual &d);
    template <typename Use> void eachRun(std::size_t block, std::size_t count, const Use &use) const;
    template <typename Use> void each(std::size_t block, std::size_t count, const Use &use) const;

    std::vector<BoneMap> m_bones;
    Rigid m_whole;
};

/// A surface as it stands in a pose: blocks that stay are shared with it. O(vertices of those that move * bones of their blocks).
mesh::Surface posed(const mesh::Surface &rest, const Blend &blend);

/// The same of all of a skin: body and layers stand as its shape does, so that shown stays body plus layers.
skin::Skin posed(const skin::Skin &rest, const Blend &blend);
/// A skin that was posed and worked on, back at rest: what was not touched is that of `rest`, bit for bit. Its faces must be those of rest.
skin::Skin atRest(const skin::Skin &worked, const skin::Skin &posedBefore, const skin::Skin &rest, const Blend &blend);

} // namespace bonemoss::pose
