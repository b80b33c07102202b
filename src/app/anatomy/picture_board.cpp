#include "app/anatomy/picture_board.h"

#include "app/theme/theme.h"
#include "app/view/picture_shelf.h"
#include "command/fields.h"
#include "command/pictures/picture_fields.h"

#include <QMouseEvent>
#include <QPainter>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using document::Reference;

namespace {

/// On the board itself: x to the right, y down, mm.
QRectF placeOnBoard(const Reference &r)
{
    const double w = double(r.widthMm()), h = double(r.heightMm);
    return {double(r.across) - w / 2, -double(r.up) - h / 2, w, h};
}

} // namespace

PictureBoard::PictureBoard(Session &session, PictureShelf &shelf, QWidget *parent)
    : QWidget(parent), m_session(session), m_shelf(shelf)
{
    setObjectName(QStringLiteral("pictureBoard"));
    setAccessibleName(tr("Board of loose pictures"));
    setMinimumSize(120, 90);
    connect(&session, &Session::creatureChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::lookChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::choiceChanged, this, qOverload<>(&QWidget::update));
    connect(&shelf, &PictureShelf::arrived, this, qOverload<>(&QWidget::update));
}

std::vector<Reference> PictureBoard::shown() const
{
    std::vector<Reference> out;
    for (const Reference &r : m_session.creature().references)
        if (r.view == document::kBoard && !r.isHidden)
            out.push_back(r);
    return out;
}

QTransform PictureBoard::toScreen() const
{
    if (!m_fits)
        return m_own;
    QRectF all;
    for (const Reference &r : shown())
        all |= placeOnBoard(r);
    QTransform t;
    if (all.isEmpty())
        return t;
    const double by = std::min((width() - 16) / all.width(), (height() - 16) / all.height());
    t.translate(width() / 2.0, height() / 2.0);
    t.scale(by, by);
    t.translate(-all.center().x(), -all.center().y());
    return t;
}

QRectF PictureBoard::boxOf(const Reference &r) const
{
    return toScreen().mapRect(placeOnBoard(r));
}

void PictureBoard::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(theme().line, 1));
    p.setBrush(theme().field);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
    const std::vector<Reference> all = shown();
    if (all.empty()) {
        p.setPen(theme().softInk);
        p.drawText(rect().adjusted(10, 10, -10, -10), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("Loose pictures lie here: add one under Pictures and choose the board as its view."));
        return;
    }
    p.setClipRect(rect().adjusted(1, 1, -1, -1));
    for (const Reference &r : all) {
        QRectF box = boxOf(r);
        if (r.id == m_dragged)
            box.translate(m_moved);
        p.save();
        p.translate(box.center());
        p.rotate(-double(r.rotation) * 57.29577951308232);
        const QRectF own(-box.width() / 2, -box.height() / 2, box.width(), box.height());
        if (const QImage *image = m_shelf.image(r.file))
            p.drawImage(own, *image);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(r.id == m_session.picture() ? theme().slate : theme().line, r.id == m_session.picture() ? 2 : 1));
        p.drawRect(own);
        p.restore();
    }
}

void PictureBoard::mousePressEvent(QMouseEvent *e)
{
    m_last = e->position();
    m_moved = {};
    m_dragged = 0;
    for (const Reference &r : shown())
        if (boxOf(r).contains(e->position()) && !r.isLocked && e->button() == Qt::LeftButton)
            m_dragged = r.id; // the one on top comes last
    m_slides = m_dragged == 0;
    if (m_dragged)
        m_session.choosePicture(m_dragged);
}

void PictureBoard::mouseMoveEvent(QMouseEvent *e)
{
    const QPointF by = e->position() - m_last;
    m_last = e->position();
    if (m_dragged) {
        m_moved += by;
    } else if (m_slides && e->buttons() != Qt::NoButton) {
        m_own = toScreen() * QTransform::fromTranslate(by.x(), by.y());
        m_fits = false;
    }
    update();
}

void PictureBoard::mouseReleaseEvent(QMouseEvent *)
{
    const Reference *r = m_session.creature().reference(m_dragged);
    const QPointF moved = m_moved;
    m_dragged = 0;
    m_slides = false;
    m_moved = {};
    if (!r || moved.manhattanLength() < 2)
        return;
    const QTransform t = toScreen();
    m_own = t; // what was moved shall not change the scale of all
    m_fits = false;
    m_session.run(toCommand(command::SetPicture{
        .picture = r->id,
        .changes = {.middle = std::array{r->across + float(moved.x() / t.m11()), r->up - float(moved.y() / t.m22())}}}));
}

void PictureBoard::mouseDoubleClickEvent(QMouseEvent *)
{
    m_fits = true;
    update();
}

void PictureBoard::wheelEvent(QWheelEvent *e)
{
    const double by = std::pow(1.15, e->angleDelta().y() / 120.0);
    const QPointF at = e->position();
    m_own = toScreen() * QTransform::fromTranslate(-at.x(), -at.y()) * QTransform::fromScale(by, by)
            * QTransform::fromTranslate(at.x(), at.y());
    m_fits = false;
    update();
    e->accept();
}

} // namespace bonemoss::app
