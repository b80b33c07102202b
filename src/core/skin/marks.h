#pragma once

#include "skin/attributes.h"
#include "base/parallel.h"

#include <array>
#include <optional>
#include <span>

namespace bonemoss::skin {

// What is marked on a skin: its mask, groups, hidden parts, and colour laid on evenly. All O(vertices); what is blank stays blank.

/// Values from a rule over all vertices, blank where all of a block are 0.
template <typename T, typename Rule> mesh::BlockArray<T> valuesBy(std::size_t vertices, const Rule &rule)
{
    mesh::BlockArray<T> out(vertices);
    for (std::size_t v = 0; v < vertices; ++v)
        if (const T value = rule(v); value != T{} || out.has(v / mesh::kBlockSize))
            out.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = value;
    return out;
}

/// A mask from what share(place, normal) says of each place of a surface, 0 to 1. Parallel.
template <typename Share> Bytes maskOf(const mesh::Surface &s, const Share &share)
{
    Bytes made(s.positions.size());
    for (std::size_t b = 0; b < made.blockCount(); ++b)
        made.edit(b); // so that the loop below only writes
    forEachBlock(made.blockCount(), 1, [&](BlockRange r) {
        std::uint8_t *m = made.edit(r.begin);
        const Vec3f *at = s.positions.data(r.begin);
        for (std::size_t i = 0; i < made.countIn(r.begin); ++i)
            m[i] = std::uint8_t(std::lround(255 * share(at[i], s.normals.data(r.begin)[i].unpack())));
    });
    return made;
}

/// Which values of a map are masked: those from least to most, fading over soft on both sides.
struct MaskRange {
    float sign = 1; ///< -1: of the negative map
    float least = 0, most = 0, soft = 0;
};
Bytes maskOf(std::span<const float> map, const MaskRange &range);

/// What becomes of the mask in hand when another is made.
enum class MaskCombine { Replace, Add, Subtract, Common };
void combineMask(Skin &skin, const Bytes &made, MaskCombine how);

/// Share (0 to 1) of the vertices that are masked by more than half.
double maskedShare(const Bytes &mask);

/// Puts the mask by under a name; the same name again replaces it.
void keepMask(Skin &skin, const std::string &name);

/// The number of the group of that name, which is made where there is none.
std::uint16_t groupNumber(Skin &skin, const std::string &name);
/// Gives what is masked by more than half to the group of that name, and nothing else.
void groupMasked(Skin &skin, const std::string &name);
/// Gives each island a group, in place of all there were. Returns how many; makes none of more than `most`.
std::size_t groupIslands(Skin &skin, const std::string &name, std::size_t most);
/// Gives what is of kind k, 1 to `count`, to the group "NAME k"; what was in one of those and has no kind is in none.
void groupKinds(Skin &skin, const mesh::BlockArray<std::uint16_t> &kinds, std::size_t count, const std::string &name);
void removeGroup(Skin &skin, std::uint16_t number);
/// A mask of one group.
Bytes maskOfGroup(const Skin &skin, std::uint16_t number);

enum class HideWhat { Masked, Free, Group, Swap, Nothing };
/// Hides a part of the skin; group is the number of the one that Group means. False, and nothing changed, when nothing would be
/// left to see.
bool hide(Skin &skin, HideWhat what, std::uint16_t group = 0);

/// Colour and finish laid over a skin: channels that have a value (0 to 255, colours times cover) go there by share(vertex), 0 to 1.
template <typename Share>
void paintOver(Skin &skin, const std::array<std::optional<float>, kChannels> &wanted, const Share &share)
{
    for (std::size_t c = 0; c < wanted.size(); ++c)
        if (wanted[c]) {
            const Bytes was = skin.paint.channels[c];
            skin.paint.channels[c] = valuesBy<std::uint8_t>(was.size(), [&](std::size_t v) {
                return std::uint8_t(std::lround(float(was[v]) + (*wanted[c] - float(was[v])) * share(v)));
            });
        }
}

} // namespace bonemoss::skin
