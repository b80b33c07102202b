#include "app/view/outgrowth_gesture.h"

#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/outgrowths/outgrowth_fields.h"

#include <QPainter>
#include <QPainterPath>
#include <QWidget>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using outgrowth::Outgrowth;

namespace {

/// Directions and places in the frame of a member.
Vec3f inFrame(const io::Placement &place, Vec3f way)
{
    const Vec3f x{place.m[0], place.m[1], place.m[2]}, y{place.m[3], place.m[4], place.m[5]},
        z{place.m[6], place.m[7], place.m[8]};
    return {dot(way, x) / squaredLength(x), dot(way, y) / squaredLength(y), dot(way, z) / squaredLength(z)};
}

constexpr float kAmount = 0.45f; ///< of a stroke in its middle

} // namespace

OutgrowthGesture::OutgrowthGesture(Session &session, HandModel &hand, QWidget *window)
    : m_session(session), m_hand(hand), m_window(window)
{}

bool OutgrowthGesture::isOn() const
{
    const Gesture g = hand().gesture();
    return g != Gesture::Choose && g != Gesture::Comb; // combing is the guides' own
}

ViewControl::Press OutgrowthGesture::press(const Pointer &pointer)
{
    if (!isOn())
        return Press::NotMine;
    const Gesture g = hand().gesture();
    const bool isOffSkin = g == Gesture::Path || g == Gesture::Look || g == Gesture::Seen;
    if (!isOffSkin && !pointer.skin())
        return Press::Camera;
    m_points.clear();
    m_tried.drop();
    m_isDown = true;
    drag(pointer);
    return Press::Mine;
}

void OutgrowthGesture::drag(const Pointer &pointer)
{
    const Outgrowth *o = hand().chosen();
    if (!o || !m_isDown)
        return;
    switch (hand().gesture()) {
    case Gesture::Path: drawPath(*o, pointer); break;
    case Gesture::Look: look(*o, pointer); break;
    case Gesture::Seen: {
        Outgrowth rule = *o;
        rule.seenFrom = pointer.view.rayAt(pointer.view.area.center()).origin;
        m_tried.attempt(m_session.creature(), command::outgrowCommand(o->parent, o->id, rule));
        break;
    }
    default: stroke(*o, pointer);
    }
}

void OutgrowthGesture::stroke(const Outgrowth &o, const Pointer &pointer)
{
    m_over = pointer.skin();
    if (!m_over)
        return;
    const GestureRow &row = rowOf(hand().gesture());
    const float step = row.map ? 0.3f * hand().radius() : 3 * pointer.view.mmPerPoint(m_over->point);
    if (!m_points.empty() && length(m_over->point - m_points.back()) < step)
        return;
    m_points.push_back(m_over->point);
    if (row.map)
        m_tried.attempt(m_session.creature(), toCommand(command::BrushOutgrowth{.outgrowth = o.id,
                                                                                .what = std::uint32_t(*row.map),
                                                                                .points = m_points,
                                                                                .radius = hand().radius(),
                                                                                .amount = kAmount * row.way}));
    else if (m_points.size() > 1 && row.gesture == Gesture::Part)
        m_tried.attempt(m_session.creature(),
                        toCommand(command::PartOutgrowth{.outgrowth = o.id, .points = m_points, .reach = hand().radius()}));
    else if (m_points.size() > 1 && row.gesture == Gesture::Cut)
        m_tried.attempt(m_session.creature(), toCommand(command::CutOutgrowth{.outgrowth = o.id, .points = m_points}));
}

/// The middle line under the pointer, in the plane of the view through the root and in the frame of the first member.
void OutgrowthGesture::drawPath(const Outgrowth &o, const Pointer &pointer)
{
    if (o.made->members.empty() || o.roots.empty())
        return;
    const Vec3f root = o.roots.front().at, p = pointer.view.onPlane(pointer.at, root);
    if (m_points.empty())
        m_points.push_back(root);
    if (length(p - m_points.back()) < 6 * pointer.view.mmPerPoint(root))
        return;
    m_points.push_back(p);
    Outgrowth rule = o;
    rule.path.clear();
    for (const Vec3f q : m_points)
        rule.path.push_back(inFrame(o.made->members.front().place, q - root));
    if (rule.path.size() > 2)
        m_tried.attempt(m_session.creature(), command::outgrowCommand(o.parent, o.id, rule));
}

/// At what lies under the pointer, or before it in the air where nothing does: some way from the eye towards the camera.
void OutgrowthGesture::look(const Outgrowth &o, const Pointer &pointer)
{
    if (o.roots.empty())
        return;
    const Vec3f eye = o.roots.front().at, on = pointer.view.onPlane(pointer.at, eye);
    const Vec3f back = normalized(pointer.view.rayAt(pointer.at).origin - on);
    Outgrowth rule = o;
    rule.look = on + back * (12 * o.value("radius"));
    m_tried.attempt(m_session.creature(), command::outgrowCommand(o.parent, o.id, rule));
}

void OutgrowthGesture::release(const Pointer &)
{
    m_isDown = false;
    m_points.clear();
    const Gesture was = hand().gesture();
    const auto command = m_tried.takeAny();
    if (was == Gesture::Path || was == Gesture::Look || was == Gesture::Seen)
        hand().setGesture(Gesture::Choose);
    if (command)
        m_session.runLong(*command, m_window);
}

bool OutgrowthGesture::hover(const Pointer &pointer)
{
    const bool was = m_over.has_value();
    m_over = isOn() ? pointer.skin() : std::nullopt;
    return was || m_over;
}

void OutgrowthGesture::cancel()
{
    if (m_isDown) {
        m_isDown = false;
        m_points.clear();
        m_tried.drop();
    } else {
        hand().setGesture(Gesture::Choose);
    }
}

void OutgrowthGesture::paintOn(QPainter &painter, const Projection &view, const QString &)
{
    if (!isOn())
        return;
    painter.setBrush(Qt::NoBrush);
    const auto twice = [&](QColor colour, double width, const auto &draw) {
        painter.setPen(QPen(theme().field, width + 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        draw();
        painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        draw();
    };
    const GestureRow &row = rowOf(hand().gesture());
    if (m_over && (row.map || row.gesture == Gesture::Part)) {
        const double r = double(hand().radius() / std::max(view.mmPerPoint(m_over->point), 1e-6f));
        twice(theme().moss, 1.4, [&] { painter.drawEllipse(view.toScreen(m_over->point), r, r); });
    }
    if (m_points.size() > 1 && !row.map) {
        QPainterPath line(view.toScreen(m_points.front()));
        for (const Vec3f p : m_points)
            line.lineTo(view.toScreen(p));
        twice(theme().slate, 1.6, [&] { painter.drawPath(line); });
    }
    if (const Outgrowth *o = hand().chosen(); o && o->look) {
        const QPointF to = view.toScreen(*o->look);
        twice(theme().slate, 1.6, [&] {
            painter.drawEllipse(to, 6, 6);
            painter.drawLine(to - QPointF(10, 0), to + QPointF(10, 0));
            painter.drawLine(to - QPointF(0, 10), to + QPointF(0, 10));
        });
    }
}

QString OutgrowthGesture::hintFor(const HeldKeys &) const
{
    return isOn() ? QCoreApplication::translate("Gesture", rowOf(hand().gesture()).hint) : QString();
}

const ControlRow kOutgrowthGesture{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<OutgrowthGesture>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
