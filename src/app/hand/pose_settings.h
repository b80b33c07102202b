#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"
#include "app/hand/pose_hand.h"

#include <functional>
#include <vector>

class QLabel;
class QVBoxLayout;

namespace bonemoss::app {

/// Settings of the Pose bench: the chosen bone by numbers, and what is done to the whole pose.
class PoseSettings : public HandSettings
{
    Q_OBJECT
public:
    PoseSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    PoseHand &held() const { return m_hand.of<PoseHand>(); }
    const pose::Bone *bone() const; ///< the chosen one
    void addBone();
    void addPose();
    void addControls();
    void addLook();
    void addWeighing();
    void addCorrections();
    void addPlace();
    void saveFrozen();
    void addBones();
    void drive(skin::LayerDrive::By by, double none, double full, double curve);
    void turn(int axis, double degrees);
    void run(nlohmann::json command);

    Session &m_session;
    HandModel &m_hand;
    QVBoxLayout *m_column;
    std::vector<std::function<void()>> m_refresh;
};

extern const HandPart kPosePart;

} // namespace bonemoss::app
