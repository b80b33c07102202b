#include "colour/rule.h"

#include "base/parallel.h"
#include "colour/detail/kinds.h"
#include "growth/flow.h"

#include <algorithm>
#include <queue>

namespace bonemoss::colour {

namespace {

using namespace detail;

constexpr GrowthSetting kCurvature[] = {
    {"width", "Width", "mm", "fine", "broad", 0.1f, 60},
    {"from", "From", "", "slight", "only strong", 0, 2},
    {"soft", "Softness", "", "hard", "soft", 0.02f, 2},
};
constexpr float kHollows[] = {2.4f, 0.1f, 0.5f}, kRidges[] = {2.0f, 0.25f, 0.5f};

constexpr GrowthSetting kSlopeSettings[] = {
    {"angle", "Angle", "deg", "up", "down", 0, 180},
    {"spread", "Spread", "deg", "narrow", "wide", 5, 180},
};
constexpr float kSlope[] = {0, 80};

constexpr GrowthSetting kThicknessSettings[] = {{"thin", "Thickness", "mm", "thinnest", "thick", 0.1f, 200}};
constexpr float kThickness[] = {6};

constexpr GrowthSetting kOcclusionSettings[] = {
    {"from", "From", "", "all shade", "deep shade"},
    {"soft", "Softness", "", "hard", "soft", 0.02f, 1},
};
constexpr float kOcclusion[] = {0.15f, 0.6f};

constexpr GrowthSetting kSpanSettings[] = {
    {"from", "From", "", "lower end", "upper end"},
    {"to", "To", "", "lower end", "upper end"},
};
constexpr float kSpan[] = {0, 1};

constexpr GrowthSetting kGradientSettings[] = {{"soft", "Softness", "", "hard", "soft"}};
constexpr float kGradient[] = {1};

constexpr GrowthSetting kNearSettings[] = {
    {"reach", "Reach", "mm", "close", "far", 0.2f, 1000},
    {"soft", "Softness", "", "hard", "soft"},
};
constexpr float kNear[] = {15, 1};

constexpr GrowthSetting kNoiseSettings[] = {
    {"size", "Size", "mm", "fine", "large", 0.2f, 300},   {"fine", "Fine parts", "", "smooth", "rough"},
    {"stretch", "Stretch", "", "even", "along the flow"}, {"cover", "Coverage", "", "little", "all"},
    {"soft", "Softness", "", "hard", "soft", 0.02f, 1},
};
constexpr float kNoise[] = {9, 0.5f, 0, 0.5f, 0.5f};

constexpr GrowthSetting kVeinSettings[] = {
    {"size", "Spacing", "mm", "close", "wide", 0.5f, 200},
    {"width", "Width", "", "hair", "broad", 0.02f, 0.5f},
    {"wander", "Wandering", "", "straight", "wandering"},
    {"branch", "Branches", "", "few", "many"},
};
constexpr float kVeins[] = {12, 0.08f, 0.5f, 0.6f};

constexpr GrowthSetting kCellSettings[] = {
    {"variation", "Variation", "", "all alike", "no two alike"},
    {"middle", "Middle to edge", "", "flat", "lighter middle"},
    {"rows", "Row by row", "", "none", "alternate"},
    {"apart", "Neighbours differ", "", "by chance", "always"},
};
constexpr float kCells[] = {1, 0.25f, 0, 0.5f};

constexpr GrowthSetting kHeightSettings[] = {
    {"from", "From", "mm", "lowest", "highest", -20, 20},
    {"to", "To", "mm", "lowest", "highest", -20, 20},
};
constexpr float kHeights[] = {0, 0.6f};

constexpr GrowthSetting kShadeSettings[] = {
    {"line", "Line", "", "at the belly", "at the back"},
    {"soft", "Softness", "", "hard", "soft", 0.02f, 1},
    {"ragged", "Raggedness", "", "even", "ragged"},
};
constexpr float kShade[] = {0.45f, 0.7f, 0.25f};

constexpr GrowthSetting kWornSettings[] = {
    {"width", "Width", "mm", "fine", "broad", 0.1f, 60},
    {"wear", "Wear", "", "new", "worn"},
    {"patchy", "Patches", "", "everywhere", "here and there"},
};
constexpr float kWorn[] = {1.6f, 0.5f, 0.5f};

constexpr GrowthSetting kCoatSettings[] = {
    {"size", "Size", "mm", "small", "large", 1, 400},          {"cover", "Coverage", "", "few", "nearly all", 0.02f, 0.95f},
    {"even", "Regularity", "", "organic", "even", 1, 4},       {"stretch", "Stretch", "", "round", "long", 1, 4},
    {"limbs", "Smaller on limbs", "", "same", "much smaller"}, {"edge", "Edge", "mm", "sharp", "soft", 0.02f, 30},
    {"ragged", "Ragged edge", "mm", "clean", "hairy", 0, 10},  {"difference", "Sides differ", "", "mirrored", "each its own"},
};
//                              size cover even stretch limbs edge ragged difference
constexpr float kSpots[] = {11, 0.26f, 2, 1, 0.6f, 0.35f, 0.2f, 0.4f}, kStripes[] = {18, 0.48f, 2, 1, 0.75f, 0.35f, 0.3f, 0.4f},
                kBands[] = {16, 0.42f, 2.5f, 1, 0.5f, 0.4f, 0.2f, 0.3f}, kNet[] = {14, 0.5f, 3, 1.3f, 0.6f, 0.3f, 0.1f, 0.4f},
                kLabyrinth[] = {13, 0.5f, 2.5f, 1, 0.5f, 0.3f, 0.1f, 0.4f},
                kRosettes[] = {20, 0.36f, 1.5f, 1.15f, 0.8f, 0.4f, 0.3f, 0.5f},
                kPatches[] = {24, 0.86f, 1.2f, 1, 0.75f, 0.4f, 0.15f, 0.6f},
                kStreaks[] = {15, 0.3f, 2, 3.5f, 0.6f, 1, 0.2f, 0.4f}, kRows[] = {12, 0.17f, 2, 1, 0.5f, 0.4f, 0.1f, 0.2f},
                kPied[] = {90, 0.45f, 1, 1, 0.15f, 0.6f, 0.6f, 1};

float sizeOfMarks(const Rule &r)
{
    return 0.12f * r.value("size");
}
float halfWidth(const Rule &r)
{
    return 0.5f * r.value("width");
}
float partOfNoise(const Rule &r)
{
    return r.value("size") * (r.value("fine") > 0.3f ? 0.12f : 0.25f);
}
float veinWidth(const Rule &r)
{
    return r.value("size") * r.value("width");
}

constexpr RuleKind kKinds[] = {
    {"hollows", "Hollows", "Folds, pits and grooves of about a width.", kCurvature, kHollows, Source::None, hollowValues,
     halfWidth},
    {"ridges", "Ridges", "Edges, knuckles and rims of about a width.", kCurvature, kRidges, Source::None, ridgeValues, halfWidth},
    {"slope", "Slope", "Skin that faces up, down or to the side.", kSlopeSettings, kSlope, Source::None, slopeValues},
    {"thickness", "Thin parts", "Skin with little behind it: ears, fins, lids.", kThicknessSettings, kThickness, Source::None,
     thicknessValues},
    {"occlusion", "In the shade", "Ambient occlusion: where other skin keeps the light away.", kOcclusionSettings, kOcclusion,
     Source::None, occlusionValues},
    {"height", "Height", "From the feet up.", kSpanSettings, kSpan, Source::None, heightValues},
    {"along", "Nose to tail", "From the nose to the tail, over the skin.", kSpanSettings, kSpan, Source::None, alongValues},
    {"gradient", "Gradient", "Along a drawn line, from its first point to its last.", kGradientSettings, kGradient, Source::Line,
     gradientValues},
    {"near", "Near a place", "Round a mask, a group, a joint or the roots of an outgrowth.", kNearSettings, kNear, Source::Place,
     nearValues},
    {"noise", "Noise", "Clouds and mottle, on wish stretched along the flow.", kNoiseSettings, kNoise, Source::None, noiseValues,
     partOfNoise},
    {"veins", "Veins", "A branching net of lines.", kVeinSettings, kVeins, Source::None, veinValues, veinWidth},
    {"cells", "By scales", "Each scale or spot of a growth its own shade.", kCellSettings, kCells, Source::Growth, cellValues},
    {"relief", "Layer relief", "The height of a detail layer.", kHeightSettings, kHeights, Source::Layer, reliefValues},
    {"countershade", "Back and belly", "Countershading: most animals are darker above (Thayer 1909).", kShadeSettings, kShade,
     Source::None, shadeValues},
    {"worn", "Worn edges", "Ridges rubbed bare here and there.", kWornSettings, kWorn, Source::None, wornValues, halfWidth},
    {"spots", "Spots", "Round marks at even distances.", kCoatSettings, kSpots, Source::None, coatSpots, sizeOfMarks, true},
    {"rosettes", "Rosettes", "Broken rings of small marks.", kCoatSettings, kRosettes, Source::None, coatRosettes, sizeOfMarks,
     true},
    {"stripes", "Stripes", "Stripes across the body.", kCoatSettings, kStripes, Source::None, coatStripes, sizeOfMarks, true},
    {"bands", "Bands", "Bands along the body.", kCoatSettings, kBands, Source::None, coatBands, sizeOfMarks, true},
    {"labyrinth", "Labyrinth", "Winding stripes in every direction.", kCoatSettings, kLabyrinth, Source::None, coatLabyrinth,
     sizeOfMarks, true},
    {"net", "Net", "A net with round holes.", kCoatSettings, kNet, Source::None, coatNet, sizeOfMarks, true},
    {"patches", "Patches", "Angular patches with lines of even width between.", kCoatSettings, kPatches, Source::None,
     coatPatches, sizeOfMarks, true},
    {"streaks", "Streaks", "Long marks along the body.", kCoatSettings, kStreaks, Source::None, coatStreaks, sizeOfMarks, true},
    {"rows", "Rows of spots", "Spots in rows along the body.", kCoatSettings, kRows, Source::None, coatRows, sizeOfMarks, true},
    {"pied", "Pied", "A few great patches.", kCoatSettings, kPied, Source::None, coatPied, sizeOfMarks, true},
};

} // namespace

std::span<const RuleKind> ruleKinds()
{
    return kKinds;
}

const RuleKind *ruleNamed(std::string_view name)
{
    const auto at = std::find_if(std::begin(kKinds), std::end(kKinds), [&](const RuleKind &k) { return k.name == name; });
    return at == std::end(kKinds) ? nullptr : at;
}

float Rule::value(std::string_view setting) const
{
    for (std::size_t k = 0; k < kind->settings.size(); ++k)
        if (kind->settings[k].name == setting)
            return settings[k];
    return 0;
}

Rule ruleOf(const RuleKind &kind)
{
    Rule r;
    r.kind = &kind;
    r.settings.assign(kind.usual.begin(), kind.usual.end());
    return r;
}

skin::ColourRamp rampOf(const skin::Ink &ink)
{
    return {{{0, ink, 0}, {1, ink, 1}}, {}};
}

const growth::Ground &RuleGround::ground() const
{
    const std::scoped_lock lock(m_lock);
    if (!m_ground)
        m_ground = std::make_unique<growth::Ground>(growth::groundOf(m_skin));
    return *m_ground;
}

std::shared_ptr<const growth::Flow> RuleGround::flow() const
{
    const growth::Ground &g = ground();
    const std::scoped_lock lock(m_lock);
    if (!m_flow)
        m_flow = std::make_shared<const growth::Flow>(g, m_about);
    return m_flow;
}

const std::vector<Vec3f> &RuleGround::positions() const
{
    const std::scoped_lock lock(m_lock);
    if (m_positions.empty())
        m_positions = m_skin.shown.positions.flatten();
    return m_positions;
}

const RuleGround::Net &RuleGround::net() const
{
    const std::scoped_lock lock(m_lock);
    if (m_net)
        return *m_net;
    m_net = std::make_unique<Net>();
    const mesh::Topology &t = *m_skin.shown.topology;
    std::vector<std::vector<std::uint32_t>> about(t.blockCount()),
        counts(t.blockCount()); // neighbours of own vertices, block by block
    forEachBlock(t.blockCount(), 1, [&](BlockRange r) {
        const mesh::BlockFaces &faces = t.block(r.begin);
        std::vector<std::uint32_t> &count = counts[r.begin], &out = about[r.begin];
        count.assign(faces.own + 1, 0);
        const auto eachSide = [&](const auto &use) {
            for (const mesh::LocalFace &f : faces.faces)
                for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
                    const std::uint16_t a = f.v[c], d = f.v[c + 1 < n ? c + 1 : 0];
                    if (a < faces.own)
                        use(a, d);
                    if (d < faces.own)
                        use(d, a);
                }
        };
        eachSide([&](std::uint16_t a, std::uint16_t) { ++count[a + 1]; });
        for (std::size_t i = 0; i < faces.own; ++i)
            count[i + 1] += count[i];
        std::vector<std::uint32_t> next(count.begin(), count.end() - 1), all(count.back());
        eachSide([&](std::uint16_t a, std::uint16_t d) { all[next[a]++] = t.vertexOf(r.begin, d); });
        std::vector<std::uint32_t> firsts(faces.own + 1, 0); // each once
        for (std::size_t i = 0; i < faces.own; ++i) {
            const auto begin = all.begin() + count[i], end = all.begin() + count[i + 1];
            std::sort(begin, end);
            out.insert(out.end(), begin, std::unique(begin, end));
            firsts[i + 1] = std::uint32_t(out.size());
        }
        count = std::move(firsts);
    });
    m_net->first.reserve(t.vertexCount() + 1);
    m_net->first.push_back(0);
    for (std::size_t b = 0; b < about.size(); ++b) {
        const auto before = std::uint32_t(m_net->all.size());
        m_net->all.insert(m_net->all.end(), about[b].begin(), about[b].end());
        for (std::size_t i = 1; i < counts[b].size(); ++i)
            m_net->first.push_back(before + counts[b][i]);
    }
    return *m_net;
}

