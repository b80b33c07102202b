#include "app/view/trim_control.h"

#include "app/theme/theme.h"
#include "app/view/form_params.h"
#include "command/fields.h"
#include "command/marks/mark_fields.h"
#include "command/proof/print_fields.h"
#include "command/skin/piece_fields.h"

#include <QLineF>
#include <QPainter>
#include <QPainterPath>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <utility>

namespace bonemoss::app {

using nlohmann::json;

namespace {
constexpr double kStep = 7, kShortest = 12; // points on the screen
constexpr double kFar = 20'000;             // beyond every view
} // namespace

void TrimControl::begin(const TrimPlan &plan)
{
    m_plan = plan;
    m_isOn = true;
    m_isChoosing = false;
    m_points.clear();
}

void TrimControl::press(QPointF at)
{
    if (m_isChoosing)
        hover(at);
    else
        m_points = {at};
}

bool TrimControl::hover(QPointF at)
{
    return m_isChoosing && std::exchange(m_isFirstSide, firstSide().containsPoint(at, Qt::OddEvenFill)) != m_isFirstSide;
}

QPolygonF TrimControl::firstSide() const
{
    QPolygonF side;
    for (const QPointF q : m_points)
        side << q;
    if (m_plan.isOutline || side.size() < 2)
        return side;
    const auto beyond = [&](QPointF from, QPointF to) {
        return to + (to - from) / std::max(QLineF(from, to).length(), 1e-6) * kFar;
    };
    const QPointF first = beyond(side[1], side[0]), last = beyond(side[side.size() - 2], side.back());
    const QPointF left = QPointF((last - first).y(), -(last - first).x()) / std::max(QLineF(first, last).length(), 1e-6) * kFar;
    side.prepend(first);
    return side << last << last + left << first + left;
}

void TrimControl::drag(QPointF at)
{
    if (m_points.empty() || m_isChoosing)
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
float TrimControl::depthUnder(const Projection &view, const document::Piece &piece) const
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
    const float epsilon = 0.002f * box.diagonal();
    for (const QPointF p : samples) {
        const mesh::Ray ray = view.rayAt(p);
        const auto in = castRay(piece.skin.shown, ray);
        if (!in)
            continue;
        const auto out = castRay(piece.skin.shown, {in->point + ray.direction * epsilon, ray.direction});
        far = std::max(far, dot(out ? out->point : in->point, w));
    }
    return far < near ? 0 : far - near + 2 * epsilon;
}

json TrimControl::release(const Projection &view)
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    double length = 0;
    for (std::size_t i = 1; i < m_points.size(); ++i)
        length += QLineF(m_points[i - 1], m_points[i]).length();
    if (!piece || length < kShortest || m_points.size() < (m_plan.isOutline ? 3u : 2u)) {
        cancel();
        return nullptr;
    }
    if (asksSide() && !m_isChoosing) {
        m_isChoosing = true;
        return nullptr;
    }
    const std::vector<QPointF> points = std::exchange(m_points, {});
    if (m_isChoosing && !m_isFirstSide)
        m_plan.keep = command::TrimKeep::Part;
    m_isOn = m_isChoosing = false;
    std::vector<Vec3f> line;
    for (const QPointF p : points)
        line.push_back(view.onPlane(p, piece->skin.shown.box().centre()));
    const Vec3f direction = view.camera.forward();
    std::optional<Vec3f> eye;
    if (!view.camera.isParallel)
        eye = view.rayAt(view.area.center()).origin;
    if (m_plan.isMask)
        return toCommand(command::MaskArea{.piece = piece->id,
                                           .outline = line,
                                           .direction = direction,
                                           .eye = eye,
                                           .isFrontOnly = m_plan.isFrontOnly,
                                           .how = command::MaskCombine::Add});
    if (m_plan.isPegged) {
        command::PartPiece part{.piece = piece->id};
        part.job.point = (line.front() + line.back()) * 0.5f;
        const Vec3f normal = normalized(cross(line.back() - line.front(), eye ? part.job.point - *eye : direction));
        part.job.normal = normal.y < 0 ? -normal : normal;
        return toCommand(part);
    }
    command::TrimPiece trim{.piece = piece->id, .line = line, .isClosed = m_plan.isOutline, .direction = direction, .eye = eye};
    trim.keep = m_plan.keep;
    if (m_plan.isFrontOnly) {
        m_points = points;
        trim.depth = depthUnder(view, *piece);
        m_points.clear();
    }
    return toCommand(trim);
}

QString TrimControl::hint() const
{
    if (!m_isOn)
        return {};
    if (m_plan.isMask)
        return m_plan.isRectangle ? tr("Mask · Drag a rectangle over what is masked; Esc leaves it")
                                  : tr("Mask · Draw round what is masked; Esc leaves it");
    if (m_isChoosing)
        return tr("Trim · Click the side that is cut off; Esc cancels");
    if (asksSide())
        return m_plan.isOutline ? tr("Trim · Draw an outline; Esc cancels") : tr("Trim · Draw a line; Esc cancels");
    if (m_plan.isPegged)
        return tr("Parts · Draw a line across the piece; the cut is straight, with a peg and a socket; Esc cancels");
    return m_plan.isOutline ? tr("Split · Draw an outline round what becomes a piece of its own; Esc cancels")
                            : tr("Split · Draw a line; both sides become pieces; Esc cancels");
}

/// The line, and a wash over the side that goes.
void TrimControl::paint(QPainter &p, const Projection &view) const
{
    if (!m_isOn || m_points.size() < 2)
        return;
    const QColor tone = m_plan.isMask ? theme().slate : theme().rust;
    if (!asksSide() || m_isChoosing) {
        QPainterPath side;
        side.addPolygon(firstSide());
        side.closeSubpath();
        if (m_isChoosing && !m_isFirstSide) {
            QPainterPath all;
            all.addRect(view.area);
            side = all.subtracted(side);
        }
        QColor wash = tone;
        wash.setAlpha(60);
        p.fillPath(side, QBrush(wash, Qt::BDiagPattern));
    }
    QPolygonF line;
    for (const QPointF q : m_points)
        line << q;
    if (!m_plan.isOutline) { // on to both ends of the view, as it cuts
        const QPolygonF side = firstSide();
        line.prepend(side.front());
        line << side[side.size() - 3];
    }
    const bool isClosed = m_plan.isRectangle || (m_plan.isOutline && m_isChoosing);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().field, 3.4));
    isClosed ? p.drawPolygon(line) : p.drawPolyline(line);
    p.setPen(QPen(tone, 1.6));
    isClosed ? p.drawPolygon(line) : p.drawPolyline(line);
}

ViewControl::Press TrimControl::press(const Pointer &pointer)
{
    if (!m_isOn)
        return Press::NotMine;
    press(pointer.at);
    return Press::Mine;
}

void TrimControl::release(const Pointer &pointer)
{
    if (const nlohmann::json command = release(pointer.view); !command.is_null())
        m_session.runLong(command, m_window);
}

const ControlRow kTrimControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<TrimControl>(host.session, host.view);
}};

} // namespace bonemoss::app
