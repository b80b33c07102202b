#pragma once

#include <cstddef>
#include <optional>
#include <string_view>

namespace bonemoss::sculpt {

enum class Tool {
    Raise,
    Daub,
    Swell,
    Slab,
    Tug,
    Knead,
    Tendril,
    Twist,
    Crease,
    Pinch,
    Plane,
    Gouge,
    Smooth,
    Relax,
    Restore,
    Mask,
    Denser,
    Sparser,
    Stamp
};
inline constexpr std::size_t kToolCount = std::size_t(Tool::Stamp) + 1;
std::string_view nameOf(Tool tool);
std::optional<Tool> toolNamed(std::string_view name);

/// Whether strokes of it give the skin new faces.
constexpr bool changesFaces(Tool tool)
{
    return tool == Tool::Tendril || tool == Tool::Denser || tool == Tool::Sparser;
}
/// Whether it takes hold of the skin where the pen comes down and follows the pen from there.
constexpr bool takesHold(Tool tool)
{
    return tool == Tool::Tug || tool == Tool::Knead || tool == Tool::Tendril || tool == Tool::Twist;
}

/// Whether it evens the skin under the whole ring, whichever way it faces.
constexpr bool settles(Tool tool)
{
    return tool == Tool::Smooth || tool == Tool::Relax || tool == Tool::Restore;
}

/// Which skin Plane moves, and where its plane lies.
enum class PlaneSide { Both, Tops, Hollows };
enum class PlaneFrom { Area, Start, Locked };
/// What Knead does with what it holds.
enum class KneadKind { Drag, Turn, Swell, Squeeze };

inline constexpr std::string_view kPlaneSides[] = {"both", "tops", "hollows"};
inline constexpr std::string_view kPlaneFroms[] = {"area", "start", "locked"};
inline constexpr std::string_view kKneadKinds[] = {"drag", "turn", "swell", "squeeze"};

} // namespace bonemoss::sculpt
