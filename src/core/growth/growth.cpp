#include "growth/growth.h"

#include "growth/grow_input.h"
#include "skin/levels.h"

#include <algorithm>

namespace bonemoss::growth {

using mesh::BlockArray;

namespace {

// What can be set, by family; the usual values of each kind stand below in the same order.
constexpr GrowthSetting kScaleSettings[] = {
    {"size", "Size", "mm", "small", "large", 0.1f, 100},
    {"depth", "Height", "mm", "flat", "thick", 0, 20},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"rows", "Rows", "", "scattered", "in rows"},
    {"aspect", "Length", "", "broad", "long", 0.2f, 4},
    {"overlap", "Overlap", "", "side by side", "like tiles", 0, 1.5f},
    {"tilt", "Tilt", "", "level", "raised end"},
    {"keel", "Keel", "", "none", "sharp"},
    {"dome", "Roundness", "", "flat", "round"},
    {"point", "Tip", "", "blunt", "pointed"},
    {"gap", "Gap", "", "narrow", "wide", 0, 0.6f},
    {"gapDepth", "Gap depth", "", "shallow", "deep"},
    {"rings", "Growth rings", "", "none", "many", 0, 12, true},
    {"barbs", "Vane", "", "none", "fine", 0, 24, true},
    {"wear", "Wear", "", "new", "worn"},
    {"missing", "Missing", "", "none", "many", 0, 0.6f},
    {"broken", "Broken", "", "whole", "many", 0, 0.6f},
    {"border", "Fades to border", "", "full size", "smaller", 0, 12},
    {"joints", "Smaller at joints", "", "same", "smaller"},
};
//                                size depth var  rows asp  over  tilt keel dome point gap  gapD rings barbs wear miss brok bord joints
constexpr float kPebbles[] = {2.0f,  0.35f, 0.5f, 0.0f, 1.0f, 0.0f,  0.0f,  0.0f, 0.9f, 0.0f,
                              0.06f, 0.5f,  0,    0,    0.0f, 0.00f, 0.00f, 3,    0.5f};
constexpr float kRoof[] = {3.0f, 0.55f, 0.2f, 1.0f, 1.1f, 0.45f, 0.9f,  0.0f, 0.5f, 0.2f,
                           0.0f, 0.5f,  0,    0,    0.1f, 0.00f, 0.00f, 4,    0.6f};
constexpr float kKeeled[] = {3.0f, 0.70f, 0.2f, 1.0f, 1.35f, 0.5f,  0.8f,  0.8f, 0.3f, 0.8f,
                             0.0f, 0.5f,  0,    0,    0.1f,  0.00f, 0.00f, 4,    0.6f};
constexpr float kShields[] = {7.0f,  0.90f, 0.4f, 0.5f, 1.0f, 0.0f,  0.1f,  0.0f, 0.35f, 0.0f,
                              0.09f, 0.8f,  5,    0,    0.4f, 0.00f, 0.00f, 3,    0.4f};
constexpr float kPlates[] = {8.0f, 0.60f, 0.1f, 1.0f, 0.35f, 0.25f, 0.7f,  0.0f, 0.6f, 0.0f,
                             0.0f, 0.5f,  2,    0,    0.2f,  0.00f, 0.00f, 2,    0.3f};
constexpr float kFeathers[] = {4.0f, 0.60f, 0.25f, 0.9f, 1.9f, 0.55f, 0.8f,  0.5f, 0.5f, 0.55f,
                               0.0f, 0.5f,  0,     14,   0.2f, 0.02f, 0.00f, 3,    0.5f};

constexpr GrowthSetting kWaveSettings[] = {
    {"size", "Spacing", "mm", "close", "wide", 0.1f, 50},
    {"depth", "Depth", "mm", "shallow", "deep", 0, 10},
    {"variation", "Variation", "", "even", "uneven"},
    {"sharp", "Sharpness", "", "soft", "cut"},
    {"length", "Length", "", "short", "long", 1, 20},
    {"branch", "Branching", "", "runs through", "branches"},
    {"turn", "Direction", "deg", "across the flow", "along it", 0, 90},
    {"fine", "Fine lines", "", "none", "many"},
    {"patchy", "Patches", "", "everywhere", "here and there"},
    {"age", "Age", "", "young", "old and dry"},
    {"joints", "At joints", "", "everywhere", "only there"},
    {"stretch", "Across stretch", "", "by the limbs", "by the stretch"},
};
//                                  size  depth  var sharp len branch turn fine patchy age joints stretch
constexpr float kWrinkles[] = {1.6f, 0.22f, 0.5f, 0.6f, 6, 0.35f, 0, 0.4f, 0.35f, 0.3f, 0, 0};
constexpr float kFolds[] = {3.5f, 0.80f, 0.4f, 0.55f, 9, 0.2f, 0, 0.3f, 0, 0.2f, 1, 0};
constexpr float kRidges[] = {3.0f, 0.60f, 0.1f, 0.15f, 16, 0, 0, 0, 0, 0, 0, 0};
constexpr float kBark[] = {3.0f, 0.90f, 0.8f, 0.7f, 5, 0.7f, 90, 0.7f, 0, 0.2f, 0, 0};

constexpr GrowthSetting kSpotSettings[] = {
    {"size", "Size", "mm", "small", "large", 0.05f, 50},
    {"depth", "Depth", "mm", "shallow", "strong", 0, 20},
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"cover", "Density", "", "few", "close together", 0.15f, 1},
    {"full", "Fullness", "", "pointed", "full"},
    {"cluster", "Clusters", "", "even", "in groups"},
    {"ragged", "Raggedness", "", "round", "ragged"},
    {"aspect", "Length", "", "broad", "long", 0.3f, 3},
    {"rim", "Rim", "", "none", "raised"},
    {"border", "Fades to border", "", "full size", "smaller", 0, 12},
};
//                               size  depth var  cover full clus rag  asp rim border
constexpr float kPores[] = {0.55f, 0.12f, 0.6f, 0.5f, 0.5f, 0.3f, 0.1f, 1, 0.4f, 2};
constexpr float kBumps[] = {1.4f, 0.30f, 0.6f, 0.85f, 0.7f, 0.2f, 0.1f, 1, 0, 2};
constexpr float kWarts[] = {2.4f, 0.80f, 0.8f, 0.75f, 0.8f, 0.75f, 0.8f, 1, 0.4f, 2};

