// Coats: patterns grown on the skin.
#include "base/parallel.h"
#include "base/point_grid.h"
#include "colour/detail/cloth.h"
#include "colour/detail/kinds.h"
#include "growth/flow.h"
#include "growth/grow_input.h"

#include <algorithm>
#include <array>
#include <numeric>

namespace bonemoss::colour::detail {

namespace {

/// What a coat needs of a skin that stays while the coat changes.
struct CoatGround {
    std::uint64_t fingerprint = 0;
    Cloth fine;       ///< the skin itself
    CoarseCloth base; ///< over it, where it is finer than most coats need
    bool hasBase = false;
    std::vector<float> spacing; ///< mm, between the nodes of the base, at each
    std::shared_ptr<const growth::Flow> flow;
    std::vector<Vec3f> along;     ///< of it at each node of the base
    std::vector<float> thickness; ///< mm of flesh behind each, evened out
    const Cloth &cloth() const { return hasBase ? base.cloth : fine; }
};

constexpr std::size_t kBaseNodes = 60000;
constexpr float kLeastSize = 0.34f, kUsualLimbs = 0.65f; ///< smallest marks on thin limbs; how much smaller they are usually

/// Size of marks where flesh is so many times as thick as on most of the body.
float sizeFor(float thickness, float limbs)
{
    return std::clamp(std::pow(thickness, limbs), kLeastSize, 1.0f);
}
/// A value that a fifth lie above.
float fourFifths(std::vector<float> values)
{
    if (values.empty())
        return 1;
    const auto at = values.begin() + std::ptrdiff_t(values.size() * 4 / 5);
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

/// Flesh behind each node, evened over its neighbours as logarithms: how thick the limb is that it lies on.
std::vector<float> thicknessOf(const mesh::Surface &s, const Cloth &c)
{
    const float little = 0.02f * std::max(meanEdgeLength(s), 1e-6f), most = std::max(s.box().diagonal(), 1e-3f);
    std::vector<float> now(c.size()), next(c.size());
    forEachBlock(c.size(), 512, [&](BlockRange r) {
        for (std::size_t v = r.begin; v < r.end; ++v) {
            const auto hit = castRay(s, {c.at[v] - c.normal[v] * little, -c.normal[v]});
            now[v] = std::log(std::clamp(hit ? hit->distance : most, 1e-3f, most));
        }
    });
    for (int step = 0; step < 60; ++step) {
        forEachBlock(c.size(), 4096, [&](BlockRange r) {
            for (std::size_t v = r.begin; v < r.end; ++v) {
                float sum = now[v];
                for (const std::uint32_t o : c.neighbours(v))
                    sum += now[o];
                next[v] = sum / float(c.neighbours(v).size() + 1);
            }
        });
        now.swap(next);
    }
    for (float &v : now)
        v = std::exp(v);
    return now;
}

/// The ground of the last skin asked for: a change of settings grows another coat on the same.
std::shared_ptr<const CoatGround> groundFor(const RuleInput &in)
{
    static std::mutex lock;
    static std::shared_ptr<const CoatGround> last;
    const std::scoped_lock held(lock);
    if (last && last->fingerprint == in.fingerprint && last->fine.size() == in.skin.body.size())
        return last;
    auto made = std::make_shared<CoatGround>();
    made->fingerprint = in.fingerprint;
    made->fine = clothOf(in.skin.shown);
    const std::vector<float> areas = areasOf(made->fine);
    const float area = std::accumulate(areas.begin(), areas.end(), 0.0f), edge = std::max(meanEdgeLength(in.skin.shown), 1e-6f);
    made->spacing.assign(made->fine.size(), edge);
    if (made->fine.size() > kBaseNodes * 3 / 2) {                        // denser on thin limbs, where marks are smaller
        const float apart = std::sqrt(area / float(kBaseNodes) / 0.72f); // about what such nodes take of a plane
        const CoarseCloth rough = coarser(made->fine, [&](std::size_t) { return 2 * apart; });
        std::vector<float> sizes = thicknessOf(in.skin.shown, rough.cloth);
        const float thick = fourFifths(sizes);
        for (float &v : sizes)
            v = sizeFor(v / thick, kUsualLimbs);
        const NodeField wanted = carried(withSlopes(rough.cloth, std::move(sizes)), rough, made->fine);
        const auto spacingAt = [&](std::size_t v) {
            return std::max(edge, apart * std::clamp(wanted.value[v], kLeastSize, 1.0f));
        };
        std::vector<std::uint32_t> nodes;
        made->base = coarser(made->fine, spacingAt, &nodes);
        made->spacing.clear();
        for (const std::uint32_t v : nodes)
            made->spacing.push_back(spacingAt(v));
        made->hasBase = true;
    }
    const Cloth &c = made->cloth();
    std::vector<growth::GroundPoint> points(c.size());
    for (std::size_t v = 0; v < c.size(); ++v)
        points[v] = {c.at[v], c.normal[v]};
    std::vector<growth::Flow::At> at(c.size());
    made->flow = in.ground.flow();
    made->flow->at(points, at);
    for (const growth::Flow::At &a : at)
        made->along.push_back(a.along);
    made->thickness = thicknessOf(in.skin.shown, c);
    last = made;
    return last;
}

struct CoatKind {
    float bias = 0;
    float perSize = 1; ///< wavelength over the size that was set
    float order = 0;
    bool isAlong = false;
    float sharpness = 2.5f;
};

/// A pattern with what it grew on.
struct Grown {
    std::shared_ptr<const CoatGround> ground;
    std::shared_ptr<const CoarseCloth> own; ///< over the base or the skin; null where it grew on the base itself
    bool isOverFine = false;
    std::vector<Vec3f> along;
    std::vector<float> wavelength;
    std::vector<std::uint32_t> twins;
    std::vector<Vec3f> noiseAt;
    float longest = 1; ///< wavelength, mm
    NodeField field;

    const Cloth &cloth() const { return own ? own->cloth : ground->cloth(); }
    /// At every vertex of the skin.
    NodeField onSkin(const NodeField &f) const
    {
        if (!own)
            return ground->hasBase ? carried(f, ground->base, ground->fine) : f;
        if (isOverFine || !ground->hasBase)
            return carried(f, *own, ground->fine);
        return carried(carried(f, *own, ground->base.cloth), ground->base, ground->fine);
    }
};

/// The cloth for marks of that wavelength, with flow, sizes and twins.
Grown prepared(const RuleInput &in, float wavelength, float stretch)
{
    constexpr float kNodes = 7; // for a wavelength
    Grown g;
    g.ground = groundFor(in);
    g.longest = wavelength;
    const Cloth &base = g.ground->cloth();
    const float thick = fourFifths(g.ground->thickness), limbs = in.value("limbs");
    const auto sizeAt = [&](std::size_t v) { return sizeFor(g.ground->thickness[v] / thick, limbs); };
    const float apart = wavelength / (kNodes * std::min(2.0f, std::sqrt(stretch)));
    std::size_t tooCoarse = 0;
    double room = 0; // how many times as far apart as the nodes of the base, in the mean
    for (std::size_t v = 0; v < base.size(); ++v) {
        const float ratio = apart * sizeAt(v) / g.ground->spacing[v];
        tooCoarse += ratio < 0.7f, room += double(ratio) / double(base.size());
    }
    if (g.ground->hasBase && tooCoarse * 50 > base.size()) { // finer than the base
        std::vector<float> sizes(base.size());
        for (std::size_t v = 0; v < sizes.size(); ++v)
            sizes[v] = sizeAt(v);
        const NodeField on = carried(withSlopes(base, std::move(sizes)), g.ground->base, g.ground->fine);
        g.own = std::make_shared<const CoarseCloth>(
            coarser(g.ground->fine, [&](std::size_t v) { return apart * std::clamp(on.value[v], kLeastSize, 1.0f); }));
        g.isOverFine = true;
    } else if (room > 1.25) {
        g.own = std::make_shared<const CoarseCloth>(coarser(base, [&](std::size_t v) { return apart * sizeAt(v); }));
    }
    const Cloth &c = g.cloth();
    std::vector<growth::GroundPoint> points(c.size());
    for (std::size_t v = 0; v < c.size(); ++v)
        points[v] = {c.at[v], c.normal[v]};
    if (g.own) {
        std::vector<growth::Flow::At> flow(c.size());
        g.ground->flow->at(points, flow);
        for (const auto &a : flow)
            g.along.push_back(a.along);
        const float far = *std::max_element(g.ground->spacing.begin(), g.ground->spacing.end());
        const PointGrid grid(base.at, 3 * far);
        for (const Vec3f p : c.at) { // each is a node of the base, or lies between some
            float least = std::numeric_limits<float>::max(), size = 1;
            for (float reach = 1.5f * far; least > 1e30f && reach < 1e4f * far; reach *= 3)
                grid.around(p, reach, [&](std::uint32_t v) {
                    if (const float d = squaredLength(base.at[v] - p); d < least)
                        least = d, size = sizeAt(v);
                });
            g.wavelength.push_back(wavelength * size);
        }
    } else {
        g.along = g.ground->along;
        for (std::size_t v = 0; v < c.size(); ++v)
            g.wavelength.push_back(wavelength * sizeAt(v));
    }
    for (const Vec3f p : c.at)
        g.noiseAt.push_back(in.folded(p));
    if (in.rule.isMirrored && in.about.plane) {
        const PointGrid grid(c.at, apart);
        for (std::size_t v = 0; v < c.size(); ++v) {
            const Vec3f twin = c.at[v] - *in.about.planeNormal * (2 * dot(c.at[v] - *in.about.plane, *in.about.planeNormal));
            std::uint32_t best = std::uint32_t(v);
            float least = 9 * apart * apart;
            grid.around(twin, 3 * apart, [&](std::uint32_t o) {
                if (const float d = squaredLength(c.at[o] - twin); d < least)
                    least = d, best = o;
            });
            g.twins.push_back(best);
        }
    }
    return g;
}

PatternSettings settingsOf(const RuleInput &in, const CoatKind &kind, float wavelength)
{
    PatternSettings s;
    s.bias = kind.bias, s.even = in.value("even"), s.stretch = in.value("stretch"), s.order = kind.order;
    s.isAlong = kind.isAlong, s.sharpness = kind.sharpness, s.seed = in.rule.seed, s.cell = 0.4f * wavelength;
    const float difference = in.value("difference");
    s.mirrored = !in.rule.isMirrored ? 0 : difference <= 0 ? 1 : 0.2f * (1 - difference);
    return s;
}

/// Grows on what was prepared; false when cancelled.
bool grow(Grown &g, const RuleInput &in, const PatternSettings &settings, std::span<const float> bias = {})
{
    const float difference = in.rule.isMirrored ? in.value("difference") : 0; // noise of its own beside that of both sides
    const std::span<const Vec3f> own = difference > 0 ? std::span<const Vec3f>(g.cloth().at) : std::span<const Vec3f>();
    std::vector<float> v =
        grownPattern({g.cloth(), g.along, g.wavelength, bias, g.twins, g.noiseAt, own, difference}, settings, in.progress);
    if (v.empty() && g.cloth().size() > 0)
        return false;
    g.field = withSlopes(g.cloth(), std::move(v));
    return true;
}

/// The value that a share of the area lies above.
float thresholdFor(const Cloth &c, const std::vector<float> &value, float share)
{
    const std::vector<float> area = areasOf(c);
    std::vector<std::uint32_t> order(value.size());
    std::iota(order.begin(), order.end(), 0u);
    std::sort(order.begin(), order.end(),
              [&](std::uint32_t a, std::uint32_t b) { return value[a] > value[b] || (value[a] == value[b] && a < b); });
    const double whole = std::accumulate(area.begin(), area.end(), 0.0);
    double sum = 0;
    for (const std::uint32_t v : order) {
        sum += double(area[v]);
        if (sum >= double(share) * whole)
            return value[v];
    }
    return order.empty() ? 0 : value[order.back()];
}

/// Distance inward from the border of the marks at each vertex, mm, near it; below 0 outside.
std::vector<float> inside(const Grown &g, float threshold)
{
    const NodeField f = g.onSkin(g.field);
    double square = 0;
    for (const float v : g.field.value)
        square += double(v) * double(v);
    const float strength = float(std::sqrt(2 * square / double(std::max<std::size_t>(1, g.field.value.size()))));
    const float least = 0.45f * 2 * kPi * strength / g.longest;
    std::vector<float> out(f.value.size());
    for (std::size_t v = 0; v < out.size(); ++v)
        out[v] = (f.value[v] - threshold) / std::max(length(f.slope[v]) * 1.29f, least);
    return out;
}

/// Marks from distances to their border: soft by the edge that was set, ragged by noise.
void mark(const RuleInput &in, const std::vector<float> &far, std::span<float> out)
{
    const float edge = in.value("edge"), ragged = in.value("ragged"), hair = std::max(2.5f * ragged, 0.05f);
    eachVertex(in, out, [&](std::size_t v, Vec3f p, Vec3f) {
        if (std::abs(far[v]) > edge + 3 * ragged) // noise does not get there
            return far[v] > 0 ? 1.0f : 0.0f;
        const float by = ragged > 0 ? ragged * clouds(p, hair, 0.5f, in.rule.seed + 7) : 0;
        return smoothStep(-edge, edge, far[v] + by);
    });
}

bool simple(const RuleInput &in, std::span<float> out, const CoatKind &kind)
{
    const float wavelength = in.value("size") * kind.perSize;
    Grown g = prepared(in, wavelength, in.value("stretch"));
    if (!grow(g, in, settingsOf(in, kind, wavelength)))
        return false;
    mark(in, inside(g, thresholdFor(g.cloth(), g.field.value, in.value("cover"))), out);
    return true;
}

constexpr float kOfSpacing = 0.866f; // spots stand 2 / sqrt 3 wavelengths from each other

} // namespace

bool coatSpots(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {.bias = -0.30f, .perSize = kOfSpacing});
}

bool coatStripes(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {.order = 0.8f});
}

