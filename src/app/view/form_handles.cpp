// Handles of what is chosen: where they are, which one is meant, and how they look.
#include "app/theme/theme.h"
#include "app/view/form_control.h"
#include "app/view/form_params.h"
#include "app/view/gizmo.h"

#include <QLineF>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>

namespace bonemoss::app {

namespace {

constexpr double kHandleReach = 9; // points on the screen

} // namespace

Vec3f FormControl::middleOfChosen() const
{
    const armature::Armature &a = shown().armature;
    Vec3f sum;
    float n = 0;
    for (const std::uint32_t id : m_session.forms())
        if (const armature::Form *f = a.find(id))
            sum += a.worldPlace(*f).translation, ++n;
    return n > 0 ? sum * (1 / n) : sum;
}

std::vector<FormControl::Handle> FormControl::handles(const Projection &view) const
{
    std::vector<Handle> out;
    const armature::Armature &a = shown().armature;
    if (m_session.forms().empty() || m_hand.armature().formTile() != FormTile::Choose)
        return out;
    for (const std::uint32_t id : m_session.forms())
        if (const armature::Form *f = a.find(id); !f || f->isHidden || f->isLocked)
            return out;
    const Vec3f joint = middleOfChosen();
    const float mm = view.mmPerPoint(joint);
    if (const armature::Form *f = single()) {
        const Transform world = a.worldPlace(*f);
        const float even = std::min({world.scale.x, world.scale.y, world.scale.z});
        for (std::size_t i = 0; i < f->path.size(); ++i) {
            const Vec3f p = world.apply(f->path[i].at);
            out.push_back({Drag::PathPoint, 0, int(i), view.toScreen(p)});
            out.push_back(
                {Drag::PathRadius, 0, int(i), view.toScreen(p + view.camera.up() * std::max(f->path[i].radius * even, 7 * mm))});
        }
        for (std::size_t side = 0; side < f->sides.size(); ++side)
            for (std::size_t i = 0; i < f->sides[side].size(); ++i)
                out.push_back({Drag::SidePoint, int(side), int(i), view.toScreen(world.apply(f->sides[side][i]))});
        const std::vector<FormParam> params = paramsOf(*f, world, m_hand.armature().curvePoint());
        for (std::size_t i = 0; i < params.size(); ++i) {
            const QPointF at = view.toScreen(params[i].at), on = view.toScreen(params[i].at + params[i].along * (mm * 50));
            if (QLineF(at, on).length() > 12) // one that points at the viewer is no handle
                out.push_back({Drag::Param, 0, int(i), at});
        }
    }
    for (const Gizmo::Grip &g : Gizmo{view, joint}.spots())
        out.push_back({g.part == Gizmo::Part::Axis   ? Drag::MoveAxis
                       : g.part == Gizmo::Part::Size ? Drag::Size
                                                     : Drag::Move,
                       g.axis, 0, g.at});
    return out;
}

FormControl::Handle FormControl::nearestHandle(const Projection &view, QPointF at) const
{
    Handle best;
    double nearest = kHandleReach;
    const std::vector<Handle> all = handles(view);
    for (const Handle &h : all)
        if (const double d = QLineF(h.at, at).length(); d < nearest)
            nearest = d, best = h;
    if (best.kind != Drag::None || all.empty())
        return best;
    const Gizmo::Grip ring = Gizmo{view, middleOfChosen()}.ringAt(at);
    return ring.part == Gizmo::Part::Turn ? Handle{Drag::Turn, ring.axis, 0, at} : best;
}

bool FormControl::isLit(const Handle &h) const
{
    const Handle &l = m_drag != Drag::None ? m_handle : m_litHandle;
    return l.kind == h.kind && l.axis == h.axis && l.point == h.point;
}

void FormControl::paintHandles(QPainter &painter, const Projection &view) const
{
    for (const std::vector<Vec3f> *line : {&m_crownLine, &m_pendingLine}) {
        QPainterPath path;
        for (std::size_t i = 0; i < line->size(); ++i)
            i == 0 ? path.moveTo(view.toScreen((*line)[i])) : path.lineTo(view.toScreen((*line)[i]));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().slate, 2));
        painter.drawPath(path);
    }
    const QColor ink = theme().isDark ? theme().ink : QColor("#2B2722");
    if (m_drag == Drag::Rectangle) {
        QColor wash = theme().slate;
        wash.setAlpha(40);
        painter.setBrush(wash);
        painter.setPen(QPen(theme().slate, 1.2, Qt::DashLine));
        painter.drawRect(QRectF(m_from, m_now).normalized());
    }
    if (!m_snapWords.isEmpty() && m_drag != Drag::None) {
        painter.setPen(ink);
        painter.drawText(m_now + QPointF(14, -10), m_snapWords);
    }
    const std::vector<Handle> all = handles(view);
    if (all.empty())
        return;
    Gizmo{view, middleOfChosen()}.paintLines(painter, [&](Gizmo::Part part, int axis) {
        return isLit({part == Gizmo::Part::Turn   ? Drag::Turn
                      : part == Gizmo::Part::Size ? Drag::Size
                                                  : Drag::MoveAxis,
                      axis,
                      0,
                      {}});
    });
    const armature::Form *f = single();
    const std::vector<FormParam> params =
        f ? paramsOf(*f, shown().armature.worldPlace(*f), m_hand.armature().curvePoint()) : std::vector<FormParam>{};
    for (const Handle &h : all) {
        const bool lit = isLit(h), isHollow = h.kind == Drag::PathRadius || h.kind == Drag::SidePoint || h.kind == Drag::Param;
        const QColor colour = lit ? theme().moss : theme().slate;
        const bool inHand =
            h.kind == Drag::PathPoint && f->path.size() > 2 && std::size_t(h.point) == m_hand.armature().curvePoint();
        painter.setPen(QPen(isHollow ? colour : theme().field, 1.5));
        painter.setBrush(isHollow ? theme().field : inHand ? theme().moss : colour);
        if (h.kind == Drag::Param) {
            const QPointF tip[4] = {h.at + QPointF(0, -5), h.at + QPointF(5, 0), h.at + QPointF(0, 5), h.at + QPointF(-5, 0)};
            painter.drawPolygon(tip, 4);
        } else if (h.kind == Drag::Size) {
            painter.drawRect(QRectF(h.at - QPointF(5, 5), QSizeF(10, 10)));
        } else {
            const double r = isHollow ? 3.5 : 5.5;
            painter.drawEllipse(h.at, r, r);
        }
        if (!lit)
            continue;
        painter.setPen(ink);
        QString words;
        if (h.kind == Drag::MoveAxis || h.kind == Drag::Size)
            words = Gizmo::wordsOf({h.kind == Drag::Size ? Gizmo::Part::Size : Gizmo::Part::Axis, h.axis, {}});
        else if (h.kind == Drag::SidePoint)
            words = QString::fromUtf8(armature::kSideNames[std::size_t(h.axis)].data());
        else if (h.kind == Drag::PathRadius)
            words = tr("radius %1 mm").arg(double(f->path[std::size_t(h.point)].radius), 0, 'f', 1);
        else if (h.kind == Drag::Param && std::size_t(h.point) < params.size())
            words = QStringLiteral("%1 %2")
                        .arg(QLatin1String(params[std::size_t(h.point)].name))
                        .arg(double(params[std::size_t(h.point)].value), 0, 'f', 2);
        painter.drawText(h.at + QPointF(9, 4), words);
    }
}

} // namespace bonemoss::app
