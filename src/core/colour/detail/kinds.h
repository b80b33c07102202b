#pragma once

#include "colour/rule_input.h"

namespace bonemoss::colour::detail {

// Values of the kinds, in rules_shape.cpp, rules_drawn.cpp and coat.cpp; as RuleKind::values.
bool hollowValues(const RuleInput &in, std::span<float> out);
bool ridgeValues(const RuleInput &in, std::span<float> out);
bool slopeValues(const RuleInput &in, std::span<float> out);
bool thicknessValues(const RuleInput &in, std::span<float> out);
bool occlusionValues(const RuleInput &in, std::span<float> out);
bool heightValues(const RuleInput &in, std::span<float> out);
bool alongValues(const RuleInput &in, std::span<float> out);
bool gradientValues(const RuleInput &in, std::span<float> out);
bool nearValues(const RuleInput &in, std::span<float> out);
bool reliefValues(const RuleInput &in, std::span<float> out);
bool shadeValues(const RuleInput &in, std::span<float> out);
bool wornValues(const RuleInput &in, std::span<float> out);
bool noiseValues(const RuleInput &in, std::span<float> out);
bool veinValues(const RuleInput &in, std::span<float> out);
bool cellValues(const RuleInput &in, std::span<float> out);
bool coatSpots(const RuleInput &in, std::span<float> out);
bool coatRosettes(const RuleInput &in, std::span<float> out);
bool coatStripes(const RuleInput &in, std::span<float> out);
bool coatBands(const RuleInput &in, std::span<float> out);
bool coatLabyrinth(const RuleInput &in, std::span<float> out);
bool coatNet(const RuleInput &in, std::span<float> out);
bool coatPatches(const RuleInput &in, std::span<float> out);
bool coatStreaks(const RuleInput &in, std::span<float> out);
bool coatRows(const RuleInput &in, std::span<float> out);
bool coatPied(const RuleInput &in, std::span<float> out);

inline float smoothStep(float from, float to, float v)
{
    const float t = std::clamp((v - from) / (to - from), 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

/// Sets each vertex from its place and normal. Parallel.
template <typename Value> void eachVertex(const RuleInput &in, std::span<float> out, const Value &value)
{
    const mesh::Surface &s = in.skin.shown;
    forEachBlock(s.positions.blockCount(), 1, in.progress.stop, [&](BlockRange r) {
        const Vec3f *p = s.positions.data(r.begin);
        const mesh::PackedNormal *n = s.normals.data(r.begin);
        for (std::size_t i = 0; i < s.positions.countIn(r.begin); ++i) {
            const std::size_t v = r.begin * mesh::kBlockSize + i;
            out[v] = value(v, p[i], n[i].unpack());
        }
    });
}

/// Clouds of a size in about -1 to 1: noise and finer noise over it, so much of it.
float clouds(Vec3f p, float size, float fine, std::uint64_t seed);

} // namespace bonemoss::colour::detail