constexpr GrowthSetting kCrackSettings[] = {
    {"size", "Size", "mm", "small", "large", 0.3f, 100},   {"depth", "Depth", "mm", "shallow", "deep", 0, 10},
    {"width", "Width", "", "hair", "gaping", 0.01f, 0.3f}, {"variation", "Variation", "", "even", "uneven"},
    {"aspect", "Length", "", "broad", "long", 0.3f, 4},    {"broken", "Broken off", "", "whole net", "single cracks"},
    {"fine", "Fine cracks", "", "none", "many"},           {"wander", "Wandering", "", "straight", "wandering"},
    {"curl", "Raised rims", "", "level", "curled up"},
};
//                               size depth width  var asp broken fine wander curl
constexpr float kCracks[] = {6.0f, 0.50f, 0.06f, 0.6f, 1, 0.2f, 0.5f, 0.5f, 0.3f};

constexpr GrowthSetting kVeinSettings[] = {
    {"size", "Thickness", "mm", "thin", "thick", 0.1f, 20}, {"depth", "Height", "mm", "faint", "swollen", 0, 10},
    {"variation", "Variation", "", "even", "uneven"},       {"branch", "Branches", "", "few", "many"},
    {"wander", "Wandering", "", "straight", "wandering"},   {"roots", "Roots", "", "one", "many", 1, 40, true},
};
//                             size  depth var branch wander roots
constexpr float kVeins[] = {1.3f, 0.45f, 0.4f, 0.5f, 0.5f, 2};

constexpr GrowthSetting kPrintSettings[] = {
    {"size", "Size", "mm", "small", "large", 0.2f, 200},         {"depth", "Depth", "mm", "shallow", "deep", 0, 20},
    {"variation", "Variation", "", "all alike", "no two alike"}, {"turn", "Random turn", "", "along the flow", "any way"},
    {"flip", "Mirror images", "", "none", "half of them"},       {"blend", "Blending", "", "sharp", "soft"},
};
//                               size depth var turn flip blend
constexpr float kPrints[] = {9.0f, 0.5f, 0.3f, 0.3f, 0.5f, 0.4f};

float finestPrint(const Growth &g)
{
    return g.value("size") / 40;
}

float finestScale(const Growth &g)
{
    float fine = g.value("size") * 0.12f;
    if (g.value("rings") >= 1)
        fine = std::min(fine, g.value("size") * 0.35f / g.value("rings"));
    if (g.value("barbs") >= 1)
        fine = std::min(fine, g.value("size") * 0.5f / g.value("barbs"));
    return fine;
}
float finestWave(const Growth &g)
{
    return g.value("size") * (1 - 0.4f * g.value("age")) * (g.value("fine") + g.value("age") > 0 ? 0.36f : 1.0f) / 4;
}
float finestSpot(const Growth &g)
{
    return g.value("size") / 4;
}
float finestCrack(const Growth &g)
{
    return g.value("size") * g.value("width") * 0.7f;
}
float finestVein(const Growth &g)
{
    return g.value("size") * 0.25f;
}

