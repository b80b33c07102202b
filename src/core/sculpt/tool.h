#pragma once

#include <cstddef>
#include <optional>
#include <span>
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
    Stamp,
    Paint,
    Wipe,
    Spray,
    Smear,
    Soften
};
inline constexpr std::size_t kToolCount = std::size_t(Tool::Soften) + 1;
std::string_view nameOf(Tool tool);
std::optional<Tool> toolNamed(std::string_view name);

struct StrokeSettings;

/// Sections of the tiles, by what a tool does to the skin.
enum class ToolGroup { Build, Move, Carve, Settle, Keep, Print, Colour };
inline constexpr std::string_view kToolGroups[] = {"Build", "Move", "Carve", "Settle", "Keep and refine", "Print", "Colour"};

/// How a dab begins: what it works along.
enum class DabPlane { Normal, Area }; ///< the normal of the skin where the pen is, or plane and normal of the area under the ring

/// A tool as commands, tiles, settings, stroke and manual know it. Adding one is its name above, a row in tool.cpp, and its kernel in
/// dab.cpp, or the one of another tool.
struct ToolRow {
    Tool tool;
    std::string_view name;        ///< in commands and files: "raise"
    std::string_view title, hint; ///< on its tile; what a stroke does, in a sentence
    ToolGroup group;
    bool marks = false;        ///< lays a share on each vertex and moves none
    bool paints = false;       ///< what it lays goes to a colour layer
    bool mixes = false;        ///< changes what lies there dab by dab, by what lies about it
    bool changesFaces = false; ///< strokes give the skin new faces
    bool takesHold = false;    ///< takes hold of the skin where the pen comes down and follows the pen from there
    bool settles = false;      ///< evens the skin under the whole ring, whichever way it faces
    bool isReversible = true;  ///< has another way round
    bool hasFalloff = true;
    DabPlane plane = DabPlane::Normal;
    /// What a dab does at a strength (0 to 1, negative when reversed) and a radius (mm): mm for what builds and carves, of edges for
    /// what changes faces, else a share. Null for tools that follow the pen.
    float (*amount)(const StrokeSettings &, float strength, float radius) = nullptr;
    void (*usual)(StrokeSettings &) = nullptr; ///< turns fresh settings into the tool's own; null where they are
};
std::span<const ToolRow> tools(); ///< in the order of Tool
const ToolRow &rowOf(Tool tool);

inline bool changesFaces(Tool tool)
{
    return rowOf(tool).changesFaces;
}
inline bool marks(Tool tool)
{
    return rowOf(tool).marks;
}
inline bool paints(Tool tool)
{
    return rowOf(tool).paints;
}
inline bool mixes(Tool tool)
{
    return rowOf(tool).mixes;
}
inline bool takesHold(Tool tool)
{
    return rowOf(tool).takesHold;
}
inline bool settles(Tool tool)
{
    return rowOf(tool).settles;
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
