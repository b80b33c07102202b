#include "app/hand/ramp_bar.h"

#include "app/hand/colour_hand.h"
#include "app/theme/theme.h"
#include "base/colour.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>

namespace bonemoss::app {

RampBar::RampBar(QWidget *parent) : QWidget(parent)
{
    setObjectName(QStringLiteral("ramp"));
    setAccessibleName(tr("Colours by value"));
    setToolTip(tr("Colours from the least value to the most: click a knob to choose it, drag it, double-click for another one"));
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(40);
}

void RampBar::show(const skin::ColourRamp &ramp, const std::vector<skin::PaletteColour> &palette)
{
    m_ramp = ramp, m_skin.palette = palette;
    m_chosen = std::min(m_chosen, ramp.stops.empty() ? 0 : ramp.stops.size() - 1);
    update();
}

QRectF RampBar::field() const
{
    return QRectF(rect()).adjusted(8, 3, -8, -15);
}

QPointF RampBar::knob(std::size_t k) const
{
    return {field().left() + field().width() * double(m_ramp.stops[k].at), field().bottom() + 6};
}

void RampBar::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF f = field();
    for (int y = 0; y < int(f.height()); y += 6) // what is not covered shows squares
        for (int x = 0; x < int(f.width()); x += 6)
            p.fillRect(QRectF(f.left() + x, f.top() + y, std::min(6.0, f.width() - x), std::min(6.0, f.height() - y)),
                       (x / 6 + y / 6) % 2 ? theme().line : theme().field);
    for (int x = 0; x < int(f.width()) && !m_ramp.stops.empty(); ++x) {
        const skin::RampColour c = skin::rampAt(m_ramp, m_skin, float(x) / float(f.width()));
        QColor q = qtColour({toSrgb(c.light.x), toSrgb(c.light.y), toSrgb(c.light.z)});
        q.setAlphaF(c.cover);
        p.fillRect(QRectF(f.left() + x, f.top(), 1, f.height()), q);
    }
    p.setPen(theme().line);
    p.setBrush(Qt::NoBrush);
    p.drawRect(f);
    for (std::size_t k = 0; k < m_ramp.stops.size(); ++k) {
        const skin::ColourRamp::Stop &s = m_ramp.stops[k];
        skin::ColourRamp one;
        one.stops = {s};
        one.stops[0].cover = 1;
        const skin::RampColour c = skin::rampAt(one, m_skin, 0);
        p.setBrush(qtColour({toSrgb(c.light.x), toSrgb(c.light.y), toSrgb(c.light.z)}));
        p.setPen(QPen(k == m_chosen ? theme().moss : theme().softInk, k == m_chosen ? 2.5 : 1));
        p.drawEllipse(knob(k), 5, 5);
    }
}

int RampBar::knobAt(QPointF at) const
{
    int best = -1;
    double least = 9;
    for (std::size_t k = 0; k < m_ramp.stops.size(); ++k)
        if (const double d = std::abs(knob(k).x() - at.x()); d < least && at.y() > field().top())
            least = d, best = int(k);
    return best;
}

float RampBar::valueAt(QPointF at) const
{
    return float(std::clamp((at.x() - field().left()) / field().width(), 0.0, 1.0));
}

void RampBar::moveTo(float value)
{
    auto &stops = m_ramp.stops;
    const float lo = m_chosen > 0 ? stops[m_chosen - 1].at : 0.0f,
                hi = m_chosen + 1 < stops.size() ? stops[m_chosen + 1].at : 1.0f;
    stops[m_chosen].at = std::clamp(value, lo, hi);
    update();
}

void RampBar::mousePressEvent(QMouseEvent *e)
{
    const int k = knobAt(e->position());
    if (k < 0)
        return;
    m_chosen = std::size_t(k), m_isHeld = true, m_hasMoved = false;
    update();
    emit chose(m_chosen);
}

void RampBar::mouseMoveEvent(QMouseEvent *e)
{
    if (!m_isHeld)
        return;
    m_hasMoved = true;
    moveTo(valueAt(e->position()));
}

void RampBar::mouseReleaseEvent(QMouseEvent *)
{
    if (m_isHeld && m_hasMoved)
        emit changed(m_ramp);
    m_isHeld = false;
}

void RampBar::mouseDoubleClickEvent(QMouseEvent *e)
{
    if (knobAt(e->position()) >= 0 || m_ramp.stops.empty() || m_ramp.stops.size() >= 12)
        return;
    const float at = valueAt(e->position());
    const skin::RampColour c = skin::rampAt(m_ramp, m_skin, at);
    const auto after = std::find_if(m_ramp.stops.begin(), m_ramp.stops.end(), [&](const auto &s) { return s.at > at; });
    m_chosen = std::size_t(after - m_ramp.stops.begin());
    m_ramp.stops.insert(after, {at, {{toSrgb(c.light.x), toSrgb(c.light.y), toSrgb(c.light.z)}, 0}, c.cover});
    emit chose(m_chosen);
    emit changed(m_ramp);
}

void RampBar::keyPressEvent(QKeyEvent *e)
{
    if (m_ramp.stops.empty())
        return QWidget::keyPressEvent(e);
    if ((e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace) && m_ramp.stops.size() > 1) {
        m_ramp.stops.erase(m_ramp.stops.begin() + std::ptrdiff_t(m_chosen));
        m_chosen = std::min(m_chosen, m_ramp.stops.size() - 1);
        emit chose(m_chosen);
    } else if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right) {
        moveTo(m_ramp.stops[m_chosen].at + (e->key() == Qt::Key_Left ? -0.02f : 0.02f));
    } else {
        return QWidget::keyPressEvent(e);
    }
    emit changed(m_ramp);
}

} // namespace bonemoss::app
