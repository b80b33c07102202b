#pragma once

#include <QColor>
#include <QWidget>

#include <functional>

namespace bonemoss::app {

class ValueSlider;

/// What a row of the layers shows.
struct LayerFacts {
    QString name, words; ///< words: what kind of layer it is, in a line below
    bool isOn = true, isChosen = false, isBody = false, isAside = false, asksAgain = false;
    double least = -1, most = 2; ///< of its slider
    QColor ball;                 ///< shows what a colour layer holds; none when not valid
    float shine = 0;             ///< of the ball, 0 to 1
    friend bool operator==(const LayerFacts &, const LayerFacts &) = default;
};

/// One layer: a dot to switch it, its slider, what kind it is, and a border in moss when strokes go to it. Dragged up or down
/// by anything but the slider's line.
class LayerRow : public QWidget
{
public:
    explicit LayerRow(const LayerFacts &facts);

    ValueSlider *slider = nullptr; ///< null for the body
    std::function<void()> choose, toggle, rename;
    std::function<void(QPoint)> menu;
    std::function<void(int)> dragged; ///< y in the parent, while and (negative: -1 - y) when it was let go

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void mouseDoubleClickEvent(QMouseEvent *e) override;

private:
    LayerFacts m_facts;
    QPoint m_pressed;
    bool m_isDragged = false;
};

} // namespace bonemoss::app
