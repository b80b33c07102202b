#include "app/hand/pose_hand.h"

#include "command/fields.h"
#include "command/pose/bone_fields.h"

#include <QCoreApplication>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

constexpr PoseToolRow kTools[] = {
    {PoseTool::Limb, "limb", QT_TRANSLATE_NOOP("PoseTool", "Limb"),
     QT_TRANSLATE_NOOP("PoseTool", "Drag any place: its limb follows, what is pinned stays; drag the body to move all of it")},
    {PoseTool::Joint, "joint", QT_TRANSLATE_NOOP("PoseTool", "Joint"),
     QT_TRANSLATE_NOOP("PoseTool", "Drag round a joint: the bone under the pointer turns about it")},
    {PoseTool::Chain, "chain", QT_TRANSLATE_NOOP("PoseTool", "Chain"),
     QT_TRANSLATE_NOOP("PoseTool", "Drag a neck, tail or finger: all its bones bend together")},
    {PoseTool::Look, "look", QT_TRANSLATE_NOOP("PoseTool", "Look"),
     QT_TRANSLATE_NOOP("PoseTool", "Press on a head and drag to where it shall look; neck and eyes follow")},
    {PoseTool::Controls, "controls", QT_TRANSLATE_NOOP("PoseTool", "Controls"),
     QT_TRANSLATE_NOOP("PoseTool", "One slider for what belongs together: jaw, toes, lids, gaze, and poses of some bones")},
    {PoseTool::Pins, "pins", QT_TRANSLATE_NOOP("PoseTool", "Pins"),
     QT_TRANSLATE_NOOP("PoseTool", "Press on a foot: it stays where it is, or is let go")},
    {PoseTool::Weights, "weights", QT_TRANSLATE_NOOP("PoseTool", "Weights"),
     QT_TRANSLATE_NOOP("PoseTool",
                       "Press on a bone: what it moves is shown, to be painted, given what is masked, or evened out")},
    {PoseTool::Place, "place", QT_TRANSLATE_NOOP("PoseTool", "Place"),
     QT_TRANSLATE_NOOP("PoseTool", "Press on the creature as it stands: an outgrowth takes root there")},
    {PoseTool::Bones, "bones", QT_TRANSLATE_NOOP("PoseTool", "Bones"),
     QT_TRANSLATE_NOOP("PoseTool",
                       "Bones for a skin that was not built from forms: drawn from joint to joint, or a ready skeleton")},
    {PoseTool::Corrections, "corrections", QT_TRANSLATE_NOOP("PoseTool", "Corrections"),
     QT_TRANSLATE_NOOP("PoseTool",
                       "Layers that come and go with the pose: corrections of it, and folds that hang on the stretch of "
                       "the skin; drag to work on the chosen layer with the brush last held")},
};

} // namespace

std::span<const PoseToolRow> poseTools()
{
    return kTools;
}

void PoseHand::setTool(PoseTool tool)
{
    m_tool = tool, m_holdsBrush = false;
    emit kindChanged();
}

void PoseHand::chooseBone(pose::BoneKey bone)
{
    if (m_bone == bone)
        return;
    m_bone = bone;
    emit ruleChanged();
}

void PoseHand::setKeepsLimits(bool on)
{
    m_keepsLimits = on;
    emit ruleChanged();
}

void PoseHand::setTurnsTwins(bool on)
{
    m_turnsTwins = on;
    emit ruleChanged();
}

void PoseHand::setWeighing(Weighing how)
{
    m_weighing = how;
    emit ruleChanged();
}

void PoseHand::addJoint(Vec3f at)
{
    m_joints.push_back(at);
    emit ruleChanged();
}

void PoseHand::dropLastJoint()
{
    m_joints.pop_back();
    emit ruleChanged();
}

void PoseHand::dropJoints()
{
    m_joints.clear(), m_landmarks.clear();
    emit ruleChanged();
}

void PoseHand::setPlan(const document::SkeletonPlan &plan)
{
    m_plan = plan;
    if (!m_landmarks.empty())
        showLandmarks();
    emit ruleChanged();
}

void PoseHand::showLandmarks()
{
    m_joints.clear();
    m_landmarks = landmarksOf(m_session.creature(), m_plan);
    for (document::Landmark &m : m_landmarks)
        if (const auto middle = middleOf(m_session.creature(), m.at))
            m.at = m.isMirrored ? middle->at : Vec3f{m.at.x, middle->at.y, middle->at.z};
    emit ruleChanged();
}

void PoseHand::moveLandmark(std::size_t landmark, Vec3f at)
{
    m_landmarks[landmark].at = at;
    emit tried();
}

nlohmann::json PoseHand::bonesCommand() const
{
    if (m_landmarks.empty()) {
        command::DrawBones draw{.points = m_joints, .isMirrored = m_mirrorsBones, .isCentred = false};
        if (const std::uint32_t b = m_bone.form ? skeleton().find(m_bone) : kNone; b != kNone)
            draw.parent = skeleton().bones[b].name;
        return toCommand(draw);
    }
    command::MakeSkeleton make{.legs = m_plan.legs,
                               .hasArms = m_plan.hasArms,
                               .hasWings = m_plan.hasWings,
                               .hasTail = m_plan.hasTail,
                               .hasDigits = m_plan.hasDigits};
    for (const document::Landmark &m : m_landmarks)
        make.landmarks.push_back(m.at);
    return toCommand(make);
}

void PoseHand::setBalance(std::optional<armature::Balance> balance)
{
    m_balance = std::move(balance);
    emit tried();
}

void PoseHand::tryCommand(const nlohmann::json &command)
{
    m_tried = command.is_null() ? nullptr : std::make_shared<const nlohmann::json>(command);
    emit tried();
}

const pose::Skeleton &PoseHand::skeleton() const
{
    const document::Creature &now = m_session.creature();
    if (m_skeleton.bones.empty() || m_skeletonOf != now.armature || m_riggingOf != now.posing.rigging) {
        m_skeleton = skeletonOf(now);
        m_skeletonOf = now.armature, m_riggingOf = now.posing.rigging;
    }
    return m_skeleton;
}

void PoseHand::leave()
{
    tryCommand({});
    dropJoints();
}

void PoseHand::takeUp()
{
    if (m_bone.form && skeleton().find(m_bone) == kNone)
        chooseBone({});
}

} // namespace bonemoss::app
