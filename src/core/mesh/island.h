#pragma once

#include "mesh/topology.h"

#include <span>
#include <vector>

namespace bonemoss::mesh {

/// The islands of a skin that some vertices lie on, block by block.
struct Island {
    enum Share : std::uint8_t { None, Some, All };
    std::vector<Share> blocks;
    std::vector<std::vector<bool>> some; ///< own vertices of a block that lies in it in part

    bool has(std::uint32_t vertex) const
    {
        const std::size_t b = vertex / kBlockSize;
        return blocks[b] == All || (blocks[b] == Some && some[b][vertex % kBlockSize]);
    }
};
/// Blocks are joined by what they borrow from each other, so O(blocks + borrowed vertices), and of blocks that hold more
/// than one island O(faces).
Island islandsAt(const Topology &topology, std::span<const std::uint32_t> vertices);

} // namespace bonemoss::mesh
