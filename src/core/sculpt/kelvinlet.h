#pragma once

#include "base/types.h"

namespace bonemoss::sculpt {

/// Displacement of an elastic body, unbounded and incompressible, that a load spread about the origin
/// pulls, turns, swells or squeezes. F. de Goes & D. L. James, "Regularized Kelvinlets: Sculpting Brushes
/// based on Fundamental Solutions of Elasticity", 2017. Combined from three spreads (their section 6, tri-scale) so that it
/// fades as the fifth power of distance (a pull) or the sixth (the others); divergence stays zero, as each part has none.
class Kelvinlet
{
public:
    /// radius: mm, the spread of the load.
    explicit Kelvinlet(float radius);

    /// A pull that moves the origin by `drag`; divergence-free.
    Vec3f dragged(Vec3f r, Vec3f drag) const;
    /// A turn about the origin by the rotation vector `turn` (radians) there; divergence-free.
    Vec3f turned(Vec3f r, Vec3f turn) const;
    /// Growth by `share` at the origin; the one that changes volume, so its solid is compressible (Poisson's ratio 0).
    Vec3f swollen(Vec3f r, float share) const;
    /// Stretch by `share` along a unit direction at the origin, thinning square to it as much as keeps the volume; divergence-free.
    Vec3f squeezed(Vec3f r, Vec3f along, float share) const;
    /// Beyond this many radii a pull moves less than 1/500 of what it moves at the origin.
    static constexpr float kReach = 4;

private:
    static constexpr int kScales = 3;
    float turning(float square) const;
    float m_square[kScales];                     ///< of the spreads, mm^2
    float m_weight[kScales];                     ///< with them the two slowest parts of the far field cancel
    float m_drag = 1, m_turn = 1, m_squeeze = 1; ///< so that the origin takes the whole load
};

} // namespace bonemoss::sculpt
