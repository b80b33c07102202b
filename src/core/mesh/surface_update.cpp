// What follows from moved vertices: normals and boxes, spot by spot.
#include "mesh/surface.h"

#include "base/parallel.h"
#include "mesh/block_normals.h"

#include <algorithm>
#include <bit>
#include <cstring>

namespace bonemoss::mesh {

namespace {

/// Position in one register; w is any number.
Lanes load(Vec3f p)
{
    return Lanes{p.x, p.y, p.z, 0};
}
/// The same of one that others follow in memory: read at once.
Lanes loadBefore(const Vec3f *p)
{
    Lanes v;
    std::memcpy(&v, p, sizeof v);
    return v;
}
Vec3f store(Lanes v)
{
    return {v[0], v[1], v[2]};
}
Lanes least(Lanes a, Lanes b)
{
    return a < b ? a : b;
}
Lanes most(Lanes a, Lanes b)
{
    return a > b ? a : b;
}
/// Least and most of some positions.
struct Extent {
    static constexpr float kFar = std::numeric_limits<float>::max();
    Lanes lo{kFar, kFar, kFar, 0}, hi{-kFar, -kFar, -kFar, 0};

    void add(Lanes p) { lo = least(lo, p), hi = most(hi, p); }
    void add(const Extent &o) { lo = least(lo, o.lo), hi = most(hi, o.hi); }
};

/// How far some positions reach that follow each other in memory; copies them, n of them, to out.
Extent gatherRun(const Vec3f *from, std::size_t n, bool isLast, Lanes *out)
{
    Extent even, odd;                                      // two, so that one need not wait for the other
    const std::size_t whole = isLast && n > 0 ? n - 1 : n; // nothing is read past the last
    std::size_t i = 0;
    for (; i + 2 <= whole; i += 2) {
        even.add(out[i] = loadBefore(from + i));
        odd.add(out[i + 1] = loadBefore(from + i + 1));
    }
    for (; i < n; ++i)
        even.add(out[i] = load(from[i]));
    even.add(odd);
    return even;
}

/// Of the vertices that faces use.
Extent extentOfUsed(const BlockFaces &faces, const std::vector<Lanes> &p)
{
    Extent extent;
    for (const LocalFace &f : faces.faces)
        for (const std::uint16_t v : f.v)
            if (v != kLocalNone)
                extent.add(p[v]);
    return extent;
}

Box3f boxOf(const Extent &extent)
{
    return extent.lo[0] <= extent.hi[0] ? Box3f{store(extent.lo), store(extent.hi)} : Box3f{};
}

/// What of a block is to be done again: the spots whose normals change, and those whose positions that takes.
struct Stale {
    std::uint64_t normals = 0, positions = 0;
    bool isAll = false;
};

Stale staleOf(const BlockFaces &faces, Spots moved)
{
    if (moved.own == Spots::all().own)
        return {moved.own, moved.own, true};
    const BlockFaces::SpotLinks &links = faces.spotLinks();
    const auto joined = [](std::uint64_t bits, const std::array<std::uint64_t, 64> &beside) {
        std::uint64_t sum = 0;
        for (; bits; bits &= bits - 1)
            sum |= beside[std::size_t(std::countr_zero(bits))];
        return sum;
    };
    Stale stale;
    stale.normals = joined(moved.own, links.besideOwn) | joined(moved.borrowed, links.besideBorrowed);
    stale.positions = joined(stale.normals, links.besideOwn);
    stale.positions |= moved.own; // one without faces has its place in the box
    return stale;
}

/// Positions of some spots and of all borrowed vertices to out, boxes of those spots; how far the borrowed ones reach.
Extent gather(const Surface &s, std::size_t b, std::uint64_t spots, std::vector<Lanes> &out, SpotBoxes &boxes)
{
    const BlockFaces &faces = s.topology->block(b);
    const std::size_t n = faces.own;
    out.resize(n + faces.borrowed.size());
    Lanes *position = out.data();
    const Vec3f *own = s.positions.data(b);
    eachRun(spots, n, [&](std::size_t begin, std::size_t end) {
        for (; begin < end; begin += kSpotSize) {
            const std::size_t count = std::min(kSpotSize, end - begin);
            Extent extent;
            if (own)
                extent = gatherRun(own + begin, count, begin + count == n, position + begin);
            else
                std::fill_n(position + begin, count, Lanes{}), extent.add(Lanes{});
            boxes.set(begin / kSpotSize, boxOf(extent));
        }
    });
    Extent extent;
    for (std::size_t i = 0; i < faces.borrowed.size();) { // neighbours come together: their block is looked up but once
        const std::size_t from = faces.borrowed[i] / kBlockSize;
        const Vec3f *theirs = s.positions.data(from);
        for (; i < faces.borrowed.size() && faces.borrowed[i] / kBlockSize == from; ++i)
            extent.add(position[n + i] = theirs ? load(theirs[faces.borrowed[i] % kBlockSize]) : Lanes{});
    }
    return extent;
}

void updateBlock(Surface &s, std::size_t b, Spots moved)
{
    thread_local std::vector<Lanes> positions;
    const BlockFaces &faces = s.topology->block(b);
    const BlockBounds *was = s.bounds[b].get();
    const Stale stale = staleOf(faces, was && !was->hasUnused ? moved : Spots::all());
    auto bounds = std::make_shared<BlockBounds>();
    if (!stale.isAll)
        bounds->spots = was->spots;
    Extent extent = gather(s, b, stale.positions, positions, bounds->spots);
    // Once, most skins are made and then not changed here: faces are added into their corners. Where it is changed,
    // corners fetch their faces, which is quicker with a table of them. The sums are made in the same order.
    const bool isLong = was || faces.knowsFacesAbout() ? fetchNormals(faces, stale.normals, positions.data(), s.normals.edit(b))
                                                       : addNormals(faces, positions.data(), s.normals.edit(b));
    // A vertex that no face uses has no normal: most blocks need not be searched for such.
    bounds->hasUnused = stale.isAll && !isLong && faces.unusedCount() > 0;
    bounds->box = boxOf(bounds->hasUnused ? extentOfUsed(faces, positions) : extent);
    if (!bounds->hasUnused)
        bounds->box.add(bounds->spots.whole());
    s.bounds[b] = std::move(bounds);
}

} // namespace

void SpotBoxes::set(std::size_t spot, const Box3f &box)
{
    for (std::size_t k = 0; k < 3; ++k) {
        m_boxes[spot / 4].plane[k][spot % 4] = at(box.lo, int(k));
        m_boxes[spot / 4].plane[k + 3][spot % 4] = at(box.hi, int(k));
    }
}

std::uint64_t SpotBoxes::near(Vec3f centre, float squaredRadius) const
{
    const FromPoint from(centre);
    std::uint64_t found = 0;
    for (std::size_t i = 0; i < m_boxes.size(); ++i) {
        const auto isNear = from(m_boxes[i]) < squaredRadius;
        for (std::size_t k = 0; k < 4; ++k)
            found |= std::uint64_t(isNear[k] != 0) << (4 * i + k);
    }
    return found;
}

Box3f SpotBoxes::whole() const
{
    BoxTree::Boxes sum = m_boxes[0];
    for (const BoxTree::Boxes &b : m_boxes)
        for (std::size_t k = 0; k < 6; ++k)
            sum.plane[k] = k < 3 ? least(sum.plane[k], b.plane[k]) : most(sum.plane[k], b.plane[k]);
    Box3f box;
    for (std::size_t k = 0; k < 4; ++k)
        box.add(Box3f{{sum.plane[0][k], sum.plane[1][k], sum.plane[2][k]}, {sum.plane[3][k], sum.plane[4][k], sum.plane[5][k]}});
    return box;
}

void updateBlocks(Surface &surface, std::span<const std::uint32_t> blocks, std::span<const Spots> moved)
{
    assert(moved.empty() || moved.size() == blocks.size());
    forEachBlock(blocks.size(), 1,
                 [&](BlockRange r) { updateBlock(surface, blocks[r.begin], moved.empty() ? Spots::all() : moved[r.begin]); });
    updateTree(surface, blocks);
}

} // namespace bonemoss::mesh
