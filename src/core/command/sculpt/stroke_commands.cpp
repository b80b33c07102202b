// Strokes: what they may be told, how they run on a skin, and where they are repeated.
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/sculpt/sculpt_fields.h"
#include "command/named_items.h"
#include "command/pose/bone_names.h"
#include "command/region.h"
#include "document/ops/posing.h"
#include "document/ops/reknit.h"
#include "command/sculpt/stroke_fields.h"
#include "command/stroke_command.h"
#include "pose/paint_weights.h"
#include "skin/colour_layers.h"
#include "skin/levels.h"
#include "skin/local_density.h"
#include "image/picture.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::command {

using nlohmann::json;

namespace {

/// What is wrong with the settings of a stroke beyond what the table says; empty when nothing.
std::string complaintAbout(const sculpt::StrokeSettings &s, const Piece &piece, std::uint32_t layer)
{
    if (s.planeFrom == sculpt::PlaneFrom::Locked && s.planeNormal == Vec3f{})
        return "a locked plane needs a normal";
    if (const skin::Layer *l = piece.skin.layer(layer); l && l->isLocked && !marks(s.tool))
        return fmt::format("has the layer {} locked; unlock it first", l->name);
    if (s.tool == sculpt::Tool::Restore && layer == 0)
        return "is the body; Restore goes back to the skin without a layer, so choose a layer";
    if (changesFaces(s.tool) && !piece.skin.links.empty())
        return "has levels, and this tool makes new faces; delete the levels below and above the one in hand first";
    return {};
}

/// The same stroke as one of Paint, on the topmost colour layer; on a skin without any the first is made.
Status tint(skin::Skin &skin, sculpt::StrokeSettings settings, const std::vector<sculpt::PenSample> &samples,
            std::uint32_t &nextId)
{
    settings.tool = sculpt::Tool::Paint;
    const std::uint32_t layer =
        skin.colourLayers.empty() ? skin::addColourLayer(skin, "Colour", nextId) : skin.colourLayers.back().id;
    LiveStroke live(skin, settings, layer);
    for (const sculpt::PenSample &s : samples)
        live.add(s);
    return live.finish(skin);
}

Status strokeOn(skin::Skin &skin, const sculpt::StrokeSettings &settings, std::uint32_t layer,
                const std::vector<sculpt::PenSample> &samples, std::uint32_t &nextId)
{
    LiveStroke live(skin, settings, layer);
    for (const sculpt::PenSample &s : samples)
        live.add(s);
    if (const Status done = live.finish(skin); !done)
        return done;
    return settings.isTinting && !paints(settings.tool) ? tint(skin, settings, samples, nextId) : Status(Done{});
}

/// False for a correction of bones on one side alone, whose other side would show there.
bool isOfBothSides(const Creature &creature, const skin::Layer *layer)
{
    if (!layer || layer->drive.by != skin::LayerDrive::By::Pose)
        return true;
    const pose::Skeleton skeleton = skeletonOf(creature);
    const auto &joints = layer->drive.joints;
    return std::all_of(joints.begin(), joints.end(), [&](const auto &joint) {
        pose::BoneKey twin = pose::boneKeyOf(joint.bone);
        twin.isTwin = !twin.isTwin;
        return skeleton.find(twin) == kNone
               || std::any_of(joints.begin(), joints.end(), [&](const auto &j) { return j.bone == textOf(twin); });
    });
}

/// A piece in the pose of its creature, worked out where nobody has it at hand; none at rest.
class PoseHere
{
public:
    PoseHere(const Creature &creature, const Piece &piece, bool isPosed, const document::Standing *known)
    {
        if (!isPosed || creature.posing.now.isRest())
            return;
        m_at = known && known->rest().get() == &creature ? known->skin(piece.id) : nullptr;
        if (!m_at || m_at->part() != pose::PosedSkin::Part::Whole)
            m_at = &m_own.emplace(piece.skin, skeletonOf(creature), creature.posing.now);
    }
    explicit operator bool() const { return m_at; }
    const pose::PosedSkin &operator*() const { return *m_at; }
    const pose::PosedSkin *operator->() const { return m_at; }

private:
    const pose::PosedSkin *m_at = nullptr;
    std::optional<pose::PosedSkin> m_own;
};

/// On the piece as it stands: what is done goes to its rest. Its other side is found by the symmetry of the rest.
Status strokeInPose(const Creature &creature, Piece &piece, sculpt::StrokeSettings settings, std::uint32_t layer,
                    const std::vector<sculpt::PenSample> &samples, std::uint32_t &nextId, const document::Standing *known)
{
    const bool hasTwin = settings.isMirrored && settings.symmetry.hasPlane && isOfBothSides(creature, piece.skin.layer(layer));
    settings.symmetry = {.hasPlane = false};
    const PoseHere here(creature, piece, true, known);
    const pose::PosedSkin &pose = *here;
    skin::Skin worked = pose.standing();
    if (const Status done = strokeOn(worked, settings, layer, samples, nextId); !done)
        return done;
    if (const auto twins = hasTwin ? twinsInPose(piece, pose, samples) : std::vector<sculpt::PenSample>(); !twins.empty())
        if (const Status done = strokeOn(worked, settings, layer, twins, nextId); !done)
            return done;
    piece.skin = pose.atRest(worked);
    return Done{};
}

/// A stroke of weights: what a stroke of Mask would mask is the share; the other side by the symmetry of the rest, for the bone there.
Status weigh(const Creature &creature, Piece &piece, const Stroke &p, sculpt::StrokeSettings settings,
             const document::Standing *known)
{
    if (settings.tool != sculpt::Tool::Mask)
        return Error{ErrorCode::BadValue, "tool", "weights are painted with mask"};
    if (piece.skin.boneWeights.empty())
        return Error{ErrorCode::BadValue, piece.name, "is not bound yet; bind it first"};
    const pose::Skeleton skeleton = skeletonOf(creature);
    const std::uint32_t bone = p.bone ? boneNamed(skeleton, *p.bone) : 0;
    const bool hasTwin = settings.isMirrored && settings.symmetry.hasPlane;
    const sculpt::Symmetry symmetry = settings.symmetry;
    const auto how = p.evensWeights        ? pose::WeightStroke::Even
                     : settings.isReversed ? pose::WeightStroke::Take
                                           : pose::WeightStroke::Add;
    settings.symmetry = {.hasPlane = false}, settings.isReversed = false;
    const PoseHere pose(creature, piece, p.isPosed, known);
    skin::Skin bare = pose ? pose->standing() : piece.skin;
    bare.mask = skin::Bytes(bare.body.size());
    std::uint32_t none = 0;
    const auto paint = [&](const std::vector<sculpt::PenSample> &samples, std::uint32_t to) -> Status {
        skin::Skin masked = bare;
        if (const Status done = strokeOn(masked, settings, 0, samples, none); !done)
            return done;
        paintWeights(piece.skin, skeleton, to, how, masked.mask);
        return Done{};
    };
    if (const Status done = paint(p.samples, bone); !done || !hasTwin)
        return done;
    if (pose)
        return paint(twinsInPose(piece, *pose, p.samples), skeleton.twinOf(bone));
    std::vector<sculpt::PenSample> across = p.samples;
    const sculpt::Isometry mirror = symmetry.places().at(1);
    for (sculpt::PenSample &s : across)
        s.origin = mirror.apply(s.origin), s.direction = mirror.turn(s.direction), s.lean = mirror.turn(s.lean);
    return paint(across, skeleton.twinOf(bone));
}

Result<Creature> stroke(const Creature &before, const Stroke &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    skin::Skin &skin = piece->skin;
    sculpt::StrokeSettings settings = p.settings;
    Creature after = before;
    std::uint32_t layer = 0;
    if (paints(settings.tool)) // a colour layer; on a skin without any the first is made
        layer = skin.colourLayers.empty() && p.layer == ItemName(0u) ? skin::addColourLayer(skin, "Colour", after.nextId)
                                                                     : need(findColourLayer(*piece, p.layer));
    else
        layer = need(findLayer(*piece, p.layer));
    if (const std::string why = complaintAbout(settings, *piece, layer); !why.empty())
        return Error{ErrorCode::BadValue, piece->name, why};
    if (needsHandLayer(skin, layer, settings.tool))
        layer = handLayer(skin, layer, after.nextId);
    if (paints(settings.tool) || settings.isTinting) {
        need(checkColour(settings.colour, "colour"));
        settings.entry = inkOf(before, skin, p.entry, settings.colour).entry;
    }
    settings.symmetry = piece->symmetry;
    if (settings.tool == sculpt::Tool::Stamp && !(settings.picture = stampNamed(before, settings.stamp)))
        return Error{ErrorCode::Unknown, "stamp", fmt::format("there is no stamp \"{}\"", settings.stamp)};
    settings.stencil = need(stencilOf(before, p.stencil));
    if (p.bone || p.evensWeights) {
        need(weigh(before, *piece, p, settings, context.standing));
        return putBack(std::move(after), std::move(piece));
    }
    if (p.isPosed && !before.posing.now.isRest()) {
        if (changesFaces(settings.tool) || p.reknit.value_or(0) > 0)
            return Error{ErrorCode::BadValue, piece->name, "stands in a pose, where its faces stay; bring it to rest for that"};
        need(strokeInPose(before, *piece, settings, layer, p.samples, after.nextId, context.standing));
        return putBack(std::move(after), std::move(piece));
    }
    need(strokeOn(skin, settings, layer, p.samples, after.nextId));
    if (p.reknit.value_or(0) > 0 && !changesFaces(settings.tool))
        skin = need(reknitted(skin, {*p.reknit, 0}, context, false));
    return putBack(std::move(after), std::move(piece));
}

Result<Creature> setSymmetry(const Creature &before, const SetSymmetry &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    sculpt::Symmetry &s = piece->symmetry;
    setIfGiven(s.hasPlane, p.hasPlane);
    if (p.around)
        s.around = int(*p.around);
    for (const auto &[given, to] : {std::pair{p.normal, &s.normal}, {p.axis, &s.axis}}) {
        if (!given)
            continue;
        if (normalized(*given) == Vec3f{})
            return Error{ErrorCode::BadValue, "piece.symmetry", "a normal or an axis needs a length"};
        *to = normalized(*given);
    }
    setIfGiven(s.point, p.point);
    setIfGiven(s.axisPoint, p.axisPoint);
    return putBack(before, std::move(piece));
}

} // namespace

