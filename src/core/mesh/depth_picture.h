#pragma once

#include "mesh/surface.h"

#include <vector>

namespace bonemoss::mesh {

/// A square window on to the creature: `half` wide each way, mm for parallel sight, else at 1 mm from the eye.
struct Sight {
    Vec3f eye, right{1, 0, 0}, up{0, 1, 0}, forward{0, 0, -1}; ///< axes unit and square to each other
    float halfWidth = 100, halfHeight = 100;
    bool isParallel = true;
};

/// How far the nearest skin is along each line of sight: to tell in one go what is seen from a place and what is covered.
class DepthPicture
{
public:
    DepthPicture(const Sight &sight, int side);
    /// Draws a surface's shown faces, from either side. O(faces + pixels they cover).
    void add(const Surface &surface);
    /// Whether a point of the surface, with its normal, is seen: on its face's front, in the window, and with nothing before
    /// it nearer than the picture's own coarseness.
    bool sees(Vec3f point, Vec3f normal) const;

private:
    struct Place {
        float x, y, depth;
    };
    Place placeOf(Vec3f p) const;
    void triangle(Place a, Place b, Place c);
    float pixelAt(float depth) const { return m_pixel * (m_sight.isParallel ? 1 : depth); }

    Sight m_sight;
    int m_side;
    float m_pixel; ///< mm, the wider way, at 1 mm from the eye unless parallel
    std::vector<float> m_depth;
};

} // namespace bonemoss::mesh
