#include "detail/skin.h"

#include "base/parallel.h"
#include "detail/mix_positions.h"

#include <algorithm>
#include <numeric>

namespace bonemoss::detail {

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
    return layers.empty() && masks.empty() && groups.empty() && !hasMask() && !hasHidden() && paint.isBlank();
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
    for (std::size_t b = 0; b < body.blockCount(); ++b) {
        const std::size_t n = body.countIn(b);
        bytes += n * (sizeof(Vec3f) + sizeof(mesh::PackedNormal));
        if (!shown.positions.sharesWith(body, b))
            bytes += n * sizeof(Vec3f);
        bytes += n * (mask.has(b) + shown.hidden.has(b) + 2 * groupOf.has(b));
        for (const KeptMask &m : masks)
            bytes += n * m.values.has(b);
        for (const auto &c : paint.channels)
            bytes += n * c.has(b);
        for (const Layer &l : layers)
            bytes += n * (l.offsets.has(b) * sizeof(Vec3f) + l.mask.has(b));
    }
    return bytes;
}

Skin makeSkin(const mesh::PolyMesh &given, bool isOrdered)
{
    const mesh::PolyMesh ordered = isOrdered ? mesh::PolyMesh{} : inSpatialOrder(given);
    const mesh::PolyMesh &mesh = isOrdered ? given : ordered;
    Skin skin;
    skin.shown = mesh::makeSurface(mesh);
    skin.body = skin.shown.positions;
    skin.mask = BlockArray<std::uint8_t>(mesh.positions.size());
    skin.groupOf = BlockArray<std::uint16_t>(mesh.positions.size());
    skin.paint = Paint(mesh.positions.size());
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

void addShown(const Layer &layer, std::size_t b, float times, std::span<Vec3f> to)
{
    const Vec3f *offset = layer.offsets.data(b);
    const float strength = layer.shownStrength() * times;
    if (!offset || strength == 0)
        return;
    if (const std::uint8_t *mask = layer.mask.data(b))
        for (std::size_t i = 0; i < to.size(); ++i)
            to[i] += offset[i] * (strength * (1 - float(mask[i]) / 255));
    else
        for (std::size_t i = 0; i < to.size(); ++i)
            to[i] += offset[i] * strength;
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

/// As addShown of N layers without masks one after the other, with the same bits, but reading and writing `out` once.
template <std::size_t N>
static void addTogether(std::span<const Layer *const> layers, std::size_t b, float *__restrict out, std::size_t n)
{
    std::array<const float *, N> offset;
    std::array<float, N> strength;
    for (std::size_t k = 0; k < N; ++k)
        offset[k] = &layers[k]->offsets.data(b)->x, strength[k] = layers[k]->shownStrength();
    for (std::size_t i = 0; i < n; ++i) {
        float sum = out[i];
        for (std::size_t k = 0; k < N; ++k)
            sum += offset[k][i] * strength[k];
        out[i] = sum;
    }
}

void mixPositions(Skin &skin, const std::vector<std::uint32_t> &blocks)
{
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        std::vector<const Layer *> parts;
        for (const Layer &l : skin.layers)
            if (l.offsets.has(b) && l.shownStrength() != 0)
                parts.push_back(&l);
        if (parts.empty()) { // nothing over the body: share its block
            skin.shown.positions.takeFrom(skin.body, b);
            return;
        }
        const Vec3f *body = skin.body.data(b);
        auto block = std::make_shared<mesh::Block<Vec3f>>();
        block->values.assign(body, body + skin.body.countIn(b));
        Vec3f *out = block->values.data();
        const std::size_t n = block->values.size();
        for (std::span<const Layer *const> left(parts); !left.empty();) {
            const auto masked = std::find_if(left.begin(), left.end(), [&](const Layer *l) { return l->mask.has(b); });
            switch (std::min<std::ptrdiff_t>(masked - left.begin(), 4)) {
            case 4: addTogether<4>(left, b, &out->x, 3 * n), left = left.subspan(4); break;
            case 3: addTogether<3>(left, b, &out->x, 3 * n), left = left.subspan(3); break;
            case 2: addTogether<2>(left, b, &out->x, 3 * n), left = left.subspan(2); break;
            default: addShown(*left[0], b, 1, {out, n}), left = left.subspan(1);
            }
        }
        skin.shown.positions.put(b, std::move(block));
    });
}

void mixBlocks(Skin &skin, const std::vector<std::uint32_t> &blocks)
{
    mixPositions(skin, blocks);
    // A block's normals also depend on border vertices of others: refresh every block that reaches in.
    std::vector<bool> wanted(skin.shown.positions.blockCount(), false);
    std::vector<bool> changed = wanted;
    for (const std::uint32_t b : blocks)
        wanted[b] = changed[b] = true;
    for (std::size_t b = 0; b < wanted.size(); ++b)
        if (!wanted[b])
            for (const std::uint32_t v : skin.shown.topology->block(b).borrowed)
                if (changed[v / kBlockSize]) {
                    wanted[b] = true;
                    break;
                }
    std::vector<std::uint32_t> refresh;
    for (std::uint32_t b = 0; b < wanted.size(); ++b)
        if (wanted[b])
            refresh.push_back(b);
    updateBlocks(skin.shown, refresh);
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
            const mesh::BlockFaces &f = skin.shown.topology->block(b);
            std::vector<float> value(f.own + f.borrowed.size()), sum(value.size(), 0), count(value.size(), 0);
            for (std::size_t i = 0; i < value.size(); ++i)
                value[i] = float(before[skin.shown.topology->vertexOf(b, std::uint16_t(i))]);
            for (const mesh::LocalFace &face : f.faces)
                for (std::size_t c = 0, n = std::size_t(face.size()); c < n; ++c) {
                    const std::uint16_t a = face.v[c], d = face.v[c + 1 < n ? c + 1 : 0];
                    sum[a] += value[d], count[a] += 1;
                    sum[d] += value[a], count[d] += 1;
                }
            std::uint8_t *out = skin.mask.edit(b);
            for (std::size_t i = 0; i < f.own; ++i)
                if (count[i] > 0)
                    out[i] = std::uint8_t(std::lround((value[i] + sum[i] / count[i]) / 2));
        });
    }
}

} // namespace bonemoss::detail
