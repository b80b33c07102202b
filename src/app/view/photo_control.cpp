#include "app/view/photo_control.h"

#include "app/benches/bench.h"
#include "app/theme/theme.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"

#include <QCoreApplication>
#include <QLineF>
#include <QPainter>
#include <QTransform>
#include <QWidget>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

constexpr double kReach = 11; // points on the screen

} // namespace

PhotoControl::PhotoControl(Session &session, HandModel &hand, QWidget *view) : m_session(session), m_hand(hand), m_view(view)
{
    QObject::connect(&held(), &ColourHand::photoAsked, view, [this] { lay(); });
}

bool PhotoControl::isOn() const
{
    return rowOf(m_session.bench()).hasColours && !held().photo().image.isNull();
}

QPointF PhotoControl::place(const Projection &view, int grip) const
{
    const auto &c = held().photo().corners;
    const QPointF share = grip == kMiddle ? (c[0] + c[1] + c[2] + c[3]) / 4 : c[std::size_t(grip)];
    return view.area.topLeft() + QPointF(share.x() * view.area.width(), share.y() * view.area.height());
}

int PhotoControl::gripAt(const Projection &view, QPointF at) const
{
    for (int grip = 0; isOn() && grip <= kMiddle; ++grip)
        if (QLineF(place(view, grip), at).length() < kReach)
            return grip;
    return kNoGrip;
}

ViewControl::Press PhotoControl::press(const Pointer &pointer)
{
    m_grip = gripAt(pointer.view, pointer.at);
    m_from = pointer.at;
    if (m_grip != kNoGrip)
        m_start = held().photo().corners;
    return m_grip == kNoGrip ? Press::NotMine : Press::Mine;
}

bool PhotoControl::hover(const Pointer &pointer)
{
    return std::exchange(m_lit, gripAt(pointer.view, pointer.at)) != m_lit;
}

void PhotoControl::drag(const Pointer &pointer)
{
    if (m_grip == kNoGrip)
        return;
    const QRectF area = pointer.view.area;
    const QPointF way = pointer.at - m_from, by(way.x() / area.width(), way.y() / area.height());
    std::array<QPointF, 4> corners = m_start;
    for (int k = 0; k < 4; ++k)
        if (m_grip == kMiddle || m_grip == k)
            corners[std::size_t(k)] += by;
    held().setPhotoCorners(corners);
}

void PhotoControl::lay()
{
    if (!isOn() || !m_isShown || !m_session.piece())
        return;
    const Projection &view = m_shownIn;
    command::ProjectPicture lay{.piece = m_session.piece(), .path = held().photo().path.toStdString()};
    for (int k = 0; k < 4; ++k)
        lay.corners.push_back(view.onPlane(place(view, k), view.camera.target));
    if (!view.camera.isParallel)
        lay.eye = view.camera.eye();
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (m_session.colourLayer() && piece && !piece->skin.colourLayers.empty())
        lay.layer = command::ItemName(m_session.colourLayer());
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, v = m_view, command = toCommand(lay)] { session->runLong(command, v); },
        Qt::QueuedConnection);
}

bool PhotoControl::key(int key)
{
    if (!isOn() || (key != Qt::Key_Return && key != Qt::Key_Enter))
        return false;
    lay();
    return true;
}

void PhotoControl::cancel()
{
    if (!isOn())
        return;
    if (std::exchange(m_grip, kNoGrip) != kNoGrip)
        held().setPhotoCorners(m_start);
    else
        held().setPhoto({});
}

void PhotoControl::paintOn(QPainter &p, const Projection &view, const QString &)
{
    m_shownIn = view, m_isShown = true;
    if (!isOn())
        return;
    const QImage &image = held().photo().image;
    QPolygonF to;
    for (int k = 0; k < 4; ++k)
        to << place(view, k);
    const QPolygonF from(QList<QPointF>{
        {0, 0}, {double(image.width()), 0}, {double(image.width()), double(image.height())}, {0, double(image.height())}});
    QTransform warp;
    p.save();
    if (QTransform::quadToQuad(from, to, warp)) {
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.setOpacity(0.55);
        p.setTransform(warp, true);
        p.drawImage(0, 0, image);
    }
    p.restore();
    p.setBrush(Qt::NoBrush);
    for (const QPen &pen : {QPen(theme().field, 3), QPen(theme().slate, 1.4)}) {
        p.setPen(pen);
        p.drawPolygon(to);
    }
    for (int grip = 0; grip <= kMiddle; ++grip) {
        const QPointF at = place(view, grip);
        p.setPen(QPen(theme().field, 1.5));
        p.setBrush((m_grip != kNoGrip ? m_grip : m_lit) == grip ? theme().moss : theme().slate);
        if (grip == kMiddle)
            p.drawEllipse(at, 6, 6);
        else
            p.drawRect(QRectF(at - QPointF(5.5, 5.5), QSizeF(11, 11)));
    }
}

QString PhotoControl::hintFor(const HeldKeys &) const
{
    return isOn() ? QCoreApplication::translate(
               "Colour", "Photograph · drag its corners or its middle; Enter lays it on what is seen, Escape puts it away")
                  : QString();
}

const ControlRow kPhotoControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<PhotoControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
