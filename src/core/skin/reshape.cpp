#include "skin/reshape.h"

#include "base/parallel.h"
#include "mesh/island.h"

#include <algorithm>

namespace bonemoss::skin {

namespace {

/// Where a place goes, and what becomes of an offset there.
struct There {
    Vec3f at;
    Quat turn;
    Vec3f scale{1, 1, 1};
    bool isTwin = false; ///< the offset is mirrored before and after
};

/// Applies rule(place, share) -> There to all that takes part.
template <typename Rule> void reshape(Skin &skin, const std::vector<float> &shares, Vec3f mirror, const Rule &rule)
{
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < skin.body.blockCount(); ++b) {
        const float *s = shares.data() + b * mesh::kBlockSize;
        if (std::any_of(s, s + skin.body.countIn(b), [](float v) { return v > 0; }))
            blocks.push_back(b);
    }
    const auto mirrored = [mirror](Vec3f v) { return v - mirror * (2 * dot(v, mirror)); };
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        std::vector<Vec3f *> offsets;
        for (Layer &l : skin.layers)
            if (l.offsets.has(b))
                offsets.push_back(l.offsets.edit(b));
        Vec3f *p = skin.body.edit(b);
        for (std::size_t i = 0; i < skin.body.countIn(b); ++i) {
            const float share = shares[b * mesh::kBlockSize + i];
            if (share == 0)
                continue;
            const There there = rule(p[i], share);
            p[i] = there.at;
            for (Vec3f *o : offsets) {
                const Vec3f own = there.isTwin ? mirrored(o[i]) : o[i];
                const Vec3f moved = rotate(there.turn, own * there.scale);
                o[i] = there.isTwin ? mirrored(moved) : moved;
            }
        }
    });
    mixBlocks(skin, blocks);
}

} // namespace

std::vector<float> sharesOf(const Skin &skin, const Region &region)
{
    std::vector<float> out(skin.body.size());
    mesh::Island island;
    if (region.island)
        if (const auto hit = nearestPoint(skin.shown, *region.island)) {
            const std::uint32_t seed = skin.shown.topology->faceOf(hit->block, hit->face).v[0];
            island = mesh::islandsAt(*skin.shown.topology, {&seed, 1});
        }
    const Vec3f line = region.to - region.from;
    const float whole = squaredLength(line);
    forEachBlock(skin.body.blockCount(), 1, [&](BlockRange r) {
        const std::uint8_t *mask = skin.mask.data(r.begin);
        const Vec3f *p = skin.body.data(r.begin);
        for (std::size_t i = 0; i < skin.body.countIn(r.begin); ++i) {
            const std::size_t v = r.begin * mesh::kBlockSize + i;
            float share = mask ? 1 - float(mask[i]) / 255 : 1;
            if (region.hasLine && whole > 0) {
                const float t = std::clamp(dot(p[i] - region.from, line) / whole, 0.0f, 1.0f);
                share *= t * t * (3 - 2 * t);
            }
            if ((region.group && skin.groupOf[v] != region.group)
                || (region.island && (island.blocks.empty() || !island.has(std::uint32_t(v)))))
                share = 0;
            out[v] = share;
        }
    });
    if (std::all_of(out.begin(), out.end(), [](float s) { return s == 0; }))
        out.clear();
    return out;
}

void move(Skin &skin, const std::vector<float> &shares, const Motion &m)
{
    const auto moved = [&](Vec3f p, float share) {
        There there;
        there.turn = rotationAbout(m.axis, m.angle * share);
        there.scale = Vec3f{1, 1, 1} + (m.scale - Vec3f{1, 1, 1}) * share;
        there.at = m.pivot + rotate(there.turn, (p - m.pivot) * there.scale) + m.by * share;
        return there;
    };
    if (!m.mirror)
        return reshape(skin, shares, {}, moved);
    const auto height = [&](Vec3f p) { return dot(p - m.mirrorPoint, *m.mirror); };
    const auto twinOf = [&](Vec3f p) { return p - *m.mirror * (2 * height(p)); };
    // What stands on the pivot's side moves; what lies beyond the plane does the same in the mirror.
    const float side = height(m.pivot) < 0 ? -1.0f : 1.0f;
    reshape(skin, shares, *m.mirror, [&](Vec3f p, float share) {
        There there;
        if (height(p) * side >= 0) {
            there = moved(p, share);
        } else {
            there = moved(twinOf(p), share);
            there.at = twinOf(there.at);
            there.isTwin = true;
        }
        // On the plane both are meant: the mean of the two lies on it, and nothing crosses it.
        if (height(p) == 0 || height(there.at) * height(p) < 0)
            there.at -= *m.mirror * height(there.at);
        return there;
    });
}

void deform(Skin &skin, const std::vector<float> &shares, const SpaceMap &map)
{
    reshape(skin, shares, {}, [&](Vec3f p, float share) {
        const SpaceMap::Local to = map.at(p);
        There there;
        there.at = lerp(p, to.at, share);
        there.turn =
            normalized({to.rotation.x * share, to.rotation.y * share, to.rotation.z * share, 1 + (to.rotation.w - 1) * share});
        return there;
    });
}

} // namespace bonemoss::skin
