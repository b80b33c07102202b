#include "mesh/topology.h"

#include "base/random.h"

#include <algorithm>
#include <atomic>
#include <numeric>

namespace bonemoss::mesh {

namespace {

/// Root of a vertex in a forest of parents, halving the way.
std::uint16_t rootOf(std::vector<std::uint16_t> &parent, std::uint16_t v)
{
    while (parent[v] != v)
        v = parent[v] = parent[parent[v]];
    return v;
}

/// Whether round each own vertex every way out along an edge has its way in: all faces about own
/// vertices are here, so nothing outside the block is needed. The two sets of neighbours are compared by
/// the sums of their hashes.
bool isClosedAround(const BlockFaces &block)
{
    std::vector<std::uint64_t> balance(block.own, 0);
    for (const LocalFace &f : block.faces)
        for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
            const std::uint16_t from = f.v[c], to = f.v[c + 1 < n ? c + 1 : 0];
            if (from < block.own)
                balance[from] += randomBits(1, to);
            if (to < block.own)
                balance[to] -= randomBits(1, from);
        }
    return std::all_of(balance.begin(), balance.end(), [](std::uint64_t b) { return b == 0; });
}

} // namespace

std::uint32_t groupsOf(const BlockFaces &faces, std::span<const std::uint8_t> inside, std::vector<std::uint16_t> &group)
{
    thread_local std::vector<std::uint16_t> parent; // scratch
    const std::size_t n = inside.size();
    parent.resize(n);
    std::iota(parent.begin(), parent.end(), std::uint16_t(0));
    for (const LocalFace &f : faces.faces) {
        std::uint16_t first = kLocalNone;
        for (const std::uint16_t v : f.v) {
            if (v == kLocalNone || !inside[v])
                continue;
            if (first == kLocalNone)
                first = rootOf(parent, v);
            else if (parent[v] != first)
                parent[rootOf(parent, v)] = first;
        }
    }
    group.assign(n, kLocalNone);
    std::uint16_t count = 0;
    for (std::size_t i = 0; i < n; ++i)
        if (inside[i] && parent[i] == i)
            group[i] = count++;
    if (count > 1)
        for (std::size_t i = 0; i < n; ++i)
            if (inside[i])
                group[i] = group[rootOf(parent, std::uint16_t(i))];
    return count;
}

std::uint8_t BlockFaces::traits() const
{
    // Two threads may both find it out; they write the same value.
    const std::atomic_ref<std::uint8_t> kept(m_traits);
    if (const std::uint8_t known = kept.load(std::memory_order_relaxed))
        return known;
    std::vector<std::uint16_t> group;
    const std::vector<std::uint8_t> all(own + borrowed.size(), 1);
    const auto found =
        std::uint8_t(kKnown | (groupsOf(*this, all, group) == 1 ? kOnePiece : 0) | (isClosedAround(*this) ? kClosed : 0));
    kept.store(found, std::memory_order_relaxed);
    return found;
}

std::vector<std::uint16_t> BlockFaces::unused() const
{
    std::vector<std::uint8_t> isUsed(own, 0);
    for (const LocalFace &f : faces)
        for (const std::uint16_t v : f.v)
            if (v < own)
                isUsed[v] = 1;
    std::vector<std::uint16_t> out;
    for (std::size_t i = 0; i < own; ++i)
        if (!isUsed[i])
            out.push_back(std::uint16_t(i));
    return out;
}

std::uint32_t BlockFaces::unusedCount() const
{
    const std::atomic_ref<std::uint32_t> kept(m_unused); // as above
    if (const std::uint32_t known = kept.load(std::memory_order_relaxed); known != kUncounted)
        return known;
    const auto count = std::uint32_t(unused().size());
    kept.store(count, std::memory_order_relaxed);
    return count;
}

} // namespace bonemoss::mesh
