#pragma once

#include "app/hand/hand_model.h"

#include <QWidget>

class QVBoxLayout;

namespace bonemoss::app {

/// Bend, twist, taper, stretch: what, how much and whereto, shown at once in the view and done on Apply.
class DeformSettings : public QWidget
{
    Q_OBJECT
public:
    DeformSettings(Session &session, HandModel &hand);

private:
    void rebuild();

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_inside = nullptr;
};

} // namespace bonemoss::app
