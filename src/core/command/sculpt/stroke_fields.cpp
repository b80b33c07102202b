#include "command/sculpt/stroke_fields.h"

#include <algorithm>
#include <cassert>

namespace bonemoss::command {

namespace {

using sculpt::Tool;
using S = sculpt::StrokeSettings;

template <typename T>
Field<S> field(T S::*member, const char *name, const char *title, const char *unit, const char *text, double least, double most)
{
    return fieldOf<S>(member, name, unit, text, least, most).titled(title);
}
Field<S> toggle(bool S::*member, const char *name, const char *title, const char *text)
{
    return fieldOf<S>(member, name, "", text).titled(title);
}

/// In a command turns are in degrees.
Field<S> pictureTurn()
{
    Field<S> f = field(&S::rotation, "turn", "Rotation", "deg", "of the picture", -360, 360);
    f.read = [](const nlohmann::json &j, S &to) { to.rotation = j.get<float>() * kRadiansPerDegree; };
    f.write = [](const S &s) { return nlohmann::json(std::clamp(s.rotation / kRadiansPerDegree, -360.0f, 360.0f)); };
    return f;
}

/// A normal is read as one.
Field<S> lockedNormal()
{
    Field<S> f = fieldOf<S>(&S::planeNormal, "planeNormal", "", "of a locked plane").titled("Plane normal");
    f.read = [](const nlohmann::json &j, S &to) { to.planeNormal = normalized(value::Of<Vec3f>::read(j)); };
    return f;
}

Field<S> drawnFalloff()
{
    Field<S> f =
        fieldOf<S>(&S::drawn, "curve", "", "of the drawn falloff: 7 heights from the middle to the rim", 0, 1).titled("Curve");
    f.spec.defaultJson.clear();
    return f.onlyIf([](const S &s) { return rowOf(s.tool).hasFalloff && s.falloff == sculpt::Falloff::Drawn; }).always();
}

const auto isPaint = [](const S &s) { return s.tool == Tool::Paint || s.tool == Tool::Spray; };
const auto shapes = [](const S &s) { return !marks(s.tool) && !changesFaces(s.tool) && !takesHold(s.tool); };
const auto hasColour = [](const S &s) { return isPaint(s) || (s.isTinting && shapes(s)); };
const auto isSpray = [](const S &s) { return s.tool == Tool::Spray; };
Field<S> paintColour()
{
    Field<S> f = fieldOf<S>(&S::colour, "colour", "", "of Paint and Spray: red, green and blue, 0 to 1 (sRGB)").titled("Colour");
    return f.onlyIf(hasColour).always();
}
Field<S> finishField(std::size_t k, const char *name, const char *title)
{
    Field<S> f;
    f.spec = {name, ParamKind::Number, "", "of tools that paint: finish that is laid too, 0 to 1; left out: none"};
    f.spec.min = 0, f.spec.max = 1;
    f.read = [k](const nlohmann::json &j, S &to) { to.finish[k] = j.get<float>(); };
    f.write = [k](const S &s) { return s.finish[k] ? nlohmann::json(*s.finish[k]) : nlohmann::json(); };
    return f.titled(title).onlyIf(isPaint);
}
const auto isStamp = [](const S &s) { return s.tool == Tool::Stamp; };
const auto isStampOrSlab = [](const S &s) { return s.tool == Tool::Stamp || s.tool == Tool::Slab; };
const auto isPlane = [](const S &s) { return s.tool == Tool::Plane; };
const auto isLocked = [](const S &s) { return s.tool == Tool::Plane && s.planeFrom == sculpt::PlaneFrom::Locked; };
const auto isKnead = [](const S &s) { return s.tool == Tool::Knead; };
const auto isSmooth = [](const S &s) { return s.tool == Tool::Smooth; };
const auto makesFaces = [](const S &s) { return changesFaces(s.tool); };
const auto hasStrength = [](const S &s) { return !changesFaces(s.tool); };
const auto hasFalloff = [](const S &s) { return rowOf(s.tool).hasFalloff; };
const auto isReversible = [](const S &s) { return rowOf(s.tool).isReversible; };
const auto stepsFreely = [](const S &s) { return !takesHold(s.tool); };
const auto pressesByStrength = [](const S &s) { return !changesFaces(s.tool) && !takesHold(s.tool); };
const auto leansWithPen = [](const S &s) { return rowOf(s.tool).plane == sculpt::DabPlane::Area; };
const auto settlesSkin = [](const S &s) { return settles(s.tool); };
const auto mayFaceAway = [](const S &s) { return takesHold(s.tool) || settles(s.tool); };
const auto hasLimit = [](const S &s) { return !changesFaces(s.tool) && !marks(s.tool); };
const auto needNotHangTogether = [](const S &s) { return s.tool != Tool::Denser && s.tool != Tool::Sparser; };
const auto isScattered = [](const S &s) {
    return s.tool == Tool::Stamp || (stepsFreely(s) && (s.scatter > 0 || s.sizeScatter > 0));
};

/// What tools that paint lay, and those that shape beside.
Fields<S> paintFields()
{
    return {
        paintColour(),
        toggle(&S::isTinting, "tint", "Paints too",
               "tools that shape: the same stroke lays the colour on the topmost colour layer")
            .onlyIf(shapes),
        toggle(&S::laysColour, "layColour", "Lays colour", "of tools that paint: off for finish alone").onlyIf(isPaint),
        field(&S::colourScatter, "colourScatter", "Colour variation", "", "spray: how much dots differ in shade", 0, 1)
            .onlyIf(isSpray)
            .always(),
        finishField(0, "gloss", "Gloss"),
        finishField(1, "metal", "Metal"),
        finishField(2, "wet", "Wet"),
        finishField(3, "translucent", "Translucent"),
        finishField(4, "grain", "Grain"),
    };
}

std::vector<std::string> toolNames()
{
    std::vector<std::string> out;
    for (const sculpt::ToolRow &row : sculpt::tools())
        out.emplace_back(row.name);
    return out;
}

} // namespace

const Fields<S> &strokeFields()
{
    static const Fields<S> fields = fieldList<S>({
        choiceOf(&S::tool, "tool", "what the stroke does", toolNames()).required(),
        field(&S::size, "size", "Size", "mm", "radius of the tool", 0.01, 10000).always(),
        field(&S::strength, "strength", "Strength", "", "0 to 1", 0, 1).onlyIf(hasStrength).always(),
        choiceOf(&S::falloff, "falloff", "how it fades to its rim", sculpt::kFalloffNames).onlyIf(hasFalloff).always(),
        drawnFalloff(),
        field(&S::spacing, "spacing", "Spacing", "", "between prints, of the radius", 0.02, 4).onlyIf(stepsFreely).always(),
        field(&S::steadiness, "steadiness", "Steadiness", "", "how much of the path before is kept", 0, 0.95).always(),
        field(&S::scatter, "scatter", "Scatter", "", "how far prints fall beside the way, of the radius", 0, 10)
            .onlyIf(stepsFreely),
        field(&S::sizeScatter, "sizeScatter", "Size variation", "", "by how much prints are smaller, at random", 0, 1)
            .onlyIf(stepsFreely),
        toggle(&S::isReversed, "reverse", "Reversed", "dig instead of build").onlyIf(isReversible).always(),
        toggle(&S::isMirrored, "mirror", "Mirror", "in every place of the piece's symmetry").always(),
        toggle(&S::isConnected, "connected", "Only connected skin", "only skin that hangs together with the middle of the dab")
            .onlyIf(needNotHangTogether)
            .always(),
        toggle(&S::isIslandOnly, "islandOnly", "Else only one island",
               "where not only connected skin is meant: only the island the stroke began on")
            .onlyIf(hasStrength),
        toggle(&S::isFrontOnly, "frontOnly", "Only skin that faces the ring", "nothing that faces away from the dab")
            .onlyIf(mayFaceAway),
        toggle(&S::guardsThin, "guardThin", "Keep the far side of thin parts",
               "smooth, relax, restore: where the skin is thinner than the ring its far side stays")
            .onlyIf(settlesSkin),
        toggle(&S::pressureToStrength, "pressureToStrength", "Pressure sets strength", "pressure sets strength")
            .onlyIf(pressesByStrength)
            .always(),
        toggle(&S::pressureToSize, "pressureToSize", "Pressure sets size", "pressure sets size").always(),
        field(&S::strengthCurve, "strengthCurve", "Pressure curve, strength", "", "power of the pressure for strength", 0.2, 5)
            .onlyIf(pressesByStrength),
        field(&S::sizeCurve, "sizeCurve", "Pressure curve, size", "", "power of the pressure for size", 0.2, 5),
        field(&S::tilt, "tilt", "Lean with the pen's tilt", "", "how far dabs lean with the pen, 0 to 1", 0, 1)
            .onlyIf(leansWithPen),
        field(&S::rope, "rope", "Rope length", "", "length of a rope that the tool hangs on, of the size", 0, 10)
            .onlyIf(stepsFreely),
        field(&S::limit, "limit", "Limit per stroke, 0 for none", "mm", "how far a vertex may go in this stroke; 0 for any way",
              0, 1000)
            .onlyIf(hasLimit),
        fieldOf<S>(&S::stamp, "stamp", "",
                   "height picture of the stamp tool: one of the creature's own, or one that comes with the program")
            .titled("Stamp")
            .onlyIf(isStamp)
            .always(),
        field(&S::depth, "depth", "Depth", "mm", "of a stamp, from its middle to its extremes; of a slab its height", 0, 1000)
            .onlyIf(isStampOrSlab)
            .always(),
        toggle(&S::isDragged, "drag", "Drag out to size and angle", "one print drawn out to size and angle")
            .onlyIf(isStamp)
            .always(),
        field(&S::randomRotation, "randomTurn", "Random rotation", "", "of each print, 1 for any angle", 0, 1)
            .onlyIf(isStamp)
            .always(),
        field(&S::randomStrength, "randomStrength", "Random strength", "", "stamp: how much weaker a print may be, 0 to 1", 0, 1)
            .onlyIf(isStamp),
        toggle(&S::randomFlip, "randomFlip", "Mirror images now and then", "stamp: every other print or so is its mirror image")
            .onlyIf(isStamp),
        pictureTurn().onlyIf(isStamp).always(),
        field(&S::seed, "seed", "Seed", "", "of random turns", 0, 4294967295.0).onlyIf(isScattered).always(),
        field(&S::edge, "edge", "Edges", "", "tools that change faces: length of the edges wanted, of the size", 0.01, 1)
            .onlyIf(makesFaces)
            .always(),
        paintFields(),
        choiceOf(&S::planeSide, "side", "which skin Plane moves", sculpt::kPlaneSides).onlyIf(isPlane).always(),
        choiceOf(&S::planeFrom, "plane", "where Plane's plane lies", sculpt::kPlaneFroms).onlyIf(isPlane).always(),
        fieldOf<S>(&S::planePoint, "planePoint", "mm", "a point of a locked plane").onlyIf(isLocked).always(),
        lockedNormal().onlyIf(isLocked).always(),
        choiceOf(&S::knead, "knead", "what Knead does with what it holds", sculpt::kKneadKinds).onlyIf(isKnead).always(),
        toggle(&S::shrinks, "shrink", "Let it shrink", "smooth without keeping the volume").onlyIf(isSmooth).always(),
        field(&S::reach, "reach", "Width of the bumps that go", "",
              "smooth: width of the bumps that go, of the size; 0 for those of single faces", 0, 0.5)
            .onlyIf(isSmooth)
            .always(),
    });
    return fields;
}

const Field<S> &strokeField(std::string_view name)
{
    const auto &all = strokeFields();
    const auto at = std::find_if(all.begin(), all.end(), [&](const auto &f) { return f.spec.name == name; });
    assert(at != all.end());
    return *at;
}

bool uses(Tool tool, const Field<S> &field)
{
    S fresh;
    fresh.tool = tool, fresh.planeFrom = sculpt::PlaneFrom::Locked, fresh.falloff = sculpt::Falloff::Drawn, fresh.scatter = 1;
    return !field.isMeant || field.isMeant(fresh);
}

} // namespace bonemoss::command
