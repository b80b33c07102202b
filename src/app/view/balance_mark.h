#pragma once

#include "app/view/projection.h"
#include "armature/balance.h"

#include <QString>

class QPainter;

namespace bonemoss::app {

/// How a body stands, in words.
QString balanceWords(const armature::Balance &balance);
/// The weight point, its plumb line and the area that carries it, drawn over the floor.
void paintBalance(QPainter &painter, const Projection &view, const armature::Balance &balance);

} // namespace bonemoss::app
