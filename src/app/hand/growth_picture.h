#pragma once

#include "growth/growth.h"

#include <QImage>

namespace bonemoss::app {

/// A growth on a small patch of skin, lit from the upper left: grown by the rule itself, so that it shows what will come.
/// size in pixels; the flow runs downwards. A few milliseconds.
QImage growthPicture(const growth::Growth &growth, QSize size);

/// The same, kept: of a kind at its usual values, or with one setting at its least or most.
QImage usualPicture(const growth::GrowthKind &kind, QSize size);
QImage endPicture(const growth::GrowthKind &kind, std::size_t setting, bool isHigh, QSize size);

} // namespace bonemoss::app