constexpr GrowthKind kKinds[] = {
    {"pebbles", "Pebbles", "Rounded scales side by side, as on muzzles and throats.", kScaleSettings, kPebbles, growScales,
     finestScale},
    {"scales", "Scales", "Overlapping scales with a free edge, in rows along the flow.", kScaleSettings, kRoof, growScales,
     finestScale},
    {"keels", "Keels", "Pointed overlapping scales with a ridge along the middle.", kScaleSettings, kKeeled, growScales,
     finestScale},
    {"shields", "Shields", "Large plates side by side, each with growth rings.", kScaleSettings, kShields, growScales,
     finestScale},
    {"plates", "Plates", "Broad belly plates across the flow, one behind the other.", kScaleSettings, kPlates, growScales,
     finestScale},
    {"feathers", "Feathers", "Long overlapping scales with a shaft and a fine vane.", kScaleSettings, kFeathers, growScales,
     finestScale},
    {"wrinkles", "Wrinkles", "Fine lines across the flow, that branch and end.", kWaveSettings, kWrinkles, growWaves, finestWave},
    {"folds", "Folds", "Deep folds where limbs bend, deepest inside the bend.", kWaveSettings, kFolds, growWaves, finestWave},
    {"ridges", "Ridges", "Even ridges or rings across the flow.", kWaveSettings, kRidges, growWaves, finestWave},
    {"bark", "Bark", "Rough furrows along the flow.", kWaveSettings, kBark, growWaves, finestWave},
    {"pores", "Pores", "Small pits.", kSpotSettings, kPores, growSpots, finestSpot},
    {"bumps", "Bumps", "Small round hills.", kSpotSettings, kBumps, growSpots, finestSpot},
    {"warts", "Warts", "Ragged hills in groups.", kSpotSettings, kWarts, growSpots, finestSpot},
    {"cracks", "Cracks", "A net of cracks with raised rims.", kCrackSettings, kCracks, growCracks, finestCrack},
    {"prints", "Prints", "A stamp laid all over the skin without seams, never twice the same way.", kPrintSettings, kPrints,
     growPrints, finestPrint, true},
    {"veins", "Veins", "A tree of veins under the skin.", kVeinSettings, kVeins, growVeins, finestVein},
};

/// The site nearest to a place, if one is within its size.
Site *siteAt(std::vector<Site> &sites, Vec3f at)
{
    Site *best = nullptr;
    float least = std::numeric_limits<float>::max();
    for (Site &s : sites)
        if (const float d = length(s.at - at) / s.size; d < least && d < 1)
            least = d, best = &s;
    return best;
}

} // namespace

std::span<const GrowthKind> growthKinds()
{
    return kKinds;
}

const GrowthKind *growthNamed(std::string_view name)
{
    const auto it = std::find_if(std::begin(kKinds), std::end(kKinds), [&](const GrowthKind &k) { return k.name == name; });
    return it == std::end(kKinds) ? nullptr : it;
}

Growth growthOf(const GrowthKind &kind)
{
    Growth g;
    g.kind = &kind;
    g.values.assign(kind.usual.begin(), kind.usual.end());
    return g;
}

float Growth::value(std::string_view setting) const
{
    for (std::size_t i = 0; i < kind->settings.size(); ++i)
        if (kind->settings[i].name == setting)
            return values[i];
    return 0;
}

Vec3f GrowInput::folded(Vec3f p) const
{
    if (!growth.isMirrored || !about.plane)
        return p;
    const float side = dot(p - *about.plane, *about.planeNormal);
    return side < 0 ? p - *about.planeNormal * (2 * side) : p;
}

Vec3f GrowInput::unfolded(Vec3f at, Vec3f direction) const
{
    const bool isOther = growth.isMirrored && about.plane && dot(at - *about.plane, *about.planeNormal) < 0;
    return isOther ? direction - *about.planeNormal * (2 * dot(direction, *about.planeNormal)) : direction;
}

