#include "app/view/tape_control.h"

#include "app/theme/theme.h"
#include "mesh/section.h"

#include <QCoreApplication>
#include <QPainter>
#include <QPainterPath>

#include <cmath>
#include <numbers>

namespace bonemoss::app {

namespace {

QString tr(const char *text)
{
    return QCoreApplication::translate("TapeControl", text);
}

} // namespace

void TapeControl::setKind(TapeKind kind)
{
    m_kind = kind;
    clear();
}

void TapeControl::clear()
{
    m_places.clear();
    m_ring.clear();
    m_value.reset();
}

void TapeControl::press(const Projection &view, QPointF at, std::optional<Vec3f> under)
{
    if (m_kind != TapeKind::Angle || m_places.size() >= 3)
        clear();
    m_from = m_to = at;
    const Vec3f depth = m_places.empty() ? view.camera.target : m_places.back();
    m_places.push_back(under.value_or(view.onPlane(at, depth)));
    if (m_kind != TapeKind::Angle)
        m_places.push_back(m_places.back());
}

void TapeControl::drag(const Projection &view, QPointF at, std::optional<Vec3f> under)
{
    m_to = at;
    if (m_kind == TapeKind::Angle || m_places.size() < 2)
        return;
    m_places[1] = under.value_or(view.onPlane(at, m_places[0]));
    if (m_kind == TapeKind::Length)
        m_value = length(m_places[1] - m_places[0]);
}

void TapeControl::release(const Projection &view, const std::vector<const mesh::Surface *> &surfaces)
{
    if (m_kind == TapeKind::Angle && m_places.size() == 3) {
        const Vec3f a = normalized(m_places[0] - m_places[1]), b = normalized(m_places[2] - m_places[1]);
        m_value = std::acos(std::clamp(dot(a, b), -1.0f, 1.0f)) * 180 / std::numbers::pi_v<float>;
    }
    if (m_kind != TapeKind::Girth || m_places.size() < 2)
        return;
    // The plane of the drawn line and of the line of sight; of all that it cuts, what lies under the line's middle.
    const mesh::Ray a = view.rayAt(m_from), b = view.rayAt(m_to), middle = view.rayAt((m_from + m_to) / 2);
    const Vec3f far = a.origin + a.direction * 100.0f, other = b.origin + b.direction * 100.0f;
    const Vec3f normal = cross(other - far, middle.direction);
    m_ring.clear();
    m_value.reset();
    if (!(length(normal) > 1e-6f))
        return;
    Vec3f place = middle.origin + middle.direction * length(m_places[0] - middle.origin);
    float nearest = std::numeric_limits<float>::max();
    for (const mesh::Surface *s : surfaces)
        if (const auto hit = mesh::castRay(*s, middle); hit && hit->distance < nearest)
            nearest = hit->distance, place = hit->point;
    const mesh::Section *best = nullptr;
    std::vector<mesh::Section> all;
    for (const mesh::Surface *s : surfaces)
        for (mesh::Section &line : mesh::sections(*s, far, normalized(normal)))
            all.push_back(std::move(line));
    best = mesh::nearestSection(all, place);
    if (!best)
        return;
    m_ring = best->points;
    m_isClosed = best->isClosed;
    m_ringArea = best->area;
    m_value = best->length;
}

QString TapeControl::words(float unitMm) const
{
    if (!m_value)
        return {};
    if (m_kind == TapeKind::Angle)
        return tr("%1°").arg(double(*m_value), 0, 'f', 1);
    QString text = tr("%1 mm").arg(double(*m_value), 0, 'f', 1);
    if (unitMm > 0)
        text += tr(" · %1 units").arg(double(*m_value / unitMm), 0, 'f', 2);
    if (m_kind == TapeKind::Girth)
        text +=
            m_isClosed
                ? tr(" round · %1 mm across a circle alike").arg(2 * std::sqrt(double(m_ringArea) / std::numbers::pi), 0, 'f', 1)
                : tr(" along an open line");
    return text;
}

QString TapeControl::hint() const
{
    switch (m_kind) {
    case TapeKind::Length: return tr("Tape · drag from one place to another (Esc clears)");
    case TapeKind::Girth: return tr("Tape · drag a line across a limb to measure around it (Esc clears)");
    case TapeKind::Angle:
        return m_places.size() % 3 == 1   ? tr("Tape · now press on the joint")
               : m_places.size() % 3 == 2 ? tr("Tape · now press on the other limb")
                                          : tr("Tape · press on one limb, the joint and the other limb");
    }
    return {};
}

void TapeControl::paint(QPainter &p, const Projection &view) const
{
    if (m_places.empty())
        return;
    const QColor halo = theme().field, ink = theme().isDark ? theme().lichen : QColor("#7A5A10");
    QPainterPath path;
    if (!m_ring.empty()) {
        for (std::size_t i = 0; i < m_ring.size(); ++i)
            i == 0 ? path.moveTo(view.toScreen(m_ring[i])) : path.lineTo(view.toScreen(m_ring[i]));
        if (m_isClosed)
            path.closeSubpath();
    } else if (m_kind == TapeKind::Girth) {
        path.moveTo(m_from);
        path.lineTo(m_to);
    } else {
        for (std::size_t i = 0; i < m_places.size(); ++i)
            i == 0 ? path.moveTo(view.toScreen(m_places[i])) : path.lineTo(view.toScreen(m_places[i]));
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(halo, 4));
    p.drawPath(path);
    p.setPen(QPen(ink, 1.8));
    p.drawPath(path);
    if (m_ring.empty() && m_kind != TapeKind::Girth)
        for (const Vec3f place : m_places) {
            p.setPen(QPen(halo, 1.5));
            p.setBrush(ink);
            p.drawEllipse(view.toScreen(place), 4, 4);
        }
}

ViewControl::Press TapeControl::press(const Pointer &pointer)
{
    if (m_hand.armature().formTile() != FormTile::Tape)
        return Press::NotMine;
    press(pointer.view, pointer.at, pointer.place());
    return Press::Mine;
}

const ControlRow kTapeControl{
    [](const ControlHost &host) -> std::unique_ptr<ViewControl> { return std::make_unique<TapeControl>(host.hand); }};

} // namespace bonemoss::app
