#include "app/anatomy/layer_row.h"

#include "app/hand/value_slider.h"
#include "app/theme/theme.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QRadialGradient>

namespace bonemoss::app {

namespace {

constexpr int kLeft = 26, kWords = 16; ///< width of the dot's place, height of the words' line

} // namespace

LayerRow::LayerRow(const LayerFacts &facts) : m_facts(facts)
{
    auto *row = new QHBoxLayout(this);
    row->setContentsMargins(kLeft + 2, 5, 10, facts.isBody ? 5 : kWords + 3);
    if (facts.isBody) {
        row->addWidget(new QLabel(facts.name));
        setFixedHeight(32);
    } else {
        slider = new ValueSlider(facts.name, {facts.least, facts.most, false, QStringLiteral("%"), 0, 100});
        slider->leaveName();
        row->addWidget(slider);
    }
    setAccessibleName(facts.name);
}

void LayerRow::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme &t = theme();
    p.setPen(QPen(m_facts.isChosen ? t.moss : t.line, m_facts.isChosen ? 1.6 : 1));
    p.setBrush(t.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 5, 5);
    p.setPen(QPen(m_facts.isOn ? t.moss : t.softInk, 1.4));
    p.setBrush(m_facts.isOn && !m_facts.isAside ? t.moss : t.field);
    p.drawEllipse(QPointF(15, slider ? 16 : height() / 2.0), 5, 5);
    if (m_facts.isBody)
        return;
    QFont small = font();
    small.setPointSizeF(8);
    p.setFont(small);
    p.setPen(m_facts.asksAgain ? t.rust : t.softInk);
    if (m_facts.ball.isValid()) {
        const QRectF in(7, height() - 21, 15, 15);
        QRadialGradient body(in.center() - QPointF(3, 3), 10);
        body.setColorAt(0, m_facts.ball.lighter(118));
        body.setColorAt(1, m_facts.ball.darker(170));
        p.setPen(Qt::NoPen);
        p.setBrush(body);
        p.drawEllipse(in);
        p.setBrush(QColor(255, 255, 255, int(235 * m_facts.shine)));
        p.drawEllipse(QRectF(in.center() - QPointF(4, 4), QSizeF(3.4, 3.4)));
        p.setPen(m_facts.asksAgain ? t.rust : t.softInk);
    }
    const QRect line = rect().adjusted(kLeft + 4, height() - kWords - 4, -8, -4);
    p.drawText(line, Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetrics(small).elidedText(m_facts.words, Qt::ElideRight, line.width()));
}

void LayerRow::mousePressEvent(QMouseEvent *e)
{
    m_pressed = e->position().toPoint();
    m_isDragged = false;
    if (e->button() == Qt::RightButton && menu)
        menu(e->globalPosition().toPoint());
}

void LayerRow::mouseMoveEvent(QMouseEvent *e)
{
    if (!(e->buttons() & Qt::LeftButton) || !dragged)
        return;
    if (!m_isDragged && std::abs(e->position().y() - m_pressed.y()) < QApplication::startDragDistance())
        return;
    m_isDragged = true;
    setCursor(Qt::ClosedHandCursor);
    dragged(mapToParent(e->position().toPoint()).y());
}

void LayerRow::mouseReleaseEvent(QMouseEvent *e)
{
    if (e->button() != Qt::LeftButton)
        return;
    unsetCursor();
    if (m_isDragged) {
        m_isDragged = false;
        return dragged(-1 - std::max(0, mapToParent(e->position().toPoint()).y()));
    }
    if (m_pressed.x() < kLeft && toggle)
        toggle();
    else if (choose)
        choose();
}

void LayerRow::mouseDoubleClickEvent(QMouseEvent *e)
{
    if (e->button() == Qt::LeftButton && e->position().x() >= kLeft && rename)
        rename();
    else
        mousePressEvent(e); // two quick clicks on the dot are two switches
}

} // namespace bonemoss::app
