#pragma once

#include "app/hand/pose_hand.h"
#include "app/hand/hand_model.h"
#include "app/session/latest.h"

#include <QImage>
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
    void step(int by); ///< to a pose farther down the list, or up; from the last to rest

private:
    void rebuild();
    void fillPoses();
    void askPicture(); ///< of the first pose that has none as it is now
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
    /// What a pose looks like from the left.
    struct Drawn {
        pose::Posture posture;
        QImage picture;
    };
    std::vector<const void *> m_drawnOf; ///< pieces that the pictures are of
    std::vector<Drawn> m_pictures;
    Latest<Drawn> m_next;
    Latest<std::optional<armature::Balance>>
        m_balance; ///< how it stands: worked out beside the window, since it looks at the whole body
    bool m_isFilling = false;
};

} // namespace bonemoss::app
