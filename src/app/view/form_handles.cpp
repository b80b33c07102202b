// Handles of what is chosen: where they are, which one is meant, and how they look.
#include "app/theme/theme.h"
#include "app/view/form_control.h"
#include "app/view/form_params.h"

#include <QCoreApplication>
#include <QLineF>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <numbers>

namespace bonemoss::app {

namespace {

constexpr double kStem = 74, kRing = 50, kReach = 9; // points on the screen

Vec3f axisOf(int axis)
{
    return {axis == 0 ? 1.0f : 0.0f, axis == 1 ? 1.0f : 0.0f, axis == 2 ? 1.0f : 0.0f};
}

} // namespace

Vec3f FormControl::middleOfChosen() const
{
    const armature::Armature &a = shown().armature;
    Vec3f sum;
    float n = 0;
    for (const std::uint32_t id : m_session.forms())
        if (const armature::Form *f = a.find(id))
            sum += a.worldPlace(*f).move, ++n;
    return n > 0 ? sum * (1 / n) : sum;
}

std::vector<FormControl::Handle> FormControl::handles(const Projection &view) const
{
    std::vector<Handle> out;
    const armature::Armature &a = shown().armature;
    if (m_session.forms().empty() || m_hand.formTile() != FormTile::Choose)
        return out;
    for (const std::uint32_t id : m_session.forms())
        if (const armature::Form *f = a.find(id); !f || f->isHidden || f->isLocked)
            return out;
    const Vec3f joint = middleOfChosen();
    const QPointF middle = view.toScreen(joint);
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
        const std::vector<FormParam> params = paramsOf(*f, world, m_hand.curvePoint());
        for (std::size_t i = 0; i < params.size(); ++i) {
            const QPointF at = view.toScreen(params[i].at), on = view.toScreen(params[i].at + params[i].along * (mm * 50));
            if (QLineF(at, on).length() > 12) // one that points at the viewer is no handle
                out.push_back({Drag::Param, 0, int(i), at});
        }
    }
    for (int axis = 0; axis < 3; ++axis) {
        const QPointF end = view.toScreen(joint + axisOf(axis) * (float(kStem) * mm));
        if (QLineF(middle, end).length() > kStem * 0.3)
            out.push_back({Drag::MoveAxis, axis, 0, end});
    }
    out.push_back({Drag::Size, 0, 0, middle + QPointF(-kStem * 0.72, kStem * 0.72)});
    out.push_back({Drag::Move, 0, 0, middle});
    return out;
}

FormControl::Handle FormControl::nearestHandle(const Projection &view, QPointF at) const
{
    Handle best;
    double nearest = kReach;
    const std::vector<Handle> all = handles(view);
    for (const Handle &h : all)
        if (const double d = QLineF(h.at, at).length(); d < nearest)
            nearest = d, best = h;
    if (best.kind != Drag::None || all.empty())
        return best;
    const Vec3f middle = middleOfChosen();
    const float r = float(kRing) * view.mmPerPoint(middle);
    nearest = 5;
    for (int axis = 0; axis < 3; ++axis)
        for (int k = 0; k < 72; ++k) {
            const float t = float(k) * std::numbers::pi_v<float> / 36;
            const Vec3f p = middle + axisOf((axis + 1) % 3) * (r * std::cos(t)) + axisOf((axis + 2) % 3) * (r * std::sin(t));
            if (const double d = QLineF(view.toScreen(p), at).length(); d < nearest)
                nearest = d, best = {Drag::Turn, axis, 0, at};
        }
    return best;
}

bool FormControl::isLit(const Handle &h) const
{
    const Handle &l = m_drag != Drag::None ? m_handle : m_litHandle;
    return l.kind == h.kind && l.axis == h.axis && l.point == h.point;
}

void FormControl::paintGizmo(QPainter &painter, const Projection &view, const std::vector<Handle> &all) const
{
    const Vec3f middle = middleOfChosen();
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
            const float t = float(k) * std::numbers::pi_v<float> / 24;
            const Vec3f p = middle + axisOf((axis + 1) % 3) * (r * std::cos(t)) + axisOf((axis + 2) % 3) * (r * std::sin(t));
            k == 0 ? ring.moveTo(view.toScreen(p)) : ring.lineTo(view.toScreen(p));
        }
        stroke(ring, isLit({Drag::Turn, axis, 0, {}}));
    }
    for (const Handle &h : all)
        if (h.kind == Drag::MoveAxis || h.kind == Drag::Size) {
            QPainterPath stem(centre);
            stem.lineTo(h.at);
            stroke(stem, isLit(h));
        }
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
    paintGizmo(painter, view, all);
    static const char *const kEnds[3] = {QT_TRANSLATE_NOOP("FormControl", "left"), QT_TRANSLATE_NOOP("FormControl", "crown"),
                                         QT_TRANSLATE_NOOP("FormControl", "nose")};
    const armature::Form *f = single();
    const std::vector<FormParam> params =
        f ? paramsOf(*f, shown().armature.worldPlace(*f), m_hand.curvePoint()) : std::vector<FormParam>{};
    for (const Handle &h : all) {
        const bool lit = isLit(h), isHollow = h.kind == Drag::PathRadius || h.kind == Drag::SidePoint || h.kind == Drag::Param;
        const QColor colour = lit ? theme().moss : theme().slate;
        const bool inHand = h.kind == Drag::PathPoint && f->path.size() > 2 && std::size_t(h.point) == m_hand.curvePoint();
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
        if (h.kind == Drag::MoveAxis)
            words = QCoreApplication::translate("FormControl", kEnds[h.axis]);
        else if (h.kind == Drag::Size)
            words = QObject::tr("size");
        else if (h.kind == Drag::SidePoint)
            words = QString::fromUtf8(armature::kSideNames[std::size_t(h.axis)].data());
        else if (h.kind == Drag::PathRadius)
            words = QObject::tr("radius %1 mm").arg(double(f->path[std::size_t(h.point)].radius), 0, 'f', 1);
        else if (h.kind == Drag::Param && std::size_t(h.point) < params.size())
            words = QStringLiteral("%1 %2")
                        .arg(QLatin1String(params[std::size_t(h.point)].name))
                        .arg(double(params[std::size_t(h.point)].value), 0, 'f', 2);
        painter.drawText(h.at + QPointF(9, 4), words);
    }
}

} // namespace bonemoss::app
