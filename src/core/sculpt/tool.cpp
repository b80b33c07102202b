#include "sculpt/tool.h"

#include "sculpt/stroke.h"

#include <algorithm>
#include <array>
#include <cassert>

namespace bonemoss::sculpt {

namespace {

using Settings = StrokeSettings;

// Of a dab at full strength, in shares of its radius; common practice, no source.
constexpr float kDabHeight = 0.07f, kDaubHeight = 0.12f, kCreaseDepth = 0.10f, kGougeDepth = 0.09f;
// And of the way to where it leads.
constexpr float kPinchShare = 0.14f, kPlaneShare = 0.45f, kRestoreShare = 0.5f;

float height(const Settings &, float strength, float radius)
{
    return strength * kDabHeight * radius;
}
float daubHeight(const Settings &, float strength, float radius)
{
    return strength * kDaubHeight * radius;
}
float depth(const Settings &s, float strength, float)
{
    return strength * s.depth;
}
float creaseDepth(const Settings &, float strength, float radius)
{
    return strength * kCreaseDepth * radius;
}
float gougeDepth(const Settings &, float strength, float radius)
{
    return strength * kGougeDepth * radius;
}
float pinchShare(const Settings &, float strength, float)
{
    return strength * kPinchShare;
}
float planeShare(const Settings &, float strength, float)
{
    return strength * kPlaneShare;
}
float share(const Settings &, float strength, float)
{
    return strength;
}
float restoreShare(const Settings &, float strength, float)
{
    return strength * kRestoreShare;
}
float edge(const Settings &s, float, float radius)
{
    return s.edge * radius;
}

void flatTop(Settings &s)
{
    s.falloff = Falloff::Plateau;
}
void usualSlab(Settings &s)
{
    s.falloff = Falloff::Plateau, s.strength = 1;
}
void usualHold(Settings &s)
{
    s.strength = 1, s.size = 18;
}
void usualTwist(Settings &s)
{
    s.strength = 1, s.size = 18, s.falloff = Falloff::Soft;
}
void usualTendril(Settings &s)
{
    s.strength = 1, s.falloff = Falloff::Plateau, s.edge = 0.22f;
}
void narrow(Settings &s)
{
    s.size = 6;
}
void usualGouge(Settings &s)
{
    s.size = 6, s.falloff = Falloff::Plateau;
}
void usualSmooth(Settings &s)
{
    s.strength = 0.6f;
}
void usualMask(Settings &s)
{
    s.falloff = Falloff::Plateau, s.strength = 1;
}
void usualPaint(Settings &s)
{
    s.strength = 0.6f, s.spacing = 0.1f;
}
void usualDenser(Settings &s)
{
    s.spacing = 0.3f;
}
void usualSparser(Settings &s)
{
    s.spacing = 0.3f, s.edge = 0.3f;
}
void usualStamp(Settings &s)
{
    s.strength = 0.5f, s.falloff = Falloff::Plateau, s.spacing = 1.2f, s.isDragged = true;
}

void usualSpray(Settings &s)
{
    s.strength = 0.8f, s.spacing = 0.06f, s.scatter = 0.9f, s.sizeScatter = 0.8f, s.colourScatter = 0.3f;
    s.falloff = Falloff::Plateau;
}
void usualSmear(Settings &s)
{
    s.strength = 0.8f, s.spacing = 0.06f;
}

constexpr ToolRow colourRow(Tool tool, std::string_view name, std::string_view title, std::string_view hint,
                            void (*usual)(Settings &))
{
    return {.tool = tool,
            .name = name,
            .title = title,
            .hint = hint,
            .group = ToolGroup::Colour,
            .marks = true,
            .paints = true,
            .isReversible = false,
            .amount = share,
            .usual = usual};
}
constexpr ToolRow mixing(ToolRow row)
{
    row.mixes = true;
    return row;
}

using enum ToolGroup;
constexpr std::array<ToolRow, kToolCount> kTools{{
    {.tool = Tool::Raise,
     .name = "raise",
     .title = "Raise",
     .hint = "Raise lifts the skin along the area's normal",
     .group = Build,
     .plane = DabPlane::Area,
     .amount = height},
    {.tool = Tool::Daub,
     .name = "daub",
     .title = "Daub",
     .hint = "Daub lays flat-topped passes and fills hollows first",
     .group = Build,
     .plane = DabPlane::Area,
     .amount = daubHeight,
     .usual = flatTop},
    {.tool = Tool::Swell,
     .name = "swell",
     .title = "Swell",
     .hint = "Swell pushes every point out along its own normal",
     .group = Build,
     .amount = height},
    {.tool = Tool::Slab,
     .name = "slab",
     .title = "Slab",
     .hint = "Slab lays a fixed thickness over the skin as it was, never more",
     .group = Build,
     .amount = depth,
     .usual = usualSlab},
    {.tool = Tool::Tug,
     .name = "tug",
     .title = "Tug",
     .hint = "Tug drags what is connected under the ring",
     .group = Move,
     .takesHold = true,
     .isReversible = false,
     .usual = usualHold},
    {.tool = Tool::Knead,
     .name = "knead",
     .title = "Knead",
     .hint = "Knead drags the skin as an elastic body that keeps its volume",
     .group = Move,
     .takesHold = true,
     .hasFalloff = false,
     .usual = usualHold},
    {.tool = Tool::Tendril,
     .name = "tendril",
     .title = "Tendril",
     .hint = "Tendril draws a limb out of the skin, with new faces as it grows",
     .group = Move,
     .changesFaces = true,
     .takesHold = true,
     .isReversible = false,
     .usual = usualTendril},
    {.tool = Tool::Twist,
     .name = "twist",
     .title = "Twist",
     .hint = "Twist turns the skin as the pen goes round where it came down",
     .group = Move,
     .takesHold = true,
     .usual = usualTwist},
    {.tool = Tool::Crease,
     .name = "crease",
     .title = "Crease",
     .hint = "Crease cuts a tight valley with a soft shoulder",
     .group = Carve,
     .plane = DabPlane::Area,
     .amount = creaseDepth,
     .usual = narrow},
    {.tool = Tool::Pinch,
     .name = "pinch",
     .title = "Pinch",
     .hint = "Pinch draws the skin together along the stroke",
     .group = Carve,
     .plane = DabPlane::Area,
     .amount = pinchShare,
     .usual = narrow},
    {.tool = Tool::Plane,
     .name = "plane",
     .title = "Plane",
     .hint = "Plane flattens the skin to a plane",
     .group = Carve,
     .plane = DabPlane::Area,
     .amount = planeShare,
     .usual = flatTop},
    {.tool = Tool::Gouge,
     .name = "gouge",
     .title = "Gouge",
     .hint = "Gouge cuts a channel away from you, along the view",
     .group = Carve,
     .amount = gougeDepth,
     .usual = usualGouge},
    {.tool = Tool::Smooth,
     .name = "smooth",
     .title = "Smooth",
     .hint = "Smooth evens the skin and keeps its volume",
     .group = Settle,
     .settles = true,
     .isReversible = false,
     .amount = share,
     .usual = usualSmooth},
    {.tool = Tool::Relax,
     .name = "relax",
     .title = "Relax",
     .hint = "Relax evens the faces and keeps the shape",
     .group = Settle,
     .settles = true,
     .isReversible = false,
     .amount = share},
    {.tool = Tool::Restore,
     .name = "restore",
     .title = "Restore",
     .hint = "Restore goes back towards the skin without the chosen layer",
     .group = Settle,
     .settles = true,
     .isReversible = false,
     .amount = restoreShare},
    {.tool = Tool::Mask,
     .name = "mask",
     .title = "Mask",
     .hint = "Mask keeps what it covers as it is",
     .group = Keep,
     .marks = true,
     .amount = share,
     .usual = usualMask},
    {.tool = Tool::Denser,
     .name = "denser",
     .title = "Denser",
     .hint = "Denser gives the skin shorter edges",
     .group = Keep,
     .changesFaces = true,
     .hasFalloff = false,
     .amount = edge,
     .usual = usualDenser},
    {.tool = Tool::Sparser,
     .name = "sparser",
     .title = "Sparser",
     .hint = "Sparser gives the skin longer edges",
     .group = Keep,
     .changesFaces = true,
     .hasFalloff = false,
     .amount = edge,
     .usual = usualSparser},
    {.tool = Tool::Stamp,
     .name = "stamp",
     .title = "Stamp",
     .hint = "Stamp presses a height picture into the skin",
     .group = Print,
     .plane = DabPlane::Area,
     .amount = depth,
     .usual = usualStamp},
    colourRow(Tool::Paint, "paint", "Paint", "Paint lays colour on the skin, in the chosen colour layer", usualPaint),
    colourRow(Tool::Wipe, "wipe", "Wipe", "Wipe takes colour and finish off the chosen colour layer", usualPaint),
    mixing(colourRow(Tool::Spray, "spray", "Spray", "Spray scatters dots of several sizes and shades", usualSpray)),
    mixing(colourRow(Tool::Smear, "smear", "Smear", "Smear drags the colour of the chosen layer along", usualSmear)),
    mixing(colourRow(Tool::Soften, "soften", "Soften", "Soften blurs the colour of the chosen layer", usualPaint)),
}};

} // namespace

std::span<const ToolRow> tools()
{
    return kTools;
}

const ToolRow &rowOf(Tool tool)
{
    assert(kTools[std::size_t(tool)].tool == tool);
    return kTools[std::size_t(tool)];
}

std::string_view nameOf(Tool tool)
{
    return rowOf(tool).name;
}

std::optional<Tool> toolNamed(std::string_view name)
{
    const auto at = std::find_if(kTools.begin(), kTools.end(), [&](const ToolRow &t) { return t.name == name; });
    return at == kTools.end() ? std::optional<Tool>() : at->tool;
}

} // namespace bonemoss::sculpt
