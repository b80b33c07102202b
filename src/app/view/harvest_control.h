#pragma once

#include "app/hand/hand_model.h"
#include "app/view/view_control.h"

#include <QLineF>

namespace bonemoss::app {

/// Takes a stamp from the skin, its top towards the top of the view: what lies in the rectangle that is drawn, as it is seen from
/// here, or of the ring's size where there is a click.
class HarvestControl : public ViewControl
{
public:
    HarvestControl(Session &session, HandModel &hand) : m_session(session), m_hand(hand) {}

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override { m_to = pointer.at; }
    void release(const Pointer &pointer) override;
    void cancel() override;
    void paintOn(QPainter &painter, const Projection &view, const QString &) override;
    bool isOfActiveView() const override { return true; }
    QString hintFor(const HeldKeys &) const override;
    bool isFraming() const { return m_isDown && isFrame(); } ///< a rectangle is being drawn

private:
    bool isFrame() const { return QLineF(m_from, m_to).length() > 8; }
    Session &m_session;
    HandModel &m_hand;
    QPointF m_from, m_to;
    bool m_isDown = false;
};

extern const ControlRow kHarvestControl;

} // namespace bonemoss::app
