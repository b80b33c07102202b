#pragma once

#include "app/hand/colour_hand.h"
#include "app/hand/hand_model.h"
#include "app/view/view_control.h"

#include <array>

namespace bonemoss::app {

/// A photograph held before the active view by its four corners, to be thrown on what is seen of the skin.
class PhotoControl : public ViewControl
{
public:
    PhotoControl(Session &session, HandModel &hand, QWidget *view);

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override;
    void release(const Pointer &) override { m_grip = kNoGrip; }
    bool hover(const Pointer &pointer) override;
    void cancel() override;     ///< a drag goes back to where it began; else the photograph is put away
    bool key(int key) override; ///< Enter throws it on the skin
    void paintOn(QPainter &painter, const Projection &view, const QString &) override;
    bool isOfActiveView() const override { return true; }
    QString hintFor(const HeldKeys &) const override;

private:
    static constexpr int kNoGrip = -1, kMiddle = 4;
    ColourHand &held() const { return m_hand.of<ColourHand>(); }
    bool isOn() const;
    QPointF place(const Projection &view, int grip) const; ///< of a corner, or of the middle
    int gripAt(const Projection &view, QPointF at) const;
    void lay();

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_view;
    int m_grip = kNoGrip, m_lit = kNoGrip;
    QPointF m_from;
    std::array<QPointF, 4> m_start;
    Projection m_shownIn; ///< the view it was last seen in
    bool m_isShown = false;
};

extern const ControlRow kPhotoControl;

} // namespace bonemoss::app
