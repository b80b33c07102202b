#pragma once

#include "armature/form.h"

namespace bonemoss::armature::solids {

/// Points of one batch, each coordinate in a row of its own, so that loops run in vector registers.
struct Batch {
    static constexpr std::size_t kMost = 512;
    std::size_t n = 0;
    alignas(32) std::array<float, kMost> x, y, z;
};
using Distances = std::array<float, Batch::kMost>;

/// One stretch of a path, in the form's own frame: from a along `axis` (unit) for `length` mm. The section
/// goes from radius ra to rb; u is its sideways direction, squash and square as in PathPoint.
struct Segment {
    Vec3f a, axis, u, v;
    float length = 0, ra = 0, rb = 0;
    float squashA = 1, squashB = 1, squareA = 0, squareB = 0;
    bool isPlain = true; ///< circles all along
};
/// The segments of a path of round cones; sections keep their turn from one to the next.
std::vector<Segment> segmentsOf(const std::vector<PathPoint> &path);

/// Signed distances in the own frame, mm, negative inside; never longer than the true distance by more
/// than a few percent, so that a region can be passed over by them. out[i] for each point.
void ball(const Batch &p, float radius, Distances &out);
void ellipsoid(const Batch &p, Vec3f radii, Distances &out);
void block(const Batch &p, Vec3f half, float rounding, Distances &out);
void torus(const Batch &p, float ring, float tube, Distances &out);
void disc(const Batch &p, float radius, float half, float rounding, Distances &out);
void wedge(const Batch &p, Vec3f half, float rounding, Distances &out);
void frustum(const Batch &p, const Segment &s, float rounding, float bore, Distances &out);
void turned(const Batch &p, const std::vector<PathPoint> &profile, Distances &out);
/// The nearer of what is in out and a round cone.
void addRoundCone(const Batch &p, const Segment &s, Distances &out);

} // namespace bonemoss::armature::solids
