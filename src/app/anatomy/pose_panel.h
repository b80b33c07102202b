#pragma once

#include "app/hand/pose_hand.h"
#include "app/hand/hand_model.h"

#include <QWidget>

class QLabel;
class QListWidget;
class QTreeWidget;

namespace bonemoss::app {

/// The poses that are kept, the bones of the creature, and how it stands.
class PosePanel : public QWidget
{
    Q_OBJECT
public:
    PosePanel(Session &session, HandModel &hand, QWidget *parent);

private:
    void rebuild();
    void fillPoses();
    void fillBones();
    void chooseInTree();
    void run(nlohmann::json command);
    void keep();

    Session &m_session;
    HandModel &m_hand;
    QListWidget *m_poses = nullptr;
    QTreeWidget *m_bones = nullptr;
    QLabel *m_stands = nullptr;
    std::vector<pose::Pose> m_shownPoses;
    std::vector<std::string> m_shownBones;
    pose::Posture m_shownAs;
    bool m_isFilling = false;
};

} // namespace bonemoss::app
