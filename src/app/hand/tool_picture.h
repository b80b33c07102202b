#pragma once

#include "app/hand/hand_model.h"

#include <QPainterPath>

namespace bonemoss::app {

/// Cross-section that a tool makes on a flat (Smooth: a bumpy) strip, worked out by the tool itself.
/// In a box of 100 by 40, the undisturbed skin at 28.
QPainterPath toolPicture(sculpt::Tool tool);
/// Outline of a form, from its own surface seen from the flank.
QPainterPath formPicture(FormTile tile);

} // namespace bonemoss::app