Vec3f RuleInput::folded(Vec3f p) const
{
    if (!rule.isMirrored || !about.plane)
        return p;
    const float d = dot(p - *about.plane, *about.planeNormal);
    return d < 0 ? p - *about.planeNormal * (2 * d) : p;
}

void blurred(const RuleGround::Net &net, std::uint32_t passes, std::vector<float> &values)
{
    std::vector<float> next(values.size());
    for (std::uint32_t k = 0; k < passes; ++k) {
        forEachBlock(values.size(), 16384, [&](BlockRange r) {
            for (std::size_t v = r.begin; v < r.end; ++v) {
                if (values[v] < 0) {
                    next[v] = values[v];
                    continue;
                }
                float sum = values[v], count = 1;
                for (const std::uint32_t o : net.of(v))
                    if (values[o] >= 0)
                        sum += values[o], count += 1;
                next[v] = sum / count;
            }
        });
        values.swap(next);
    }
}

namespace {

/// A sweep outward from some vertices; key(vertex, from, its own key, its seed) tells how far a vertex is by way of its neighbour.
template <typename Key>
std::vector<float> sweep(const RuleGround &ground, std::span<const std::uint32_t> from, float reach,
                         std::vector<std::uint32_t> *nearest, const Key &key)
{
    const RuleGround::Net &net = ground.net();
    std::vector<float> out(net.first.size() - 1, kFar);
    std::vector<std::uint32_t> seeds(out.size(), kNone);
    using Item = std::pair<float, std::uint32_t>;
    std::priority_queue<Item, std::vector<Item>, std::greater<>> queue;
    for (std::uint32_t k = 0; k < from.size(); ++k)
        if (seeds[from[k]] == kNone)
            out[from[k]] = 0, seeds[from[k]] = k, queue.emplace(0.0f, from[k]);
    while (!queue.empty()) {
        const auto [far, v] = queue.top();
        queue.pop();
        if (far > out[v])
            continue;
        for (const std::uint32_t o : net.of(v))
            if (const float d = key(o, v, far, from[seeds[v]]); d < out[o] && d <= reach)
                out[o] = d, seeds[o] = seeds[v], queue.emplace(d, o);
    }
    if (nearest)
        *nearest = std::move(seeds);
    return out;
}

} // namespace

