#include "command/pose/bone_names.h"
#include "command/pose/pose_fields.h"
#include "command/fields.h"
#include "command/named_items.h"
#include "document/ops/posing.h"
#include "pose/paint_weights.h"
#include "skin/marks.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using pose::Skeleton;

std::uint32_t boneNamed(const Skeleton &skeleton, const std::string &name)
{
    const std::uint32_t bone = skeleton.find(name);
    if (bone != kNone)
        return bone;
    std::string some;
    for (const pose::Bone &b : skeleton.bones)
        if (some.size() < 160)
            some += (some.empty() ? "" : ", ") + b.name;
    throw Failure{{ErrorCode::Unknown, "bone",
                   skeleton.bones.empty() ? "the creature has no bones: it has no forms to turn"
                                          : fmt::format("there is no bone \"{}\"; there are {} and more", name, some)}};
}

std::vector<std::uint32_t> bonesNamed(const Skeleton &skeleton, const std::vector<ItemName> &names)
{
    std::vector<std::uint32_t> out;
    for (const ItemName &name : names)
        out.push_back(boneNamed(skeleton, std::holds_alternative<std::string>(name)
                                              ? std::get<std::string>(name)
                                              : std::to_string(std::get<std::uint32_t>(name))));
    return out;
}

void bindWhatIsNot(Creature &creature, CommandContext &context)
{
    if (const Status bound = document::bind(creature, 0, context); !bound)
        throw Failure{bound.error()};
}

void tellLimits(const Skeleton &skeleton, const pose::Posture &now, CommandContext &context)
{
    for (const pose::Turn &t : now.turns)
        if (const std::uint32_t b = skeleton.find(t.bone); b != kNone)
            if (const float by = beyondLimits(skeleton.bones[b], t.turn); by > 0.5f)
                context.notes.push_back(fmt::format("{} is turned {:.0f} degrees beyond its limits", skeleton.bones[b].name, by));
}

