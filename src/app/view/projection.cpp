#include "app/view/projection.h"

namespace bonemoss::app {

mesh::Ray Projection::rayAt(QPointF p) const
{
    return camera.rayThrough(float((p.x() - area.x()) / area.width() * 2 - 1), float(1 - (p.y() - area.y()) / area.height() * 2),
                             aspect());
}

QPointF Projection::toScreen(Vec3f p) const
{
    const Vec3f d = p - camera.eye();
    const float depth = camera.isParallel ? camera.distance : std::max(dot(d, camera.forward()), 1e-3f);
    const float half = std::tan(camera.fieldOfView / 2) * depth;
    return {area.x() + (0.5 + 0.5 * double(dot(d, camera.right()) / (half * aspect()))) * area.width(),
            area.y() + (0.5 - 0.5 * double(dot(d, camera.up()) / half)) * area.height()};
}

float Projection::mmPerPoint(Vec3f at) const
{
    const float depth = camera.isParallel ? camera.distance : std::max(dot(at - camera.eye(), camera.forward()), 1e-3f);
    return 2 * std::tan(camera.fieldOfView / 2) * depth / float(std::max(1.0, area.height()));
}

Vec3f Projection::onPlane(QPointF at, Vec3f through) const
{
    const mesh::Ray ray = rayAt(at);
    const Vec3f n = camera.forward();
    const float slope = dot(ray.direction, n);
    return slope > 1e-4f ? ray.origin + ray.direction * (dot(through - ray.origin, n) / slope) : through;
}

} // namespace bonemoss::app
