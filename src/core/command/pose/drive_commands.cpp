#include "command/fields.h"
#include "command/pose/bone_names.h"
#include "command/pose/drive_fields.h"
#include "document/ops/controls.h"
#include "skin/layers.h"
#include "skin/levels.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using pose::Skeleton;
using skin::Layer;
using skin::LayerDrive;

namespace {

/// How the bones named, or all that are turned, stand now.
std::vector<LayerDrive::Joint> jointsOf(const Creature &creature, const std::vector<ItemName> &names)
{
    const Skeleton skeleton = skeletonOf(creature);
    std::vector<LayerDrive::Joint> out;
    const auto add = [&](pose::BoneKey bone) { out.push_back({textOf(bone), creature.posing.now.turnOf(bone)}); };
    for (const std::uint32_t b : bonesNamed(skeleton, names))
        add(skeleton.bones[b].key);
    if (names.empty())
        for (const pose::Turn &t : creature.posing.now.turns)
            add(t.bone);
    std::sort(out.begin(), out.end(), [](const auto &a, const auto &b) { return a.bone < b.bone; });
    if (std::all_of(out.begin(), out.end(), [](const auto &j) { return j.turn == Quat(); }))
        throw Failure{{ErrorCode::BadValue, "pose", "no such bone is turned: a correction needs a pose that differs from rest"}};
    return out;
}

/// The layer a command names, to be changed; the body is none.
Layer &layerOf(Piece &piece, const ItemName &name)
{
    const std::uint32_t id = need(findLayer(piece, name));
    if (id == 0)
        throw Failure{{ErrorCode::BadValue, "layer", "the body does not come and go; name a layer"}};
    Layer &layer = *piece.skin.layer(id);
    if (layer.isLocked)
        throw Failure{{ErrorCode::BadValue, layer.name, "this layer is locked; unlock it first"}};
    return layer;
}

Result<Creature> driveLayer(const Creature &before, const DriveLayer &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    Layer &layer = layerOf(*piece, p.layer);
    LayerDrive drive{.by = p.by, .none = p.none, .full = p.full, .curve = p.curve};
    if (drive.isOfStretch() && std::abs(p.full - p.none) < 0.01f)
        return Error{ErrorCode::BadValue, "full", "must differ from none by 0.01 at least"};
    if (p.by == LayerDrive::By::Pose)
        drive.joints = jointsOf(before, p.bones);
    const float shown = layer.shownStrength();
    layer.drive = std::move(drive);
    if (layer.shownStrength() != shown)
        skin::mixBlocks(piece->skin, skin::blocksWith(layer));
    return putBack(before, std::move(piece));
}

Result<Creature> correctPose(const Creature &before, const CorrectPose &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Layer layer(piece->skin.body.size());
    layer.drive = {.by = LayerDrive::By::Pose, .joints = jointsOf(before, p.bones)};
    layer.id = after.nextId++, layer.name = layerName(piece->skin, p.name);
    piece->skin.layers.push_back(std::move(layer));
    after.put(std::move(piece));
    return after;
}

Result<Creature> mirrorCorrection(const Creature &before, const MirrorCorrection &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    const Layer &layer = layerOf(*piece, p.layer);
    if (layer.drive.by != LayerDrive::By::Pose)
        return Error{ErrorCode::BadValue, layer.name, "corrects no pose"};
    const Skeleton skeleton = skeletonOf(before);
    LayerDrive drive = layer.drive;
    for (LayerDrive::Joint &j : drive.joints) {
        const std::uint32_t b = skeleton.find(pose::boneKeyOf(j.bone));
        if (b == kNone)
            return Error{ErrorCode::BadValue, layer.name, "corrects bones that are gone"};
        j = {textOf(skeleton.bones[skeleton.twinOf(b)].key), {j.turn.x, -j.turn.y, -j.turn.z, j.turn.w}};
    }
    std::sort(drive.joints.begin(), drive.joints.end(), [](const auto &a, const auto &b) { return a.bone < b.bone; });
    Creature after = before;
    const std::uint32_t from = layer.id, id = after.nextId++;
    const std::string name = layerName(piece->skin, layer.name + " other side");
    need(skin::duplicateLayer(piece->skin, from, id, name));
    sculpt::Symmetry plane = piece->symmetry;
    plane.hasPlane = true, plane.around = 1;
    double missed = 0;
    need(skin::mapLayer(piece->skin, id, plane.places().at(1), missed));
    piece->skin.layer(id)->drive = std::move(drive);
    if (missed > 0.005)
        context.notes.push_back(fmt::format("{:.1f} % of the skin has no mirror image, and nothing of it now", missed * 100));
    after.put(std::move(piece));
    return after;
}

Result<Creature> lookAtPlace(const Creature &before, const LookAt &p, CommandContext &context)
{
    Creature after = before;
    bindWhatIsNot(after, context);
    const Skeleton skeleton = skeletonOf(after);
    const std::uint32_t bone = boneNamed(skeleton, p.bone), neck = p.neck ? boneNamed(skeleton, *p.neck) : bone;
    if (normalized(p.front) == Vec3f{})
        return Error{ErrorCode::BadValue, "front", "needs a length"};
    if (p.turnsHead) {
        const float left = lookAt(after.posing, skeleton, bone, neck, p.at, p.front, p.keepsLimits);
        if (left > 1)
            context.notes.push_back(fmt::format("{} stays {:.0f} degrees short of it", p.bone, left));
    }
    if (p.turnsEyes)
        eyesLookAt(after, skeleton, bone, p.at);
    keepPins(after.posing, skeleton);
    return after;
}

Result<Creature> setOneControl(const Creature &before, const SetControl &p, CommandContext &context)
{
    Creature after = before;
    bindWhatIsNot(after, context);
    const Skeleton skeleton = skeletonOf(after);
    std::string some;
    for (const document::Control &c : controlsOf(after, skeleton)) {
        if (c.name == p.control) {
            if (p.value < c.low || p.value > c.high)
                context.notes.push_back(fmt::format("{} goes from {:g} to {:g}", c.name, c.low, c.high));
            setControl(after, skeleton, c, p.value);
            return after;
        }
        if (some.size() < 200)
            some += (some.empty() ? "" : ", ") + c.name;
    }
    return Error{ErrorCode::Unknown, "control",
                 some.empty() ? "the creature has none: they come with jaws, digits, eyes and poses of some bones"
                              : fmt::format("there is no control \"{}\"; there are {}", p.control, some)};
}

Result<Creature> orderPose(const Creature &before, const OrderPose &p, CommandContext &)
{
    Creature after = before;
    const pose::Pose *known = poseNamed(after, p.pose);
    if (!known)
        return Error{ErrorCode::Unknown, "pose", fmt::format("there is no pose {}", told(p.pose))};
    auto &poses = after.posing.poses;
    const auto from = poses.begin() + (known - poses.data()),
               end = poses.begin() + std::ptrdiff_t(std::min<std::size_t>(p.to, poses.size() - 1));
    if (from < end)
        std::rotate(from, from + 1, end + 1);
    else
        std::rotate(end, from, from + 1);
    return after;
}

Result<Creature> renamePose(const Creature &before, const RenamePose &p, CommandContext &)
{
    Creature after = before;
    pose::Pose *known = poseNamed(after, p.pose);
    if (!known)
        return Error{ErrorCode::Unknown, "pose", fmt::format("there is no pose {}", told(p.pose))};
    if (p.name.empty() || p.name == "rest" || (poseNamed(after, ItemName(p.name)) && known->name != p.name))
        return Error{ErrorCode::BadValue, "name", "must be a word or more that no pose has yet, and not \"rest\""};
    known->name = p.name;
    return after;
}

} // namespace