json strokeCommand(const StrokeOn &on, const sculpt::StrokeSettings &s, std::vector<sculpt::PenSample> samples)
{
    if (s.tilt == 0) // how the pen leaned does not count
        for (sculpt::PenSample &q : samples)
            q.lean = {};
    Stroke stroke{.piece = on.piece, .layer = on.layer, .samples = std::move(samples), .settings = s};
    stroke.isPosed = on.isPosed, stroke.evensWeights = on.evensWeights;
    if (!on.bone.empty())
        stroke.bone = on.bone;
    if (s.entry)
        stroke.entry = s.entry;
    if (s.stencil)
        stroke.stencil = stencilParams(*s.stencil);
    return toCommand(stroke);
}

Result<sculpt::StrokeSettings> strokeSettings(json command)
{
    if (!command.is_object())
        return Error{ErrorCode::BadValue, "tool", "settings must be an object"};
    command["do"] = Stroke::kName, command["samples"] = json::array();
    const auto params = checkParams(specsOf(Stroke::fields()), command);
    if (!params)
        return params.error();
    const sculpt::StrokeSettings settings = readFields(strokeFields(), *params);
    if (const std::string why = complaintAbout(settings, {}, 1); !why.empty())
        return Error{ErrorCode::BadValue, "tool", why};
    return settings;
}