namespace {

Result<Creature> bindSkin(const Creature &before, const BindSkin &p, CommandContext &context)
{
    Creature after = before;
    const std::uint32_t id = p.piece ? need(findPiece(before, p.piece)) : 0; // 0: all that have none
    if (const Status bound = document::bind(after, id, context); !bound)
        return bound.error();
    return after;
}

Result<Creature> bindRigid(const Creature &before, const BindRigid &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::Skin &skin = piece->skin;
    const Skeleton skeleton = skeletonOf(before);
    const pose::BoneKey bone = skeleton.bones[boneNamed(skeleton, p.bone)].key;
    const skin::Group *group = p.group ? skin.group(*p.group) : nullptr;
    if (p.group && !group)
        return Error{ErrorCode::BadValue, piece->name, "has no such group; name one of its groups"};
    if (p.isMasked && !skin.hasMask())
        return Error{ErrorCode::BadValue, piece->name, "nothing is masked; mask what shall go with the bone"};
    if (!group && !p.isMasked) {
        setWeights(skin, pose::rigidWeights(skin.body.size(), bone));
        return putBack(before, std::move(piece));
    }
    if (skin.boneWeights.empty())
        return Error{ErrorCode::BadValue, piece->name, "is not bound yet; bind it first"};
    const skin::Bytes share =
        group ? skin::valuesBy<std::uint8_t>(
            skin.body.size(), [&](std::size_t v) { return std::uint8_t(255 * int(skin.groupOf[v] == group->number)); })
              : skin.mask;
    paintWeights(skin, skeleton, boneNamed(skeleton, p.bone), pose::WeightStroke::Add, share);
    return putBack(before, std::move(piece));
}

Result<Creature> evenWeights(const Creature &before, const EvenWeights &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::Skin &skin = piece->skin;
    if (skin.boneWeights.empty())
        return Error{ErrorCode::BadValue, piece->name, "is not bound yet; bind it first"};
    const skin::Bytes share = skin.hasMask() ? skin.mask : skin::Bytes(std::vector<std::uint8_t>(skin.body.size(), 255));
    for (std::uint32_t k = 0; k < p.passes; ++k)
        paintWeights(skin, skeletonOf(before), 0, pose::WeightStroke::Even, share);
    return putBack(before, std::move(piece));
}

Result<Creature> turnBone(const Creature &before, const TurnBone &p, CommandContext &context)
{
    Creature after = before;
    bindWhatIsNot(after, context);
    const Skeleton skeleton = skeletonOf(after);
    const std::uint32_t bone = boneNamed(skeleton, p.bone);
    pose::Posture &now = after.posing.now;
    const auto turn = [&](std::uint32_t b, Vec3f angles) {
        Quat q = pose::turnOfAngles(angles);
        if (p.isOn)
            q = now.turnOf(skeleton.bones[b].key) * q;
        now.set(skeleton.bones[b].key, p.keepsLimits ? withinLimits(skeleton.bones[b], q) : q);
    };
    turn(bone, p.angles);
    if (const std::uint32_t twin = skeleton.twinOf(bone); p.isMirrored && twin != bone)
        turn(twin, {p.angles.x, -p.angles.y, -p.angles.z});
    keepPins(after.posing, skeleton);
    tellLimits(skeleton, now, context);
    return after;
}

Result<Creature> reachFor(const Creature &before, const ReachFor &p, CommandContext &context)
{
    Creature after = before;
    bindWhatIsNot(after, context);
    const Skeleton skeleton = skeletonOf(after);
    const float off = reachTo(after.posing, skeleton, boneNamed(skeleton, p.bone), p.from, p.at, p.keepsLimits);
    if (off > 0.1f)
        context.notes.push_back(fmt::format("{} stays {:.1f} mm short of there", p.bone, off));
    return after;
}

Result<Creature> curlChain(const Creature &before, const CurlChain &p, CommandContext &context)
{
    Creature after = before;
    bindWhatIsNot(after, context);
    const Skeleton skeleton = skeletonOf(after);
    const std::uint32_t first = boneNamed(skeleton, p.bone);
    std::vector<std::uint32_t> chain;
    if (p.to) {
        for (std::uint32_t b = boneNamed(skeleton, *p.to); b != kNone; b = b == first ? kNone : skeleton.bones[b].parent)
            chain.push_back(b);
        if (chain.back() != first)
            return Error{ErrorCode::BadValue, "to", fmt::format("does not hang from {}", p.bone)};
        std::reverse(chain.begin(), chain.end());
    } else { // on while there is one way to go
        for (std::uint32_t b = first; b != kNone;) {
            chain.push_back(b);
            const std::vector<std::uint32_t> next = skeleton.childrenOf(b);
            b = next.size() == 1 ? next[0] : kNone;
        }
    }
    curl(skeleton, after.posing.now, chain, p.angles);
    keepPins(after.posing, skeleton);
    tellLimits(skeleton, after.posing.now, context);
    return after;
}

Result<Creature> moveWhole(const Creature &before, const MoveWhole &p, CommandContext &context)
{
    Creature after = before;
    bindWhatIsNot(after, context);
    const Skeleton skeleton = skeletonOf(after);
    pose::Rigid &whole = after.posing.now.whole;
    const Vec3f pivot = whole.apply(skeleton.bones[0].head);
    const Quat turn = fromEulerDeg(p.turn);
    whole = pose::Rigid{turn, pivot - rotate(turn, pivot) + p.by} * whole;
    keepPins(after.posing, skeleton);
    return after;
}

Result<Creature> settleDown(const Creature &before, const Settle &, CommandContext &context)
{
    Creature after = before;
    if (before.pieces.empty())
        return Error{ErrorCode::Empty, "creature", "has no skin to stand on"};
    bindWhatIsNot(after, context);
    std::string names;
    for (const std::string &name : settle(after))
        names += (names.empty() ? "" : ", ") + name;
    context.notes.push_back("it stands on " + names);
    return after;
}

Result<Creature> pinBone(const Creature &before, const PinBone &p, CommandContext &)
{
    Creature after = before;
    const Skeleton skeleton = skeletonOf(after);
    const std::uint32_t bone = boneNamed(skeleton, p.bone);
    std::erase_if(after.posing.pins, [&](const document::Pin &pin) { return pin.bone == skeleton.bones[bone].key; });
    if (p.isOn)
        after.posing.pins.push_back({skeleton.bones[bone].key, placesOf(skeleton, after.posing.now)[bone]});
    return after;
}

Result<Creature> restBones(const Creature &before, const RestBones &p, CommandContext &)
{
    Creature after = before;
    const Skeleton skeleton = skeletonOf(after);
    pose::Posture wanted = before.posing.now;
    if (p.bone) {
        std::vector<bool> isBelow(skeleton.bones.size(), false);
        isBelow[boneNamed(skeleton, *p.bone)] = true;
        for (std::size_t b = 0; b < isBelow.size(); ++b) {
            if (const std::uint32_t parent = skeleton.bones[b].parent; parent != kNone && isBelow[parent])
                isBelow[b] = true;
            if (isBelow[b])
                wanted.set(skeleton.bones[b].key, {});
        }
    } else {
        wanted = {};
        if (p.share >= 1)
            after.posing.pins.clear();
    }
    after.posing.now = between(skeleton, before.posing.now, wanted, p.share);
    return after;
}

constexpr std::size_t kMostPoses = 256;

} // namespace

