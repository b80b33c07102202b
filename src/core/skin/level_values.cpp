#include "skin/level_values.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::skin {

using mesh::BlockArray;
using mesh::Subdivision;
using Offsets = BlockArray<Vec3f>;
using Bytes = BlockArray<std::uint8_t>;

Offsets difference(const Offsets &a, const Offsets &b)
{
    Offsets out(a.size());
    for (std::size_t k = 0; k < a.blockCount(); ++k) {
        if (a.sharesWith(b, k))
            continue;
        Vec3f *to = out.edit(k);
        const Vec3f *x = a.data(k), *y = b.data(k);
        for (std::size_t i = 0; i < a.countIn(k); ++i)
            to[i] = (x ? x[i] : Vec3f{}) - (y ? y[i] : Vec3f{});
    }
    return out;
}

void add(Offsets &to, const Offsets &what)
{
    for (std::size_t k = 0; k < to.blockCount(); ++k)
        if (const Vec3f *x = what.data(k)) {
            Vec3f *p = to.edit(k);
            for (std::size_t i = 0; i < to.countIn(k); ++i)
                p[i] += x[i];
        }
}

Offsets subdivided(const Subdivision &rule, const Offsets &coarse)
{
    return coarse.isBlank() ? Offsets(rule.vertexCount()) : sparse(rule.apply(coarse.flatten()));
}
Offsets fitted(const Subdivision &rule, const Offsets &fine)
{
    return fine.isBlank() ? Offsets(rule.oldVertexCount()) : sparse(rule.fit(fine.flatten()));
}

Bytes subdivided(const Subdivision &rule, const Bytes &coarse)
{
    if (coarse.isBlank())
        return Bytes(rule.vertexCount());
    const std::vector<std::uint8_t> bytes = coarse.flatten();
    const std::vector<float> fine = rule.apply(std::vector<float>(bytes.begin(), bytes.end()));
    std::vector<std::uint8_t> rounded(fine.size());
    for (std::size_t i = 0; i < fine.size(); ++i)
        rounded[i] = std::uint8_t(std::clamp(std::lround(fine[i]), 0l, 255l));
    return sparse(rounded);
}

void remix(Skin &skin, const std::vector<bool> &changed)
{
    if (!hasSurface(skin))
        return;
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < changed.size(); ++b)
        if (changed[b])
            blocks.push_back(b);
    mixBlocks(skin, blocks);
}

void note(std::vector<bool> &changed, const Layer &layer)
{
    for (const std::uint32_t b : blocksWith(layer))
        changed[b] = true;
}

void assemble(Skin &skin, std::shared_ptr<const mesh::Topology> topology)
{
    Bytes hidden = std::move(skin.shown.hidden);
    skin.shown = mesh::makeSurface(std::move(topology), skin.body);
    skin.shown.hidden = std::move(hidden);
    std::vector<bool> layered(skin.body.blockCount(), false);
    for (const Layer &l : skin.layers)
        note(layered, l);
    remix(skin, layered);
}

} // namespace bonemoss::skin
