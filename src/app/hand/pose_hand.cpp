#include "app/hand/pose_hand.h"

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

void PoseHand::takeUp()
{
    if (m_bone.form && skeleton().find(m_bone) == kNone)
        chooseBone({});
}

} // namespace bonemoss::app
