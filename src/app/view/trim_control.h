#pragma once

#include "command/skin/piece_fields.h"
#include "app/view/view_control.h"
#include "app/session/session.h"
#include "app/view/projection.h"

#include <QCoreApplication>
#include <nlohmann/json_fwd.hpp>

#include <QPolygonF>

#include <vector>

class QPainter;
class QWidget;

namespace bonemoss::app {

/// What a line or outline drawn in the view does: a cut, or a mask.
struct TrimPlan {
    bool isOutline = false; ///< an outline; else a line. A click says which side of it goes
    command::TrimKeep keep = command::TrimKeep::Rest;
    bool isFrontOnly = false; ///< no deeper than the limb under it; of a mask only what is seen
    bool isMask = false;      ///< masks what is inside, and takes nothing away
    bool isRectangle = false; ///< an outline between two corners
    bool isPegged = false;    ///< parts for a print: straight through between the ends of the line, with peg and socket
};

/// Cuts drawn over the chosen piece.
class TrimControl : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(TrimControl)
public:
    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override { drag(pointer.at); }
    void release(const Pointer &pointer) override;
    bool hover(const Pointer &pointer) override { return hover(pointer.at); }
    void paintOn(QPainter &painter, const Projection &view, const QString &) override { paint(painter, view); }
    bool isOfActiveView() const override { return true; }
    QString hintFor(const HeldKeys &) const override { return hint(); }

    TrimControl(Session &session, QWidget *window) : m_session(session), m_window(window) {}

    void begin(const TrimPlan &plan);
    bool isOn() const { return m_isOn; }
    void cancel() override { m_isOn = m_isChoosing = false, m_points.clear(); }
    void press(QPointF at);
    void drag(QPointF at);
    bool hover(QPointF at); ///< true when another side is lit than before
    /// The command that the drawn line stands for; null when it is too short, or when a click has yet to say which side goes.
    /// The control is off afterwards, but for that.
    nlohmann::json release(const Projection &view);
    QString hint() const; ///< empty while it is off
    void paint(QPainter &painter, const Projection &view) const;

private:
    bool asksSide() const { return !m_plan.isMask && m_plan.keep == command::TrimKeep::Rest; }
    QPolygonF firstSide() const; ///< the inside of an outline; what lies to the left of a line, as far as can be seen
    float depthUnder(const Projection &view, const document::Piece &piece) const;

    Session &m_session;
    QWidget *m_window; ///< over which progress is shown
    TrimPlan m_plan;
    bool m_isOn = false, m_isChoosing = false;
    bool m_isFirstSide = true; ///< that is under the pointer
    std::vector<QPointF> m_points;
};

extern const ControlRow kTrimControl;

} // namespace bonemoss::app
