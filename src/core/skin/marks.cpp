#include "skin/marks.h"

#include "skin/skin_maps.h"
#include "mesh/parts.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::skin {

Bytes maskOf(std::span<const float> map, const MaskRange &range)
{
    Bytes made(map.size());
    for (std::size_t b = 0; b < made.blockCount(); ++b) {
        std::uint8_t *m = made.edit(b);
        for (std::size_t i = 0; i < made.countIn(b); ++i) {
            const float v = map[b * mesh::kBlockSize + i] * range.sign;
            const float share =
                std::clamp(std::min((v - range.least) / range.soft + 1, (range.most - v) / range.soft + 1), 0.0f, 1.0f);
            m[i] = std::uint8_t(std::lround(share * 255));
        }
    }
    return made;
}

void combineMask(Skin &skin, const Bytes &made, MaskCombine how)
{
    if (how == MaskCombine::Replace) {
        skin.mask = made;
    } else {
        for (std::size_t b = 0; b < made.blockCount(); ++b) {
            const std::uint8_t *with = made.data(b);
            if (!with && how != MaskCombine::Common)
                continue;
            std::uint8_t *m = skin.mask.edit(b);
            for (std::size_t i = 0; i < made.countIn(b); ++i) {
                const std::uint8_t v = with ? with[i] : std::uint8_t(0);
                m[i] = how == MaskCombine::Add ? std::max(m[i], v)
                                               : std::min(m[i], how == MaskCombine::Common ? v : std::uint8_t(255 - v));
            }
        }
    }
    dropBlank(skin.mask);
}

double maskedShare(const Bytes &mask)
{
    std::size_t masked = 0;
    for (std::size_t b = 0; b < mask.blockCount(); ++b)
        if (const std::uint8_t *m = mask.data(b))
            masked += std::size_t(std::count_if(m, m + mask.countIn(b), [](std::uint8_t v) { return v > 127; }));
    return double(masked) / double(std::max<std::size_t>(1, mask.size()));
}

void keepMask(Skin &skin, const std::string &name)
{
    Bytes mask = skin.mask;
    dropBlank(mask); // what grows there is made anew only where the mask lies
    const auto it = std::find_if(skin.masks.begin(), skin.masks.end(), [&](const KeptMask &m) { return m.name == name; });
    if (it != skin.masks.end())
        it->values = std::move(mask);
    else
        skin.masks.push_back({name, std::move(mask)});
}

std::uint16_t groupNumber(Skin &skin, const std::string &name)
{
    if (const Group *old = skin.group(name))
        return old->number;
    return skin.groups.emplace_back(Group{skin.freeGroup(), name}).number;
}

void groupMasked(Skin &skin, const std::string &name)
{
    const std::uint16_t number = groupNumber(skin, name);
    skin.groupOf = valuesBy<std::uint16_t>(skin.body.size(), [&](std::size_t v) {
        const std::uint16_t was = skin.groupOf[v];
        return skin.mask[v] > 127 ? number : was == number ? std::uint16_t(0) : was;
    });
}

std::size_t groupIslands(Skin &skin, const std::string &name, std::size_t most)
{
    std::uint32_t count = 0;
    const std::vector<std::uint32_t> island = islandsOf(toPolyMesh(skin.shown), count);
    if (count > most)
        return count;
    skin.groups.clear();
    for (std::uint32_t k = 1; k <= count; ++k)
        skin.groups.push_back({std::uint16_t(k), fmt::format("{} {}", name, k)});
    skin.groupOf = valuesBy<std::uint16_t>(
        skin.body.size(), [&](std::size_t v) { return island[v] < count ? std::uint16_t(island[v] + 1) : std::uint16_t(0); });
    return count;
}

void groupKinds(Skin &skin, const mesh::BlockArray<std::uint16_t> &kinds, std::size_t count, const std::string &name)
{
    std::vector<std::uint16_t> numberOf(1, 0);
    for (std::size_t k = 1; k <= count; ++k)
        numberOf.push_back(groupNumber(skin, fmt::format("{} {}", name, k)));
    skin.groupOf = valuesBy<std::uint16_t>(skin.body.size(), [&](std::size_t v) {
        const std::uint16_t was = skin.groupOf[v];
        const bool wasOne = std::find(numberOf.begin() + 1, numberOf.end(), was) != numberOf.end();
        return kinds[v] > 0 ? numberOf[kinds[v]] : wasOne ? std::uint16_t(0) : was;
    });
}

void removeGroup(Skin &skin, std::uint16_t number)
{
    std::erase_if(skin.groups, [number](const Group &g) { return g.number == number; });
    skin.groupOf = valuesBy<std::uint16_t>(skin.body.size(), [&](std::size_t v) {
        const std::uint16_t was = skin.groupOf[v];
        return was == number ? std::uint16_t(0) : was;
    });
}

Bytes maskOfGroup(const Skin &skin, std::uint16_t number)
{
    return valuesBy<std::uint8_t>(skin.body.size(),
                                  [&](std::size_t v) { return skin.groupOf[v] == number ? std::uint8_t(255) : std::uint8_t(0); });
}

bool hide(Skin &skin, HideWhat what, std::uint16_t group)
{
    if (what == HideWhat::Nothing) {
        skin.shown.hidden = Bytes(skin.body.size());
        return true;
    }
    Bytes hidden = valuesBy<std::uint8_t>(skin.body.size(), [&](std::size_t v) -> std::uint8_t {
        const bool was = skin.shown.hidden[v] != 0;
        return what == HideWhat::Masked ? was || skin.mask[v] > 127
               : what == HideWhat::Free ? was || skin.mask[v] <= 127
               : what == HideWhat::Swap ? !was
                                        : was || skin.groupOf[v] == group;
    });
    for (std::size_t v = 0; v < hidden.size(); ++v)
        if (!hidden[v]) {
            skin.shown.hidden = std::move(hidden);
            return true;
        }
    return false;
}

} // namespace bonemoss::skin
