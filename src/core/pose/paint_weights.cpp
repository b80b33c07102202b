#include "pose/paint_weights.h"

#include "base/parallel.h"
#include "mesh/beside.h"

#include <algorithm>

namespace bonemoss::pose {

namespace {

/// Weights of one block, bone by bone.
using Rows = std::vector<std::vector<std::uint8_t>>;

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
                mean[k] = meansBeside(*skin.shown.topology, weights[k].values, b);
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
