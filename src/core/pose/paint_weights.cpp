#include "pose/paint_weights.h"

#include "base/parallel.h"

#include <algorithm>

namespace bonemoss::pose {

namespace {

/// Weights of one block, bone by bone.
using Rows = std::vector<std::vector<std::uint8_t>>;

/// Means of the vertices beside each own vertex of a block, each with itself once.
std::vector<float> means(const skin::Skin &skin, const mesh::BlockArray<std::uint8_t> &values, std::size_t b)
{
    const mesh::BlockFaces &f = skin.shown.topology->block(b);
    std::vector<float> value(f.own + f.borrowed.size()), sum(value.size(), 0), count(value.size(), 0);
    for (std::size_t i = 0; i < value.size(); ++i)
        value[i] = float(values[skin.shown.topology->vertexOf(b, std::uint16_t(i))]);
    for (const mesh::LocalFace &face : f.faces)
        for (std::size_t c = 0, n = std::size_t(face.size()); c < n; ++c) {
            const std::uint16_t a = face.v[c], d = face.v[c + 1 < n ? c + 1 : 0];
            sum[a] += value[d], count[a] += 1;
            sum[d] += value[a], count[d] += 1;
        }
    for (std::size_t i = 0; i < f.own; ++i)
        sum[i] = count[i] > 0 ? sum[i] / count[i] : value[i];
    sum.resize(f.own);
    return sum;
}

} // namespace

void paintWeights(skin::Skin &skin, const Skeleton &skeleton, std::uint32_t bone, WeightStroke how,
                  const mesh::BlockArray<std::uint8_t> &share)
{
    Weights weights = weightsOf(skin);
    const auto placeOf = [&](BoneKey key) {
        const auto at = std::find_if(weights.begin(), weights.end(), [&](const BoneBytes &w) { return w.bone == key; });
        if (at != weights.end())
            return std::size_t(at - weights.begin());
        weights.push_back({key, mesh::BlockArray<std::uint8_t>(skin.body.size())});
        return weights.size() - 1;
    };
    std::size_t own = 0, rest = 0; // what is taken where nobody else is
    if (how != WeightStroke::Even) {
        const Bone &it = skeleton.bones[bone];
        const std::vector<std::uint32_t> below = skeleton.childrenOf(bone);
        const std::uint32_t heir = it.parent != kNone ? it.parent : below.empty() ? bone : below[0];
        own = placeOf(it.key), rest = placeOf(skeleton.bones[heir].key);
    }
    const std::size_t bones = weights.size();
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < share.blockCount(); ++b)
        if (share.has(b))
            blocks.push_back(b);
    std::vector<Rows> made(blocks.size());
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = blocks[r.begin];
        const std::size_t n = share.countIn(b);
        Rows &rows = made[r.begin];
        std::vector<std::vector<float>> mean(bones);
        for (std::size_t k = 0; k < bones; ++k) {
            const std::uint8_t *w = weights[k].values.data(b);
            rows.emplace_back(w ? std::vector<std::uint8_t>(w, w + n) : std::vector<std::uint8_t>(n, 0));
            if (how == WeightStroke::Even)
                mean[k] = means(skin, weights[k].values, b);
        }
        std::vector<float> shares(bones);
        std::vector<std::uint8_t> bytes(bones);
        for (std::size_t i = 0; i < n; ++i) {
            const float s = float(share.data(b)[i]) / 255;
            if (s <= 0)
                continue;
            for (std::size_t k = 0; k < bones; ++k) {
                const float was = float(rows[k][i]);
                shares[k] = how == WeightStroke::Even  ? std::lerp(was, mean[k][i], s)
                            : how == WeightStroke::Add ? was * (1 - s)
                                                       : was;
            }
            if (how == WeightStroke::Add) {
                shares[own] += 255 * s;
            } else if (how == WeightStroke::Take) {
                const float taken = shares[own] * s;
                shares[own] -= taken;
                float others = 0;
                for (std::size_t k = 0; k < bones; ++k)
                    others += k == own ? 0 : shares[k];
                if (others <= 0)
                    shares[rest] += taken; // roundWeights makes the others up to the whole
            }
            roundWeights(shares, bytes);
            for (std::size_t k = 0; k < bones; ++k)
                rows[k][i] = bytes[k];
        }
    });
    for (std::size_t j = 0; j < blocks.size(); ++j)
        for (std::size_t k = 0; k < bones; ++k) {
            const bool isBlank = std::all_of(made[j][k].begin(), made[j][k].end(), [](std::uint8_t w) { return w == 0; });
            if (isBlank) {
                weights[k].values.put(blocks[j], nullptr);
                continue;
            }
            auto block = std::make_shared<mesh::Block<std::uint8_t>>();
            block->values.assign(made[j][k].begin(), made[j][k].end());
            weights[k].values.put(blocks[j], std::move(block));
        }
    std::erase_if(weights, [](const BoneBytes &w) { return w.values.isBlank(); });
    std::sort(weights.begin(), weights.end(), [](const BoneBytes &a, const BoneBytes &b) { return a.bone < b.bone; });
    setWeights(skin, std::move(weights));
}

} // namespace bonemoss::pose
