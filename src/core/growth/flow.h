#pragma once

#include "base/point_grid.h"
#include "growth/ground.h"

namespace bonemoss::growth {

/// Which way things grow on a skin, and how large: a smooth field of directions that follows the guides, and where there
/// are none the limbs, and where there are none runs from nose to tail. On wish it turns to where the skin was stretched.
class Flow
{
public:
    struct At {
        Vec3f along;       ///< unit, in the surface
        float size = 1;    ///< times the size of what grows
        float certain = 1; ///< 0 at a pole of the field, where it has no direction
    };

    /// The smoothest field under its constraints: on some thousands of points over the skin, joined to those near, the
    /// complex numbers u that make sum |u_i - r_ij u_j|^2 + sum c_i |u_i - wanted_i|^2 least, r_ij turning one tangent
    /// plane into the next (Knoeppel, Crane, Pinkall & Schroeder 2013, "Globally optimal direction fields"). One sparse
    /// solve; the cost does not depend on the number of faces beyond reading them once.
    /// stretch, 0 to 1: how firmly it follows the way the cells of the skin were pulled since they were knitted square. The sum
    /// of the outer products of a cell's edges is, up to a factor, the left Cauchy-Green tensor of that pull, whose first axis
    /// is the way of the stretch (e.g. G. A. Holzapfel, "Nonlinear Solid Mechanics", 2000, section 2.4).
    Flow(const Ground &ground, const Surroundings &about, float stretch = 0);

    /// At a point with that normal. O(1).
    At at(Vec3f p, Vec3f normal) const;
    /// The same at many, the quicker the nearer to each other those are that follow each other. out[i] is at points[i].
    void at(std::span<const GroundPoint> points, std::span<At> out) const;
    /// Whether sizes differ at all.
    bool hasSizes() const { return m_hasSizes; }
    /// None anywhere is greater. There are points.
    float largestSize() const { return *std::max_element(m_sizes.begin(), m_sizes.end()); }
    /// The points it is known at, for drawing.
    std::size_t size() const { return m_points.size(); }
    Vec3f point(std::size_t i) const { return m_points[i]; }
    Vec3f normal(std::size_t i) const { return m_normals[i]; }
    Vec3f along(std::size_t i) const { return m_along[i]; }
    float spacing() const { return m_reach / 2.2f; } ///< of those points, mm

private:
    std::vector<Vec3f> m_points, m_normals, m_along; ///< along: shorter where it is uncertain
    std::vector<float> m_sizes;
    float m_reach = 1;
    bool m_hasSizes = false;
    PointGrid m_grid;
};

/// The direction that limbs and body give a place by themselves; not yet in the surface. Zero when there are none.
Vec3f alongLimbs(const std::vector<Limb> &limbs, Vec3f p);

} // namespace bonemoss::growth
