#include "app/hand/pose_hand.h"

#include <QCoreApplication>

namespace bonemoss::app {

namespace {

constexpr PoseToolRow kTools[] = {
    {PoseTool::Limb, "limb", QT_TRANSLATE_NOOP("PoseTool", "Limb"),
     QT_TRANSLATE_NOOP("PoseTool", "Drag any place: its limb follows, what is pinned stays; drag the body to move all of it")},
    {PoseTool::Joint, "joint", QT_TRANSLATE_NOOP("PoseTool", "Joint"),
     QT_TRANSLATE_NOOP("PoseTool", "Drag round a joint: the bone under the pointer turns about it")},
    {PoseTool::Chain, "chain", QT_TRANSLATE_NOOP("PoseTool", "Chain"),
     QT_TRANSLATE_NOOP("PoseTool", "Drag a neck, tail or finger: all its bones bend together")},
    {PoseTool::Pins, "pins", QT_TRANSLATE_NOOP("PoseTool", "Pins"),
     QT_TRANSLATE_NOOP("PoseTool", "Press on a foot: it stays where it is, or is let go")},
    {PoseTool::Weights, "weights", QT_TRANSLATE_NOOP("PoseTool", "Weights"),
     QT_TRANSLATE_NOOP("PoseTool", "Press on a bone: what it moves is shown; what is masked can be given to it, or evened out")},
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
