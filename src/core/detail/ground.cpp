#include "detail/ground.h"

#include "base/parallel.h"
#include "base/random.h"

#include <tbb/parallel_sort.h>
#include <xxhash.h>

#include <algorithm>
#include <array>
#include <limits>

namespace bonemoss::detail {

using mesh::BlockArray;
using mesh::kBlockSize;

namespace {

/// How strongly a layer is part of what growths stand on. Whether it is switched off, or another is looked at alone, does not
/// matter: nothing need grow again when it is there again.
float groundStrength(const Layer &l)
{
    return l.growth || l.handOver != 0 ? 0 : l.strength;
}

/// Blocks where the ground is not what is shown.
bool isGrownOver(const Skin &skin, std::size_t b)
{
    return std::any_of(skin.layers.begin(), skin.layers.end(),
                       [&](const Layer &l) { return l.offsets.has(b) && groundStrength(l) != l.shownStrength(); });
}

/// The layers that growths stand on, as if all were switched on.
std::vector<Layer> layersBelow(const Skin &skin)
{
    std::vector<Layer> out;
    for (const Layer &l : skin.layers)
        if (groundStrength(l) != 0) {
            out.push_back(l);
            out.back().isOn = true, out.back().isAside = false;
        }
    return out;
}

/// From one of some faces of each block.
float areaOf(const mesh::Surface &s)
{
    constexpr std::size_t kOneOf = 8;
    return sumBlocks<float>(s.topology->blockCount(), 1, [&](BlockRange r) {
        std::vector<Vec3f> p;
        gatherPositions(s, r.begin, p);
        const auto &faces = s.topology->block(r.begin).faces;
        float sum = 0;
        std::size_t taken = 0;
        for (std::size_t i = 0; i < faces.size(); i += kOneOf, ++taken) {
            const mesh::LocalFace &f = faces[i];
            sum += length(cross(p[f.v[1]] - p[f.v[0]], p[f.v[2]] - p[f.v[0]])) / 2;
            if (f.size() == 4)
                sum += length(cross(p[f.v[2]] - p[f.v[0]], p[f.v[3]] - p[f.v[0]])) / 2;
        }
        return taken == 0 ? 0 : sum * float(faces.size()) / float(taken);
    });
}

constexpr std::int32_t kHalf = 1 << 19; // cubes are counted with 20 bits an axis and 3 for the direction

struct Found {
    std::uint64_t cube;
    Vec3f wanted;
    float off;
    std::uint32_t vertex;
    bool isBefore(const Found &o) const { return off != o.off ? off < o.off : vertex < o.vertex; }
};

/// The nearest vertex to the wanted place of each cube, of those that are put in. Cost of one does not hang on their number.
class NearestInCubes
{
public:
    /// wanted() is asked for once for each cube.
    template <typename Wanted> void put(std::uint64_t cube, Vec3f at, std::uint32_t vertex, const Wanted &wanted)
    {
        if (m_last >= m_found.size() || m_found[m_last].cube != cube)
            find(cube, wanted);
        Found &f = m_found[m_last];
        if (const Found here{cube, f.wanted, squaredLength(at - f.wanted), vertex}; here.isBefore(f))
            f = here;
    }
    std::vector<Found> take() { return std::move(m_found); }

private:
    template <typename Wanted> void find(std::uint64_t cube, const Wanted &wanted)
    {
        std::size_t i = (cube * 0x9e3779b97f4a7c15u) >> (64 - kBits);
        while (m_slots[i] != 0 && m_found[m_slots[i] - 1u].cube != cube)
            i = (i + 1) & (m_slots.size() - 1);
        if (m_slots[i] == 0) {
            m_found.push_back({cube, wanted(), std::numeric_limits<float>::max(), kNone});
            m_slots[i] = std::uint16_t(m_found.size());
        }
        m_last = m_slots[i] - 1u;
    }
    static constexpr int kBits = 13;
    static_assert(1u << kBits == 2 * kBlockSize);
    std::array<std::uint16_t, std::size_t(1) << kBits> m_slots{}; ///< 1 + which was found; 0: free
    std::vector<Found> m_found;
    std::size_t m_last = 0; ///< the cube asked for last: most vertices follow one of the same
};

/// The bits of 20-bit cells of a cube taken in turns: along this curve, too, what is near in space is mostly near.
/// (G. M. Morton, "A computer oriented geodetic data base", 1966.)
std::uint64_t turnsOf(std::uint64_t cube)
{
    const auto spread = [](std::uint64_t v) {
        v = (v | v << 32) & 0x001f00000000ffffull, v = (v | v << 16) & 0x001f0000ff0000ffull;
        v = (v | v << 8) & 0x100f00f00f00f00full, v = (v | v << 4) & 0x10c30c30c30c30c3ull;
        return (v | v << 2) & 0x1249249249249249ull;
    };
    return (spread(cube >> 43 & 0xfffff) << 2 | spread(cube >> 23 & 0xfffff) << 1 | spread(cube >> 3 & 0xfffff)) << 3
           | (cube & 7);
}

/// Which of six directions a normal faces most.
std::uint64_t facing(const mesh::PackedNormal &n)
{
    const int x = std::abs(n.x), y = std::abs(n.y), z = std::abs(n.z);
    return x >= y && x >= z ? (n.x > 0 ? 0 : 1) : y >= z ? (n.y > 0 ? 2 : 3) : (n.z > 0 ? 4 : 5);
}

} // namespace

Ground groundOf(const Skin &skin)
{
    Ground out;
    mesh::Surface s = skin.shown;
    std::vector<std::uint32_t> other;
    for (std::uint32_t b = 0; b < skin.body.blockCount(); ++b)
        if (isGrownOver(skin, b))
            other.push_back(b);
    if (!other.empty()) {
        Skin bare;
        bare.body = skin.body;
        bare.layers = layersBelow(skin);
        bare.shown = skin.shown;
        mixBlocks(bare, other);
        s = bare.shown;
    }
    out.positions = s.positions;
    out.normals = s.normals;
    out.topology = s.topology;
    out.spacing = meanEdgeLength(s);
    out.area = areaOf(s);
    return out;
}

std::vector<GroundPoint> Ground::points(float cube, std::uint64_t seed, bool roughly) const
{
    const float perMm = 1 / cube;
    const float inCube = spacing > 0 ? cube * cube / (spacing * spacing) : 1;
    const std::size_t stride = roughly ? std::size_t(std::clamp(inCube / 50, 1.0f, 16.0f)) : 1;
    std::vector<std::vector<Found>> perBlock(positions.blockCount());
    forEachBlock(positions.blockCount(), 1, [&](BlockRange r) {
        const Vec3f *p = positions.data(r.begin);
        const mesh::PackedNormal *n = normals.data(r.begin);
        const std::size_t count = positions.countIn(r.begin);
        NearestInCubes found;
        for (std::size_t i = 0; i < count; i += stride) {
            const auto cell = [&](float v) { return std::int32_t(std::floor(v * perMm)); };
            const std::int32_t c[3] = {cell(p[i].x), cell(p[i].y), cell(p[i].z)};
            const auto bits = [](std::int32_t v) { return std::uint64_t(std::uint32_t(v + kHalf) & 0xfffff); };
            const std::uint64_t key = bits(c[0]) << 43 | bits(c[1]) << 23 | bits(c[2]) << 3 | facing(n[i]);
            found.put(key, p[i], std::uint32_t(r.begin * kBlockSize + i), [&] {
                return Vec3f{(float(c[0]) + randomUnit(seed, key * 3)) * cube,
                             (float(c[1]) + randomUnit(seed, key * 3 + 1)) * cube,
                             (float(c[2]) + randomUnit(seed, key * 3 + 2)) * cube};
            });
        }
        perBlock[r.begin] = found.take();
    });
    std::vector<std::size_t> starts(perBlock.size() + 1, 0);
    for (std::size_t b = 0; b < perBlock.size(); ++b)
        starts[b + 1] = starts[b] + perBlock[b].size();
    struct Key {
        std::uint64_t order;
        const Found *found;
        bool operator<(const Key &o) const { return order != o.order ? order < o.order : found->isBefore(*o.found); }
    };
    RawVector<Key> keys(starts.back());
    forEachBlock(perBlock.size(), 1, [&](BlockRange r) {
        for (std::size_t k = 0; k < perBlock[r.begin].size(); ++k)
            keys[starts[r.begin] + k] = {turnsOf(perBlock[r.begin][k].cube), &perBlock[r.begin][k]};
    });
    tbb::parallel_sort(keys); // of a cube that lies in several blocks the nearest comes first
    keys.erase(std::unique(keys.begin(), keys.end(), [](const Key &x, const Key &y) { return x.order == y.order; }), keys.end());
    std::vector<GroundPoint> out(keys.size());
    forEachBlock(keys.size(), 1024, [&](BlockRange r) {
        for (std::size_t k = r.begin; k < r.end; ++k) {
            const Found &f = *keys[k].found;
            if (const Vec3f n = normals[f.vertex].unpack(); squaredLength(n) > 0.5f) // not a vertex that no face uses
                out[k] = {positions[f.vertex], normalized(n), f.vertex, randomBits(seed ^ 0x5eedu, f.cube)};
        }
    });
    std::erase_if(out, [](const GroundPoint &p) { return p.normal == Vec3f{}; });
    return out;
}

std::uint64_t fingerprint(const Skin &skin)
{
    std::vector<std::uint64_t> of(skin.body.blockCount());
    const std::vector<Layer> below = layersBelow(skin);
    forEachBlock(of.size(), 1, [&](BlockRange r) {
        const std::size_t b = r.begin, n = skin.body.countIn(b);
        const Vec3f *p = skin.shown.positions.data(b);
        std::vector<Vec3f> mixed;
        if (isGrownOver(skin, b)) {
            mixed.assign(skin.body.data(b), skin.body.data(b) + n);
            for (const Layer &l : below)
                addShown(l, b, 1, mixed);
            p = mixed.data();
        }
        of[b] = XXH3_64bits(p, n * sizeof(Vec3f));
    });
    return XXH3_64bits(of.data(), of.size() * sizeof(of[0]));
}

} // namespace bonemoss::detail
