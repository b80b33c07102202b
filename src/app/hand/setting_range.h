#pragma once

#include "app/hand/value_slider.h"
#include "growth/growth.h"

namespace bonemoss::app {

/// The slider's range for a setting of a growth or a rule: lengths in steps that grow, shares in percent.
ValueSlider::Range rangeOf(const growth::GrowthSetting &setting);

} // namespace bonemoss::app
