#include "growth/darts.h"

#include "base/parallel.h"
#include "base/random.h"

#include <algorithm>
#include <array>
#include <bit>
#include <tuple>

namespace bonemoss::growth {

namespace {

/// A place and the side of the skin it is on.
struct Placed {
    Vec3f at, facing;
};

/// Places in cells of space, as chains in a table by a hash of the cell (Teschner, Heidelberger, Mueller, Pomerantes & Gross 2003,
/// "Optimized spatial hashing"). Cells are twice as wide as what is asked for, so that eight of them hold all that is near.
class Cells
{
public:
    Cells(float reach, std::size_t expected) : m_perCell(0.5f / reach), m_heads(std::bit_ceil(2 * expected + 16), kNone)
    {
        m_places.reserve(expected), m_next.reserve(expected);
    }

    void add(const Placed &p)
    {
        std::uint32_t &head = m_heads[hash(floorOf(p.at.x), floorOf(p.at.y), floorOf(p.at.z))];
        m_next.push_back(head);
        head = std::uint32_t(m_places.size());
        m_places.push_back(p);
    }
    /// Whether use(place) says so of any that may be within reach of p; others are asked too.
    template <typename Use> bool any(Vec3f p, const Use &use) const
    {
        const std::array<int, 3> first{floorOf(p.x, -0.5f), floorOf(p.y, -0.5f), floorOf(p.z, -0.5f)};
        const int own = (floorOf(p.x) - first[0]) | (floorOf(p.y) - first[1]) << 1 | (floorOf(p.z) - first[2]) << 2;
        for (int n = 0; n < 8; ++n) {
            const int k = own ^ n; // its own cell first: there most are near
            for (std::uint32_t i = m_heads[hash(first[0] + (k & 1), first[1] + (k >> 1 & 1), first[2] + (k >> 2))]; i != kNone;
                 i = m_next[i])
                if (use(m_places[i]))
                    return true;
        }
        return false;
    }

private:
    int floorOf(float x, float over = 0) const
    {
        const float c = x * m_perCell + over;
        const int i = int(c);
        return i - (c < float(i));
    }
    std::size_t hash(int x, int y, int z) const
    {
        return (std::uint32_t(x) * 73856093u ^ std::uint32_t(y) * 19349663u ^ std::uint32_t(z) * 83492791u)
               & (m_heads.size() - 1);
    }

    float m_perCell;
    std::vector<std::uint32_t> m_heads, m_next;
    std::vector<Placed> m_places;
};

/// A place on a face where one may stand.
struct Thrown {
    Placed place;
    std::uint32_t block, face;
    std::uint64_t number; ///< tells where in the face too
};

/// Four values at the corners of a face, mixed by where a place lies in it.
template <typename T> T within(std::uint64_t number, const std::array<T, 4> &v)
{
    const float x = float(number & 0xffff) * (1.0f / 65536), y = float(number >> 16 & 0xffff) * (1.0f / 65536);
    return v[0] * ((1 - x) * (1 - y)) + v[1] * (x * (1 - y)) + v[2] * (x * y) + v[3] * ((1 - x) * y);
}

std::array<std::uint32_t, 4> cornersOf(const mesh::Surface &skin, std::uint32_t block, std::size_t face)
{
    const mesh::Face f = skin.topology->faceOf(block, face);
    return {f.v[0], f.v[1], f.v[2], f.v[f.size() == 4 ? 3 : 2]};
}

/// All that are thrown at the faces of a block.
std::vector<Thrown> thrownAt(const mesh::Surface &skin, const mesh::BlockArray<std::uint8_t> &area, std::uint32_t number,
                             const DartSettings &settings)
{
    constexpr float kTries = 7; // for each square as wide as they are apart
    const float perArea = kTries / (settings.apart * settings.apart), behind = -0.25f * settings.apart;
    const mesh::BlockFaces &block = skin.topology->block(number);
    std::vector<Vec3f> points;
    mesh::gatherPositions(skin, number, points);
    std::vector<std::uint8_t> masked(points.size());
    for (std::size_t i = 0; i < points.size(); ++i)
        masked[i] = area[i < block.own ? number * mesh::kBlockSize + i : block.borrowed[i - block.own]];
    std::vector<Thrown> out;
    for (std::uint32_t f = 0; f < block.drawnFaces; ++f) {
        const auto &l = block.faces[f].v;
        const std::size_t a = l[0], b = l[1], c = l[2], d = l[3] == mesh::kLocalNone ? c : l[3];
        if ((masked[a] | masked[b] | masked[c] | masked[d]) == 0)
            continue;
        const Vec3f twice = cross(points[c] - points[a], points[d] - points[b]);
        const float size = 0.5f * length(twice);
        const std::uint64_t key = randomBits(settings.seed ^ std::uint64_t(number) << 32, f);
        const int tries = int(size * perArea + float(key >> 40) * (1.0f / 16777216.0f));
        for (int k = 0; k < tries; ++k) {
            const std::uint64_t own = randomBits(key, std::uint64_t(k));
            const Vec3f at = within<Vec3f>(own, {points[a], points[b], points[c], points[d]});
            if (!settings.plane || dot(at - *settings.plane, *settings.planeNormal) >= behind)
                out.push_back({{at, twice}, number, f, own});
        }
    }
    return out;
}

/// How far each lies from the end of the mask: the places of its border where nothing of it is left.
void findInner(const mesh::Surface &skin, const mesh::BlockArray<std::uint8_t> &area, std::span<const std::uint32_t> blocks,
               float border, std::vector<Dart> &darts)
{
    Cells ends(border, 4096);
    for (const std::uint32_t b : blocks)
        for (std::size_t f = 0; f < skin.topology->block(b).drawnFaces; ++f) {
            const mesh::Face face = skin.topology->faceOf(b, f);
            bool isIn = false, isOut = false;
            for (int k = 0; k < face.size(); ++k)
                (area[face.v[std::size_t(k)]] > 0 ? isIn : isOut) = true;
            for (int k = 0; isIn && isOut && k < face.size(); ++k)
                if (const std::uint32_t v = face.v[std::size_t(k)]; area[v] == 0)
                    ends.add({skin.positions[v], {}});
        }
    forEachBlock(darts.size(), 1024, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            float least = border * border;
            ends.any(darts[i].at, [&](const Placed &p) {
                least = std::min(least, squaredLength(p.at - darts[i].at));
                return false;
            });
            darts[i].inner = std::sqrt(least) / border;
        }
    });
}

} // namespace

