#pragma once

#include "armature/form.h"
#include "command/forms/form_fields.h"

#include <functional>
#include <vector>

namespace bonemoss::app {

/// A length or share of a form that can be dragged along a line: half sizes, bore, thickness of a ring, squash.
struct FormParam {
    const char *name;   ///< as it is shown beside the handle
    Vec3f at, along;    ///< creature space; along is of length 1
    float value, perMm; ///< value grows by perMm for each mm dragged along
    float min, max;
    std::function<command::FormChanges(float)> change; ///< of the form, for a value
};

/// What there is to drag at a form beside its path's points. point: the tube's point in hand.
std::vector<FormParam> paramsOf(const armature::Form &form, const Transform &world, std::size_t point);

} // namespace bonemoss::app