pose::Pose *poseNamed(Creature &creature, const ItemName &name)
{
    const auto at = std::find_if(creature.posing.poses.begin(), creature.posing.poses.end(), [&](const pose::Pose &x) {
        return std::holds_alternative<std::uint32_t>(name) ? x.id == std::get<std::uint32_t>(name)
                                                           : x.name == std::get<std::string>(name);
    });
    return at == creature.posing.poses.end() ? nullptr : &*at;
}

namespace {

bool isRestName(const ItemName &name)
{
    return std::holds_alternative<std::string>(name) && std::get<std::string>(name) == "rest";
}

Result<Creature> keepPose(const Creature &before, const KeepPose &p, CommandContext &)
{
    Creature after = before;
    if (p.name.empty() || p.name == "rest")
        return Error{ErrorCode::BadValue, "name", "must be a word or more, and not \"rest\", which is always there"};
    pose::Posture posture = before.posing.now;
    std::vector<pose::BoneKey> bones;
    const Skeleton skeleton = skeletonOf(before);
    for (const std::uint32_t b : bonesNamed(skeleton, p.bones))
        bones.push_back(skeleton.bones[b].key);
    if (!bones.empty()) {
        posture = {};
        for (const pose::BoneKey &b : bones)
            posture.set(b, before.posing.now.turnOf(b));
        if (posture.isRest())
            return Error{ErrorCode::BadValue, "bones", "are all at rest; turn what the pose is of first"};
    }
    if (pose::Pose *known = poseNamed(after, ItemName(p.name))) {
        known->posture = posture, known->bones = bones;
        return after;
    }
    if (after.posing.poses.size() >= kMostPoses)
        return Error{ErrorCode::TooLarge, "poses", fmt::format("there are {} already; delete some", kMostPoses)};
    after.posing.poses.push_back({after.nextId++, p.name, std::move(posture), std::move(bones)});
    return after;
}

Result<Creature> usePose(const Creature &before, const UsePose &p, CommandContext &context)
{
    Creature after = before;
    const pose::Pose *known = isRestName(p.pose) ? nullptr : poseNamed(after, p.pose);
    if (!known && !isRestName(p.pose))
        return Error{ErrorCode::Unknown, "pose", fmt::format("there is no pose {}", told(p.pose))};
    pose::Posture wanted = known ? known->posture : pose::Posture();
    if (known && !known->bones.empty()) { // the others stay as they are
        wanted = before.posing.now;
        for (const pose::BoneKey &b : known->bones)
            wanted.set(b, known->posture.turnOf(b));
    }
    bindWhatIsNot(after, context);
    const Skeleton skeleton = skeletonOf(after);
    after.posing.now = between(skeleton, before.posing.now, wanted, p.share);
    if (p.share >= 1 && (!known || known->bones.empty()))
        after.posing.pins.clear(); // they belong to the pose that was left
    return after;
}

Result<Creature> removePose(const Creature &before, const RemovePose &p, CommandContext &)
{
    Creature after = before;
    const pose::Pose *known = poseNamed(after, p.pose);
    if (!known)
        return Error{ErrorCode::Unknown, "pose", fmt::format("there is no pose {}", told(p.pose))};
    after.posing.poses.erase(after.posing.poses.begin() + (known - after.posing.poses.data()));
    return after;
}

Result<Creature> mirrorPosture(const Creature &before, const MirrorPosture &p, CommandContext &)
{
    Creature after = before;
    const Skeleton skeleton = skeletonOf(after);
    after.posing.now = p.how == MirrorPose::Swap ? mirrored(skeleton, before.posing.now)
                                                 : symmetrical(skeleton, before.posing.now, p.how == MirrorPose::FromLeft);
    after.posing.pins.clear();
    return after;
}

Result<Creature> setChain(const Creature &before, const SetChain &p, CommandContext &context)
{
    Creature after = before;
    const std::uint32_t form = need(findForm(before, p.form));
    pose::Rigging &rigging = after.posing.rigging;
    std::erase(rigging.leftOut, form);
    std::erase_if(rigging.chains, [&](const auto &c) { return c.form == form; });
    if (p.count == 0 && before.armature.find(form)->parent == 0)
        return Error{ErrorCode::BadValue, before.armature.find(form)->name, "hangs from nothing, and has nothing to ride on"};
    if (p.count == 0)
        rigging.leftOut.push_back(form);
    else
        rigging.chains.push_back({form, p.count});
    const Skeleton skeleton = skeletonOf(after);
    const auto forget = [&](pose::Posture &posture) { // turns of bones that are gone
        std::erase_if(posture.turns, [&](const pose::Turn &t) { return t.bone.form == form && skeleton.find(t.bone) == kNone; });
    };
    forget(after.posing.now);
    for (pose::Pose &known : after.posing.poses)
        forget(known.posture);
    std::erase_if(after.posing.pins, [&](const document::Pin &pin) { return skeleton.find(pin.bone) == kNone; });
    for (const auto &piece : before.pieces) // what was bound is bound anew
        if (!piece->skin.boneWeights.empty())
            if (const Status bound = document::bind(after, piece->id, context); !bound)
                return bound.error();
    return after;
}

Result<Creature> applyPose(const Creature &before, const ApplyPose &, CommandContext &context)
{
    if (before.posing.now.isRest())
        return Error{ErrorCode::Empty, "pose", "the creature is at rest"};
    Creature after = posed(before);
    after.posing = {};
    after.posing.rigging = before.posing.rigging;
    std::size_t lost = before.posing.poses.size();
    if (lost > 0)
        context.notes.push_back(fmt::format("{} poses that were kept belonged to the old rest and are gone", lost));
    for (auto &p : after.pieces) { // twins of forms are forms of their own now: weights are made anew when they are needed
        auto next = std::make_shared<Piece>(*p);
        next->skin.boneWeights.clear();
        p = std::move(next);
    }
    return after;
}

template <typename P> Field<P> boneField(std::string P::*member, const char *name = "bone")
{
    return fieldOf<P>(member, name, "", "a bone, by name").required();
}

} // namespace

