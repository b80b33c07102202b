#pragma once

#include "app/view/view_control.h"
#include "app/view/projection.h"
#include "app/view/stroke_control.h"

class QPainter;

namespace bonemoss::app {

/// A stroke along a curve through points set on the skin: they can be dragged and taken away, and the stroke shows all the
/// while, until it is laid.
class CurveControl : public ViewControl
{
public:
    Press press(const Pointer &pointer) override
    {
        if (!isOn())
            return Press::NotMine;
        return press(pointer.view, pointer.at, pointer.rest(), pointer.held) ? Press::Mine : Press::Camera;
    }
    void drag(const Pointer &pointer) override { drag(pointer.rest()); }
    void release(const Pointer &) override { release(); }
    bool key(int key) override; ///< Enter and Backspace while it is set up
    void paintOn(QPainter &painter, const Projection &view, const QString &) override { paint(painter, view); }

    CurveControl(HandModel &hand, StrokeControl &strokes) : m_hand(hand), m_strokes(strokes) {}

    bool isOn() const { return m_hand.drawsCurves() && !takesHold(m_hand.tool()); }
    bool hasPoints() const { return !m_points.empty(); }
    /// under: the place on the skin as it was before the stroke. False when there is none and no point is near.
    bool press(const Projection &view, QPointF at, const std::optional<Vec3f> &under, const HeldKeys &keys);
    void drag(const std::optional<Vec3f> &under);
    void release() { m_dragged = -1; }
    void again();    ///< the tool is set otherwise
    void takeBack(); ///< the last point
    void lay();
    void cancel() override;
    void paint(QPainter &painter, const Projection &view) const;
    QString hint() const;

private:
    HandModel &m_hand;
    StrokeControl &m_strokes;
    std::vector<Vec3f> m_points; ///< mm, on the skin
    HeldKeys m_keys;
    int m_dragged = -1;
    bool m_isShowing = false; ///< the creature may change by it, which is no reason to leave it
};

/// A smooth curve through points, `step` mm apart: Catmull-Rom with the root of the distances as parameter (Yuksel, Schaefer &
/// Keyser 2011, "Parameterization and applications of Catmull-Rom curves": no loops or cusps within a piece).
std::vector<Vec3f> curveThrough(const std::vector<Vec3f> &points, float step);

extern const ControlRow kCurveControl;

} // namespace bonemoss::app
