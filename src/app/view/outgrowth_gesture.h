#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/outgrowth_hand.h"
#include "app/view/tried_command.h"
#include "app/view/view_control.h"

#include <QCoreApplication>

namespace bonemoss::app {

/// Strokes and lines that change the outgrowth that is chosen, as the hand's gesture says. One command each.
class OutgrowthGesture : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(OutgrowthGesture)

public:
    OutgrowthGesture(Session &session, HandModel &hand, QWidget *window);

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override;
    void release(const Pointer &pointer) override;
    bool hover(const Pointer &pointer) override;
    void cancel() override;
    void paintOn(QPainter &painter, const Projection &view, const QString &) override;
    QString hintFor(const HeldKeys &) const override;
    const document::Creature *tried() override { return m_tried.made(); }

private:
    OutgrowthHand &hand() const { return m_hand.of<OutgrowthHand>(); }
    bool isOn() const; ///< whether presses are its own
    void stroke(const outgrowth::Outgrowth &o, const Pointer &pointer);
    void drawPath(const outgrowth::Outgrowth &o, const Pointer &pointer);
    void look(const outgrowth::Outgrowth &o, const Pointer &pointer);

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_window;
    bool m_isDown = false;
    std::vector<Vec3f> m_points;
    std::optional<mesh::Hit> m_over; ///< the skin under the pointer
    TriedCommand m_tried;
};

extern const ControlRow kOutgrowthGesture;

} // namespace bonemoss::app