std::vector<Dart> dartsOn(const mesh::Surface &skin, const mesh::BlockArray<std::uint8_t> &area,
                          std::span<const std::uint32_t> blocks, const DartSettings &settings)
{
    std::vector<std::vector<Thrown>> thrown(blocks.size());
    forEachBlock(blocks.size(), 1, [&](BlockRange r) { thrown[r.begin] = thrownAt(skin, area, blocks[r.begin], settings); });
    // By 256 steps of their numbers, and in each as they lie: nothing far away changes the order of those here.
    std::array<std::uint32_t, 257> starts{};
    for (const auto &list : thrown)
        for (const Thrown &t : list)
            ++starts[(t.number >> 56) + 1];
    for (std::size_t k = 1; k < starts.size(); ++k)
        starts[k] += starts[k - 1];
    std::vector<Thrown> order(starts.back());
    for (const auto &list : thrown)
        for (const Thrown &t : list)
            order[starts[t.number >> 56]++] = t;
    const float apart = settings.apart * settings.apart;
    Cells cells(settings.apart, order.size() / 8);
    std::vector<const Thrown *> taken;
    for (const Thrown &t : order) {
        const auto isNear = [&](const Placed &p) { // on the same side of something thin
            return squaredLength(p.at - t.place.at) < apart && dot(p.facing, t.place.facing) > 0;
        };
        if (cells.any(t.place.at, isNear))
            continue;
        cells.add(t.place);
        taken.push_back(&t);
    }
    std::sort(taken.begin(), taken.end(), [](const Thrown *a, const Thrown *b) { // near ones follow each other
        return std::tie(a->block, a->face, a->number) < std::tie(b->block, b->face, b->number);
    });
    std::vector<Dart> out(taken.size());
    forEachBlock(out.size(), 1024, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const Thrown &t = *taken[i];
            std::array<Vec3f, 4> normals;
            std::array<float, 4> shares;
            const std::array<std::uint32_t, 4> v = cornersOf(skin, t.block, t.face);
            for (std::size_t k = 0; k < 4; ++k)
                normals[k] = skin.normals[v[k]].unpack(), shares[k] = float(area[v[k]]) / 255;
            out[i] = {t.place.at, normalized(within(t.number, normals)), within(t.number, shares), 1, t.number};
        }
    });
    if (settings.border > 0)
        findInner(skin, area, blocks, settings.border, out);
    return out;
}

} // namespace bonemoss::growth
