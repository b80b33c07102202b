#pragma once

#include "outgrowth/outgrowth.h"

#include <QImage>

namespace bonemoss::app {

/// An outgrowth on a patch of level skin, seen from its side and lit from the upper left: made by the rule itself. A few
/// milliseconds. width: mm that the picture shows; 0: as much as it needs.
QImage outgrowthPicture(const outgrowth::Outgrowth &rule, QSize size, float width = 0);

/// The same, kept: of a kind at its usual values, or with one setting at its least or most.
QImage usualPicture(const outgrowth::Kind &kind, QSize size);
QImage endPicture(const outgrowth::Kind &kind, std::size_t setting, bool isHigh, QSize size);

} // namespace bonemoss::app
