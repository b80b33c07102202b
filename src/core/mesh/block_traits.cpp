#include "mesh/topology.h"

#include "base/random.h"

#include <algorithm>
#include <bitset>
#include <map>
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

bool BlockFaces::isOnePiece() const
{
    return m_isOnePiece.get([&] {
        std::vector<std::uint16_t> group;
        const std::vector<std::uint8_t> all(own + borrowed.size(), 1);
        return groupsOf(*this, all, group) == 1;
    });
}

const std::vector<std::uint32_t> &BlockFaces::blocksBeside() const
{
    return m_beside.get([&] {
        std::vector<std::uint32_t> blocks;
        for (const std::uint32_t v : borrowed)
            if (const auto b = std::uint32_t(v / kBlockSize); blocks.empty() || blocks.back() != b)
                blocks.push_back(b);
        std::sort(blocks.begin(), blocks.end());
        blocks.erase(std::unique(blocks.begin(), blocks.end()), blocks.end());
        return blocks;
    });
}

const std::vector<std::uint16_t> &BlockFaces::openVertices() const
{
    // Round a closed vertex every way out along an edge has its way in: all faces about own vertices are here, so nothing
    // outside the block is needed. The two sets of neighbours are compared by the sums of their hashes.
    return m_open.get([&] {
        std::vector<std::uint64_t> balance(own, 0);
        for (const LocalFace &f : faces)
            for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
                const std::uint16_t from = f.v[c], to = f.v[c + 1 < n ? c + 1 : 0];
                if (from < own)
                    balance[from] += randomBits(1, to);
                if (to < own)
                    balance[to] -= randomBits(1, from);
            }
        std::vector<std::uint16_t> open;
        for (std::size_t i = 0; i < own; ++i)
            if (balance[i] != 0)
                open.push_back(std::uint16_t(i));
        return open;
    });
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
    return m_unused.get([&] { return std::uint32_t(unused().size()); });
}

namespace {

/// Calls use(a, b) for the sides of the faces of a block: local vertices.
template <typename Use> void eachSide(const BlockFaces &block, const Use &use)
{
    for (const LocalFace &f : block.faces)
        for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c)
            use(f.v[c], f.v[c + 1 < n ? c + 1 : 0]);
}

/// Which spots hang together, and the pieces of the others. (Along the curve that orders vertices, a spot can have lost a
/// corner to another, which holds the two pieces together; not so at a block's end.) Where vertices are in no order none
/// is whole, and pieces are not told.
void findPieces(const BlockFaces &block, BlockFaces::SpotLinks &links)
{
    const std::size_t own = block.own, all = own + block.borrowed.size();
    std::vector<std::uint16_t> parent(all);
    std::iota(parent.begin(), parent.end(), std::uint16_t(0));
    std::vector<bool> isUsed(all, false);
    eachSide(block, [&](std::uint16_t a, std::uint16_t b) {
        isUsed[a] = isUsed[b] = true;
        if (a < own && b < own && a / kSpotSize == b / kSpotSize)
            parent[std::max(rootOf(parent, a), rootOf(parent, b))] = std::min(rootOf(parent, a), rootOf(parent, b));
    });
    constexpr std::size_t kMost = 1024;
    std::vector<std::uint16_t> pieceOf(all, kLocalNone), first; // a borrowed vertex is a piece by itself
    for (std::size_t v = 0; v < all && first.size() <= kMost; ++v)
        if (isUsed[v] && parent[v] == v)
            pieceOf[v] = std::uint16_t(first.size()), first.push_back(std::uint16_t(v));
    if (first.size() > kMost)
        return;
    for (std::size_t v = 0; v < all; ++v)
        pieceOf[v] = pieceOf[rootOf(parent, std::uint16_t(v))];
    using Set = std::bitset<kMost>;
    std::vector<Set> beside(first.size());
    eachSide(block,
             [&](std::uint16_t a, std::uint16_t b) { beside[pieceOf[a]][pieceOf[b]] = beside[pieceOf[b]][pieceOf[a]] = true; });
    const auto each = [](const Set &set, const auto &use) {
        for (std::size_t k = set._Find_first(); k < kMost; k = set._Find_next(k))
            use(k);
    };
    std::vector<Set> ofSpot(kBlockSize / kSpotSize);
    for (std::size_t k = 0; k < first.size(); ++k)
        if (first[k] < own)
            ofSpot[first[k] / kSpotSize][k] = true;
    for (std::size_t spot = 0; spot < ofSpot.size(); ++spot) {
        const Set &mine = ofSpot[spot];
        Set about = mine, met, last;
        each(mine, [&](std::size_t k) { about |= beside[k]; });
        if (mine.any())
            met[mine._Find_first()] = true;
        while (met != last) {
            last = met;
            each(last, [&](std::size_t k) { met |= beside[k] & about; });
        }
        if ((mine & ~met).none()) {
            links.whole |= std::uint64_t(1) << spot;
            continue;
        }
        each(mine, [&](std::size_t k) {
            BlockFaces::SpotLinks::Piece &piece = links.pieces.emplace_back();
            piece.spot = std::uint32_t(spot);
            each(beside[k], [&](std::size_t o) {
                if (first[o] < own) {
                    piece.own |= Spots::ofOwn(first[o]);
                    return;
                }
                const std::uint32_t at = block.borrowed[first[o] - own];
                const BlockFaces::SpotLinks::Across across{std::uint32_t(at / kBlockSize),
                                                           std::uint32_t(at % kBlockSize / kSpotSize)};
                if (std::find(piece.across.begin(), piece.across.end(), across) == piece.across.end())
                    piece.across.push_back(across);
            });
        });
    }
}

} // namespace

