#include "app/hand/value_slider.h"

#include "app/theme/theme.h"

#include <QInputDialog>
#include <QKeyEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

namespace {
constexpr int kEdge = 6, kName = 14; ///< beside the line; above it
}

ValueSlider::ValueSlider(const QString &name, Range range, QWidget *parent) : QWidget(parent), m_name(name), m_range(range)
{
    m_value = range.least;
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName(name);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

double ValueSlider::share() const
{
    if (m_range.isLogarithmic)
        return std::log(m_value / m_range.least) / std::log(m_range.most / m_range.least);
    return (m_value - m_range.least) / (m_range.most - m_range.least);
}

double ValueSlider::fromShare(double s) const
{
    s = std::clamp(s, 0.0, 1.0);
    if (m_range.isLogarithmic)
        return m_range.least * std::pow(m_range.most / m_range.least, s);
    return m_range.least + s * (m_range.most - m_range.least);
}

void ValueSlider::setValue(double value)
{
    m_value = std::clamp(value, m_range.least, m_range.most);
    setAccessibleDescription(text());
    update();
}

void ValueSlider::edit(double value)
{
    setValue(value);
    emit edited(m_value);
}

QString ValueSlider::text() const
{
    const QString number = QString::number(m_value * m_range.shownPer, 'f', m_range.digits);
    return m_range.unit.isEmpty() ? number : number + QChar(0x2009) + m_range.unit;
}

void ValueSlider::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme &t = theme();
    p.setPen(isEnabled() ? t.ink : t.softInk);
    p.drawText(QRect(0, 0, width(), 20), Qt::AlignLeft | Qt::AlignVCenter, m_name);
    p.setPen(t.softInk);
    p.drawText(QRect(0, 0, width(), 20), Qt::AlignRight | Qt::AlignVCenter, text());
    const double y = 26, x0 = kEdge, x1 = width() - kEdge, x = x0 + (x1 - x0) * std::clamp(share(), 0.0, 1.0);
    p.setPen(QPen(t.line, 3, Qt::SolidLine, Qt::RoundCap));
    p.drawLine(QPointF(x0, y), QPointF(x1, y));
    p.setPen(QPen(isEnabled() ? t.moss : t.line, 3, Qt::SolidLine, Qt::RoundCap));
    p.drawLine(QPointF(x0, y), QPointF(x, y));
    p.setPen(QPen(hasFocus() ? t.moss : t.ink, hasFocus() ? 2.2 : 1.4));
    p.setBrush(t.field);
    p.drawEllipse(QPointF(x, y), 5, 5);
}

void ValueSlider::mousePressEvent(QMouseEvent *e)
{
    if (e->button() != Qt::LeftButton)
        return e->ignore(); // whoever holds the slider may have a menu
    m_isHeld = e->position().y() > kName;
    if (!m_isHeld && m_leavesName)
        return e->ignore();
    setFocus();
    if (m_isHeld)
        edit(fromShare((e->position().x() - kEdge) / (width() - 2 * kEdge)));
}

void ValueSlider::mouseMoveEvent(QMouseEvent *e)
{
    if (!m_isHeld)
        return e->ignore();
    edit(fromShare((e->position().x() - kEdge) / (width() - 2 * kEdge)));
}

void ValueSlider::mouseReleaseEvent(QMouseEvent *e)
{
    if (e->button() != Qt::LeftButton || !m_isHeld)
        return e->ignore();
    m_isHeld = false;
    emit released(m_value);
}

void ValueSlider::mouseDoubleClickEvent(QMouseEvent *e)
{
    if (m_leavesName && e->position().y() <= kName && e->position().x() < width() / 2.0)
        return e->ignore();
    bool ok = false;
    const double v = QInputDialog::getDouble(
        this, m_name, tr("%1 in %2").arg(m_name, m_range.unit.isEmpty() ? tr("units") : m_range.unit), m_value * m_range.shownPer,
        m_range.least * m_range.shownPer, m_range.most * m_range.shownPer, std::max(2, m_range.digits), &ok);
    if (ok) {
        edit(v / m_range.shownPer);
        emit released(m_value);
    }
}

void ValueSlider::keyPressEvent(QKeyEvent *e)
{
    double s = share();
    switch (e->key()) {
    case Qt::Key_Left:
    case Qt::Key_Down: s -= 0.01; break;
    case Qt::Key_Right:
    case Qt::Key_Up: s += 0.01; break;
    case Qt::Key_PageDown: s -= 0.1; break;
    case Qt::Key_PageUp: s += 0.1; break;
    case Qt::Key_Home: s = 0; break;
    case Qt::Key_End: s = 1; break;
    default: return QWidget::keyPressEvent(e);
    }
    edit(fromShare(s));
    emit released(m_value);
}

void ValueSlider::wheelEvent(QWheelEvent *e)
{
    e->ignore();
} // the panel scrolls; values never jump by accident

} // namespace bonemoss::app
