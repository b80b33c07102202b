#include "sculpt/kelvinlet.h"

#include <cmath>

namespace bonemoss::sculpt {

// The paper's a and b with a = 1: b = a / (4 (1 - v)) is 1/2 for an incompressible solid (v = 1/2).
namespace {
constexpr float kB = 0.5f;
constexpr float kSpread = 1.1f; // from one of the three to the next
} // namespace

Kelvinlet::Kelvinlet(float radius)
{
    float e = radius;
    for (float &square : m_square) {
        square = e * e;
        e *= kSpread;
    }
    m_weight[0] = 1;
    m_weight[1] = -(m_square[2] - m_square[0]) / (m_square[2] - m_square[1]);
    m_weight[2] = (m_square[1] - m_square[0]) / (m_square[2] - m_square[1]);
    float drag = 0, turn = 0, squeeze = 0;
    for (int k = 0; k < kScales; ++k) {
        const float one = std::sqrt(m_square[k]), cube = one * m_square[k];
        drag += m_weight[k] * (1 - kB + 0.5f) / one;
        turn += m_weight[k] * 2.5f / cube;
        squeeze += m_weight[k] * -1.5f / cube;
    }
    m_drag = 1 / drag, m_turn = 1 / turn, m_squeeze = 1 / squeeze;
}

Vec3f Kelvinlet::dragged(Vec3f r, Vec3f drag) const
{
    const float square = squaredLength(r), along = dot(r, drag);
    float plain = 0, outer = 0;
    for (int k = 0; k < kScales; ++k) {
        const float inverse = 1 / std::sqrt(square + m_square[k]), cube = inverse * inverse * inverse;
        plain += m_weight[k] * ((1 - kB) * inverse + 0.5f * m_square[k] * cube);
        outer += m_weight[k] * kB * cube;
    }
    return (drag * plain + r * (outer * along)) * m_drag;
}

/// How much of its radius a point is turned, or (another load with the same shape) moved outward.
float Kelvinlet::turning(float square) const
{
    float sum = 0;
    for (int k = 0; k < kScales; ++k) {
        const float inverse = 1 / std::sqrt(square + m_square[k]), cube = inverse * inverse * inverse;
        sum += m_weight[k] * (cube + 1.5f * m_square[k] * cube * inverse * inverse);
    }
    return sum * m_turn;
}

Vec3f Kelvinlet::turned(Vec3f r, Vec3f turn) const
{
    return cross(turn, r) * turning(squaredLength(r));
}

Vec3f Kelvinlet::swollen(Vec3f r, float share) const
{
    return r * (share * turning(squaredLength(r)));
}

Vec3f Kelvinlet::squeezed(Vec3f r, Vec3f along, float share) const
{
    const Vec3f f = (along * (1.5f * dot(along, r)) - r * 0.5f) * share; // the symmetric matrix without trace, times r
    const float square = squaredLength(r), both = dot(r, f);
    float plain = 0, outer = 0;
    for (int k = 0; k < kScales; ++k) {
        const float inverse = 1 / std::sqrt(square + m_square[k]), fifth = std::pow(inverse, 5.0f);
        plain -= m_weight[k] * 1.5f * m_square[k] * fifth;
        outer -= m_weight[k] * 3 * kB * fifth;
    }
    return (f * plain + r * (outer * both)) * m_squeeze;
}

} // namespace bonemoss::sculpt
