#include "app/view/trim_control.h"

#include "app/theme/theme.h"
#include "app/view/form_params.h"

#include <QLineF>
#include <QPainter>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::app {

using nlohmann::json;

namespace {
constexpr double kStep = 7, kShortest = 12; // points on the screen
}

void TrimControl::begin(const TrimPlan &plan)
{
    m_plan = plan;
    m_isOn = true;
    m_points.clear();
}

void TrimControl::press(QPointF at)
{
    m_points = {at};
}

void TrimControl::drag(QPointF at)
{
    if (m_points.empty())
        return;
    if (m_plan.isRectangle) {
        const QPointF first = m_points.front();
        m_points = {first, {at.x(), first.y()}, at, {first.x(), at.y()}};
        return;
    }
    if (!m_plan.isOutline && m_points.size() == 2 && QLineF(m_points.front(), at).length() < 2 * kShortest)
        m_points.back() = at;
    else if (QLineF(m_points.back(), at).length() >= kStep)
        m_points.push_back(at);
}

/// How deep the limb under the line reaches, from the nearest side of the piece's box; with a little beyond.
float TrimControl::depthUnder(const Projection &view, const creature::Piece &piece) const
{
    const Vec3f w = view.camera.forward();
    const Box3f box = piece.skin.shown.box();
    float near = std::numeric_limits<float>::max(), far = -near;
    for (int k = 0; k < 8; ++k)
        near = std::min(near, dot({k & 1 ? box.hi.x : box.lo.x, k & 2 ? box.hi.y : box.lo.y, k & 4 ? box.hi.z : box.lo.z}, w));
    std::vector<QPointF> samples = m_points;
    QPointF middle;
    for (const QPointF p : m_points)
        middle += p / double(m_points.size());
    samples.push_back(middle);
    for (const QPointF p : m_points)
        samples.push_back((p + middle) / 2);
    const float little = 0.002f * box.diagonal();
    for (const QPointF p : samples) {
        const mesh::Ray ray = view.rayAt(p);
        const auto in = castRay(piece.skin.shown, ray);
        if (!in)
            continue;
        const auto out = castRay(piece.skin.shown, {in->point + ray.direction * little, ray.direction});
        far = std::max(far, dot(out ? out->point : in->point, w));
    }
    return far < near ? 0 : far - near + 2 * little;
}

json TrimControl::release(const Projection &view)
{
    const std::vector<QPointF> points = std::exchange(m_points, {});
    const creature::Piece *piece = m_session.creature().piece(m_session.piece());
    m_isOn = false;
    double length = 0;
    for (std::size_t i = 1; i < points.size(); ++i)
        length += QLineF(points[i - 1], points[i]).length();
    if (!piece || length < kShortest || points.size() < (m_plan.isOutline ? 3u : 2u))
        return nullptr;
    std::vector<Vec3f> line;
    for (const QPointF p : points)
        line.push_back(view.onPlane(p, piece->skin.shown.box().centre()));
    json c = {{"do", "piece.trim"},
              {"piece", piece->id},
              {"line", jsonOf(line)},
              {"closed", m_plan.isOutline},
              {"direction", jsonOf(view.camera.forward())},
              {"keep", m_plan.keep}};
    if (m_plan.isMask)
        c = {{"do", "mask.area"},
             {"piece", piece->id},
             {"outline", jsonOf(line)},
             {"direction", jsonOf(view.camera.forward())},
             {"frontOnly", m_plan.isFrontOnly},
             {"how", "add"}};
    if (!view.camera.isParallel)
        c["eye"] = jsonOf(view.rayAt(view.area.center()).origin);
    if (m_plan.isFrontOnly && !m_plan.isMask) {
        m_points = points;
        c["depth"] = depthUnder(view, *piece);
        m_points.clear();
    }
    return c;
}

QString TrimControl::hint() const
{
    if (!m_isOn)
        return {};
    if (m_plan.isMask)
        return m_plan.isRectangle ? QObject::tr("Mask · Drag a rectangle over what is masked; Esc leaves it")
                                  : QObject::tr("Mask · Draw round what is masked; Esc leaves it");
    const QString what = m_plan.keep == "both" ? QObject::tr("becomes a piece of its own") : QObject::tr("goes");
    return m_plan.isOutline ? QObject::tr("Trim · Draw round what %1; Esc leaves it").arg(what)
                            : QObject::tr("Trim · Draw a line; what lies to its left %1; Esc leaves it").arg(what);
}

/// The line, and a wash over the side that goes.
void TrimControl::paint(QPainter &p, const Projection &view) const
{
    if (!m_isOn || m_points.size() < 2)
        return;
    QPolygonF line;
    for (const QPointF q : m_points)
        line << q;
    QPolygonF side = line;
    if (!m_plan.isOutline) {
        const double far = view.area.width() + view.area.height();
        const auto beyond = [&](QPointF from, QPointF to) {
            const double n = std::max(QLineF(from, to).length(), 1e-6);
            return to + (to - from) / n * far;
        };
        const QPointF first = beyond(line[1], line[0]), last = beyond(line[line.size() - 2], line.back());
        const double n = std::max(QLineF(first, last).length(), 1e-6);
        const QPointF left = QPointF((last - first).y(), -(last - first).x()) / n * far;
        side.prepend(first);
        side << last << last + left << first + left;
        line.prepend(first), line << last;
    }
    const QColor tone = m_plan.isMask ? theme().slate : theme().rust;
    QColor wash = tone;
    wash.setAlpha(60);
    p.setPen(Qt::NoPen);
    p.setBrush(QBrush(wash, Qt::BDiagPattern));
    p.drawPolygon(side);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().field, 3.4));
    p.drawPolyline(line);
    p.setPen(QPen(tone, 1.6));
    m_plan.isRectangle ? p.drawPolygon(line) : p.drawPolyline(line);
}

} // namespace bonemoss::app
