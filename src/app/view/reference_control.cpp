#include "app/view/reference_control.h"

#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/pictures/picture_fields.h"

#include <QLineF>
#include <QPainter>
#include <nlohmann/json.hpp>

#include <cmath>
#include <numbers>

namespace bonemoss::app {

using document::Reference;

namespace {

constexpr double kPictureReach = 9, kStalk = 26;

QString keyOf(const Reference &r)
{
    return QString::fromStdString(r.view);
}

bool isFromAbove(const Reference &r)
{
    return r.view == "crown" || r.view == "belly";
}

} // namespace

ReferenceControl::ReferenceControl(Session &session, QObject *parent) : QObject(parent), m_session(session)
{
    connect(&session, &Session::creatureChanged, this, [this] {
        m_changed.reset();
        if (m_lineUp && !m_session.creature().reference(m_lineUp))
            cancel();
    });
}

std::vector<Reference> ReferenceControl::shown(const QString &viewKey) const
{
    std::vector<Reference> out;
    for (const Reference &r : m_session.creature().references)
        if (keyOf(r) == viewKey && !r.isHidden)
            out.push_back(m_changed && m_changed->id == r.id ? *m_changed : r);
    return out;
}

const Reference *ReferenceControl::chosen(const QString &viewKey) const
{
    const Reference *r = m_session.creature().reference(m_session.picture());
    return r && keyOf(*r) == viewKey && !r->isHidden ? r : nullptr;
}

void ReferenceControl::beginLineUp(std::uint32_t picture)
{
    m_lineUp = picture;
    m_crown.reset();
    emit changed();
}

QString ReferenceControl::hint() const
{
    const Reference *r = m_session.creature().reference(m_lineUp);
    if (!r)
        return {};
    const QString name = QString::fromStdString(r->name);
    if (isFromAbove(*r))
        return m_crown ? tr("Now press on the end of the tail in %1 (Esc stops)").arg(name)
                       : tr("Press on the tip of the nose in %1 (Esc stops)").arg(name);
    return m_crown ? tr("Now press on the ground under the feet in %1 (Esc stops)").arg(name)
                   : tr("Press on the crown, the highest point, in %1 (Esc stops)").arg(name);
}

Vec3f ReferenceControl::onItsPlane(const Reference &, const Projection &view, QPointF at)
{
    const mesh::Ray ray = view.rayAt(at);
    const Vec3f n = view.camera.forward();
    const float slope = dot(ray.direction, n);
    return slope > 1e-4f ? ray.origin + ray.direction * (dot(-ray.origin, n) / slope) : Vec3f{};
}

std::vector<ReferenceControl::Handle> ReferenceControl::handles(const Reference &r, const Projection &view) const
{
    if (r.isLocked)
        return {};
    std::vector<Handle> out{{Drag::Move, view.toScreen(placeOf(r, {0.5f, 0.5f}))}};
    for (const document::PicturePoint corner :
         {document::PicturePoint{0, 0}, document::PicturePoint{1, 0}, document::PicturePoint{0, 1}, document::PicturePoint{1, 1}})
        out.push_back({Drag::Size, view.toScreen(placeOf(r, corner))});
    const QPointF top = view.toScreen(placeOf(r, {0.5f, 0})), away = top - out.front().at;
    const double n = std::max(std::hypot(away.x(), away.y()), 1.0);
    out.push_back({Drag::Turn, top + away * (kStalk / n)});
    return out;
}

bool ReferenceControl::press(const Projection &view, QPointF at, const QString &viewKey)
{
    if (const Reference *r = m_session.creature().reference(m_lineUp)) {
        if (keyOf(*r) != viewKey)
            return false; // they look from elsewhere: the camera may have it
        const document::PicturePoint p = pointOf(*r, onItsPlane(*r, view, at));
        if (!m_crown) {
            m_crown = p;
        } else {
            const document::PicturePoint crown = *m_crown;
            m_crown.reset();
            const bool done = m_session.run(
                toCommand(command::LineUpPicture{.picture = m_lineUp, .crown = {crown.u, crown.v}, .ground = {p.u, p.v}}));
            if (done) {
                m_lineUp = 0;
                emit linedUp();
            }
        }
        emit changed();
        return true;
    }
    const Reference *r = chosen(viewKey);
    if (!r)
        return false;
    for (const Handle &h : handles(*r, view))
        if (QLineF(h.at, at).length() < kPictureReach) {
            m_drag = h.kind;
            m_from = at;
            m_start = *r;
            return true;
        }
    return false;
}

void ReferenceControl::drag(const Projection &view, QPointF at)
{
    if (m_drag == Drag::None)
        return;
    Reference now = *m_start;
    const QPointF middle = view.toScreen(placeOf(*m_start, {0.5f, 0.5f}));
    if (m_drag == Drag::Move) {
        const Vec3f by = onItsPlane(now, view, at) - onItsPlane(now, view, m_from);
        now.across += dot(by, view.camera.right()), now.up += dot(by, view.camera.up());
    } else if (m_drag == Drag::Size) {
        const double by = QLineF(middle, at).length() / std::max(1.0, QLineF(middle, m_from).length());
        now.heightMm *= std::clamp(float(by), 0.02f, 50.0f);
    } else {
        const double before = std::atan2(middle.y() - m_from.y(), m_from.x() - middle.x());
        now.rotation += float(std::atan2(middle.y() - at.y(), at.x() - middle.x()) - before);
        now.rotation = std::remainder(now.rotation, 2 * std::numbers::pi_v<float>);
    }
    m_changed = now;
    emit changed();
}

void ReferenceControl::release()
{
    m_drag = Drag::None;
    if (!m_changed)
        return;
    const Reference now = *m_changed;
    m_changed.reset();
    m_session.run(toCommand(command::SetPicture{.picture = now.id,
                                                .changes = {.middle = std::array{now.across, now.up},
                                                            .height = now.heightMm,
                                                            .turn = now.rotation * 180 / std::numbers::pi_v<float>}}));
}

void ReferenceControl::cancel()
{
    m_drag = Drag::None;
    m_changed.reset();
    m_lineUp = 0;
    m_crown.reset();
    emit changed();
}

/// The crown and ground lines, what is off them, and the handles of the chosen picture.
void ReferenceControl::paint(QPainter &p, const Projection &view, const QString &viewKey) const
{
    const std::vector<Reference> all = shown(viewKey);
    if (all.empty())
        return;
    const float height = m_session.creature().heightMm;
    const QColor ink = theme().isDark ? theme().ink : QColor("#3A4A2A");
    if (!isFromAbove(all.front())) {
        const auto line = [&](float y, const QString &name) {
            const double at = view.toScreen({0, y, 0}).y();
            p.setPen(QPen(ink, 1, Qt::DashLine));
            p.drawLine(QPointF(view.area.left(), at), QPointF(view.area.right(), at));
            const double room = at - view.area.top() < 130 ? 124 : 14; // beside the compass
            p.drawText(QRectF(view.area.x(), at - 19, view.area.width() - room, 16), Qt::AlignRight | Qt::AlignVCenter, name);
        };
        line(height, tr("crown, %1 mm").arg(double(height), 0, 'g', 5));
        line(0, tr("ground"));
    }
    double down = 0;
    for (const Reference &r : all) {
        const auto off = lineUpError(r, height);
        if (!off || std::max({std::abs(off->crown), std::abs(off->ground), std::abs(off->across)}) < 0.005f * height)
            continue;
        p.setPen(theme().lichen.darker(theme().isDark ? 100 : 150));
        p.drawText(QRectF(view.area.x(), view.toScreen({0, height, 0}).y() + 4 + down, view.area.width() - 14, 16),
                   Qt::AlignRight | Qt::AlignVCenter,
                   tr("%1 is off: crown %2 mm, ground %3 mm, sideways %4 mm")
                       .arg(QString::fromStdString(r.name))
                       .arg(double(off->crown), 0, 'f', 1)
                       .arg(double(off->ground), 0, 'f', 1)
                       .arg(double(off->across), 0, 'f', 1));
        down += 16;
    }
    const Reference *r = chosen(viewKey);
    if (!r || isLiningUp())
        return;
    const Reference &now = m_changed && m_changed->id == r->id ? *m_changed : *r;
    const std::vector<Handle> marks = handles(now, view);
    if (marks.empty())
        return;
    const QColor slate = theme().slate;
    p.setPen(QPen(slate, 1.2));
    p.setBrush(Qt::NoBrush);
    p.drawPolygon(QPolygonF({marks[1].at, marks[2].at, marks[4].at, marks[3].at}));
    p.drawLine((marks[1].at + marks[2].at) / 2, marks[5].at);
    p.setPen(QPen(theme().field, 1.5));
    p.setBrush(slate);
    for (const Handle &h : marks) {
        if (h.kind == Drag::Size)
            p.drawRect(QRectF(h.at - QPointF(4, 4), QSizeF(8, 8)));
        else
            p.drawEllipse(h.at, 5, 5);
    }
}

const ControlRow kReferenceControl{
    [](const ControlHost &host) -> std::unique_ptr<ViewControl> { return std::make_unique<ReferenceControl>(host.session); }};

} // namespace bonemoss::app
