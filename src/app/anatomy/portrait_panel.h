#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/portrait_hand.h"

#include <QWidget>

class QListWidget;

namespace bonemoss::app {

/// Cameras that are kept, and the lights of the portrait.
class PortraitPanel : public QWidget
{
    Q_OBJECT
public:
    PortraitPanel(Session &session, HandModel &hand, QWidget *parent);

signals:
    void cameraChosen(const bonemoss::portrait::Shot &shot); ///< the view shall stand there

private:
    void fill();
    void keep();
    void run(nlohmann::json command);

    Session &m_session;
    HandModel &m_hand;
    QListWidget *m_cameras = nullptr, *m_lights = nullptr;
    std::vector<portrait::Shot> m_shownCameras;
    std::vector<portrait::Light> m_shownLights;
    bool m_isFilling = false, m_wasShown = false;
};

} // namespace bonemoss::app
