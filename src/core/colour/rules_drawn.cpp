// Rules that draw by themselves: noise, veins, and the cells of growths.
#include "base/parallel.h"
#include "base/random.h"
#include "colour/detail/kinds.h"
#include "growth/flow.h"
#include "growth/grow_input.h"

#include <algorithm>

namespace bonemoss::colour::detail {

float clouds(Vec3f p, float size, float fine, std::uint64_t seed)
{
    float sum = noiseAt(p, size, seed), weight = 1;
    for (int k = 1; k < 4 && fine > 0; ++k) {
        weight *= fine, size *= 0.47f;
        sum += weight * noiseAt(p, size, seed + std::uint64_t(k) * 77);
    }
    return 1.6f * sum; // noise of gradients rarely goes past 0.6
}

bool noiseValues(const RuleInput &in, std::span<float> out)
{
    const float size = in.value("size"), fine = in.value("fine"), stretch = in.value("stretch"), cover = in.value("cover"),
                soft = in.value("soft");
    const std::shared_ptr<const growth::Flow> flow = stretch > 0 ? in.ground.flow() : nullptr;
    const int steps = flow ? 2 + int(std::lround(4 * stretch)) : 0; // to either side along the flow
    eachVertex(in, out, [&](std::size_t, Vec3f p, Vec3f n) {
        float sum = clouds(in.folded(p), size, fine, in.rule.seed);
        if (flow) {
            const Vec3f along = flow->at(p, n).along;
            for (int k = 1; k <= steps; ++k)
                for (const float side : {-1.0f, 1.0f})
                    sum += clouds(in.folded(p + along * (side * 0.3f * size * float(k))), size, fine, in.rule.seed);
            sum *= 1.6f / std::sqrt(float(2 * steps + 1)) * 0.6f; // a mean is weaker than what it is of
        }
        const float line = 1 - 2 * cover;
        return smoothStep(line - soft, line + soft, sum);
    });
    return true;
}

bool veinValues(const RuleInput &in, std::span<float> out)
{
    const float size = in.value("size"), width = in.value("width"), wander = in.value("wander"), branch = in.value("branch");
    eachVertex(in, out, [&](std::size_t, Vec3f p, Vec3f) {
        const Vec3f q = in.folded(p);
        const auto shifted = [&](float by, std::uint64_t s) {
            return q + Vec3f{noiseAt(q, by, s), noiseAt(q, by, s + 1), noiseAt(q, by, s + 2)} * (1.2f * wander * by);
        };
        // Lines are where a noise passes through 0; thinner ones branch off where theirs is near a thicker one.
        const float main = std::abs(noiseAt(shifted(0.8f * size, in.rule.seed + 10), 2 * size, in.rule.seed)),
                    fork = std::abs(noiseAt(shifted(0.4f * size, in.rule.seed + 20), size, in.rule.seed + 5));
        const float thick = smoothStep(width, 0.35f * width, main),
                    thin = branch * smoothStep(0.7f * width, 0.2f * width, fork) * smoothStep(0.1f + 0.4f * branch, 0.05f, main);
        const float fade = smoothStep(-0.5f, 0.2f, noiseAt(q, 5 * size, in.rule.seed + 30));
        return std::max(thick, thin) * (0.35f + 0.65f * fade);
    });
    return true;
}

bool cellValues(const RuleInput &in, std::span<float> out)
{
    const float variation = in.value("variation"), middle = in.value("middle"), rows = in.value("rows"),
                apart = in.value("apart");
    constexpr int kShades = 5;
    for (const skin::Layer *layer : in.layers) {
        const Status done = growth::eachCellOf(
            in.skin, *layer, in.about, in.progress, kShades, [&](std::size_t v, float share, const growth::Cell &cell) {
                if (share <= 0.05f || length(layer->offsets[v]) <= 0) // between the cells, and where none grow
                    return;
                const float byChance = randomUnit(in.rule.seed, cell.number), unlike = (float(cell.kind) + byChance) / kShades,
                            row = float(cell.row & 1);
                float shade = std::lerp(byChance, unlike, apart);
                shade = std::lerp(shade, 0.25f + 0.5f * row + 0.25f * (shade - 0.5f), rows);
                shade = 0.5f + variation * (shade - 0.5f);
                out[v] = std::clamp(shade + middle * (cell.middle - 0.5f), 0.0f, 1.0f);
            });
        if (!done)
            return false;
    }
    return true;
}

} // namespace bonemoss::colour::detail
