#pragma once

#include "base/types.h"

#include <array>
#include <string_view>

namespace bonemoss {

enum class SpaceMapKind { Bend, Twist, Taper, Stretch };
inline constexpr std::array<std::string_view, 4> kSpaceMapNames{"bend", "twist", "taper", "stretch"};

/// A change of space along an axis from a to b: nothing happens before a, all of it has happened at b and what lies
/// beyond goes along rigidly (tapered and stretched evenly). After Barr, "Global and local deformations of solid
/// primitives", SIGGRAPH 1984.
///
/// amount  bend: radians from a to b, towards `side`; twist: radians from a to b about the axis; taper: thickness
///         at b as a share of that at a; stretch: length as a share of what it was, thickness changing so that the
///         volume stays.
struct SpaceMap {
    SpaceMapKind kind = SpaceMapKind::Bend;
    Vec3f a, b{0, 1, 0};
    Vec3f side{1, 0, 0}; ///< bend: where b goes; its part across the axis counts
    float amount = 0;

    /// What became of space about a point: where the point is now, how a frame there turned, and how much thicker
    /// and longer (along the axis) things are there.
    struct Local {
        Vec3f at;
        Quat rotation;
        float across = 1, along = 1;
    };
    Local at(Vec3f p) const;
};

} // namespace bonemoss