std::vector<Site> GrowInput::sites(const ScatterSettings &settings) const
{
    std::vector<Site> sites = scatter(ground, flow, about, masked, settings, progress);
    for (const SiteEdit &e : growth.edits)
        if (Site *s = siteAt(sites, e.at)) {
            const Quat turn = rotationAbout(s->normal, e.rotation * 3.14159265f / 180);
            s->along = rotate(turn, s->along), s->across = rotate(turn, s->across);
            s->size *= e.size, s->lift *= e.lift, s->isMissing = s->isMissing || e.isMissing;
        }
    return sites;
}

Status grow(Skin &skin, std::uint32_t id, Growth growth, const Surroundings &about, const Progress &progress)
{
    const auto place = std::find_if(skin.layers.begin(), skin.layers.end(), [&](const Layer &l) { return l.id == id; });
    if (place == skin.layers.end())
        return Error{ErrorCode::Unknown, "layer", "it is not there any more"};
    const Error stopped{ErrorCode::Cancelled, place->name, "not grown"};
    progress.say(0.05f, "ground");
    const Ground ground = groundOf(skin);
    if (progress.isCancelled())
        return stopped;
    const Flow flow(ground, about, growth.value("stretch"));
    BlockArray<float> height(skin.body.size());
    growth.kind->grow({growth, ground, flow, about, place->mask, progress}, height);
    if (progress.isCancelled())
        return stopped;
    progress.say(0.9f, "laying it on");
    const float most = growth.value("depth");
    BlockArray<Vec3f> offsets(skin.body.size());
    std::vector<std::shared_ptr<mesh::Block<Vec3f>>> made(offsets.blockCount());
    forEachBlock(made.size(), 1, [&](BlockRange r) {
        const float *h = height.data(r.begin);
        const std::size_t n = offsets.countIn(r.begin);
        if (!h || std::all_of(h, h + n, [](float v) { return v == 0; }))
            return;
        auto block = std::make_shared<mesh::Block<Vec3f>>();
        block->values.resize(n);
        const mesh::PackedNormal *normals = ground.normals.data(r.begin);
        for (std::size_t i = 0; i < n; ++i)
            block->values[i] = normals[i].unpack() * std::clamp(h[i], -most, most);
        made[r.begin] = std::move(block);
    });
    std::vector<std::uint32_t> changed;
    for (std::uint32_t b = 0; b < made.size(); ++b) {
        if (made[b] || place->offsets.has(b))
            changed.push_back(b);
        offsets.put(b, std::move(made[b]));
    }
    place->offsets = std::move(offsets);
    place->growth = std::make_shared<const Growth>(std::move(growth));
    mixBlocks(skin, changed);
    forgetGrown(skin, id);
    return Done{};
}

std::vector<Site> sitesOf(const Skin &skin, const Growth &growth, const BlockArray<std::uint8_t> &masked,
                          const Surroundings &about)
{
    const auto family = growth.kind->grow;
    if (family != growScales && family != growSpots)
        return {};
    const Ground ground = groundOf(skin);
    const Flow flow(ground, about, growth.value("stretch"));
    const Progress none;
    return GrowInput{growth, ground, flow, about, masked, none}.sites(family == growScales ? scaleSites(growth)
                                                                                           : spotSites(growth));
}

