#pragma once

#include "app/view/view_control.h"
#include "app/session/latest.h"
#include "app/hand/hand_model.h"
#include "app/hand/outgrowth_hand.h"
#include "app/view/projection.h"
#include "growth/flow.h"

#include <memory>
#include <optional>

class QPainter;

namespace bonemoss::app {

/// A growth in the hand: strokes on the skin are guides, or a click picks one scale; and hair lines that show which way
/// it grows. Fur that is combed likewise.
class GuideControl : public ViewControl
{
public:
    Press press(const Pointer &pointer) override
    {
        if (!isOn() || !pointer.held.isNone())
            return Press::NotMine;
        return press(pointer.view, pointer.at, pointer.skin()) ? Press::Mine : Press::Camera;
    }
    void drag(const Pointer &pointer) override { drag(pointer.skin()); }
    void release(const Pointer &) override { release(); }
    void paintOn(QPainter &painter, const Projection &view, const QString &) override { paint(painter, view); }
    QString hintFor(const HeldKeys &held) const override { return isOn() && held.isNone() ? hint() : QString(); }

    /// window: over which progress is shown.
    GuideControl(Session &session, HandModel &hand, QWidget *window);

    bool isOn() const { return combs() || (m_hand.detail().growing().kind != nullptr && rowOf(m_session.bench()).grows); }
    /// under: the place on the skin. False when there is none: the press is not for it.
    bool press(const Projection &view, QPointF at, const std::optional<mesh::Hit> &under);
    void drag(const std::optional<mesh::Hit> &under);
    void release();
    void cancel() override { m_points.clear(); }
    void paint(QPainter &painter, const Projection &view);
    QString hint() const;

private:
    bool combs() const { return m_session.bench() == Bench::Outgrowths && m_hand.of<OutgrowthHand>().combs(); }
    const document::Piece *piece() const { return m_session.creature().piece(m_session.piece()); }
    int guideAt(const Projection &view, QPointF at) const;
    void paintFlow(QPainter &painter, const Projection &view);

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_window;
    std::vector<Vec3f> m_points;
    int m_pressedGuide = -1;
    using Flow = std::shared_ptr<const growth::Flow>;
    std::shared_ptr<const document::Creature> m_flowOf; ///< asked for
    std::uint32_t m_flowPiece = 0;
    Flow m_flow; ///< the last that came; null for none of this piece
    Latest<Flow> m_nextFlow;
};

extern const ControlRow kGuideControl;

} // namespace bonemoss::app
