#include "mesh/island.h"

#include <numeric>

namespace bonemoss::mesh {

namespace {

std::uint32_t rootOf(std::vector<std::uint32_t> &parent, std::uint32_t v)
{
    while (parent[v] != v)
        v = parent[v] = parent[parent[v]];
    return v;
}

} // namespace

Island islandsAt(const Topology &topology, std::span<const std::uint32_t> vertices)
{
    const std::size_t blocks = topology.blockCount();
    std::vector<std::vector<std::uint16_t>> group(blocks); // of each local vertex, where there is more than one
    std::vector<std::uint32_t> first(blocks + 1, 0);
    for (std::size_t b = 0; b < blocks; ++b) {
        const BlockFaces &f = topology.block(b);
        std::uint32_t groups = 1;
        if (!f.isOnePiece())
            groups = groupsOf(f, std::vector<std::uint8_t>(f.own + f.borrowed.size(), 1), group[b]);
        if (groups == 1)
            group[b].clear();
        first[b + 1] = first[b] + groups;
    }
    const auto nodeOf = [&](std::size_t b, std::size_t l) { return first[b] + (group[b].empty() ? 0 : group[b][l]); };
    std::vector<std::uint32_t> parent(first.back());
    std::iota(parent.begin(), parent.end(), 0u);
    for (std::size_t b = 0; b < blocks; ++b) {
        const BlockFaces &f = topology.block(b);
        for (std::size_t i = 0; i < f.borrowed.size(); ++i) {
            const std::uint32_t v = f.borrowed[i];
            const std::uint32_t mine = rootOf(parent, nodeOf(b, f.own + i));
            const std::uint32_t theirs = rootOf(parent, nodeOf(v / kBlockSize, v % kBlockSize));
            parent[std::max(mine, theirs)] = std::min(mine, theirs);
        }
    }
    std::vector<bool> isWanted(parent.size(), false);
    for (const std::uint32_t v : vertices)
        isWanted[rootOf(parent, nodeOf(v / kBlockSize, v % kBlockSize))] = true;
    Island island{std::vector<Island::Share>(blocks, Island::None), std::vector<std::vector<bool>>(blocks)};
    for (std::size_t b = 0; b < blocks; ++b) {
        if (group[b].empty()) {
            if (isWanted[rootOf(parent, first[b])])
                island.blocks[b] = Island::All;
            continue;
        }
        island.blocks[b] = Island::Some;
        island.some[b].resize(topology.block(b).own);
        for (std::size_t i = 0; i < island.some[b].size(); ++i)
            island.some[b][i] = isWanted[rootOf(parent, nodeOf(b, i))];
    }
    return island;
}

} // namespace bonemoss::mesh