Fields<DriveLayer> DriveLayer::fields()
{
    using P = DriveLayer;
    return {
        pieceField<P>(),
        layerField<P>(),
        choiceOf<P>(
            &P::by, "by",
            "none: always; shrink, grow: the least and greatest stretch of the skin; area: the root of the change of its area; "
            "pose: as it is now",
            skin::kDriveNames),
        fieldOf<P>(&P::none, "none", "", "stretch at which nothing of it shows; 1 is rest", 0.05, 5),
        fieldOf<P>(&P::full, "full", "", "stretch at which all of it shows", 0.05, 5),
        fieldOf<P>(&P::curve, "curve", "", "exponent between them: above 1 comes late, below early", 0.1, 8),
        fieldOf<P>(&P::bones, "bones", "", "of pose: whose angles count; left out: all that are turned now")};
}
Fields<CorrectPose> CorrectPose::fields()
{
    using P = CorrectPose;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "of the layer"),
            fieldOf<P>(&P::bones, "bones", "", "whose angles it comes in with; left out: all that are turned now")};
}
Fields<MirrorCorrection> MirrorCorrection::fields()
{
    using P = MirrorCorrection;
    return {pieceField<P>(), layerField<P>()};
}
Fields<LookAt> LookAt::fields()
{
    using P = LookAt;
    return {fieldOf<P>(&P::bone, "bone", "", "the head, by name").required(),
            fieldOf<P>(&P::neck, "neck", "", "the first bone that turns with it; left out: the head alone"),
            fieldOf<P>(&P::at, "at", "mm", "what is looked at", 0, 1e6).required(),
            fieldOf<P>(&P::front, "front", "", "the way that the head faces at rest", 0, 1e6),
            fieldOf<P>(&P::turnsHead, "head", "", "the head turns"),
            fieldOf<P>(&P::turnsEyes, "eyes", "", "the eyes on it turn"),
            fieldOf<P>(&P::keepsLimits, "limits", "", "bones turn no farther than their limits")};
}
Fields<SetControl> SetControl::fields()
{
    using P = SetControl;
    return {fieldOf<P>(&P::control, "control", "", "by name, as the list of the creature's poses tells").required(),
            fieldOf<P>(&P::value, "value", "", "in degrees, mm or a share, as the control has it").required()};
}
Fields<OrderPose> OrderPose::fields()
{
    using P = OrderPose;
    return {fieldOf<P>(&P::pose, "pose", "", "by name or id").required(),
            fieldOf<P>(&P::to, "to", "", "0 for the first place", 0, 1000).required()};
}
Fields<RenamePose> RenamePose::fields()
{
    using P = RenamePose;
    return {fieldOf<P>(&P::pose, "pose", "", "by name or id").required(),
            fieldOf<P>(&P::name, "name", "", "the new one").required()};
}

std::vector<CommandSpec> driveCommands()
{
    return {commandOf(driveLayer),          commandOf(correctPose), commandOf(mirrorCorrection), commandOf(lookAtPlace, true),
            commandOf(setOneControl, true), commandOf(orderPose),   commandOf(renamePose)};
}

} // namespace bonemoss::command
