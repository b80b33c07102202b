#include "app/hand/profile_curve.h"

#include "app/theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

namespace {
constexpr float kMost = 2;
}

ProfileCurve::ProfileCurve(QWidget *parent) : QWidget(parent)
{
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(84);
    setAccessibleName(tr("Sizes along it"));
}

void ProfileCurve::setSizes(const std::vector<float> &sizes)
{
    for (std::size_t k = 0; k < kKnobs; ++k) {
        if (sizes.empty()) {
            m_sizes[k] = 1;
            continue;
        }
        const float x = float(k) / float(kKnobs - 1) * float(sizes.size() - 1);
        const auto i = std::min(std::size_t(x), sizes.size() - 1);
        m_sizes[k] = std::lerp(sizes[i], sizes[std::min(i + 1, sizes.size() - 1)], x - float(i));
    }
    update();
}

QRectF ProfileCurve::field() const
{
    return QRectF(rect()).adjusted(8, 8, -8, -8);
}

QPointF ProfileCurve::knob(std::size_t k) const
{
    const QRectF f = field();
    return {f.left() + f.width() * double(k) / double(kKnobs - 1), f.bottom() - f.height() * double(m_sizes[k] / kMost)};
}

void ProfileCurve::put(std::size_t k, float size)
{
    m_sizes[k] = std::clamp(size, 0.02f, kMost);
    m_chosen = k;
    update();
    emit edited(m_sizes);
}

void ProfileCurve::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF f = field();
    p.setPen(QPen(theme().line, 1));
    p.setBrush(theme().field);
    p.drawRoundedRect(f.adjusted(-6, -6, 6, 6), 4, 4);
    p.setPen(QPen(theme().line, 1, Qt::DotLine));
    p.drawLine(QPointF(f.left(), f.center().y()), QPointF(f.right(), f.center().y())); // once as large
    QPainterPath path(knob(0));
    for (std::size_t k = 1; k < kKnobs; ++k)
        path.lineTo(knob(k));
    QPainterPath under = path;
    under.lineTo(f.bottomRight());
    under.lineTo(f.bottomLeft());
    QColor wash = theme().moss;
    wash.setAlpha(46);
    p.fillPath(under, wash);
    p.setPen(QPen(theme().moss, 2));
    p.drawPath(path);
    for (std::size_t k = 0; k < kKnobs; ++k) {
        p.setPen(QPen(theme().ink, 1));
        p.setBrush(k == m_chosen && hasFocus() ? theme().moss : theme().field);
        p.drawEllipse(knob(k), 4, 4);
    }
}

void ProfileCurve::mousePressEvent(QMouseEvent *e)
{
    const QRectF f = field();
    const double share = std::clamp((e->position().x() - f.left()) / std::max(1.0, f.width()), 0.0, 1.0);
    m_held = int(std::lround(share * double(kKnobs - 1)));
    m_chosen = std::size_t(m_held);
    mouseMoveEvent(e);
}

void ProfileCurve::mouseMoveEvent(QMouseEvent *e)
{
    if (m_held >= 0)
        put(std::size_t(m_held), float((field().bottom() - e->position().y()) / std::max(1.0, field().height())) * kMost);
}

void ProfileCurve::mouseReleaseEvent(QMouseEvent *)
{
    if (std::exchange(m_held, -1) >= 0)
        emit released(m_sizes);
}

void ProfileCurve::keyPressEvent(QKeyEvent *e)
{
    switch (e->key()) {
    case Qt::Key_Left: m_chosen = m_chosen > 0 ? m_chosen - 1 : 0; break;
    case Qt::Key_Right: m_chosen = std::min(m_chosen + 1, kKnobs - 1); break;
    case Qt::Key_Up:
    case Qt::Key_Down:
        put(m_chosen, m_sizes[m_chosen] + (e->key() == Qt::Key_Up ? 0.05f : -0.05f));
        emit released(m_sizes);
        return;
    default: QWidget::keyPressEvent(e); return;
    }
    update();
}

} // namespace bonemoss::app
