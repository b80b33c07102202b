#include "skin/skin.h"

#include "base/parallel.h"
#include "base/wide.h"
#include "mesh/beside.h"
#include "skin/attributes.h"
#include "skin/mix_positions.h"

#include <algorithm>
#include <bit>
#include <cstring>
#include <numeric>

namespace bonemoss::skin {

using mesh::BlockArray;
using mesh::kBlockSize;

const Layer *Skin::layer(std::uint32_t id) const
{
    for (const Layer &l : layers)
        if (l.id == id)
            return &l;
    return nullptr;
}

Layer *Skin::layer(std::uint32_t id)
{
    for (Layer &l : layers)
        if (l.id == id)
            return &l;
    return nullptr;
}

const KeptMask *Skin::keptMask(const std::string &name) const
{
    const auto it = std::find_if(masks.begin(), masks.end(), [&](const KeptMask &m) { return m.name == name; });
    return it == masks.end() ? nullptr : &*it;
}

const Group *Skin::group(const std::string &name) const
{
    const auto it = std::find_if(groups.begin(), groups.end(), [&](const Group &g) { return g.name == name; });
    return it == groups.end() ? nullptr : &*it;
}

bool Skin::isBare() const
{
    bool isBlank = layers.empty() && groups.empty();
    eachAttribute(*this, [&](const AttributeKind &kind, const std::string &, const auto &values) {
        isBlank = isBlank && !kind.named && values.isBlank();
    });
    return isBlank;
}

std::uint16_t Skin::freeGroup() const
{
    std::uint16_t number = 1;
    for (const Group &g : groups)
        number = std::max(number, std::uint16_t(g.number + 1));
    return number;
}

std::size_t Skin::memoryBytes() const
{
    std::size_t bytes = shown.topology ? shown.topology->memoryBytes() : 0;
    for (std::size_t b = 0; b < body.blockCount(); ++b)
        bytes += body.countIn(b) * (sizeof(mesh::PackedNormal) + (shown.positions.sharesWith(body, b) ? 0 : sizeof(Vec3f)));
    eachArray(*this, [&]<typename T>(const BlockArray<T> &values) {
        for (std::size_t b = 0; b < values.blockCount(); ++b)
            bytes += values.countIn(b) * values.has(b) * sizeof(T);
    });
    return bytes;
}

void Skin::eachBlock(const std::function<void(const void *, std::size_t)> &visit) const
{
    const auto values = [&](const auto &array) {
        for (std::size_t b = 0; b < array.blockCount(); ++b)
            if (array.has(b))
                visit(array.data(b), array.countIn(b) * sizeof(*array.data(b)));
    };
    eachArray(*this, values);
    values(shown.positions), values(shown.normals);
    for (const auto &bounds : shown.bounds)
        visit(bounds.get(), sizeof *bounds);
    for (std::size_t b = 0; shown.topology && b < shown.topology->blockCount(); ++b) {
        const mesh::BlockFaces &f = shown.topology->block(b);
        visit(&f, sizeof f + f.faces.size() * sizeof(mesh::LocalFace) + f.borrowed.size() * 4);
    }
    for (const LevelLink &link : links)
        link.coarse->eachBlock(visit), link.fine->eachBlock(visit);
}

Skin makeSkin(const mesh::PolyMesh &given, bool isOrdered)
{
    const mesh::PolyMesh ordered = isOrdered ? mesh::PolyMesh{} : inSpatialOrder(given);
    const mesh::PolyMesh &mesh = isOrdered ? given : ordered;
    Skin skin;
    skin.shown = mesh::makeSurface(mesh);
    skin.body = skin.shown.positions;
    blankAttributes(skin);
    return skin;
}

std::vector<std::uint32_t> blocksWith(const Layer &layer)
{
    std::vector<std::uint32_t> blocks;
    for (std::size_t b = 0; b < layer.offsets.blockCount(); ++b)
        if (layer.offsets.has(b))
            blocks.push_back(std::uint32_t(b));
    return blocks;
}

/// Adds offsets at a strength to n vertices, each weakened by its mask where there are masks.
BONEMOSS_WIDE static void addRun(const Vec3f *offset, const std::uint8_t *mask, float strength, float *__restrict out,
                                 std::size_t n)
{
    const float *from = &offset->x;
    if (!mask) {
        for (std::size_t i = 0; i < 3 * n; ++i)
            out[i] += from[i] * strength;
        return;
    }
    typedef std::uint8_t Sixteen __attribute__((vector_size(16)));
    typedef std::int32_t Whole __attribute__((vector_size(16)));
    std::size_t i = 0;
    for (; i + 16 <= n; i += 16) { // four weights at a time, each for the three numbers of an offset
        Sixteen masks;
        std::memcpy(&masks, mask + i, sizeof masks);
        for (std::size_t k = 0; k < 4; ++k, from += 12, out += 12) {
            constexpr std::uint8_t o = 16; // a zero
            const Sixteen spread = __builtin_shufflevector(masks, Sixteen{}, 0, o, o, o, 1, o, o, o, 2, o, o, o, 3, o, o, o);
            masks = __builtin_shufflevector(masks, masks, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3);
            const mesh::Lanes weight = strength * (1 - __builtin_convertvector(std::bit_cast<Whole>(spread), mesh::Lanes) / 255);
            const mesh::Lanes weights[3] = {__builtin_shufflevector(weight, weight, 0, 0, 0, 1),
                                            __builtin_shufflevector(weight, weight, 1, 1, 2, 2),
                                            __builtin_shufflevector(weight, weight, 2, 3, 3, 3)};
            for (std::size_t part = 0; part < 3; ++part) {
                mesh::Lanes offsets, sum;
                std::memcpy(&offsets, from + 4 * part, sizeof offsets);
                std::memcpy(&sum, out + 4 * part, sizeof sum);
                sum += offsets * weights[part];
                std::memcpy(out + 4 * part, &sum, sizeof sum);
            }
        }
    }
    for (; i < n; ++i, from += 3, out += 3)
        for (std::size_t k = 0; k < 3; ++k)
            out[k] += from[k] * (strength * (1 - float(mask[i]) / 255));
}

void addShown(const Layer &layer, std::size_t b, float times, std::span<Vec3f> to)
{
    const float strength = layer.shownStrength() * times;
    if (layer.offsets.has(b) && strength != 0)
        addRun(layer.offsets.data(b), layer.mask.data(b), strength, &to[0].x, to.size());
}

void applyLayerMask(Layer &layer)
{
    for (std::size_t b = 0; b < layer.mask.blockCount(); ++b)
        if (layer.mask.has(b) && layer.offsets.has(b)) {
            Vec3f *o = layer.offsets.edit(b);
            for (std::size_t i = 0; i < layer.mask.countIn(b); ++i)
                o[i] *= 1 - float(layer.mask.data(b)[i]) / 255;
        }
    layer.mask = BlockArray<std::uint8_t>(layer.mask.size());
}

/// addRun of four layers without masks at once, one after the other for each number.
BONEMOSS_WIDE static void addFour(const std::array<const float *, 4> &from, const std::array<float, 4> &strength,
                                  float *__restrict out, std::size_t n)
{
    const float *a = from[0], *b = from[1], *c = from[2], *d = from[3];
    for (std::size_t i = 0; i < 3 * n; ++i)
        out[i] = out[i] + a[i] * strength[0] + b[i] * strength[1] + c[i] * strength[2] + d[i] * strength[3];
}

/// What layers show of `count` vertices of block b from the i-th on, added to out.
static void addLayers(std::span<const Layer *const> layers, std::size_t b, std::size_t i, float *out, std::size_t count)
{
    while (!layers.empty()) {
        const auto masked = std::find_if(layers.begin(), layers.end(), [&](const Layer *l) { return l->mask.has(b); });
        if (masked - layers.begin() >= 4) {
            std::array<const float *, 4> from;
            std::array<float, 4> strength;
            for (std::size_t k = 0; k < 4; ++k)
                from[k] = &layers[k]->offsets.data(b)[i].x, strength[k] = layers[k]->shownStrength();
            addFour(from, strength, out, count);
            layers = layers.subspan(4);
            continue;
        }
        const std::uint8_t *mask = layers[0]->mask.data(b);
        addRun(layers[0]->offsets.data(b) + i, mask ? mask + i : nullptr, layers[0]->shownStrength(), out, count);
        layers = layers.subspan(1);
    }
}

/// Mixes one block, spot by spot, and writes those that come out otherwise than they are shown. Tells which: bit i for spot i.
static std::uint64_t mixBlock(Skin &skin, std::uint32_t b)
{
    std::vector<const Layer *> parts;
    for (const Layer &l : skin.layers)
        if (l.offsets.has(b) && l.shownStrength() != 0)
            parts.push_back(&l);
    BlockArray<Vec3f> &positions = skin.shown.positions;
    if (parts.empty() && positions.sharesWith(skin.body, b))
        return 0;
    const Vec3f *body = skin.body.data(b), *was = positions.data(b);
    const std::size_t n = skin.body.countIn(b);
    const bool isOwn = !positions.isHeldElsewhere(b);
    std::shared_ptr<mesh::Block<Vec3f>> made; // where others hold the block: only when something changes
    std::uint64_t moved = 0;
    constexpr std::size_t kRun = 16 * mesh::kSpotSize; // its sums stay at hand while layer after layer comes to them
    for (std::size_t i = 0; i < n; i += kRun) {
        const std::size_t count = std::min(kRun, n - i);
        std::array<Vec3f, kRun> sums;
        std::copy_n(body + i, count, sums.begin());
        addLayers(parts, b, i, &sums[0].x, count);
        std::uint64_t here = 0;
        for (std::size_t k = 0; k < count; k += mesh::kSpotSize)
            if (!was || std::memcmp(&sums[k], was + i + k, std::min(mesh::kSpotSize, count - k) * sizeof(Vec3f)) != 0)
                here |= mesh::Spots::ofOwn(i + k);
        moved |= here;
        if (here && isOwn && !parts.empty()) {
            std::copy_n(sums.begin(), count, positions.edit(b) + i);
        } else if (moved && !isOwn && !parts.empty()) {
            if (!made) {
                made = std::make_shared<mesh::Block<Vec3f>>();
                made->values.reserve(n);
                made->values.assign(was, was + i);
            }
            made->values.insert(made->values.end(), sums.begin(), sums.begin() + std::ptrdiff_t(count));
        }
    }
    if (made)
        positions.put(b, std::move(made));
    if (parts.empty()) // nothing over the body: share its block
        positions.takeFrom(skin.body, b);
    return moved;
}

void mixPositions(Skin &skin, const std::vector<std::uint32_t> &blocks)
{
    forEachBlock(blocks.size(), 1, [&](BlockRange r) { mixBlock(skin, blocks[r.begin]); });
}

void mixBlocks(Skin &skin, const std::vector<std::uint32_t> &blocks)
{
    std::vector<mesh::Spots> moved(skin.body.blockCount());
    forEachBlock(blocks.size(), 1, [&](BlockRange r) { moved[blocks[r.begin]].own = mixBlock(skin, blocks[r.begin]); });
    // A block's normals also hang on border vertices of those beside it.
    const mesh::Topology &topology = *skin.shown.topology;
    std::vector<std::uint32_t> stale;
    for (const std::uint32_t b : blocks)
        if (moved[b].own) {
            const std::vector<std::uint32_t> &beside = topology.block(b).blocksBeside();
            stale.push_back(b);
            stale.insert(stale.end(), beside.begin(), beside.end());
        }
    std::sort(stale.begin(), stale.end());
    stale.erase(std::unique(stale.begin(), stale.end()), stale.end());
    forEachBlock(stale.size(), 16, [&](BlockRange r) {
        for (std::size_t k = r.begin; k < r.end; ++k) {
            const std::vector<std::uint32_t> &borrowed = topology.block(stale[k]).borrowed;
            for (std::size_t i = 0; i < borrowed.size(); ++i)
                if (moved[borrowed[i] / kBlockSize].own & mesh::Spots::ofOwn(borrowed[i] % kBlockSize))
                    moved[stale[k]].borrowed |= mesh::Spots::ofBorrowed(i);
        }
    });
    std::erase_if(stale, [&](std::uint32_t b) { return !moved[b].own && !moved[b].borrowed; });
    std::vector<mesh::Spots> spots;
    for (const std::uint32_t b : stale)
        spots.push_back(moved[b]);
    updateBlocks(skin.shown, stale, spots);
}

/// What moved a growth goes to its mask: the share of its offsets that is still seen. So it grows again without what was
/// taken away.
static void hideShare(Layer &layer, std::size_t b, const Vec3f *was, const Vec3f *is)
{
    const Vec3f *offset = layer.offsets.data(b);
    if (!offset)
        return;
    std::uint8_t *mask = layer.mask.edit(b);
    for (std::size_t i = 0; i < layer.mask.countIn(b); ++i) {
        const Vec3f full = offset[i] * layer.shownStrength();
        const float len2 = squaredLength(full);
        if (len2 == 0 || was[i] == is[i])
            continue;
        const float seen = 1 - float(mask[i]) / 255 + dot(is[i] - was[i], full) / len2;
        if (mask[i] < 255)
            mask[i] = std::uint8_t(std::min(254l, std::lround(255 * (1 - std::clamp(seen, 0.0f, 1.0f)))));
    }
}

Status takeSculpted(Skin &skin, const mesh::Surface &after, const std::vector<std::uint32_t> &blocks, std::uint32_t layerId)
{
    Layer *layer = layerId ? skin.layer(layerId) : nullptr;
    if (layerId && !layer)
        return Error{ErrorCode::Unknown, "layer", "it is not there any more"};
    if (layer && std::abs(layer->shownStrength()) < 0.01f)
        return Error{ErrorCode::BadValue, layer->name,
                     "this layer is off or at 0 %, so a stroke on it would not be seen; switch it on first"};
    std::vector<std::uint32_t> changed;
    for (const std::uint32_t b : blocks)
        if (!after.positions.sharesWith(skin.shown.positions, b))
            changed.push_back(b);
    const float scale = layer ? 1 / layer->shownStrength() : 1;
    BlockArray<std::uint8_t> &work = skin.paint.of(Channel::Work);
    for (const std::uint32_t b : changed) {
        if (b >= work.blockCount())
            continue;
        std::uint8_t *count = work.edit(b);
        const Vec3f *was = skin.shown.positions.data(b), *is = after.positions.data(b);
        for (std::size_t i = 0; i < work.countIn(b); ++i)
            count[i] = std::uint8_t(count[i] + (count[i] < 255 && !(was[i] == is[i])));
    }
    if (layer && layer->growth) {
        for (const std::uint32_t b : changed)
            hideShare(*layer, b, skin.shown.positions.data(b), after.positions.data(b));
        mixBlocks(skin, changed);
        return Done{};
    }
    for (const std::uint32_t b : changed) { // edit() copies a block others share, so it stays on one thread
        if (!layer && skin.shown.positions.sharesWith(skin.body, b)) {
            skin.body.takeFrom(after.positions, b);
            continue;
        }
        Vec3f *to = layer ? layer->offsets.edit(b) : skin.body.edit(b);
        const Vec3f *was = skin.shown.positions.data(b), *is = after.positions.data(b);
        for (std::size_t i = 0; i < skin.body.countIn(b); ++i)
            to[i] += (is[i] - was[i]) * scale;
    }
    mixBlocks(skin, changed);
    return Done{};
}

void shift(Skin &skin, Vec3f by)
{
    std::vector<std::uint32_t> all;
    const auto move = [by](BlockArray<Vec3f> &points, std::size_t b) {
        Vec3f *p = points.edit(b);
        for (std::size_t i = 0; i < points.countIn(b); ++i)
            p[i] += by;
    };
    for (std::uint32_t b = 0; b < skin.body.blockCount(); ++b) {
        const bool isOne = skin.shown.positions.sharesWith(skin.body, b); // no layer lies here
        move(skin.body, b);
        if (isOne)
            skin.shown.positions.takeFrom(skin.body, b);
        else
            move(skin.shown.positions, b);
        all.push_back(b);
    }
    updateBlocks(skin.shown, all);
}

void invertMask(Skin &skin)
{
    for (std::size_t b = 0; b < skin.mask.blockCount(); ++b) {
        std::uint8_t *m = skin.mask.edit(b);
        for (std::size_t i = 0; i < skin.mask.countIn(b); ++i)
            m[i] = std::uint8_t(255 - m[i]);
    }
}

void clearMask(Skin &skin)
{
    skin.mask = BlockArray<std::uint8_t>(skin.body.size());
}

void blurMask(Skin &skin, int passes)
{
    for (int pass = 0; pass < passes; ++pass) {
        const BlockArray<std::uint8_t> before = skin.mask;
        for (std::size_t b = 0; b < before.blockCount(); ++b)
            skin.mask.edit(b); // so that the loop below only writes
        forEachBlock(before.blockCount(), 1, [&](BlockRange r) {
            const std::size_t b = r.begin;
            const std::vector<float> means = mesh::meansBeside(*skin.shown.topology, before, b);
            std::uint8_t *out = skin.mask.edit(b);
            for (std::size_t i = 0; i < means.size(); ++i)
                out[i] = std::uint8_t(std::lround((float(out[i]) + means[i]) / 2));
        });
    }
}

} // namespace bonemoss::skin
