#pragma once

#include <QString>
#include <QWidget>

#include <functional>

namespace bonemoss::app {

/// A named value on a line with a knob; the number stands at the right and can be typed after a double
/// click. Keyboard: arrows, Page Up and Down, Home, End.
class ValueSlider : public QWidget
{
    Q_OBJECT
    Q_PROPERTY(double value READ value WRITE setValue NOTIFY edited)
public:
    struct Range {
        double least = 0, most = 1;
        bool isLogarithmic = false;
        QString unit;
        int digits = 1;
        double shownPer = 1; ///< 100 shows a share as percent
    };
    ValueSlider(const QString &name, Range range, QWidget *parent = nullptr);

    double value() const { return m_value; }
    void setValue(double value); ///< shows it; sends nothing
    /// Presses on the name go to whoever holds the slider.
    void leaveName() { m_leavesName = true; }
    QSize sizeHint() const override { return {200, 34}; }
    QSize minimumSizeHint() const override { return {120, 34}; }

signals:
    void edited(double value);   ///< while it moves
    void released(double value); ///< when the knob is let go or a key was pressed

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void mouseDoubleClickEvent(QMouseEvent *e) override;
    void keyPressEvent(QKeyEvent *e) override;
    void wheelEvent(QWheelEvent *e) override;

private:
    double share() const;
    double fromShare(double share) const;
    void edit(double value);
    QString text() const;

    QString m_name;
    Range m_range;
    double m_value = 0;
    bool m_leavesName = false, m_isHeld = false;
};

} // namespace bonemoss::app