Fields<BindSkin> BindSkin::fields()
{
    return {fieldOf<BindSkin>(&BindSkin::piece, "piece", "", "anew, by name or id; left out: all that are not bound yet")};
}
Fields<BindRigid> BindRigid::fields()
{
    using P = BindRigid;
    return {pieceField<P>(), boneField(&P::bone), fieldOf<P>(&P::group, "group", "", "that group alone"),
            fieldOf<P>(&P::isMasked, "masked", "", "what is masked alone")};
}
Fields<EvenWeights> EvenWeights::fields()
{
    using P = EvenWeights;
    return {pieceField<P>(), fieldOf<P>(&P::passes, "passes", "", "how often each takes the mean about it", 1, 50)};
}
Fields<TurnBone> TurnBone::fields()
{
    using P = TurnBone;
    return {boneField(&P::bone), fieldOf<P>(&P::angles, "angles", "deg", "about its own x, then y, then z", -360, 360).required(),
            fieldOf<P>(&P::isOn, "on", "", "from where it is, not from rest"),
            fieldOf<P>(&P::isMirrored, "mirror", "", "the bone on the other side too"),
            fieldOf<P>(&P::keepsLimits, "limits", "", "no farther than its limits")};
}
Fields<ReachFor> ReachFor::fields()
{
    using P = ReachFor;
    return {boneField(&P::bone), fieldOf<P>(&P::at, "at", "mm", "where it shall come to", 0, 1e6).required(),
            fieldOf<P>(&P::from, "from", "mm", "the place on it, where it is at rest; left out: its end", 0, 1e6),
            fieldOf<P>(&P::keepsLimits, "limits", "", "bones turn no farther than their limits")};
}
Fields<CurlChain> CurlChain::fields()
{
    using P = CurlChain;
    return {boneField(&P::bone), fieldOf<P>(&P::to, "to", "", "the last bone; left out: on to where it branches or ends"),
            fieldOf<P>(&P::angles, "angles", "deg", "of all together: an axis in the bones' own frame, as long as the angle",
                       -1080, 1080)
                .required()};
}
Fields<MoveWhole> MoveWhole::fields()
{
    using P = MoveWhole;
    return {fieldOf<P>(&P::by, "by", "mm", "how far", 0, 1e6),
            fieldOf<P>(&P::turn, "turn", "deg", "about x, then y, then z", -360, 360)};
}
Fields<Settle> Settle::fields()
{
    return {};
}
Fields<PinBone> PinBone::fields()
{
    using P = PinBone;
    return {boneField(&P::bone), fieldOf<P>(&P::isOn, "on", "", "false lets it go")};
}
Fields<RestBones> RestBones::fields()
{
    using P = RestBones;
    return {fieldOf<P>(&P::bone, "bone", "", "with all below it; left out: all"),
            fieldOf<P>(&P::share, "share", "", "of the way there", 0, 1)};
}
Fields<KeepPose> KeepPose::fields()
{
    using P = KeepPose;
    return {fieldOf<P>(&P::name, "name", "", "by which it is found again").required(),
            fieldOf<P>(&P::bones, "bones", "", "that it is of; left out: all")};
}
Fields<UsePose> UsePose::fields()
{
    using P = UsePose;
    return {fieldOf<P>(&P::pose, "pose", "", "by name or id").required(),
            fieldOf<P>(&P::share, "share", "", "of the way there", 0, 1)};
}
Fields<RemovePose> RemovePose::fields()
{
    return {fieldOf<RemovePose>(&RemovePose::pose, "pose", "", "by name or id").required()};
}
Fields<MirrorPosture> MirrorPosture::fields()
{
    return {choiceOf<MirrorPosture>(&MirrorPosture::how, "how", "which side takes after which", kMirrorPoseNames)};
}
Fields<SetChain> SetChain::fields()
{
    using P = SetChain;
    return {fieldOf<P>(&P::form, "form", "", "by name or id").required(),
            fieldOf<P>(&P::count, "count", "", "of bones", 0, double(pose::kMostParts)).required()};
}
Fields<ApplyPose> ApplyPose::fields()
{
    return {};
}

std::vector<CommandSpec> poseCommands()
{
    return {commandOf(bindSkin, true),   commandOf(bindRigid),       commandOf(evenWeights),     commandOf(turnBone, true),
            commandOf(reachFor, true),   commandOf(curlChain, true), commandOf(moveWhole, true), commandOf(pinBone),
            commandOf(settleDown, true), commandOf(restBones),       commandOf(keepPose),        commandOf(usePose, true),
            commandOf(removePose),       commandOf(mirrorPosture),   commandOf(setChain, true),  commandOf(applyPose, true)};
}

} // namespace bonemoss::command
