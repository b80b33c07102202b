#pragma once

#include "app/session/session.h"
#include "app/view/projection.h"

#include <nlohmann/json_fwd.hpp>

#include <vector>

class QPainter;

namespace bonemoss::app {

/// What a line or outline drawn in the view does: a cut, or a mask.
struct TrimPlan {
    bool isOutline = false;    ///< an outline drawn round what goes; else a line, whose left side goes
    std::string keep = "rest"; ///< as the command piece.trim has it
    bool isFrontOnly = false;  ///< no deeper than the limb under it; of a mask only what is seen
    bool isMask = false;       ///< masks what is inside, and takes nothing away
    bool isRectangle = false;  ///< an outline between two corners
};

/// Cuts drawn over the chosen piece.
class TrimControl
{
public:
    explicit TrimControl(Session &session) : m_session(session) {}

    void begin(const TrimPlan &plan);
    bool isOn() const { return m_isOn; }
    void cancel() { m_isOn = false, m_points.clear(); }
    void press(QPointF at);
    void drag(QPointF at);
    /// The command that the drawn line stands for; null when it is too short. The control is off afterwards.
    nlohmann::json release(const Projection &view);
    QString hint() const; ///< empty while it is off
    void paint(QPainter &painter, const Projection &view) const;

private:
    float depthUnder(const Projection &view, const creature::Piece &piece) const;

    Session &m_session;
    TrimPlan m_plan;
    bool m_isOn = false;
    std::vector<QPointF> m_points;
};

} // namespace bonemoss::app
