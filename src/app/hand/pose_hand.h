#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "armature/balance.h"
#include "document/ops/posing.h"
#include "document/ops/skeletons.h"
#include "outgrowth/outgrowth.h"

#include <QString>

#include <span>

namespace bonemoss::app {

/// What a drag on the Pose bench does.
enum class PoseTool { Limb, Joint, Chain, Look, Controls, Pins, Weights, Place, Bones, Corrections };
struct PoseToolRow {
    PoseTool tool;
    const char *id, *title, *hint; ///< translated by QCoreApplication, "PoseTool"
};
std::span<const PoseToolRow> poseTools();

/// What a press does with Weights.
enum class Weighing { Choose, Add, Take, Even };

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
    Weighing weighing() const { return m_weighing; }
    void setWeighing(Weighing how);
    float weighStrength() const { return m_weighStrength; }
    void setWeighStrength(float strength) { m_weighStrength = strength; }
    bool paintsWeights() const { return !m_holdsBrush && m_tool == PoseTool::Weights && m_weighing != Weighing::Choose; }
    bool strokes() const
    {
        return m_holdsBrush || paintsWeights() || m_tool == PoseTool::Corrections;
    } ///< a press on the creature begins a stroke
    bool looksWithHead() const { return m_looksWithHead; }
    void setLooksWithHead(bool on) { m_looksWithHead = on; }
    bool looksWithNeck() const { return m_looksWithNeck; }
    void setLooksWithNeck(bool on) { m_looksWithNeck = on; }
    bool looksWithEyes() const { return m_looksWithEyes; }
    void setLooksWithEyes(bool on) { m_looksWithEyes = on; }
    /// The kind of outgrowth that a press roots on the creature as it stands; null for none.
    const outgrowth::Kind *placed() const { return m_placed; }
    void setPlaced(const outgrowth::Kind *kind) { m_placed = kind; }

    // Bones for a skin without forms: joints drawn one after the other, or those of a ready skeleton.
    const std::vector<Vec3f> &joints() const { return m_joints; }
    void addJoint(Vec3f at);
    void dropLastJoint();
    void dropJoints(); ///< and landmarks
    bool mirrorsBones() const { return m_mirrorsBones; }
    void setMirrorsBones(bool on) { m_mirrorsBones = on; }
    const document::SkeletonPlan &plan() const { return m_plan; }
    void setPlan(const document::SkeletonPlan &plan); ///< new landmarks where some are shown
    const std::vector<document::Landmark> &landmarks() const { return m_landmarks; }
    void showLandmarks();
    void moveLandmark(std::size_t landmark, Vec3f at);
    bool canMakeBones() const { return m_joints.size() > 1 || !m_landmarks.empty(); }
    nlohmann::json bonesCommand() const;

    /// How the creature stands in its pose; none while it is not known.
    const std::optional<armature::Balance> &balance() const { return m_balance; }
    void setBalance(std::optional<armature::Balance> balance);
    /// A command whose result is shown before it is sent; null for none.
    void tryCommand(const nlohmann::json &command);
    const nlohmann::json *triedCommand() const { return m_tried.get(); }
    /// Of the creature as it is now.
    const pose::Skeleton &skeleton() const;
    void takeUp() override;
    void leave() override; ///< what is tried or half drawn goes

signals:
    void tried(); ///< another command is shown before it is sent, or none

private:
    Session &m_session;
    PoseTool m_tool = PoseTool::Limb;
    bool m_holdsBrush = false;
    pose::BoneKey m_bone;
    bool m_keepsLimits = true, m_turnsTwins = false;
    const outgrowth::Kind *m_placed = nullptr;
    std::vector<Vec3f> m_joints;
    bool m_mirrorsBones = true;
    document::SkeletonPlan m_plan;
    std::vector<document::Landmark> m_landmarks;
    std::optional<armature::Balance> m_balance;
    Weighing m_weighing = Weighing::Choose;
    float m_weighStrength = 0.5f;
    bool m_looksWithHead = true, m_looksWithNeck = true, m_looksWithEyes = true;
    std::shared_ptr<const nlohmann::json> m_tried;
    mutable pose::Skeleton m_skeleton;
    mutable armature::Armature m_skeletonOf;
    mutable pose::Rigging m_riggingOf;
};

} // namespace bonemoss::app
