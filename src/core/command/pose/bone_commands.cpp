#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/pose/bone_fields.h"
#include "command/pose/bone_names.h"
#include "document/ops/skeletons.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using armature::PathPoint;
using document::Landmark;
using document::Middle;

namespace {

/// A place in the middle of the flesh, or as it is where that is wanted.
PathPoint jointAt(const Creature &creature, Vec3f at, bool isCentred)
{
    const auto middle = middleOf(creature, at);
    if (!middle)
        return {at, 1};
    return {isCentred ? middle->at : at, middle->radius};
}

/// Hangs a bone from a form (0: from nothing), and tells its number.
std::uint32_t addBone(Creature &creature, const std::string &name, PathPoint from, PathPoint to, std::uint32_t parent,
                      bool isMirrored, CommandContext &context)
{
    if (length(to.at - from.at) < 1e-3f)
        throw Failure{{ErrorCode::BadValue, name, "would have no length: two of its joints are at one place"}};
    AddForm add{.kind = armature::FormKind::Limb};
    add.changes.name = creature.uniqueName(name);
    add.changes.path = {from, to};
    add.changes.role = armature::FormRole::Bone;
    if (parent)
        add.changes.parent = ItemName(parent);
    if (isMirrored)
        add.changes.isMirrored = true;
    auto after = apply(creature, toCommand(add), context);
    if (!after)
        throw Failure{after.error()};
    creature = std::move(*after);
    return creature.armature.forms.back().id;
}

/// What was bound to other bones is bound anew when it is posed next.
void forgetWeights(Creature &creature)
{
    for (auto &p : creature.pieces)
        if (!p->skin.boneWeights.empty()) {
            auto next = std::make_shared<Piece>(*p);
            next->skin.boneWeights.clear();
            p = std::move(next);
        }
}

Result<Creature> drawBones(const Creature &before, const DrawBones &p, CommandContext &context)
{
    if (p.points.size() < 2 || p.points.size() > 64)
        return Error{ErrorCode::BadValue, "points", "must be 2 to 64 joints"};
    Creature after = before;
    std::uint32_t parent = 0;
    if (p.parent) {
        const pose::Skeleton skeleton = skeletonOf(before);
        parent = skeleton.bones[boneNamed(skeleton, *p.parent)].key.form;
    }
    std::vector<PathPoint> joints;
    for (const Vec3f at : p.points)
        joints.push_back(jointAt(before, at, p.isCentred));
    for (std::size_t k = 0; k + 1 < joints.size(); ++k)
        parent = addBone(after, joints.size() == 2 ? p.name : fmt::format("{} {}", p.name, k + 1), joints[k], joints[k + 1],
                         parent, p.isMirrored, context);
    forgetWeights(after);
    return after;
}

/// Two bones to each tip about the end of a limb; how many tips were found.
std::size_t addDigits(Creature &creature, const Landmark &before, const Landmark &end, std::uint32_t parent,
                      const MakeSkeleton &p, CommandContext &context)
{
    const float reach = std::max(1.4f * length(end.at - before.at), 0.03f * creature.bounds().diagonal());
    const std::vector<Vec3f> tips = tipsAround(creature, before.at, end.at, reach);
    const PathPoint palm = jointAt(creature, lerp(before.at, end.at, 0.6f), p.isCentred);
    for (std::size_t k = 0; k < tips.size(); ++k) {
        const PathPoint middle = jointAt(creature, lerp(palm.at, tips[k], 0.55f), p.isCentred);
        const PathPoint tip{lerp(middle.at, tips[k], 0.95f), 0.6f * middle.radius};
        const std::string name = fmt::format("{} {}", end.name, k + 1);
        const std::uint32_t first = addBone(creature, name, palm, middle, parent, end.isMirrored, context);
        addBone(creature, name + " end", middle, tip, first, end.isMirrored, context);
    }
    return tips.size();
}

Result<Creature> makeSkeleton(const Creature &before, const MakeSkeleton &p, CommandContext &context)
{
    if (before.pieces.empty())
        return Error{ErrorCode::Empty, "creature", "has no skin that a skeleton could be put into"};
    if (p.legs != 2 && p.legs != 4 && p.legs != 6)
        return Error{ErrorCode::BadValue, "legs", "must be 2, 4 or 6"};
    std::vector<Landmark> marks = landmarksOf(before, {p.legs, p.hasArms, p.hasWings, p.hasTail, p.hasDigits});
    if (!p.landmarks.empty() && p.landmarks.size() != marks.size()) {
        std::string names;
        for (const Landmark &m : marks)
            names += (names.empty() ? "" : ", ") + m.name;
        return Error{ErrorCode::BadValue, "landmarks", fmt::format("must be {} places: {}", marks.size(), names)};
    }
    std::vector<PathPoint> joints;
    for (std::size_t k = 0; k < marks.size(); ++k) {
        if (!p.landmarks.empty())
            marks[k].at = p.landmarks[k];
        joints.push_back(jointAt(before, marks[k].at, p.isCentred));
        if (!marks[k].isMirrored)
            joints.back().at.x = p.isCentred ? marks[k].at.x : joints.back().at.x; // the middle line stays one
    }
    Creature after = before;
    // A short bone at the hips carries what hangs from them.
    const float shortLength = 0.04f * before.bounds().diagonal();
    std::vector<std::uint32_t> ends(marks.size(), 0);
    PathPoint behind = joints[0];
    behind.at.z -= shortLength;
    ends[0] = addBone(after, "pelvis", joints[0], behind, 0, false, context);
    std::size_t digits = 0;
    for (std::size_t k = 1; k < marks.size(); ++k) {
        ends[k] = ends[marks[k].parent]; // where no bone ends the one above carries on
        if (marks[k].bone.empty())
            continue;
        ends[k] = addBone(after, marks[k].bone, joints[marks[k].parent], joints[k], ends[marks[k].parent], marks[k].isMirrored,
                          context);
        if (p.hasDigits && marks[k].endsLimb) {
            digits += addDigits(after, marks[marks[k].parent], marks[k], ends[k], p, context);
        }
    }
    forgetWeights(after);
    context.notes.push_back(fmt::format("{} bones were made, {} of them of digits", skeletonOf(after).bones.size(), 4 * digits));
    return after;
}

} // namespace

