// Rules that go by the shape of the skin and by distances on it.
#include "base/parallel.h"
#include "colour/detail/kinds.h"
#include "skin/skin_maps.h"

#include <algorithm>
#include <numbers>

namespace bonemoss::colour::detail {

namespace {

/// Curvature of a width, of one sign: shares from `from` on.
bool curved(const RuleInput &in, float sign, std::span<float> out)
{
    skin::MapSettings settings;
    settings.width = in.value("width");
    const std::vector<float> map = mapOf(in.skin, skin::SkinMap::MeanCurvature, settings, in.progress);
    if (map.size() != out.size())
        return false;
    const float from = in.value("from"), soft = in.value("soft");
    for (std::size_t v = 0; v < out.size(); ++v)
        out[v] = smoothStep(from, from + soft, sign * map[v]);
    return true;
}

} // namespace

bool hollowValues(const RuleInput &in, std::span<float> out)
{
    return curved(in, 1, out);
}

bool ridgeValues(const RuleInput &in, std::span<float> out)
{
    return curved(in, -1, out);
}

bool slopeValues(const RuleInput &in, std::span<float> out)
{
    const float angle = in.value("angle"), spread = in.value("spread");
    eachVertex(in, out, [&](std::size_t, Vec3f, Vec3f n) {
        const float here = std::acos(std::clamp(n.y, -1.0f, 1.0f)) * 180 / std::numbers::pi_v<float>;
        return smoothStep(0, 1, 1 - std::abs(here - angle) / spread);
    });
    return true;
}

bool thicknessValues(const RuleInput &in, std::span<float> out)
{
    const std::vector<float> map = mapOf(in.skin, skin::SkinMap::Thickness, {}, in.progress);
    if (map.size() != out.size())
        return false;
    const float thin = in.value("thin");
    for (std::size_t v = 0; v < out.size(); ++v)
        out[v] = smoothStep(0, 1, 1 - std::min(map[v] / thin, 1.0f));
    return true;
}

bool occlusionValues(const RuleInput &in, std::span<float> out)
{
    skin::MapSettings settings;
    settings.others = in.others;
    const std::vector<float> map = mapOf(in.skin, skin::SkinMap::AmbientOcclusion, settings, in.progress);
    if (map.size() != out.size())
        return false;
    const float from = in.value("from"), soft = in.value("soft");
    for (std::size_t v = 0; v < out.size(); ++v)
        out[v] = smoothStep(from, from + soft, map[v]);
    return true;
}

namespace {

/// Where a number lies between two shares of its range.
float within(float share, float from, float to)
{
    return std::clamp(from == to ? float(share >= from) : (share - from) / (to - from), 0.0f, 1.0f);
}

} // namespace

bool heightValues(const RuleInput &in, std::span<float> out)
{
    const Box3f box = in.skin.shown.box();
    const float from = in.value("from"), to = in.value("to"), tall = std::max(box.size().y, 1e-6f);
    eachVertex(in, out, [&](std::size_t, Vec3f p, Vec3f) { return within((p.y - box.lo.y) / tall, from, to); });
    return true;
}

bool alongValues(const RuleInput &in, std::span<float> out)
{
    const std::vector<Vec3f> &p = in.ground.positions();
    if (p.empty())
        return true;
    const auto nose = std::uint32_t(std::max_element(p.begin(), p.end(), [](Vec3f a, Vec3f b) { return a.z < b.z; }) - p.begin());
    std::vector<float> far = waysAlong(in.ground, std::span(&nose, 1));
    float most = 0;
    for (const float d : far)
        if (d < kFar)
            most = std::max(most, d);
    std::vector<float> share(far.size());
    for (std::size_t v = 0; v < far.size(); ++v) // other islands by where they lie
        share[v] = far[v] < kFar ? far[v] / std::max(most, 1e-6f) : std::min(1.0f, (p[nose].z - p[v].z) / std::max(most, 1e-6f));
    blurred(in.ground.net(), 8, share);
    const float from = in.value("from"), to = in.value("to");
    for (std::size_t v = 0; v < out.size(); ++v)
        out[v] = within(share[v], from, to);
    return true;
}

bool gradientValues(const RuleInput &in, std::span<float> out)
{
    const std::vector<Vec3f> &line = in.rule.points;
    std::vector<float> before{0}; // length of the line up to each point
    for (std::size_t k = 1; k < line.size(); ++k)
        before.push_back(before.back() + length(line[k] - line[k - 1]));
    const float whole = std::max(before.back(), 1e-6f), soft = std::max(in.value("soft"), 0.01f);
    eachVertex(in, out, [&](std::size_t, Vec3f at, Vec3f) {
        const Vec3f p = in.folded(at);
        float least = kFar, share = 0;
        for (std::size_t k = 1; k < line.size(); ++k) {
            const Vec3f from = in.folded(line[k - 1]), d = in.folded(line[k]) - from;
            const float len = length(d);
            if (len <= 0)
                continue;
            // Past the ends of the line it goes on straight: across the first and last stretch all counts.
            const float t = std::clamp(dot(p - from, d) / (len * len), 0.0f, 1.0f);
            if (const float off = length(p - (from + d * t)); off < least)
                least = off, share = (before[k - 1] + t * len) / whole;
        }
        return std::clamp((share - 0.5f) / soft + 0.5f, 0.0f, 1.0f);
    });
    return true;
}

bool nearValues(const RuleInput &in, std::span<float> out)
{
    const float reach = in.value("reach"), soft = in.value("soft");
    const auto share = [&](float d) { return smoothStep(0, std::max(soft, 0.02f), 1 - d / reach); };
    std::vector<std::uint32_t> from;
    if (!in.area.isBlank())
        for (std::uint32_t v = 0; v < in.area.size(); ++v)
            if (in.area[v] > 127)
                from.push_back(v);
    const std::vector<Vec3f> &p = in.ground.positions();
    std::vector<float> far(out.size(), kFar);
    if (!from.empty())
        far = distances(in.ground, from, reach);
    // Joints lie inside, roots on the skin: what is near in space, and nearer than anything else of the skin is to be a way round.
    forEachBlock(out.size(), 16384, in.progress.stop, [&](BlockRange r) {
        for (std::size_t v = r.begin; v < r.end; ++v)
            for (const Vec3f q : in.places)
                far[v] = std::min(far[v], length(p[v] - q));
    });
    for (std::size_t v = 0; v < out.size(); ++v)
        out[v] = share(far[v]);
    return true;
}

bool reliefValues(const RuleInput &in, std::span<float> out)
{
    const float from = in.value("from"), to = in.value("to");
    const auto &offsets = in.layers[0]->offsets;
    eachVertex(in, out, [&](std::size_t v, Vec3f, Vec3f n) { return within(dot(offsets[v], n), from, to); });
    return true;
}

bool shadeValues(const RuleInput &in, std::span<float> out)
{
    const Box3f box = in.skin.shown.box();
    const float line = 1 - 2 * in.value("line"), soft = in.value("soft"), ragged = in.value("ragged"),
                size = 0.08f * box.diagonal();
    std::vector<float> up(out.size());
    eachVertex(in, up, [&](std::size_t, Vec3f, Vec3f n) { return n.y + 1; }); // below 0 would lay nothing
    const float edge = std::max(meanEdgeLength(in.skin.shown), 1e-6f);
    blurred(in.ground.net(), std::uint32_t(std::clamp(std::lround(std::pow(0.01f * box.diagonal() / edge, 2.0f)), 4l, 120l)), up);
    eachVertex(in, out, [&](std::size_t v, Vec3f p, Vec3f) {
        const float here = up[v] - 1 + ragged * 0.6f * clouds(in.folded(p), size, 0.5f, in.rule.seed);
        return smoothStep(line - soft, line + soft, here);
    });
    return true;
}

bool wornValues(const RuleInput &in, std::span<float> out)
{
    skin::MapSettings settings;
    settings.width = in.value("width");
    const std::vector<float> map = mapOf(in.skin, skin::SkinMap::MeanCurvature, settings, in.progress);
    if (map.size() != out.size())
        return false;
    const float from = 0.9f - 0.8f * in.value("wear"), patchy = in.value("patchy"), size = 10 * settings.width;
    eachVertex(in, out, [&](std::size_t v, Vec3f p, Vec3f) {
        const Vec3f at = in.folded(p);
        const float here = -map[v] + 0.25f * clouds(at, 0.6f * settings.width, 0.5f, in.rule.seed + 1);
        return smoothStep(from, from + 0.35f, here)
               * smoothStep(-0.3f, 0.3f, clouds(at, size, 0.4f, in.rule.seed) + 0.5f - patchy);
    });
    return true;
}

} // namespace bonemoss::colour::detail
