#pragma once

#include "app/hand/hand_model.h"

#include <QWidget>

#include <functional>
#include <vector>

class QVBoxLayout;

namespace bonemoss::app {

/// Move, turn, size, bend, twist, taper, stretch: what, how much and whereto, shown at once in the view and done on Apply.
class DeformSettings : public QWidget
{
    Q_OBJECT
public:
    DeformSettings(Session &session, HandModel &hand);

private:
    void rebuild();
    void refresh();
    void change(const std::function<void(DeformPlan &)> &edit);
    void addPart(QVBoxLayout *column);
    void addMove(QVBoxLayout *column);
    void addBend(QVBoxLayout *column);

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_inside = nullptr;
    std::vector<std::function<void()>> m_shown; ///< brings numbers in line with the plan
};

} // namespace bonemoss::app