Fields<DrawBones> DrawBones::fields()
{
    using P = DrawBones;
    return {fieldOf<P>(&P::name, "name", "", "of the bones"),
            fieldOf<P>(&P::points, "points", "mm", "the joints, and the end of the last bone", 0, 1e6).required(),
            fieldOf<P>(&P::parent, "parent", "", "a bone that the first hangs from; left out: from nothing"),
            fieldOf<P>(&P::isMirrored, "mirror", "", "twins across the middle plane too"),
            fieldOf<P>(&P::isCentred, "centre", "", "joints go to the middle of the flesh")};
}
Fields<MakeSkeleton> MakeSkeleton::fields()
{
    using P = MakeSkeleton;
    return {fieldOf<P>(&P::legs, "legs", "", "2, 4 or 6", 2, 6),
            fieldOf<P>(&P::hasArms, "arms", "", "beside the legs"),
            fieldOf<P>(&P::hasWings, "wings", "", "on the back"),
            fieldOf<P>(&P::hasTail, "tail", "", "of two bones"),
            fieldOf<P>(&P::hasDigits, "digits", "", "toes and fingers are found by their tips"),
            fieldOf<P>(&P::isCentred, "centre", "", "joints go to the middle of the flesh"),
            fieldOf<P>(&P::landmarks, "landmarks", "mm",
                       "where its joints are, in the order that a wrong number of them tells; left out: where they usually are",
                       0, 1e6)};
}

std::vector<CommandSpec> boneCommands()
{
    return {commandOf(drawBones), commandOf(makeSkeleton)};
}

} // namespace bonemoss::command
