#include "portrait/spot.h"

#include "base/noise.h"

#include <algorithm>

namespace bonemoss::portrait {

namespace {

/// A normal tilted by fine bumps, half a percent of the size of all wide.
Vec3f grained(Vec3f at, Vec3f n, float grain, float size)
{
    if (grain <= 0)
        return n;
    const float wave = std::max(0.005f * size, 1e-6f), step = 0.1f * wave;
    const auto height = [&](Vec3f p) { return noiseAt(p, wave, 1) + 0.5f * noiseAt(p, 0.4f * wave, 2); };
    const float here = height(at);
    const Vec3f slope{height(at + Vec3f{step, 0, 0}) - here, height(at + Vec3f{0, step, 0}) - here,
                      height(at + Vec3f{0, 0, step}) - here};
    const Vec3f along = slope * 10;
    return normalized(n - (along - n * dot(along, n)) * (0.3f * grain));
}

} // namespace

Spot spotOf(const Meeting &m, std::span<const io::Material> materials, float size)
{
    const io::Material &material = materials[m.material];
    const Vec3f root = material.colour.value_or(kClay) * m.colour;
    Spot out{{}, material.tipColour ? lerp(root, *material.tipColour * m.colour, m.along) : root, m.finish};
    if (material.isGlossy)
        out.finish[2] = 1;
    for (std::size_t k = 0; k < kFinishes; ++k)
        out.finish[k] = material.finish[k].value_or(out.finish[k]);
    constexpr float kDepth = 0.006f;
    out.walk = material.inside.tint * (material.inside.depth > 0 ? material.inside.depth : kDepth * size);
    out.normal = m.isHair() ? m.normal : grained(m.point, m.normal, out.finish[4], size);
    return out;
}

} // namespace bonemoss::portrait
