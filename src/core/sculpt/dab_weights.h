#pragma once

#include "sculpt/stroke.h"

namespace bonemoss::sculpt {

/// How a dab spreads over the skin.
struct Spread {
    Falloff falloff = Falloff::Dome;
    DrawnFalloff drawn = kFirstDrawn;
    bool isConnected = true;   ///< only what hangs together with the dab's middle inside its ball
    bool facesTheBrush = true; ///< fades out where the skin turns away from the dab's normal
    float reach = 1;           ///< times the radius, for tools that fade by themselves: weight 1 up to three quarters of it
    const mesh::Island *island = nullptr; ///< only this, or all there is
    const Stencil *stencil = nullptr;     ///< that the dab goes through
    Isometry toStencil = {};              ///< from where the dab falls to where the stencil is held
};

/// Weight (0 to 1) of each own vertex of each block of a list under one dab. An entry without values
/// stands for a block that the dab does not reach. Buffers are kept from dab to dab.
class DabWeights
{
public:
    /// Computes the weights. O(vertices of the blocks); union-find over the faces of blocks that the
    /// ball cuts. Same bits on any number of threads.
    void compute(const mesh::Surface &surface, const Dab &dab, const std::vector<std::uint32_t> &blocks, const Spread &spread);
    /// Weights of the k-th block of the list, or null.
    const float *of(std::size_t k) const { return m_blocks[k].isReached ? m_blocks[k].weight.data() : nullptr; }
    /// The spots of the k-th block that hold all of its vertices with a weight.
    std::uint64_t spotsOf(std::size_t k) const { return m_blocks[k].isReached ? m_blocks[k].spots : 0; }

private:
    struct Part {
        bool isReached = false, isWhole = false;
        bool isPlain = false;        ///< all of it inside the ball faces the dab
        float nearest = 0;           ///< squared distance of the vertex nearest the middle, mm^2
        std::uint32_t nearestAt = 0; ///< its local index; kNone where it is still to be found
        std::uint64_t spots = 0;     ///< that the ball may reach
        std::uint32_t groups = 0;    ///< what hangs together inside the ball: how many
        std::vector<float> weight;
        std::vector<std::uint16_t> group; ///< of each local vertex, own and borrowed; not filled for one group
    };
    void weigh(const mesh::Surface &surface, const Dab &dab, std::uint32_t b, const Spread &spread, Part &part);
    void findGroups(const mesh::Surface &surface, const Dab &dab, std::uint32_t b, Part &part);
    /// Whether all that is inside the ball is told to be one sheet, without going over its faces. O(spots).
    bool isOneSheet(const mesh::Surface &surface, const Dab &dab, const std::vector<std::uint32_t> &blocks) const;
    void keepConnected(const mesh::Surface &surface, const Dab &dab, const std::vector<std::uint32_t> &blocks);

    std::vector<Part> m_blocks;
};

} // namespace bonemoss::sculpt
