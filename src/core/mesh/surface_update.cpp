// What follows from moved vertices: normals and boxes, spot by spot.
#include "mesh/surface.h"

#include "base/parallel.h"

#include <algorithm>
#include <bit>
#include <cmath>
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
Lanes turned(Lanes a) // y, z, x
{
    return __builtin_shufflevector(a, a, 1, 2, 0, 3);
}
Lanes crossed(Lanes a, Lanes b) // w is a.w * b.w less itself: 0
{
    return turned(a * turned(b) - turned(a) * b);
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

/// Scratch of one thread, kept between blocks.
struct Scratch {
    std::vector<Lanes> position, normal;
};

/// The area-weighted normal of a face. A quad's is the cross product of its diagonals, a triangle's that of two sides:
/// both twice the area long.
inline Lanes faceNormal(const LocalFace &f, const Lanes *p)
{
    const Lanes d = p[f.v[3] == kLocalNone ? f.v[0] : f.v[3]];
    return crossed(p[f.v[2]] - p[f.v[0]], d - p[f.v[1]]);
}

/// Makes n normals unit and packs them. Reads up to three past the end. Returns whether each that was read is longer than 0.
bool packNormals(const Lanes *normal, PackedNormal *out, std::size_t n)
{
    typedef std::int32_t Whole __attribute__((vector_size(16)));
    typedef std::int16_t Halves __attribute__((vector_size(16)));
    const auto whole = [](Lanes unit) { return std::bit_cast<Halves>(__builtin_convertvector(unit, Whole)); };
    Whole isLong = {-1, -1, -1, -1};
    for (std::size_t i = 0; i < n; i += 4) {
        const Lanes a = normal[i] * normal[i], b = normal[i + 1] * normal[i + 1];
        const Lanes c = normal[i + 2] * normal[i + 2], d = normal[i + 3] * normal[i + 3];
        const Lanes sum = sumsOfThree(a, b, c, d);
        Lanes inverse;
        for (int k = 0; k < 4; ++k)
            inverse[k] = std::sqrt(sum[k]);
        inverse = sum > 0 ? 32767.0f / inverse : Lanes{};
        isLong &= sum > 0;
        Halves packed[2];
        for (std::size_t k = 0; k < 2; ++k)
            packed[k] = __builtin_shufflevector(whole(normal[i + 2 * k] * inverse[2 * k]),
                                                whole(normal[i + 2 * k + 1] * inverse[2 * k + 1]), 0, 2, 4, 6, 8, 10, 12, 14);
        if (i + 4 <= n)
            std::memcpy(out + i, packed, sizeof packed);
        else
            std::memcpy(out + i, packed, (n - i) * sizeof(PackedNormal));
    }
    return isLong[0] && isLong[1] && isLong[2] && isLong[3];
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

/// Normals of all own vertices by adding those of the faces into their corners. Returns what packNormals does.
bool addNormals(const BlockFaces &faces, Scratch &scratch, PackedNormal *out)
{
    scratch.normal.assign(scratch.position.size() + 3, Lanes{}); // packed four at a time
    const Lanes *p = scratch.position.data();
    Lanes *n = scratch.normal.data();
    for (const LocalFace &f : faces.faces) {
        const Lanes normal = faceNormal(f, p);
        for (std::size_t c = 0; c < 3; ++c)
            n[f.v[c]] += normal;
        if (f.v[3] != kLocalNone)
            n[f.v[3]] += normal;
    }
    return packNormals(n, out, faces.own);
}

template <std::size_t Width> void sumFaces(const std::uint16_t *table, std::size_t n, const Lanes *normal, Lanes *out)
{
    for (std::size_t i = 0; i < n; ++i, table += Width) {
        Lanes sum = normal[table[0]];
        for (std::size_t k = 1; k < Width; ++k)
            sum += normal[table[k]];
        out[i] = sum;
    }
}

/// Normals of stale vertices by fetching those of the faces about them: the same bits.
bool fetchNormals(const BlockFaces &faces, const Stale &stale, Scratch &scratch, PackedNormal *out)
{
    constexpr std::size_t kFaces = BlockFaces::SpotLinks::kFaces;
    const BlockFaces::FacesAbout &about = faces.facesAbout();
    const std::size_t count = faces.faces.size();
    scratch.normal.resize(count + 1);
    Lanes *normal = scratch.normal.data();
    for (std::size_t i = 0; i < count; i += kFaces)
        if (stale.isAll || faces.spotLinks().ofFaces[i / kFaces] & stale.normals)
            for (std::size_t k = i, end = std::min(i + kFaces, count); k < end; ++k)
                normal[k] = faceNormal(faces.faces[k], scratch.position.data());
    normal[count] = Lanes{}; // where there is no face
    bool isLong = true;
    eachRun(stale.normals, faces.own, [&](std::size_t begin, std::size_t end) {
        auto crowded = std::size_t(std::lower_bound(about.crowded.begin(), about.crowded.end(), begin) - about.crowded.begin());
        for (; begin < end; begin += kSpotSize) {
            Lanes sums[kSpotSize + 3]; // packed four at a time
            const std::size_t n = std::min(kSpotSize, end - begin);
            std::fill_n(sums + n, 3, Lanes{});
            if (about.width == 4)
                sumFaces<4>(&about.table[begin * 4], n, normal, sums);
            else if (about.width == 8)
                sumFaces<8>(&about.table[begin * 8], n, normal, sums);
            else
                std::fill_n(sums, n, Lanes{});
            for (; crowded < about.crowded.size() && about.crowded[crowded] < begin + n; ++crowded) {
                Lanes &sum = sums[about.crowded[crowded] - begin] = Lanes{};
                for (std::uint32_t i = about.firstOfRow[crowded]; i < about.firstOfRow[crowded + 1]; ++i)
                    sum += normal[about.more[i]];
            }
            isLong = packNormals(sums, out + begin, n) && isLong;
        }
    });
    return isLong;
}

void updateBlock(Surface &s, std::size_t b, Spots moved)
{
    thread_local Scratch scratch;
    const BlockFaces &faces = s.topology->block(b);
    const BlockBounds *was = s.bounds[b].get();
    const Stale stale = staleOf(faces, was && !was->hasUnused ? moved : Spots::all());
    auto bounds = std::make_shared<BlockBounds>();
    if (!stale.isAll)
        bounds->spots = was->spots;
    Extent extent = gather(s, b, stale.positions, scratch.position, bounds->spots);
    // Once, most skins are made and then not changed here: faces are added into their corners. Where it is changed,
    // corners fetch their faces, which is quicker with a table of them. The sums are made in the same order.
    const bool isLong = was || faces.knowsFacesAbout() ? fetchNormals(faces, stale, scratch, s.normals.edit(b))
                                                       : addNormals(faces, scratch, s.normals.edit(b));
    // A vertex that no face uses has no normal: most blocks need not be searched for such.
    bounds->hasUnused = stale.isAll && !isLong && faces.unusedCount() > 0;
    bounds->box = boxOf(bounds->hasUnused ? extentOfUsed(faces, scratch.position) : extent);
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
