#include "detail/ground.h"

#include "base/parallel.h"
#include "base/random.h"

#include <xxhash.h>

#include <algorithm>

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

struct Found {
    std::uint64_t cube;
    float off;
    std::uint32_t vertex;
    friend bool operator<(const Found &a, const Found &b)
    {
        return a.cube != b.cube ? a.cube < b.cube : a.off != b.off ? a.off < b.off : a.vertex < b.vertex;
    }
};

void keepNearest(std::vector<Found> &found)
{
    std::sort(found.begin(), found.end());
    found.erase(std::unique(found.begin(), found.end(), [](const Found &a, const Found &b) { return a.cube == b.cube; }),
                found.end());
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

std::vector<GroundPoint> Ground::points(float cube, std::uint64_t seed) const
{
    constexpr std::int64_t kHalf = 1 << 19; // 20 bits an axis, 3 for the direction
    std::vector<std::vector<Found>> perBlock(positions.blockCount());
    forEachBlock(positions.blockCount(), 1, [&](BlockRange r) {
        const Vec3f *p = positions.data(r.begin);
        const mesh::PackedNormal *n = normals.data(r.begin);
        std::vector<Found> found(positions.countIn(r.begin));
        for (std::size_t i = 0; i < found.size(); ++i) {
            const std::int64_t c[3] = {std::int64_t(std::floor(p[i].x / cube)), std::int64_t(std::floor(p[i].y / cube)),
                                       std::int64_t(std::floor(p[i].z / cube))};
            const std::uint64_t key = (std::uint64_t(c[0] + kHalf) & 0xfffff) << 43
                                      | (std::uint64_t(c[1] + kHalf) & 0xfffff) << 23
                                      | (std::uint64_t(c[2] + kHalf) & 0xfffff) << 3 | facing(n[i]);
            const Vec3f wanted{(float(c[0]) + randomUnit(seed, key * 3)) * cube,
                               (float(c[1]) + randomUnit(seed, key * 3 + 1)) * cube,
                               (float(c[2]) + randomUnit(seed, key * 3 + 2)) * cube};
            found[i] = {key, squaredLength(p[i] - wanted), std::uint32_t(r.begin * kBlockSize + i)};
        }
        keepNearest(found);
        perBlock[r.begin] = std::move(found);
    });
    std::vector<Found> all;
    for (const auto &f : perBlock)
        all.insert(all.end(), f.begin(), f.end());
    keepNearest(all);
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
