#pragma once

#include "armature/form.h"

namespace bonemoss::armature {

// Editing of curves: a path's points from first to last, both counted. Ends of a stretch stay unless said
// otherwise; radii and sections are changed only where said. All are pure.

/// Moves one point by `by`; others along the curve follow the less the farther they are, none beyond `reach` mm
/// along it (a raised cosine). A reach of 0 moves the point alone.
std::vector<PathPoint> softMoved(std::vector<PathPoint> path, std::size_t point, Vec3f by, float reach);

/// Takes corners out of a stretch: each inner point halfway to the mean of its neighbours (radius and section too),
/// `times` over.
std::vector<PathPoint> rounded(std::vector<PathPoint> path, std::size_t first, std::size_t last, int times = 4);

/// Lays the inner points of a stretch on the straight line between its ends, at the same shares of its length.
std::vector<PathPoint> straightened(std::vector<PathPoint> path, std::size_t first, std::size_t last);

/// Lays a stretch on the circle through its ends and through the point nearest to the middle of its length; evenly
/// spread. A stretch whose three points lie on a line is straightened.
std::vector<PathPoint> laidOnArc(std::vector<PathPoint> path, std::size_t first, std::size_t last);

/// Adds a point halfway along the curve after `point`; the curve hardly changes. At the last point it goes on beyond
/// it by as much as the last span is long.
std::vector<PathPoint> inserted(std::vector<PathPoint> path, std::size_t point);

} // namespace bonemoss::armature
