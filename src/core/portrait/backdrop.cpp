#include "portrait/backdrop.h"

#include "base/noise.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::portrait {

Result<BackdropView> BackdropView::from(const Stage &stage, float aspect)
{
    BackdropView out;
    out.m_backdrop = stage.backdrop, out.m_aspect = aspect;
    out.m_showsSurroundings = stage.surroundings.isShown || stage.backdrop.kind == Backdrop::Kind::Surroundings;
    if (!out.m_showsSurroundings && stage.backdrop.kind == Backdrop::Kind::Picture) {
        if (!stage.backdrop.picture)
            return Error{ErrorCode::Empty, "backdrop", "has no picture; choose one, or another kind"};
        auto picture = image::decodeLight(stage.backdrop.picture->bytes, 4096);
        if (!picture)
            return picture.error();
        out.m_picture = std::move(*picture);
    }
    return out;
}

/// Ridges one behind the other, paler with distance, under a sky that is brightest at the horizon.
Vec3f BackdropView::hills(Vec3f d) const
{
    constexpr int kRidges = 6;
    const float rise = std::asin(std::clamp(d.y, -1.0f, 1.0f)), level = std::sqrt(std::max(1e-6f, d.x * d.x + d.z * d.z));
    const Vec3f round{d.x / level, 0, d.z / level};
    const std::uint64_t seed = m_backdrop.seed * 64;
    for (int k = 0; k < kRidges; ++k) {
        const float t = float(k) / (kRidges - 1);
        float shape = 0, share = 0.55f;
        for (int layer = 0; layer < 6; ++layer, share *= 0.5f)
            shape +=
                share
                * noiseAt(round, 1.1f * (0.5f + 0.6f * t) * std::pow(0.5f, float(layer)), seed + std::uint64_t(8 * k + layer));
        const float top = -0.03f + 0.15f * std::pow(t, 0.75f) + (0.025f + 0.085f * t) * shape;
        if (rise > top)
            continue;
        const Vec3f pale = lerp(m_backdrop.low, m_backdrop.high, 0.12f + 0.74f * t);
        const float mist = 1 - std::exp(-std::max(0.0f, top - rise) * 14); // its foot lies in haze
        return lerp(pale, m_backdrop.high, 0.5f * mist * t);
    }
    const float up = std::clamp(rise / 0.9f, 0.0f, 1.0f);
    float cloud = 0, share = 0.6f;
    const Vec3f plane{d.x / (d.y + 0.12f), 7, d.z / (d.y + 0.12f)};
    for (int layer = 0; layer < 4; ++layer, share *= 0.5f)
        cloud += share * noiseAt(plane, 2.6f * std::pow(0.5f, float(layer)), seed + 60 + std::uint64_t(layer));
    const Vec3f high = m_backdrop.high * Vec3f{0.50f, 0.58f, 0.72f};
    return lerp(m_backdrop.high * 1.12f, high, std::sqrt(up)) * (1 + 0.22f * cloud * std::min(1.0f, 6 * up));
}

Vec3f BackdropView::at(float x, float y, Vec3f direction, const Environment &surroundings) const
{
    if (m_showsSurroundings)
        return surroundings.radiance(direction);
    switch (m_backdrop.kind) {
    case Backdrop::Kind::Gradient: {
        const float t = std::clamp(0.5f + 0.5f * y, 0.0f, 1.0f);
        return lerp(m_backdrop.low, m_backdrop.high, t * t * (3 - 2 * t));
    }
    case Backdrop::Kind::Hills: return hills(direction);
    case Backdrop::Kind::Picture: { // it fills the frame; what is too wide or too high of it is cut off
        const float own = float(m_picture.width) / float(m_picture.height), wide = std::min(1.0f, m_aspect / own),
                    high = std::min(1.0f, own / m_aspect);
        const float u = 0.5f + 0.5f * x * wide, v = 0.5f - 0.5f * y * high;
        const float fx = std::clamp(u * float(m_picture.width) - 0.5f, 0.0f, float(m_picture.width - 1)),
                    fy = std::clamp(v * float(m_picture.height) - 0.5f, 0.0f, float(m_picture.height - 1));
        const int x0 = int(fx), y0 = int(fy), x1 = std::min(x0 + 1, m_picture.width - 1),
                  y1 = std::min(y0 + 1, m_picture.height - 1);
        return lerp(lerp(m_picture.at(x0, y0), m_picture.at(x1, y0), fx - float(x0)),
                    lerp(m_picture.at(x0, y1), m_picture.at(x1, y1), fx - float(x0)), fy - float(y0));
    }
    default: return m_backdrop.high;
    }
}

} // namespace bonemoss::portrait
