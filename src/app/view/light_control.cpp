#include "app/view/light_control.h"

#include "app/benches/bench.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/portrait/light_fields.h"
#include "command/portrait/plate_fields.h"
#include "export/plate.h"
#include "portrait/lamps.h"

#include <QPainter>
#include <QWidget>
#include <nlohmann/json.hpp>

#include <cmath>
#include <utility>

namespace bonemoss::app {

using nlohmann::json;

/// Where the ground is under the pointer.
std::optional<Vec3f> LightControl::floorUnder(const Pointer &pointer) const
{
    const mesh::Ray ray = pointer.view.rayAt(pointer.at);
    const float y = m_session.standing()->bounds().lo.y;
    if (std::abs(ray.direction.y) < 1e-4f)
        return {};
    const float t = (y - ray.origin.y) / ray.direction.y;
    return t > 0 ? std::optional(ray.origin + ray.direction * t) : std::nullopt;
}

json LightControl::commandFor(const Pointer &pointer) const
{
    const portrait::Light *l = held().light();
    if (!l)
        return {};
    command::AimLight aim{.light = l->id};
    aim.eye = pointer.view.camera.eye(), aim.lookAt = pointer.view.camera.target;
    const auto hit = pointer.skin();
    if (m_caster) {
        aim.shadowOf = m_caster;
        aim.shadowAt = hit ? std::optional(hit->point) : floorUnder(pointer);
        if (!aim.shadowAt || length(*aim.shadowAt - *m_caster) < 1)
            return {};
    } else {
        if (!hit)
            return {};
        aim.highlight = hit->point, aim.normal = hit->normal;
    }
    return toCommand(aim);
}

ViewControl::Press LightControl::press(const Pointer &pointer)
{
    if (!rowOf(m_session.bench()).portrays || !pointer.held.isNone())
        return Press::NotMine;
    if (held().page() == PortraitPage::Plate)
        return pressMark(pointer) ? Press::Mine : Press::Camera;
    const auto hit = pointer.skin();
    if (held().page() == PortraitPage::Camera && hit) {
        portrait::Shot shot = held().shot();
        shot.focus = std::max(0.0f, dot(hit->point - pointer.view.camera.eye(), pointer.view.camera.forward()));
        held().setShot(shot, held().lens());
        m_mark = hit->point;
        return Press::Mine;
    }
    if (held().page() != PortraitPage::Lights || !held().light() || !hit)
        return Press::Camera;
    m_caster.reset();
    if (pointer.modifiers.testFlag(Qt::ShiftModifier))
        m_caster = hit->point;
    m_isDragging = true;
    drag(pointer);
    return Press::Mine;
}

/// Where the labels of the plate stand in the view.
const std::vector<Vec3f> &LightControl::markPlaces()
{
    if (const auto standing = m_session.standing();
        m_placesOf != standing || m_places.size() != m_session.creature().stage.plate.marks.size()) {
        m_places = exporting::markPlaces(m_session.creature(), *standing);
        m_placesOf = standing;
    }
    return m_places;
}

/// Takes a label of the plate in hand, or writes a new one.
bool LightControl::pressMark(const Pointer &pointer)
{
    const auto &marks = m_session.creature().stage.plate.marks;
    const auto &places = markPlaces();
    for (std::size_t k = 0; k < marks.size(); ++k)
        if (const QPointF d = pointer.view.toScreen(places[k]) - pointer.at; std::hypot(d.x(), d.y()) < 10) {
            held().chooseMark(marks[k].id);
            m_movedMark = marks[k].id;
            return true;
        }
    const auto hit = pointer.skin();
    if (!hit)
        return false;
    command::AddMark add;
    add.changes.text = tr("label %1").arg(marks.size() + 1).toStdString();
    add.changes.at = hit->point, add.changes.isPosed = true;
    if (m_session.run(toCommand(add)) && !m_session.creature().stage.plate.marks.empty())
        held().chooseMark(m_session.creature().stage.plate.marks.back().id);
    return true;
}

void LightControl::drag(const Pointer &pointer)
{
    if (m_movedMark) {
        if (const auto hit = pointer.skin())
            m_mark = hit->point;
        m_view->update();
    }
    if (!m_isDragging)
        return;
    if (const auto hit = pointer.skin())
        m_mark = hit->point;
    else if (m_caster)
        m_mark = floorUnder(pointer);
    if (const json command = commandFor(pointer); !command.is_null())
        held().tryCommand(command);
    m_view->update();
}

void LightControl::release(const Pointer &pointer)
{
    if (const std::uint32_t moved = std::exchange(m_movedMark, 0)) {
        const QPointF d = pointer.at - pointer.pressed;
        if (const auto hit = pointer.skin(); hit && std::hypot(d.x(), d.y()) > 3) {
            command::SetMark set{.mark = moved};
            set.changes.at = hit->point, set.changes.isPosed = true;
            m_session.run(toCommand(set));
        }
        m_mark.reset();
        m_view->update();
    }
    if (!m_isDragging)
        return;
    m_isDragging = false;
    const json command = commandFor(pointer);
    held().tryCommand({});
    if (!command.is_null())
        m_session.run(command);
    m_caster.reset(), m_mark.reset();
}

void LightControl::cancel()
{
    m_isDragging = false, m_movedMark = 0;
    m_caster.reset(), m_mark.reset();
    held().tryCommand({});
}

/// Labels of the plate with their words, as they will point at the creature.
void LightControl::paintMarks(QPainter &p, const Projection &view)
{
    const auto &marks = m_session.creature().stage.plate.marks;
    const auto &places = markPlaces();
    for (std::size_t k = 0; k < marks.size(); ++k) {
        const portrait::PlateMark &m = marks[k];
        const QPointF at = view.toScreen(m.id == m_movedMark && m_mark ? *m_mark : places[k]);
        const bool isChosen = m.id == held().mark();
        const double radius = m.radius > 0 ? double(m.radius) * view.area.height() / double(view.camera.heightAtTarget()) : 3.5;
        p.setPen(QPen(QColor(20, 18, 15, 150), 3)), p.setBrush(Qt::NoBrush);
        p.drawEllipse(at, radius, radius);
        p.setPen(QPen(isChosen ? theme().lichen : QColor(250, 247, 240), 1.4));
        p.drawEllipse(at, radius, radius);
        const QString words = textOf(m.text);
        const QRectF box =
            QRectF(p.fontMetrics().boundingRect(words)).translated(at + QPointF(radius + 8, 4)).adjusted(-4, -2, 4, 2);
        p.setPen(Qt::NoPen), p.setBrush(QColor(24, 22, 18, 150));
        p.drawRoundedRect(box, 3, 3);
        p.setPen(isChosen ? theme().lichen : QColor(250, 247, 240));
        p.drawText(box, Qt::AlignCenter, words);
    }
}

void LightControl::paintOn(QPainter &p, const Projection &view, const QString &)
{
    if (!rowOf(m_session.bench()).portrays)
        return;
    const float frame = held().shot().aspect, wide = view.aspect();
    QRectF area = view.area; // the picture within the view
    if (frame < wide)
        area.adjust((view.area.width() - view.area.height() * frame) / 2, 0,
                    -(view.area.width() - view.area.height() * frame) / 2, 0);
    else
        area.adjust(0, (view.area.height() - view.area.width() / frame) / 2, 0,
                    -(view.area.height() - view.area.width() / frame) / 2);
    if (held().showsFrame()) {
        p.setPen(Qt::NoPen), p.setBrush(QColor(0, 0, 0, 110));
        for (const QRectF &r : {QRectF(view.area.topLeft(), QPointF(area.left(), view.area.bottom())),
                                QRectF(QPointF(area.right(), view.area.top()), view.area.bottomRight()),
                                QRectF(QPointF(area.left(), view.area.top()), QPointF(area.right(), area.top())),
                                QRectF(QPointF(area.left(), area.bottom()), QPointF(area.right(), view.area.bottom()))})
            p.drawRect(r);
        p.setPen(QPen(QColor(255, 255, 255, 120), 1)), p.setBrush(Qt::NoBrush);
        p.drawRect(area);
        const double m = 0.05 * std::min(area.width(), area.height()); // nothing that matters beyond
        p.setPen(QPen(QColor(255, 255, 255, 70), 1, Qt::DashLine));
        p.drawRect(area.adjusted(m, m, -m, -m));
    }
    if (held().showsThirds()) {
        p.setPen(QPen(QColor(255, 255, 255, 90), 1));
        for (int k = 1; k < 3; ++k) {
            const double x = area.left() + area.width() * k / 3, y = area.top() + area.height() * k / 3;
            p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
            p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
        }
    }
    if (held().page() == PortraitPage::Plate)
        paintMarks(p, view);
    if (!m_isDragging || !m_mark)
        return;
    const QPointF at = view.toScreen(*m_mark);
    if (m_caster) {
        p.setPen(QPen(theme().lichen, 1.5, Qt::DashLine));
        p.drawLine(view.toScreen(*m_caster), at);
    }
    p.setPen(QPen(QColor(30, 28, 24, 160), 3)), p.setBrush(Qt::NoBrush);
    p.drawEllipse(at, 9, 9);
    p.setPen(QPen(theme().lichen, 1.5));
    p.drawEllipse(at, 9, 9);
}

QString LightControl::hintFor(const HeldKeys &) const
{
    if (!rowOf(m_session.bench()).portrays)
        return {};
    if (held().page() == PortraitPage::Camera)
        return tr("Camera · press on the creature: the lens focuses there");
    if (held().page() == PortraitPage::Plate)
        return tr("Plate · press on the creature: a label is written there; drag one to move it");
    const portrait::Light *l = held().light();
    if (held().page() != PortraitPage::Lights || !l)
        return tr("Portrait · the picture gathers itself while nothing moves");
    return tr("%1 · drag its highlight over the creature; with Shift, from what throws a shadow to where that falls")
        .arg(QString::fromStdString(l->name));
}

const ControlRow kLightControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<LightControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