Fields<Stroke> Stroke::fields()
{
    using P = Stroke;
    return fieldList<P>(
        {pieceField<P>(),
         fieldOf<P>(&P::layer, "layer", "",
                    "layer the stroke goes to; 0 is the body; of paint and wipe the colour layer, 0 the topmost")
             .always(),
         fieldOf<P>(&P::samples, "samples", "mm", "pen readings; see the recipe format").required(),
         nested<P>(&P::settings, strokeFields()),
         fieldOf<P>(&P::entry, "entry", "", "of tools that paint: a colour of the palette, which goes before colour"),
         fieldOf<P>(&P::isPosed, "posed", "", "on the creature as it stands in its pose; what is done goes to its rest"),
         fieldOf<P>(&P::bone, "bone", "",
                    "of mask: what is painted is how much this bone moves the skin; reversed it is taken away"),
         fieldOf<P>(&P::evensWeights, "evenWeights", "", "of mask: the weights of all bones get softer where it is painted"),
         fieldOf<P>(&P::reknit, "reknit", "mm", "knits the piece again at this spacing when the stroke is done", 0, 1000),
         nested<P>(&P::stencil, StencilParams::fields(false))});
}

Fields<SetSymmetry> SetSymmetry::fields()
{
    using P = SetSymmetry;
    return {pieceField<P>(),
            fieldOf<P>(&P::hasPlane, "plane", "", "across a plane"),
            fieldOf<P>(&P::point, "point", "mm", "of the plane"),
            fieldOf<P>(&P::normal, "normal", "", "of the plane"),
            fieldOf<P>(&P::around, "around", "", "times about the axis, itself counted", 1, 32),
            fieldOf<P>(&P::axisPoint, "axisPoint", "mm", "of the axis"),
            fieldOf<P>(&P::axis, "axis", "", "its way")};
}

std::vector<CommandSpec> strokeCommands()
{
    return {commandOf(stroke), commandOf(setSymmetry)};
}

} // namespace bonemoss::command
