#pragma once

#include "armature/form.h"

#include <span>
#include <string>

namespace bonemoss::armature {

/// What a sculptor compares parts by: how long a form is along its longest side or its path, with round
/// ends; mm, in the creature. 0 for a form without extent.
float lengthOf(const Form &form, const Transform &world);

/// What is measured by something other than its form's own shape: a piece, by the longest side of its box.
struct MeasuredPart {
    std::uint32_t id = 0;
    std::string name;
    float lengthMm = 0;
};

/// One line of the list of proportions.
struct Proportion {
    std::uint32_t form = 0; ///< or piece
    std::string name;
    float lengthMm = 0;
    float inUnits = 0; ///< 0 when there is no unit
    const ProportionTarget *target = nullptr;
    /// How far beyond (above 0) or short of (below 0) the wanted ratio, as a share of it; 0 without one.
    float miss = 0;
    bool isMissed = false; ///< by more than the tolerance
};

/// Every form of an armature, and every other part, in the length of the unit, those with a wanted ratio first.
/// O(forms + others).
std::vector<Proportion> proportionsOf(const Armature &armature, std::span<const MeasuredPart> others = {});

} // namespace bonemoss::armature
