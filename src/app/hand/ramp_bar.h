#pragma once

#include "skin/colour_layers.h"

#include <QWidget>

namespace bonemoss::app {

/// The colours of a ramp from the least value to the most, with a knob for each. A double click puts another knob there; Delete takes the
/// chosen one away; left and right move it.
class RampBar : public QWidget
{
    Q_OBJECT
public:
    explicit RampBar(QWidget *parent = nullptr);
    void show(const skin::ColourRamp &ramp, const std::vector<skin::PaletteColour> &palette);
    const skin::ColourRamp &ramp() const { return m_ramp; }
    std::size_t chosen() const { return m_chosen; }
    QSize sizeHint() const override { return {200, 40}; }
    QPointF knob(std::size_t k) const; ///< in the widget

signals:
    void chose(std::size_t stop);
    void changed(const skin::ColourRamp &ramp); ///< when a knob is let go, put or taken away

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void mouseDoubleClickEvent(QMouseEvent *e) override;
    void keyPressEvent(QKeyEvent *e) override;

private:
    QRectF field() const;
    int knobAt(QPointF at) const;
    float valueAt(QPointF at) const;
    void moveTo(float value);

    skin::ColourRamp m_ramp;
    skin::Skin m_skin; ///< knows the palette
    std::size_t m_chosen = 0;
    bool m_isHeld = false, m_hasMoved = false;
};

} // namespace bonemoss::app
