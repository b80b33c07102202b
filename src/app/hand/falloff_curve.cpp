#include "app/hand/falloff_curve.h"

#include "app/theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>

namespace bonemoss::app {

namespace {
constexpr std::size_t kKnobs = std::tuple_size_v<sculpt::DrawnFalloff>;
} // namespace

FalloffCurve::FalloffCurve(QWidget *parent) : QWidget(parent)
{
    setFocusPolicy(Qt::StrongFocus);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setMinimumHeight(sizeHint().height());
    setAccessibleName(tr("Falloff curve"));
    setToolTip(tr("How the tool fades from its middle (left) to its rim (right). Drag the knobs to draw your own."));
}

void FalloffCurve::show(sculpt::Falloff falloff, const sculpt::DrawnFalloff &heights)
{
    m_falloff = falloff;
    m_heights = heights;
    if (falloff != sculpt::Falloff::Drawn)
        for (std::size_t k = 0; k < kKnobs; ++k)
            m_heights[k] = weightOf(falloff, float(k) / float(kKnobs - 1));
    update();
}

QRectF FalloffCurve::field() const
{
    return QRectF(rect()).adjusted(8, 9, -8, -9);
}

QPointF FalloffCurve::knob(std::size_t k) const
{
    const QRectF f = field();
    return {f.left() + f.width() * double(k) / double(kKnobs - 1), f.bottom() - f.height() * double(m_heights[k])};
}

float FalloffCurve::height(float t) const
{
    return m_falloff == sculpt::Falloff::Drawn ? sculpt::weightOf(m_heights, t) : weightOf(m_falloff, t);
}

void FalloffCurve::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme &t = theme();
    p.setPen(QPen(hasFocus() ? t.moss : t.line, 1));
    p.setBrush(t.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    const QRectF f = field();
    QPainterPath line;
    for (int i = 0; i <= 100; ++i) {
        const QPointF at(f.left() + f.width() * i / 100.0, f.bottom() - f.height() * double(height(float(i) * 0.00999f)));
        i == 0 ? line.moveTo(at) : line.lineTo(at);
    }
    QPainterPath under = line;
    under.lineTo(f.bottomRight());
    under.lineTo(f.bottomLeft());
    p.fillPath(under, t.mossWash);
    p.setPen(QPen(t.line, 1, Qt::DotLine));
    p.drawLine(f.bottomLeft(), f.bottomRight());
    p.setPen(QPen(t.ink, 1.6));
    p.setBrush(Qt::NoBrush);
    p.drawPath(line);
    for (std::size_t k = 0; k < kKnobs; ++k) {
        const bool isChosen = int(k) == m_held || (hasFocus() && int(k) == m_chosen);
        p.setPen(QPen(isChosen ? t.moss : t.ink, 1.3));
        p.setBrush(isChosen ? t.moss : t.panel);
        p.drawEllipse(knob(k), 3.6, 3.6);
    }
}

void FalloffCurve::put(std::size_t k, float to)
{
    m_heights[k] = std::clamp(to, 0.0f, 1.0f);
    m_falloff = sculpt::Falloff::Drawn;
    update();
    emit drawn(m_heights);
}

void FalloffCurve::mousePressEvent(QMouseEvent *e)
{
    const QRectF f = field();
    const double share = (e->position().x() - f.left()) / f.width();
    m_held = m_chosen = std::clamp(int(std::lround(share * double(kKnobs - 1))), 0, int(kKnobs) - 1);
    mouseMoveEvent(e);
}

void FalloffCurve::mouseMoveEvent(QMouseEvent *e)
{
    const QRectF f = field();
    if (m_held >= 0)
        put(std::size_t(m_held), float((f.bottom() - e->position().y()) / f.height()));
}

void FalloffCurve::mouseReleaseEvent(QMouseEvent *)
{
    m_held = -1;
    update();
    emit released(m_heights);
}

void FalloffCurve::keyPressEvent(QKeyEvent *e)
{
    const auto chosen = std::size_t(m_chosen);
    switch (e->key()) {
    case Qt::Key_Left: m_chosen = std::max(m_chosen - 1, 0); break;
    case Qt::Key_Right: m_chosen = std::min(m_chosen + 1, int(kKnobs) - 1); break;
    case Qt::Key_Up: put(chosen, m_heights[chosen] + 0.05f); return emit released(m_heights);
    case Qt::Key_Down: put(chosen, m_heights[chosen] - 0.05f); return emit released(m_heights);
    default: return QWidget::keyPressEvent(e);
    }
    update();
}

} // namespace bonemoss::app
