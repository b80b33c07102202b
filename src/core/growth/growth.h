#pragma once

#include "base/result.h"
#include "growth/ground.h"

#include <functional>
#include <span>
#include <string>
#include <string_view>

namespace bonemoss::growth {

/// One thing that can be set of a growth.
struct GrowthSetting {
    std::string_view name, title;
    std::string_view unit;      ///< "mm", "deg" or ""
    std::string_view low, high; ///< what its ends look like, in a word or two
    float min = 0, max = 1;
    bool isCount = false;
};

struct Growth;
struct Site;
struct GrowInput;

/// A kind of growth, as tables, commands, the hand and the manual know it. Adding one is one row.
struct GrowthKind {
    std::string_view name, title, text;
    std::span<const GrowthSetting> settings;
    std::span<const float> usual; ///< of each setting; sizes for a creature of 180 mm
    /// Heights in mm of every vertex that is not masked; see growth.cpp.
    void (*grow)(const GrowInput &, mesh::BlockArray<float> &) = nullptr;
    float (*finest)(const Growth &) = nullptr; ///< mm, of what it makes
    bool takesStamp = false;                   ///< lays a stamp
};

std::span<const GrowthKind> growthKinds();
const GrowthKind *growthNamed(std::string_view name);

/// What was done to one scale by hand: the one nearest to a place.
struct SiteEdit {
    Vec3f at;           ///< mm
    float rotation = 0; ///< degrees about its normal
    float size = 1;     ///< times
    float lift = 1;     ///< times its height
    bool isMissing = false;
    friend bool operator==(const SiteEdit &, const SiteEdit &) = default;
};

/// The rule behind a layer that was grown.
struct Growth {
    const GrowthKind *kind = nullptr;
    std::vector<float> values; ///< of each setting of the kind
    std::uint32_t seed = 1;
    bool isMirrored = true;
    std::string stamp = "wrinkles"; ///< name of the picture that prints are made of
    std::string sizes;              ///< kept mask where it grows smaller; empty for none
    std::vector<SiteEdit> edits;
    std::uint64_t ground = 0; ///< a mark of what it last grew on (see document::groundMark)

    float value(std::string_view setting) const;
    std::uint64_t seedFor(std::uint64_t what) const { return (std::uint64_t(seed) << 20) ^ what; }
};
Growth growthOf(const GrowthKind &kind);

/// Grows a layer: its offsets become the heights of the rule along the normals of the ground, within the depth that was set.
/// Its strength, switch and mask stay; what is masked keeps still bit for bit. The same skin, rule and surroundings give the
/// same bits on any number of threads. Cancelled leaves the skin as it was. O(vertices + sites).
Status grow(Skin &skin, std::uint32_t layer, Growth growth, const Surroundings &about, const Progress &progress = {});

/// The vertices of a skin by what stands there: 0 between, 255 in the middle of a scale or spot. For masks and colour.
Result<mesh::BlockArray<std::uint8_t>> cellsOf(const Skin &skin, const Layer &layer, const Surroundings &about,
                                               const Progress &progress = {});
/// The cells of a growth in so many kinds, 1 and up, neighbours of different kinds where there are enough of them; 0 between.
Result<mesh::BlockArray<std::uint16_t>> cellKinds(const Skin &skin, const Layer &layer, const Surroundings &about, int kinds,
                                                  const Progress &progress = {});
/// Whether a growth stands in single scales or spots, which have cells.
bool hasCells(const GrowthKind &kind);
/// The scale or spot a vertex lies in.
struct Cell {
    std::uint64_t number = 0; ///< random, its own; the same for twins
    int kind = 0;             ///< one of so many, neighbours of different ones where there are enough of them
    int row = 0;              ///< counted along the flow
    float middle = 0;         ///< 1 in its middle, 0 at its edge
};
/// Calls use(vertex, share, cell) for each vertex that lies in a cell; share as in cellsOf, 0 to 1. Parallel: use may write what belongs
/// to the vertex alone. Errors as cellsOf.
Status eachCellOf(const Skin &skin, const Layer &layer, const Surroundings &about, const Progress &progress, int kinds,
                  const std::function<void(std::size_t vertex, float share, const Cell &)> &use);
/// The places of the scales or spots of a grown layer, with what was done to them by hand. Empty for waves.
std::vector<Site> sitesOf(const Skin &skin, const Growth &growth, const mesh::BlockArray<std::uint8_t> &masked,
                          const Surroundings &about);

} // namespace bonemoss::growth
