#pragma once

#include "sculpt/falloff.h"

#include <QWidget>

namespace bonemoss::app {

/// The falloff of a tool as a line from its middle to its rim, with knobs to draw another one. Keyboard: left and right
/// choose a knob, up and down move it.
class FalloffCurve : public QWidget
{
    Q_OBJECT
public:
    explicit FalloffCurve(QWidget *parent = nullptr);

    void show(sculpt::Falloff falloff, const sculpt::DrawnFalloff &drawn);
    QSize sizeHint() const override { return {200, 76}; }
    QPointF knob(std::size_t k) const; ///< in the widget

signals:
    void drawn(const sculpt::DrawnFalloff &heights);    ///< while a knob moves
    void released(const sculpt::DrawnFalloff &heights); ///< when it is let go, or a key moved it

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void keyPressEvent(QKeyEvent *e) override;

private:
    QRectF field() const;
    float height(float t) const;
    void put(std::size_t k, float height);

    sculpt::Falloff m_falloff = sculpt::Falloff::Dome;
    sculpt::DrawnFalloff m_heights = sculpt::kFirstDrawn; ///< of the knobs
    int m_held = -1, m_chosen = 0;
};

} // namespace bonemoss::app
