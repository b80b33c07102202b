#pragma once

#include "portrait/camera.h"

#include <QPointF>
#include <QRectF>
#include <QString>

class QPainter;

namespace bonemoss::app {

/// Directions of the body where they point in a view, in its upper right corner; a press on one looks from there.
void paintCompass(QPainter &painter, const portrait::Camera &camera, QRectF view);
/// Where it lies, with its words.
QRectF compassArea(QRectF view);
/// Key of the anatomical view whose word lies under the pointer; empty for none.
QString compassKeyAt(const portrait::Camera &camera, QRectF view, QPointF at);

} // namespace bonemoss::app
