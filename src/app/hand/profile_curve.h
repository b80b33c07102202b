#pragma once

#include <QWidget>

#include <vector>

namespace bonemoss::app {

/// Sizes along a row or a horn as a line with knobs, 0 to 2 times. Keyboard: left and right choose a knob, up and down move it.
class ProfileCurve : public QWidget
{
    Q_OBJECT
public:
    static constexpr std::size_t kKnobs = 9;
    explicit ProfileCurve(QWidget *parent = nullptr);

    void setSizes(const std::vector<float> &sizes); ///< at even steps; none: 1 everywhere. Sends nothing
    const std::vector<float> &sizes() const { return m_sizes; }
    QSize sizeHint() const override { return {200, 84}; }
    QPointF knob(std::size_t k) const; ///< in the widget

signals:
    void edited(const std::vector<float> &sizes);   ///< while a knob moves
    void released(const std::vector<float> &sizes); ///< when it is let go or a key was pressed

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void keyPressEvent(QKeyEvent *e) override;

private:
    QRectF field() const;
    void put(std::size_t k, float size);

    std::vector<float> m_sizes = std::vector<float>(kKnobs, 1.0f);
    int m_held = -1;
    std::size_t m_chosen = 0;
};

} // namespace bonemoss::app