bool coatBands(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {.order = 0.7f, .isAlong = true});
}

bool coatLabyrinth(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {});
}

bool coatNet(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {.bias = 0.30f, .perSize = kOfSpacing});
}

bool coatStreaks(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {.bias = -0.33f, .perSize = kOfSpacing});
}

bool coatRows(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {.bias = -0.28f, .perSize = kOfSpacing, .order = 0.22f, .isAlong = true});
}

bool coatPied(const RuleInput &in, std::span<float> out)
{
    return simple(in, out, {.bias = -0.03f});
}

bool coatRosettes(const RuleInput &in, std::span<float> out)
{
    const float wavelength = in.value("size") * kOfSpacing;
    const CoatKind kind{.bias = -0.30f};
    Grown g = prepared(in, wavelength, in.value("stretch"));
    if (!grow(g, in, settingsOf(in, kind, wavelength)))
        return false;
    const std::vector<float> first = inside(g, thresholdFor(g.cloth(), g.field.value, in.value("cover")));
    // Small marks round the border of the great ones.
    const float second = 0.36f * wavelength;
    Grown small = prepared(in, second, 1);
    const Cloth &c = small.cloth();
    const PointGrid grid(g.ground->fine.at, std::max(0.5f * second, 2 * meanEdgeLength(in.skin.shown)));
    std::vector<float> bias(c.size());
    for (std::size_t v = 0; v < c.size(); ++v) {
        float least = std::numeric_limits<float>::max(), far = 0;
        for (float reach = 0.25f * second; least > 1e30f && reach < 1e3f * second; reach *= 3)
            grid.around(c.at[v], reach, [&](std::uint32_t o) {
                if (const float d = squaredLength(g.ground->fine.at[o] - c.at[v]); d < least)
                    least = d, far = first[o];
            });
        const float ring = std::exp(-std::pow(far / (0.10f * wavelength), 2.0f));
        bias[v] = -0.80f + 0.68f * ring + 0.34f * ring * clouds(in.folded(c.at[v]), 0.3f * wavelength, 0, in.rule.seed + 3);
    }
    PatternSettings s = settingsOf(in, kind, second);
    s.bias = 0, s.even = 1, s.stretch = 1, s.sharpness = 4, s.seed += 1;
    if (!grow(small, in, s, bias))
        return false;
    std::vector<float> rings = inside(small, 0.0f);
    for (std::size_t v = 0; v < rings.size(); ++v) // nothing far from the great marks' border
        rings[v] = std::min(rings[v], 0.17f * wavelength - std::abs(first[v]));
    mark(in, rings, out);
    std::vector<float> within(out.size());
    mark(in, first, within);
    for (std::size_t v = 0; v < out.size(); ++v) // a tint inside
        out[v] = std::max(out[v], 0.45f * within[v]);
    return true;
}