namespace {

/// The sites of the cells of a layer, and for each vertex that may show it body(block, index in it, how much it lies in a cell,
/// which). Errors: BadValue for what has no cells.
template <typename Prepare, typename Body>
Status eachCell(const Skin &skin, const Layer &layer, const Surroundings &about, const Progress &progress, const Prepare &prepare,
                const Body &body)
{
    if (!layer.growth || !hasCells(*layer.growth->kind))
        return Error{ErrorCode::BadValue, layer.name, "only scales, plates and spots have cells"};
    const Growth &growth = *layer.growth;
    const Ground ground = groundOf(skin);
    const Flow flow(ground, about, growth.value("stretch"));
    const GrowInput in{growth, ground, flow, about, layer.mask, progress};
    const bool isScales = growth.kind->grow == growScales;
    const std::vector<Site> sites = in.sites(isScales ? scaleSites(growth) : spotSites(growth));
    const float aspect = growth.value("aspect");
    prepare(sites);
    forEachVertex(
        in, sites, [&](const Site &s) { return 1.3f * s.size * std::max(1.0f, aspect); },
        [&](std::size_t b, std::size_t i, const Spot &spot, std::span<const std::uint32_t> near) {
            float least = 10, second = 10;
            std::uint32_t owner = kNone;
            for (const std::uint32_t k : near)
                if (!sites[k].isMissing && dot(sites[k].normal, spot.normal) > 0.1f) {
                    const float d = distanceFrom(sites[k], aspect, spot.at) / sites[k].size;
                    second = std::min(second, std::max(least, d));
                    if (d < least)
                        least = d, owner = k;
                }
            body(b, i, isScales ? smoothStep(0.02f, 0.35f, second - least) : smoothStep(0.6f, 0.3f, least), owner, least);
        });
    return Done{};
}

/// One of so many kinds for each site, from 0: the one that fewest of its neighbours have, beginning at one drawn at random.
std::vector<std::uint16_t> unlikeNeighbours(const std::vector<Site> &sites, int kinds, std::uint64_t seed)
{
    std::vector<Vec3f> places;
    float most = 0;
    for (const Site &s : sites)
        places.push_back(s.at), most = std::max(most, s.size);
    const PointGrid grid(places, 2.4f * most);
    std::vector<std::uint16_t> kindOf(sites.size(), 0); // 1 and up once it is known
    for (std::size_t k = 0; k < sites.size(); ++k) {
        std::vector<int> taken(std::size_t(kinds), 0);
        grid.around(places[k], 1.3f * (sites[k].size + most), [&](std::uint32_t o) {
            if (kindOf[o] > 0 && length(places[o] - places[k]) < 1.3f * (sites[k].size + sites[o].size))
                ++taken[std::size_t(kindOf[o] - 1)];
        });
        const auto first = std::size_t((0.5f + 0.5f * randomSigned(seed, k)) * float(kinds)) % std::size_t(kinds);
        std::size_t best = first;
        for (std::size_t n = 1; n < std::size_t(kinds); ++n)
            if (const std::size_t other = (first + n) % std::size_t(kinds); taken[other] < taken[best])
                best = other;
        kindOf[k] = std::uint16_t(best + 1);
    }
    for (std::uint16_t &k : kindOf)
        --k;
    return kindOf;
}

} // namespace

Result<BlockArray<std::uint8_t>> cellsOf(const Skin &skin, const Layer &layer, const Surroundings &about,
                                         const Progress &progress)
{
    BlockArray<std::uint8_t> out(skin.body.size());
    for (std::size_t b = 0; b < out.blockCount(); ++b)
        out.edit(b);
    const Status done = eachCell(
        skin, layer, about, progress, [](const std::vector<Site> &) {},
        [&](std::size_t b, std::size_t i, float share, std::uint32_t, float) {
            out.edit(b)[i] = std::uint8_t(std::lround(255 * share));
        });
    if (!done)
        return done.error();
    return out;
}

Result<BlockArray<std::uint16_t>> cellKinds(const Skin &skin, const Layer &layer, const Surroundings &about, int kinds,
                                            const Progress &progress)
{
    BlockArray<std::uint16_t> out(skin.body.size());
    for (std::size_t b = 0; b < out.blockCount(); ++b)
        out.edit(b);
    std::vector<std::uint16_t> kindOf;
    const Status done = eachCell(
        skin, layer, about, progress,
        [&](const std::vector<Site> &sites) { kindOf = unlikeNeighbours(sites, kinds, layer.growth->seed); },
        [&](std::size_t b, std::size_t i, float share, std::uint32_t owner, float) {
            out.edit(b)[i] = share > 0.25f && owner != kNone ? std::uint16_t(kindOf[owner] + 1) : std::uint16_t(0);
        });
    if (!done)
        return done.error();
    return out;
}

bool hasCells(const GrowthKind &kind)
{
    return kind.grow == growScales || kind.grow == growSpots;
}

Status eachCellOf(const Skin &skin, const Layer &layer, const Surroundings &about, const Progress &progress, int kinds,
                  const std::function<void(std::size_t, float, const Cell &)> &use)
{
    std::vector<Cell> cells;
    const auto prepare = [&](const std::vector<Site> &sites) {
        const std::vector<std::uint16_t> kindOf = unlikeNeighbours(sites, kinds, layer.growth->seed);
        const float aspect = std::max(layer.growth->value("aspect"), 0.1f);
        for (std::size_t k = 0; k < sites.size(); ++k)
            cells.push_back(
                {sites[k].number, kindOf[k], int(std::lround(dot(sites[k].at, sites[k].along) / (sites[k].size * aspect))), 0});
    };
    return eachCell(skin, layer, about, progress, prepare,
                    [&](std::size_t b, std::size_t i, float share, std::uint32_t owner, float least) {
                        if (owner == kNone)
                            return;
                        Cell cell = cells[owner];
                        cell.middle = smoothStep(0.6f, 0.05f, least);
                        use(b * mesh::kBlockSize + i, share, cell);
                    });
}

} // namespace bonemoss::growth
