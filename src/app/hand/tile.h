#pragma once

#include <QAbstractButton>
#include <QImage>
#include <QPainterPath>

namespace bonemoss::app {

/// A tool's tile: its picture, name and number key.
class Tile : public QAbstractButton
{
    Q_OBJECT
public:
    static constexpr int kKeys = 10; ///< tiles that have a key: 1 to 9, and 0 for the tenth
    static QString keyOf(int number) { return QString::number(number % 10); }

    Tile(const QString &name, int number, QPainterPath picture, bool isFilled, QWidget *parent = nullptr);
    QSize sizeHint() const override { return {52, m_image.isNull() ? 50 : 60}; }
    /// A picture of points instead of lines.
    void setImage(const QImage &image)
    {
        m_image = image;
        setMinimumSize(sizeHint());
    }
    void setNumber(int number) { m_number = number; }

protected:
    void paintEvent(QPaintEvent *e) override;
    void enterEvent(QEnterEvent *e) override;
    void leaveEvent(QEvent *e) override;

private:
    void paintWords(QPainter &p, QColor key) const;

    int m_number;
    QPainterPath m_picture; ///< in a box of 100 by 40
    bool m_isFilled;
    QImage m_image;
};

} // namespace bonemoss::app
