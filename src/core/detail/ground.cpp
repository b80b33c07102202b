#include "detail/ground.h"

#include "base/parallel.h"
#include "base/random.h"

#include <tbb/parallel_sort.h>
#include <xxhash.h>

#include <algorithm>
#include <bit>

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

float areaOf(const mesh::Surface &s)
{
    return sumBlocks<float>(s.topology->blockCount(), 1, [&](BlockRange r) {
        std::vector<Vec3f> p;
        gatherPositions(s, r.begin, p);
        float sum = 0;
        for (const mesh::LocalFace &f : s.topology->block(r.begin).faces) {
            sum += length(cross(p[f.v[1]] - p[f.v[0]], p[f.v[2]] - p[f.v[0]])) / 2;
            if (f.size() == 4)
                sum += length(cross(p[f.v[2]] - p[f.v[0]], p[f.v[3]] - p[f.v[0]])) / 2;
        }
        return sum;
    });
}

constexpr std::int64_t kHalf = 1 << 19; // cubes are counted with 20 bits an axis and 3 for the direction

struct Found {
    std::uint64_t order; ///< of its cube and direction, along a curve through space
    std::uint64_t cube;
    float off;
    std::uint32_t vertex;
    friend bool operator<(const Found &a, const Found &b)
    {
        return a.order != b.order ? a.order < b.order : a.off != b.off ? a.off < b.off : a.vertex < b.vertex;
    }
};

/// The nearest vertex to the wanted place of each cube, of those that are put in. Cost of one does not hang on their number.
class NearestInCubes
{
public:
    explicit NearestInCubes(std::size_t most) : m_slots(std::bit_ceil(most + 1)) {}

    /// wanted() is asked for once for each cube.
    template <typename Wanted> void put(std::uint64_t cube, Vec3f at, std::uint32_t vertex, const Wanted &wanted)
    {
        std::size_t i = randomBits(0, cube) & (m_slots.size() - 1);
        while (m_slots[i].found.vertex != kNone && m_slots[i].found.cube != cube)
            i = (i + 1) & (m_slots.size() - 1);
        Slot &s = m_slots[i];
        if (s.found.vertex == kNone)
            s.wanted = wanted();
        const Found here{0, cube, squaredLength(at - s.wanted), vertex};
        if (s.found.vertex == kNone || here < s.found)
            s.found = here;
    }
    std::vector<Found> take() const
    {
        std::vector<Found> out;
        for (const Slot &s : m_slots)
            if (s.found.vertex != kNone) {
                out.push_back(s.found);
                const auto part = [&](int shift) { return std::uint32_t(s.found.cube >> shift & 0xfffff); };
                out.back().order = mesh::hilbertCode(part(43), part(23), part(3), 20) << 3 | (s.found.cube & 7);
            }
        return out;
    }

private:
    struct Slot {
        Found found{0, 0, 0, kNone};
        Vec3f wanted;
    };
    std::vector<Slot> m_slots;
};

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
    const float inCube = spacing > 0 ? cube * cube / (spacing * spacing) : 1;
    const std::size_t stride = roughly ? std::size_t(std::clamp(inCube / 50, 1.0f, 16.0f)) : 1;
    std::vector<std::vector<Found>> perBlock(positions.blockCount());
    forEachBlock(positions.blockCount(), 1, [&](BlockRange r) {
        const Vec3f *p = positions.data(r.begin);
        const mesh::PackedNormal *n = normals.data(r.begin);
        const std::size_t count = positions.countIn(r.begin);
        NearestInCubes found(count / stride + 1);
        for (std::size_t i = 0; i < count; i += stride) {
            const std::int64_t c[3] = {std::int64_t(std::floor(p[i].x / cube)), std::int64_t(std::floor(p[i].y / cube)),
                                       std::int64_t(std::floor(p[i].z / cube))};
            const std::uint64_t key = (std::uint64_t(c[0] + kHalf) & 0xfffff) << 43
                                      | (std::uint64_t(c[1] + kHalf) & 0xfffff) << 23
                                      | (std::uint64_t(c[2] + kHalf) & 0xfffff) << 3 | facing(n[i]);
            found.put(key, p[i], std::uint32_t(r.begin * kBlockSize + i), [&] {
                return Vec3f{(float(c[0]) + randomUnit(seed, key * 3)) * cube,
                             (float(c[1]) + randomUnit(seed, key * 3 + 1)) * cube,
                             (float(c[2]) + randomUnit(seed, key * 3 + 2)) * cube};
            });
        }
        perBlock[r.begin] = found.take();
    });
    std::vector<Found> all;
    for (const auto &f : perBlock)
        all.insert(all.end(), f.begin(), f.end());
    tbb::parallel_sort(all); // of a cube that lies in several blocks the nearest comes first
    all.erase(std::unique(all.begin(), all.end(), [](const Found &x, const Found &y) { return x.cube == y.cube; }), all.end());
    std::vector<GroundPoint> out;
    out.reserve(all.size());
    for (const Found &f : all)
        if (const Vec3f n = normals[f.vertex].unpack(); squaredLength(n) > 0.5f) // not a vertex that no face uses
            out.push_back({positions[f.vertex], normalized(n), f.vertex, randomBits(seed ^ 0x5eedu, f.cube)});
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
