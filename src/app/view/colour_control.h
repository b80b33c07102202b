#pragma once

#include "app/hand/colour_hand.h"
#include "app/hand/hand_model.h"
#include "app/view/view_control.h"

#include <vector>

namespace bonemoss::app {

/// On the Colour bench: a press that takes the colour under it, and the line of a gradient drawn on the skin.
class ColourControl : public ViewControl
{
public:
    ColourControl(Session &session, HandModel &hand, QWidget *view) : m_session(session), m_hand(hand), m_view(view) {}

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override;
    void release(const Pointer &pointer) override;
    void cancel() override;
    void paintOn(QPainter &painter, const Projection &view, const QString &viewKey) override;
    bool isOfActiveView() const override { return true; }
    QString hintFor(const HeldKeys &) const override;

private:
    bool drawsLine() const;
    void fillFrom(const Pointer &pointer);
    void pick(const Pointer &pointer);
    ColourHand &held() const { return m_hand.of<ColourHand>(); }

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_view;
    std::vector<Vec3f> m_points;
};

extern const ControlRow kColourControl;

} // namespace bonemoss::app
