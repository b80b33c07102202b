#pragma once

#include "portrait/camera.h"

#include <QPointF>
#include <QSizeF>

namespace bonemoss::app {

/// Where things are on the screen: a camera and the view's size in points.
struct Projection {
    portrait::Camera camera;
    QSizeF size;

    mesh::Ray rayAt(QPointF p) const;
    QPointF toScreen(Vec3f p) const;
    float mmPerPoint(Vec3f at) const; ///< size of one point on the screen at a place
    float aspect() const { return float(size.width() / std::max(1.0, size.height())); }
    /// Where the ray under a point meets the plane through a place that faces the viewer.
    Vec3f onPlane(QPointF at, Vec3f through) const;
};

} // namespace bonemoss::app
