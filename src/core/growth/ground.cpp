#include "growth/ground.h"

#include "base/parallel.h"
#include "base/random.h"

#include <xxhash.h>

#include <algorithm>
#include <array>
#include <bit>
#include <limits>
#include <utility>

namespace bonemoss::growth {

using mesh::BlockArray;
using mesh::kBlockSize;

namespace {

/// How strongly a layer is part of what growths stand on. Whether it is switched off, or another is looked at alone, does not
/// matter: nothing need grow again when it is there again.
float groundStrength(const Layer &l)
{
    return l.growth || l.handOver != 0 ? 0 : l.strength * l.drive.shareAtRest();
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

constexpr std::int32_t kHalf = 1 << 19, kCells = 0xfffff; // cubes are counted with 20 bits an axis and 3 for the direction

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
    /// wanted(cube) is asked for once for each cube. Vertices come in rising order.
    template <typename Wanted> void put(std::uint64_t cube, Vec3f at, std::uint32_t vertex, const Wanted &wanted)
    {
        std::size_t i = (cube * 0x9e3779b97f4a7c15u) >> (64 - kBits);
        while (m_slots[i] != 0 && m_found[m_slots[i] - 1u].cube != cube)
            i = (i + 1) & (m_slots.size() - 1);
        if (m_slots[i] == 0) {
            m_found.push_back({cube, wanted(cube), std::numeric_limits<float>::max(), kNone});
            m_slots[i] = std::uint16_t(m_found.size());
        }
        Found &f = m_found[m_slots[i] - 1u];
        const float off = squaredLength(at - f.wanted);
        const bool isNearer = off < f.off; // without a branch: which it is is hard to foresee
        f.off = isNearer ? off : f.off, f.vertex = isNearer ? vertex : f.vertex;
    }
    std::vector<Found> take() { return std::move(m_found); }

private:
    static constexpr int kBits = 13;
    static_assert(1u << kBits == 2 * kBlockSize);
    std::array<std::uint16_t, std::size_t(1) << kBits> m_slots{}; ///< 1 + which was found; 0: free
    std::vector<Found> m_found;
};

/// Of what was found for the same cube in several blocks the nearest stays, the others lose their vertex. Cubes are dealt to
/// heaps by their keys, and each heap is looked through by itself.
void keepNearest(std::vector<std::vector<Found>> &perBlock)
{
    constexpr std::size_t kHeaps = 256;
    struct Dealt {
        std::uint64_t mixed; ///< the cube's key, whose bits are mixed: as good as the key
        Found *found;
    };
    const auto mixed = [](std::uint64_t cube) { return cube * 0xd6e8feb86659fd93u; };
    std::vector<std::array<std::uint32_t, kHeaps>> counts(perBlock.size());
    forEachBlock(perBlock.size(), 1, [&](BlockRange r) {
        for (const Found &f : perBlock[r.begin])
            ++counts[r.begin][mixed(f.cube) >> 56];
    });
    std::array<std::uint32_t, kHeaps + 1> starts{};
    for (std::size_t h = 0, sum = 0; h < kHeaps; ++h) {
        for (auto &c : counts)
            sum += std::exchange(c[h], std::uint32_t(sum));
        starts[h + 1] = std::uint32_t(sum);
    }
    RawVector<Dealt> dealt(starts[kHeaps]);
    forEachBlock(perBlock.size(), 1, [&](BlockRange r) {
        for (Found &f : perBlock[r.begin])
            dealt[counts[r.begin][mixed(f.cube) >> 56]++] = {mixed(f.cube), &f};
    });
    forEachBlock(kHeaps, 1, [&](BlockRange r) {
        const std::size_t first = starts[r.begin], n = starts[r.begin + 1] - first;
        std::vector<std::uint32_t> slots(std::bit_ceil(2 * n + 2), 0); // 1 + which of the heap
        for (std::size_t k = 0; k < n; ++k) {
            const Dealt d = dealt[first + k];
            std::size_t s = d.mixed >> 32 & (slots.size() - 1);
            while (slots[s] && dealt[first + slots[s] - 1].mixed != d.mixed)
                s = (s + 1) & (slots.size() - 1);
            if (Found *other = slots[s] ? dealt[first + slots[s] - 1].found : nullptr; !other)
                slots[s] = std::uint32_t(k + 1);
            else if (other->isBefore(*d.found))
                d.found->vertex = kNone;
            else
                other->vertex = kNone, slots[s] = std::uint32_t(k + 1);
        }
    });
}

/// The key of the cube that a place lies in, counted in cubes.
std::uint64_t cubeOf(Vec3f at)
{
    const auto bits = [](float v) { return std::uint64_t(std::uint32_t(std::int32_t(std::floor(v)) + kHalf) & kCells); };
    return bits(at.x) << 43 | bits(at.y) << 23 | bits(at.z) << 3;
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
    const auto wanted = [&](std::uint64_t key) {
        const auto along = [&](int shift, std::uint64_t axis) {
            return (float(std::int32_t(key >> shift & kCells) - kHalf) + randomUnit(seed, key * 3 + axis)) * cube;
        };
        return Vec3f{along(43, 0), along(23, 1), along(3, 2)};
    };
    std::vector<std::vector<Found>> perBlock(positions.blockCount());
    forEachBlock(positions.blockCount(), 1, [&](BlockRange r) {
        const Vec3f *p = positions.data(r.begin);
        const mesh::PackedNormal *n = normals.data(r.begin);
        const std::size_t count = positions.countIn(r.begin);
        NearestInCubes found;
        for (std::size_t i = 0; i < count; i += stride) {
            if (n[i].x == 0 && n[i].y == 0 && n[i].z == 0) // a vertex that no face uses
                continue;
            found.put(cubeOf(p[i] * perMm) | facing(n[i]), p[i], std::uint32_t(r.begin * kBlockSize + i), wanted);
        }
        perBlock[r.begin] = found.take();
    });
    keepNearest(perBlock);
    std::vector<std::size_t> starts(perBlock.size() + 1, 0);
    for (std::size_t b = 0; b < perBlock.size(); ++b)
        starts[b + 1] = starts[b] + std::size_t(std::count_if(perBlock[b].begin(), perBlock[b].end(), [](const Found &f) {
                            return f.vertex != kNone;
                        }));
    std::vector<GroundPoint> out(starts.back());
    forEachBlock(perBlock.size(), 1, [&](BlockRange r) {
        std::size_t k = starts[r.begin];
        for (const Found &f : perBlock[r.begin])
            if (f.vertex != kNone)
                out[k++] = {positions[f.vertex], normalized(normals[f.vertex].unpack()), f.vertex,
                            randomBits(seed ^ 0x5eedu, f.cube)};
    });
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

} // namespace bonemoss::growth
