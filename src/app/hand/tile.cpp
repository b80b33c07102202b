#include "app/hand/tile.h"

#include "app/theme/theme.h"

#include <QPainter>

namespace bonemoss::app {

Tile::Tile(const QString &name, int number, QPainterPath picture, bool isFilled, QWidget *parent)
    : QAbstractButton(parent), m_number(number), m_picture(std::move(picture)), m_isFilled(isFilled)
{
    setText(name);
    setAccessibleName(name);
    setCheckable(true);
    setFocusPolicy(Qt::TabFocus);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setMinimumSize(sizeHint());
}

void Tile::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme &t = theme();
    const bool lit = isChecked() || underMouse() || hasFocus();
    p.setPen(QPen(lit ? t.moss : t.line, isChecked() ? 1.6 : 1));
    p.setBrush(isChecked() ? t.mossWash : t.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 6, 6);
    if (!m_image.isNull()) {
        QPainterPath round;
        round.addRoundedRect(QRectF(5, 5, width() - 10, height() - 26), 4, 4);
        p.setClipPath(round);
        const QSizeF size = QSizeF(m_image.size()).scaled(round.boundingRect().size(), Qt::KeepAspectRatioByExpanding);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.drawImage(QRectF(QPointF((width() - size.width()) / 2, 5), size), m_image);
        p.setClipping(false);
        paintWords(p, t.field);
        return;
    }
    p.save();
    p.translate((width() - 50) / 2.0, 7);
    p.scale(0.5, 0.5);
    if (m_isFilled) {
        p.setPen(QPen(t.ink, 2.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.setBrush(isChecked() ? t.field : t.panel);
    } else {
        p.setPen(QPen(t.line, 2, Qt::DotLine));
        p.drawLine(QPointF(0, 28), QPointF(100, 28));
        p.setPen(QPen(t.ink, 3.2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.setBrush(Qt::NoBrush);
    }
    p.drawPath(m_picture);
    p.restore();
    paintWords(p, t.softInk);
}

/// Its name, smaller where it would not fit, and its key.
void Tile::paintWords(QPainter &p, QColor key) const
{
    QFont name = font();
    while (name.pointSizeF() > 6.5 && QFontMetricsF(name).horizontalAdvance(text()) > width() - 6)
        name.setPointSizeF(name.pointSizeF() - 0.5);
    p.setFont(name);
    p.setPen(theme().ink);
    p.drawText(rect().adjusted(2, 0, -2, -4), Qt::AlignHCenter | Qt::AlignBottom, text());
    QFont small = font();
    small.setPointSizeF(7.5);
    p.setFont(small);
    p.setPen(key);
    if (m_number > 0)
        p.drawText(rect().adjusted(0, 5, -8, 0), Qt::AlignRight | Qt::AlignTop, keyOf(m_number));
}

void Tile::enterEvent(QEnterEvent *)
{
    update();
}
void Tile::leaveEvent(QEvent *)
{
    update();
}

} // namespace bonemoss::app
