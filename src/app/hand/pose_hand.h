#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "document/ops/posing.h"

#include <QString>

#include <span>

namespace bonemoss::app {

/// What a drag on the Pose bench does.
enum class PoseTool { Limb, Joint, Chain, Pins, Weights };
struct PoseToolRow {
    PoseTool tool;
    const char *id, *title, *hint; ///< translated by QCoreApplication, "PoseTool"
};
std::span<const PoseToolRow> poseTools();

/// What the hand holds on the Pose bench, and the bones of the creature.
class PoseHand : public BenchHand
{
    Q_OBJECT
public:
    explicit PoseHand(Session &session) : m_session(session) {}

    PoseTool tool() const { return m_tool; }
    void setTool(PoseTool tool);
    bool holdsBrush() const { return m_holdsBrush; } ///< strokes on the creature as it stands
    void takeBrush() { m_holdsBrush = true; }        ///< says nothing of it
    pose::BoneKey bone() const { return m_bone; }    ///< the one whose settings are shown; form 0 for none
    void chooseBone(pose::BoneKey bone);
    bool keepsLimits() const { return m_keepsLimits; }
    void setKeepsLimits(bool on);
    bool turnsTwins() const { return m_turnsTwins; }
    void setTurnsTwins(bool on);
    /// Of the creature as it is now.
    const pose::Skeleton &skeleton() const;
    void takeUp() override;

private:
    Session &m_session;
    PoseTool m_tool = PoseTool::Limb;
    bool m_holdsBrush = false;
    pose::BoneKey m_bone;
    bool m_keepsLimits = true, m_turnsTwins = false;
    mutable pose::Skeleton m_skeleton;
    mutable armature::Armature m_skeletonOf;
    mutable pose::Rigging m_riggingOf;
};

} // namespace bonemoss::app
