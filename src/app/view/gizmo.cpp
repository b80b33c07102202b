#include "app/view/gizmo.h"

#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QLineF>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bonemoss::app {

namespace {

constexpr double kGizmoStem = 74, kRing = 50, kGizmoReach = 9; // points on the screen

/// Point of a ring, by its turn in radians.
Vec3f onRing(Vec3f middle, int axis, float radius, float turn)
{
    return middle + Gizmo::axisOf((axis + 1) % 3) * (radius * std::cos(turn))
           + Gizmo::axisOf((axis + 2) % 3) * (radius * std::sin(turn));
}

} // namespace

Vec3f Gizmo::axisOf(int axis)
{
    return {axis == 0 ? 1.0f : 0.0f, axis == 1 ? 1.0f : 0.0f, axis == 2 ? 1.0f : 0.0f};
}

QString Gizmo::wordsOf(const Grip &grip)
{
    static const char *const kEnds[3] = {QT_TRANSLATE_NOOP("Gizmo", "left"), QT_TRANSLATE_NOOP("Gizmo", "crown"),
                                         QT_TRANSLATE_NOOP("Gizmo", "nose")};
    if (grip.part == Part::Axis)
        return QCoreApplication::translate("Gizmo", kEnds[grip.axis]);
    return grip.part == Part::Size ? QCoreApplication::translate("Gizmo", "size") : QString();
}

std::vector<Gizmo::Grip> Gizmo::spots() const
{
    std::vector<Grip> out;
    const QPointF centre = view.toScreen(middle);
    const float mm = view.mmPerPoint(middle);
    for (int axis = 0; axis < 3; ++axis) {
        const QPointF end = view.toScreen(middle + axisOf(axis) * (float(kGizmoStem) * mm));
        if (QLineF(centre, end).length() > kGizmoStem * 0.3) // one that points at the viewer is no handle
            out.push_back({Part::Axis, axis, end});
    }
    out.push_back({Part::Size, 0, centre + QPointF(-kGizmoStem * 0.72, kGizmoStem * 0.72)});
    out.push_back({Part::Move, 0, centre});
    return out;
}

Gizmo::Grip Gizmo::ringAt(QPointF at) const
{
    Grip best;
    const float r = float(kRing) * view.mmPerPoint(middle);
    double nearest = 5;
    for (int axis = 0; axis < 3; ++axis)
        for (int k = 0; k < 72; ++k) {
            const Vec3f p = onRing(middle, axis, r, float(k) * std::numbers::pi_v<float> / 36);
            if (const double d = QLineF(view.toScreen(p), at).length(); d < nearest)
                nearest = d, best = {Part::Turn, axis, at};
        }
    return best;
}

Gizmo::Grip Gizmo::at(QPointF at) const
{
    Grip best;
    double nearest = kGizmoReach;
    for (const Grip &g : spots())
        if (const double d = QLineF(g.at, at).length(); d < nearest)
            nearest = d, best = g;
    return best.part == Part::None ? ringAt(at) : best;
}

Gizmo::Change Gizmo::change(const Grip &grip, QPointF from, QPointF to) const
{
    Change c;
    const QPointF centre = view.toScreen(middle);
    switch (grip.part) {
    case Part::None: break;
    case Part::Move: c.by = view.onPlane(to, middle) - view.onPlane(from, middle); break;
    case Part::Axis: {
        const Vec3f axis = axisOf(grip.axis);
        const float mm = view.mmPerPoint(middle);
        const QPointF stem = view.toScreen(middle + axis * (mm * 100.0f)) - centre, way = to - from;
        const double whole = std::hypot(stem.x(), stem.y());
        const double points = std::max(whole / 100, 0.15); // of the screen, a point of the axis
        c.by = axis * float(QPointF::dotProduct(way, stem) / std::max(whole, 1e-6) / points * double(mm));
        break;
    }
    case Part::Turn: {
        const double a0 = std::atan2(from.y() - centre.y(), from.x() - centre.x());
        const double a1 = std::atan2(to.y() - centre.y(), to.x() - centre.x());
        const float sign = dot(axisOf(grip.axis), view.camera.forward()) > 0 ? 1.0f : -1.0f;
        c.turn = rotationAbout(axisOf(grip.axis), sign * float(a1 - a0));
        break;
    }
    case Part::Size: {
        const double was = QLineF(centre, from).length(), now = QLineF(centre, to).length();
        c.scale = std::clamp(float(now / std::max(was, 1.0)), 0.05f, 20.0f);
        break;
    }
    }
    return c;
}

void Gizmo::paintLines(QPainter &painter, const std::function<bool(Part, int)> &isLit) const
{
    const QPointF centre = view.toScreen(middle);
    const float r = float(kRing) * view.mmPerPoint(middle);
    const auto stroke = [&](const QPainterPath &path, bool lit) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().field, 3.4));
        painter.drawPath(path);
        painter.setPen(QPen(lit ? theme().moss : theme().slate, 1.6));
        painter.drawPath(path);
    };
    for (int axis = 0; axis < 3; ++axis) {
        QPainterPath ring;
        for (int k = 0; k <= 48; ++k) {
            const QPointF p = view.toScreen(onRing(middle, axis, r, float(k) * std::numbers::pi_v<float> / 24));
            k == 0 ? ring.moveTo(p) : ring.lineTo(p);
        }
        stroke(ring, isLit(Part::Turn, axis));
    }
    for (const Grip &g : spots())
        if (g.part != Part::Move) {
            QPainterPath stem(centre);
            stem.lineTo(g.at);
            stroke(stem, isLit(g.part, g.axis));
        }
}

void Gizmo::paint(QPainter &painter, const Grip &lit) const
{
    const auto isLit = [&](Part part, int axis) { return lit.part == part && lit.axis == axis; };
    paintLines(painter, isLit);
    for (const Grip &g : spots()) {
        const bool shines = isLit(g.part, g.axis);
        painter.setPen(QPen(theme().field, 1.5));
        painter.setBrush(shines ? theme().moss : theme().slate);
        if (g.part == Part::Size)
            painter.drawRect(QRectF(g.at - QPointF(5, 5), QSizeF(10, 10)));
        else
            painter.drawEllipse(g.at, 5.5, 5.5);
        if (!shines)
            continue;
        painter.setPen(theme().isDark ? theme().ink : QColor("#2B2722"));
        painter.drawText(g.at + QPointF(9, 4), wordsOf(g));
    }
}

} // namespace bonemoss::app