bool coatPatches(const RuleInput &in, std::span<float> out)
{
    const float wavelength = in.value("size") * kOfSpacing;
    Grown g = prepared(in, wavelength, in.value("stretch"));
    if (!grow(g, in, settingsOf(in, {.bias = -0.12f}, wavelength)))
        return false;
    const Cloth &c = g.cloth();
    std::vector<Vec3f> seeds, facing;
    std::vector<float> size;
    for (std::uint32_t v = 0; v < c.size(); ++v) {
        bool isTop = !c.neighbours(v).empty();
        for (const std::uint32_t o : c.neighbours(v)) {
            isTop = isTop && g.field.value[o] < g.field.value[v];
            for (const std::uint32_t further : c.neighbours(o))
                isTop = isTop && (further == v || g.field.value[further] < g.field.value[v]);
        }
        if (isTop)
            seeds.push_back(c.at[v]), facing.push_back(c.normal[v]), size.push_back(g.wavelength[v]);
    }
    const PointGrid grid(seeds, 1.2f * wavelength);
    const float line = 0.4f * (1 - in.value("cover"));
    std::vector<float> far(out.size(), 0);
    eachVertex(in, far, [&](std::size_t, Vec3f p, Vec3f n) {
        const auto noise = [&](float wave, std::uint64_t s) {
            return Vec3f{noiseAt(p, wave, s), noiseAt(p, wave, s + 1), noiseAt(p, wave, s + 2)};
        };
        const Vec3f q = p + noise(0.28f * wavelength, in.rule.seed) * (0.09f * wavelength)
                        + noise(0.7f * wavelength, in.rule.seed + 9) * (0.18f * wavelength);
        std::array<std::pair<float, std::uint32_t>, 5> near;
        near.fill({std::numeric_limits<float>::max(), kNone});
        grid.around(q, 1.6f * wavelength, [&](std::uint32_t k) {
            if (dot(facing[k], n) < -0.2f)
                return;
            std::pair<float, std::uint32_t> here{squaredLength(seeds[k] - q), k};
            for (auto &slot : near)
                if (here < slot)
                    std::swap(here, slot);
        });
        if (near[1].second == kNone)
            return wavelength;
        const float round = 0.05f * wavelength; // junctions are rounded: a soft least of the distances to the sides
        float sum = 0;
        for (std::size_t k = 1; k < near.size() && near[k].second != kNone; ++k)
            sum += std::exp(-(near[k].first - near[0].first)
                            / (2 * length(seeds[near[k].second] - seeds[near[0].second]) * round + 1e-9f));
        const float side = -round * std::log(std::max(sum, 1e-30f));
        return side - line * size[near[0].second];
    });
    mark(in, far, out);
    return true;
}

} // namespace bonemoss::colour::detail
