#pragma once

#include "command/fields.h"
#include "sculpt/stroke.h"

namespace bonemoss::command {

/// Everything that can be set of a stroke, described once: command, tool files, the remembered settings of the hand and its panel
/// read it. Adding a setting is a member of StrokeSettings and a row.
const Fields<sculpt::StrokeSettings> &strokeFields();

/// The row of that name; must be there.
const Field<sculpt::StrokeSettings> &strokeField(std::string_view name);

/// Whether a setting means anything to a tool.
bool uses(sculpt::Tool tool, const Field<sculpt::StrokeSettings> &field);

} // namespace bonemoss::command