std::vector<float> distances(const RuleGround &ground, std::span<const std::uint32_t> from, float reach,
                             std::vector<std::uint32_t> *nearest)
{
    const std::vector<Vec3f> &p = ground.positions();
    return sweep(ground, from, reach, nearest,
                 [&](std::uint32_t o, std::uint32_t, float, std::uint32_t seed) { return length(p[o] - p[seed]); });
}

std::vector<float> waysAlong(const RuleGround &ground, std::span<const std::uint32_t> from)
{
    const std::vector<Vec3f> &p = ground.positions();
    return sweep(ground, from, kFar, nullptr,
                 [&](std::uint32_t o, std::uint32_t v, float far, std::uint32_t) { return far + length(p[o] - p[v]); });
}

Status run(Skin &skin, std::uint32_t layer, const Rule &rule, const RuleInput &in)
{
    std::vector<float> values(skin.body.size(), -1.0f);
    if (!rule.kind->values(in, values) || in.progress.isCancelled())
        return Error{ErrorCode::Cancelled, std::string(rule.kind->title), "the colour layer stays as it was"};
    if (rule.blur > 0)
        blurred(in.ground.net(), rule.blur, values);
    const float steep = rule.contrast >= 1 ? 255 : 1 / (1 - std::max(rule.contrast, 0.0f));
    skin::Bytes made(skin.body.size());
    for (std::size_t b = 0; b < made.blockCount(); ++b)
        made.edit(b);
    forEachBlock(made.blockCount(), 1, [&](BlockRange r) {
        std::uint8_t *out = made.edit(r.begin);
        const float *v = values.data() + r.begin * mesh::kBlockSize;
        for (std::size_t i = 0; i < made.countIn(r.begin); ++i) {
            if (!(v[i] >= 0)) // nor what is no number
                continue;
            float f = std::min(v[i], 1.0f);
            if (rule.isReversed)
                f = 1 - f;
            if (rule.curve)
                f = std::clamp(sculpt::weightOf(*rule.curve, std::min(f, 0.99999f)), 0.0f, 1.0f);
            f = std::clamp((f - 0.5f) * steep + 0.5f, 0.0f, 1.0f);
            out[i] = std::uint8_t(std::lround(1 + 254 * f));
        }
    });
    std::vector<std::uint32_t> changed = skin::blocksOf(skin, layer);
    for (std::uint32_t b = 0; b < made.blockCount(); ++b)
        if (const std::uint8_t *v = made.data(b); std::all_of(v, v + made.countIn(b), [](std::uint8_t x) { return x == 0; }))
            made.put(b, nullptr);
    skin::layerValuesOf(skin, layer, skin::LayerChannel::Rule) = std::move(made);
    skin::colourLayer(skin, layer)->rule = std::make_shared<const Rule>(rule);
    const std::vector<std::uint32_t> now = skin::blocksOf(skin, layer);
    changed.insert(changed.end(), now.begin(), now.end());
    std::sort(changed.begin(), changed.end());
    changed.erase(std::unique(changed.begin(), changed.end()), changed.end());
    skin::composeColours(skin, changed);
    return Done{};
}

} // namespace bonemoss::colour
