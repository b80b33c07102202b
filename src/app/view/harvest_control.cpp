#include "app/view/harvest_control.h"

#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/pictures/picture_fields.h"

#include <QCoreApplication>
#include <QLineF>
#include <QPainter>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::app {

ViewControl::Press HarvestControl::press(const Pointer &pointer)
{
    if (!m_hand.detail().harvests())
        return Press::NotMine;
    m_isDown = true;
    m_from = m_to = pointer.at;
    return Press::Mine;
}

void HarvestControl::release(const Pointer &pointer)
{
    m_isDown = false;
    m_hand.detail().endHarvest();
    const QPointF middle = isFrame() ? (m_from + m_to) / 2 : m_from;
    const auto hit = pointer.skinAt(middle);
    if (!hit) {
        m_session.complain(QCoreApplication::translate("Harvest", "There is no skin there, so no stamp was taken."));
        return;
    }
    const portrait::Camera &camera = pointer.view.camera;
    const Vec3f up = camera.up(), forward = camera.forward(), p = hit->point;
    command::HarvestStamp command{.piece = m_session.piece(), .at = p, .up = up, .size = m_hand.settings().size};
    if (isFrame()) {
        const Vec3f d = pointer.view.onPlane(m_to, p) - pointer.view.onPlane(m_from, p);
        command.size = std::max(0.5f * std::abs(dot(d, cross(forward, up))), 0.01f);
        command.height = std::max(0.5f * std::abs(dot(d, up)), 0.01f);
        command.normal = -forward;
    }
    if (!m_session.run(toCommand(command)))
        return;
    const document::Stamp &taken = m_session.creature().stamps.back();
    m_hand.change([&](sculpt::StrokeSettings &s) { s.stamp = taken.name, s.depth = taken.depth; });
}

void HarvestControl::cancel()
{
    m_isDown = false;
    if (m_hand.detail().harvests())
        m_hand.detail().endHarvest();
}

void HarvestControl::paintOn(QPainter &p, const Projection &, const QString &)
{
    if (!isFraming())
        return;
    p.setBrush(Qt::NoBrush);
    for (const QPen &pen : {QPen(theme().field, 3.4), QPen(theme().slate, 1.6)}) {
        p.setPen(pen);
        p.drawRect(QRectF(m_from, m_to).normalized());
    }
}

QString HarvestControl::hintFor(const HeldKeys &) const
{
    return m_hand.detail().harvests()
               ? QCoreApplication::translate("Harvest",
                                             "Detail · a click takes the relief under the ring as a stamp, a drag what "
                                             "the rectangle frames; Escape leaves it")
               : QString();
}

const ControlRow kHarvestControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<HarvestControl>(host.session, host.hand);
}};

} // namespace bonemoss::app
