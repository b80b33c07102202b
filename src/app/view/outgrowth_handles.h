#pragma once

#include "document/creature.h"
#include "outgrowth/outgrowth.h"

#include <optional>

namespace bonemoss::app {

/// What can be dragged of an outgrowth that stands at places, besides its roots.
enum class OutgrowthHandle {
    Tip,   ///< its length, and which way it leans
    Middle ///< how it bends: the size of a coil, a curve
};

/// Where a handle stands in the view, mm; none where the kind has nothing to be dragged by it.
std::optional<Vec3f> handleOf(const outgrowth::Outgrowth &o, OutgrowthHandle which);

/// The rule with the settings of a handle changed so that the handle comes as near to a place as they allow: three steps of
/// Gauss and Newton (with damping, after Levenberg 1944) whose derivatives are differences of made outgrowths. A dozen times the
/// cost of making it.
outgrowth::Outgrowth draggedTo(const document::Creature &creature, const outgrowth::Outgrowth &o, OutgrowthHandle which,
                               Vec3f to);

/// A size of the profile of a row, as a knob that stands over the row in the view.
struct ProfileKnob {
    Vec3f root, up, at; ///< mm; up: unit
    float size = 1;
};
/// None but where members stand along one line and have a height.
std::vector<ProfileKnob> profileOf(const outgrowth::Outgrowth &o);
/// The profile with a knob dragged to where its line passes nearest to a ray from the eye.
std::vector<float> profileDragged(const outgrowth::Outgrowth &o, std::size_t knob, const mesh::Ray &ray);

} // namespace bonemoss::app
