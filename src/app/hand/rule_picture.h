#pragma once

#include "colour/rule.h"

#include <QImage>

namespace bonemoss::app {

/// A rule on a small patch of skin with folds and a knob, in two colours: run by the rule itself. size in pixels; kept once it was made.
QImage usualPicture(const colour::RuleKind &kind, QSize size);
/// The same with one setting at its least or most.
QImage endPicture(const colour::RuleKind &kind, std::size_t setting, bool isHigh, QSize size);

} // namespace bonemoss::app
