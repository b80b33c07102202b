#pragma once

#include "portrait/stage.h"

#include <array>
#include <optional>

namespace bonemoss::portrait {

/// A light where it stands in a picture, ready to be sampled.
struct Lamp {
    Light::Shape shape = Light::Shape::Ball;
    Vec3f centre;     ///< of a sun the unit vector to it
    Vec3f u, v, out;  ///< of a window: half its sides, and the unit vector it shines along
    float radius = 0; ///< mm; of a sun the cosine of half its width
    float area = 0;   ///< of a window, mm^2
    Vec3f radiance;

    /// A place of it seen from a point, with its density per steradian. distance is far for a sun.
    struct Sample {
        Vec3f direction;
        float distance = 0, density = 0; ///< density 0: it does not shine there
    };
    Sample sample(Vec3f from, std::array<float, 2> u) const;
    struct Meeting {
        float distance, density;
    };
    /// Where a ray meets its bright side.
    std::optional<Meeting> meet(Vec3f from, Vec3f direction) const;
    /// About what it gives on a surface that faces it there, unshadowed, as a luminance.
    float reach(Vec3f at) const;
};

/// Where a light stands: aimed at `middle` where it says nothing else; as seen by the camera where it goes with that.
Lamp lampOf(const Light &light, Vec3f middle, const Camera &camera);
/// Unit vector from what it is aimed at to a light.
Vec3f directionTo(const Light &light, const Camera &camera);
/// The same backwards: azimuth and elevation of a light that shall stand in that direction.
void standIn(Light &light, Vec3f direction, const Camera &camera);

} // namespace bonemoss::portrait