const BlockFaces::SpotLinks &BlockFaces::spotLinks() const
{
    return m_links.get([&] {
        SpotLinks links;
        links.ofFaces.resize((faces.size() + SpotLinks::kFaces - 1) / SpotLinks::kFaces);
        std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint64_t> across;
        for (std::size_t i = 0; i < faces.size(); ++i) {
            std::uint64_t touched = 0;
            for (const std::uint16_t v : faces[i].v)
                touched |= v < own ? Spots::ofOwn(v) : 0;
            links.ofFaces[i / SpotLinks::kFaces] |= touched;
            for (const std::uint16_t v : faces[i].v)
                if (v < own) {
                    links.besideOwn[v / kSpotSize] |= touched;
                } else if (v != kLocalNone) {
                    links.besideBorrowed[std::size_t(std::countr_zero(Spots::ofBorrowed(v - own)))] |= touched;
                    const std::uint32_t at = borrowed[v - own];
                    across[{std::uint32_t(at / kBlockSize), std::uint32_t(at % kBlockSize / kSpotSize)}] |= touched;
                }
        }
        for (const auto &[at, spots] : across)
            links.across.push_back({at.first, at.second, spots});
        findPieces(*this, links);
        return links;
    });
}

const BlockFaces::FacesAbout &BlockFaces::facesAbout() const
{
    return m_about.get([&] {
        std::vector<std::uint32_t> count(own, 0);
        const auto each = [&](const auto &use) {
            for (std::size_t i = 0; i < faces.size(); ++i)
                for (const std::uint16_t v : faces[i].v)
                    if (v < own)
                        use(i, v);
        };
        each([&](std::size_t, std::uint16_t v) { ++count[v]; });
        const auto beyond = [&](std::size_t width) {
            return std::size_t(std::count_if(count.begin(), count.end(), [&](std::uint32_t n) { return n > width; }));
        };
        FacesAbout about;
        if (beyond(about.width) > own / 5)
            about.width = 8; // as triangles have it
        if (2 * faces.size() >= kLocalNone)
            about.width = 0; // numbers too great for the table
        about.table.assign((own + 3) / 4 * 4 * about.width, std::uint16_t(2 * faces.size()));
        std::vector<std::uint32_t> next(own, 0);
        about.firstOfRow.push_back(0);
        for (std::size_t v = 0; v < own; ++v)
            if (count[v] > about.width) {
                next[v] = about.firstOfRow.back();
                about.crowded.push_back(std::uint16_t(v));
                about.firstOfRow.push_back(next[v] + count[v]);
            }
        about.more.resize(about.firstOfRow.back());
        each([&](std::size_t i, std::uint16_t v) {
            if (count[v] > about.width)
                about.more[next[v]++] = std::uint32_t(i);
            else
                about.table[v * about.width + next[v]++] = std::uint16_t(2 * i);
        });
        const auto first = faces.empty() ? 0 : faces[0].size();
        if (std::all_of(faces.begin(), faces.end(), [&](const LocalFace &f) { return f.size() == first; }))
            about.corners = first;
        return about;
    });
}

bool isClosed(const Topology &topology)
{
    for (std::size_t b = 0; b < topology.blockCount(); ++b)
        if (!topology.block(b).openVertices().empty())
            return false;
    return true;
}

} // namespace bonemoss::mesh
