#pragma once

#include "app/view/view_control.h"
#include "app/hand/hand_model.h"
#include "app/view/projection.h"

#include <QImage>

#include <memory>

class QPainter;

namespace bonemoss::app {

/// The stencil before the active view: a picture that strokes go through, with grips to move, turn and size it.
class StencilControl : public ViewControl
{
public:
    Press press(const Pointer &pointer) override { return press(pointer.view, pointer.at) ? Press::Mine : Press::NotMine; }
    void drag(const Pointer &pointer) override { drag(pointer.view, pointer.at); }
    void release(const Pointer &) override { release(); }
    bool hover(const Pointer &pointer) override { return hover(pointer.view, pointer.at); }
    void cancel() override; ///< a drag goes back to where it began; else the stencil is put away
    void paintOn(QPainter &painter, const Projection &view, const QString &) override { paint(painter, view); }
    bool isOfActiveView() const override { return true; }

    StencilControl(Session &session, HandModel &hand) : m_session(session), m_hand(hand) {}

    bool isOn() const;
    /// The stencil as it is held before a view; null when there is none.
    std::shared_ptr<const sculpt::Stencil> held(const Projection &view) const;
    bool press(const Projection &view, QPointF at); ///< false when it met no grip
    void drag(const Projection &view, QPointF at);
    void release() { m_grip = Grip::None; }
    bool hover(const Projection &view, QPointF at); ///< true when another grip is lit than before
    void paint(QPainter &painter, const Projection &view);

private:
    enum class Grip { None, Move, Turn, Size };
    std::shared_ptr<const image::HeightPicture> picture() const;
    QPointF middle(const Projection &view) const;
    QSizeF half(const Projection &view) const; ///< points on the screen
    QPointF gripPlace(const Projection &view, Grip grip) const;
    Grip gripAt(const Projection &view, QPointF at) const;

    Session &m_session;
    HandModel &m_hand;
    Grip m_grip = Grip::None, m_lit = Grip::None;
    QPointF m_from;
    StencilPlan m_start;
    QImage m_card; ///< as it is shown: dark where it keeps
    std::shared_ptr<const image::HeightPicture> m_cardOf;
    bool m_cardInverted = false;
};

extern const ControlRow kStencilControl;

} // namespace bonemoss::app
