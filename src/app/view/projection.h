#pragma once

#include "portrait/camera.h"

#include <QPointF>
#include <QRectF>

namespace bonemoss::app {

/// Where things are on the screen: a camera and the part of the window, in points, that it fills.
struct Projection {
    portrait::Camera camera;
    QRectF area;

    mesh::Ray rayAt(QPointF p) const;
    QPointF toScreen(Vec3f p) const;
    float mmPerPoint(Vec3f at) const; ///< size of one point on the screen at a place
    float aspect() const { return float(area.width() / std::max(1.0, area.height())); }
    /// Where the ray under a point meets the plane through a place that faces the viewer.
    Vec3f onPlane(QPointF at, Vec3f through) const;
};

} // namespace bonemoss::app
