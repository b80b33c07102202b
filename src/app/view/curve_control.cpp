#include "app/view/curve_control.h"

#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QLineF>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

std::vector<Vec3f> curveThrough(const std::vector<Vec3f> &points, float step)
{
    if (points.size() < 2)
        return points;
    std::vector<Vec3f> out{points.front()};
    const auto at = [&](std::ptrdiff_t k) { // beyond the ends it goes straight on
        const auto n = std::ptrdiff_t(points.size());
        if (k < 0)
            return points[0] * 2 - points[1];
        return k < n ? points[std::size_t(k)] : points[std::size_t(n - 1)] * 2 - points[std::size_t(n - 2)];
    };
    for (std::ptrdiff_t k = 0; k + 1 < std::ptrdiff_t(points.size()); ++k) {
        const Vec3f p[4] = {at(k - 1), at(k), at(k + 1), at(k + 2)};
        float t[4] = {0, 0, 0, 0};
        for (int i = 1; i < 4; ++i)
            t[i] = t[i - 1] + std::max(std::sqrt(length(p[i] - p[i - 1])), 1e-3f);
        const int steps = std::max(1, int(std::ceil(length(p[2] - p[1]) * 1.1f / std::max(step, 1e-3f))));
        for (int s = 1; s <= steps; ++s) {
            const float u = t[1] + (t[2] - t[1]) * float(s) / float(steps);
            const auto mix = [&](Vec3f a, Vec3f b, float from, float to) { return lerp(a, b, (u - from) / (to - from)); };
            const Vec3f a = mix(p[0], p[1], t[0], t[1]), b = mix(p[1], p[2], t[1], t[2]), c = mix(p[2], p[3], t[2], t[3]);
            out.push_back(mix(mix(a, b, t[0], t[2]), mix(b, c, t[1], t[3]), t[1], t[2]));
        }
    }
    return out;
}

bool CurveControl::press(const Projection &view, QPointF at, const std::optional<Vec3f> &under, const HeldKeys &keys)
{
    m_dragged = -1;
    double nearest = 10; // points on the screen
    for (std::size_t k = 0; k < m_points.size(); ++k)
        if (const double d = QLineF(view.toScreen(m_points[k]), at).length(); d < nearest)
            nearest = d, m_dragged = int(k);
    if (m_dragged >= 0)
        return true;
    if (!under)
        return false;
    if (m_points.empty())
        m_keys = keys;
    m_points.push_back(*under);
    m_dragged = int(m_points.size()) - 1;
    again();
    return true;
}

void CurveControl::drag(const std::optional<Vec3f> &under)
{
    if (m_dragged < 0 || !under)
        return;
    m_points[std::size_t(m_dragged)] = *under;
    again();
}

void CurveControl::again()
{
    if (m_points.empty())
        return;
    const std::vector<Vec3f> way = curveThrough(m_points, m_hand.settings().size * 0.2f);
    std::vector<sculpt::PenSample> samples;
    for (std::size_t k = 0; k < way.size(); ++k) {
        sculpt::PenSample s;
        s.origin = way[k];
        if (m_hand.fadesEnds() && way.size() > 2) { // thin at both ends, over a quarter of the way each
            const float t = float(k) / float(way.size() - 1);
            s.pressure = std::min(1.0f, 0.12f + 4 * std::min(t, 1 - t));
        }
        s.timeMs = float(k) * 10;
        samples.push_back(s);
    }
    m_isShowing = true;
    const bool isShown = m_strokes.show(samples, m_keys);
    m_isShowing = false;
    if (!isShown)
        m_points.clear(); // said why
}

void CurveControl::takeBack()
{
    if (m_points.empty())
        return;
    m_points.pop_back();
    m_points.empty() ? m_strokes.cancel() : again();
}

void CurveControl::lay()
{
    if (std::exchange(m_points, {}).empty())
        return;
    m_dragged = -1;
    m_strokes.end();
}

void CurveControl::cancel()
{
    if (m_isShowing)
        return;
    if (std::exchange(m_points, {}).empty())
        return;
    m_dragged = -1;
    m_strokes.cancel();
}

void CurveControl::paint(QPainter &p, const Projection &view) const
{
    if (m_points.empty())
        return;
    QPainterPath line;
    const std::vector<Vec3f> way = curveThrough(m_points, m_hand.settings().size * 0.2f);
    for (std::size_t k = 0; k < way.size(); ++k)
        k == 0 ? line.moveTo(view.toScreen(way[k])) : line.lineTo(view.toScreen(way[k]));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().field, 3.2));
    p.drawPath(line);
    p.setPen(QPen(theme().slate, 1.4, Qt::DashLine));
    p.drawPath(line);
    for (std::size_t k = 0; k < m_points.size(); ++k) {
        p.setPen(QPen(theme().field, 1.5));
        p.setBrush(int(k) == m_dragged ? theme().moss : theme().slate);
        p.drawEllipse(view.toScreen(m_points[k]), 5, 5);
    }
}

QString CurveControl::hint() const
{
    return m_points.empty()
               ? QCoreApplication::translate("Curve", "click points of a curve on the skin")
               : QCoreApplication::translate("Curve", "drag points, click more; Enter lays the stroke, Backspace takes a "
                                                      "point back, Escape leaves it");
}

bool CurveControl::key(int key)
{
    if (!hasPoints() || (key != Qt::Key_Return && key != Qt::Key_Enter && key != Qt::Key_Backspace))
        return false;
    key == Qt::Key_Backspace ? takeBack() : lay();
    return true;
}

const ControlRow kCurveControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<CurveControl>(host.hand, host.the<StrokeControl>(kStrokeControl));
}};

} // namespace bonemoss::app
