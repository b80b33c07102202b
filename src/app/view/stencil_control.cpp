#include "app/view/stencil_control.h"

#include "app/theme/theme.h"
#include "document/stamp.h"

#include <QCoreApplication>
#include <QLineF>
#include <QPainter>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bonemoss::app {

namespace {

constexpr double kStencilReach = 10, kStencilStem = 26; // points on the screen

QPointF turned(QPointF v, double angle)
{
    return {v.x() * std::cos(angle) - v.y() * std::sin(angle), v.x() * std::sin(angle) + v.y() * std::cos(angle)};
}

} // namespace

bool StencilControl::isOn() const
{
    return m_hand.stencil().isOn && !rowOf(m_session.bench()).showsForms && picture() != nullptr;
}

std::shared_ptr<const image::HeightPicture> StencilControl::picture() const
{
    return document::stampNamed(m_session.creature(), m_hand.stencil().stamp);
}

QPointF StencilControl::middle(const Projection &view) const
{
    const QPointF share = m_hand.stencil().middle;
    return {view.area.x() + share.x() * view.area.width(), view.area.y() + share.y() * view.area.height()};
}

QSizeF StencilControl::half(const Projection &view) const
{
    const auto p = picture();
    const double high = m_hand.stencil().size * view.area.height() / 2;
    return {high * double(p->width) / double(p->height), high};
}

std::shared_ptr<const sculpt::Stencil> StencilControl::held(const Projection &view) const
{
    if (!isOn())
        return nullptr;
    auto s = std::make_shared<sculpt::Stencil>();
    s->name = m_hand.stencil().stamp;
    s->picture = picture();
    const QPointF centre = middle(view);
    const QSizeF size = half(view);
    const double angle = m_hand.stencil().angle;
    const Vec3f target = view.camera.target;
    s->centre = view.onPlane(centre, target);
    s->right = view.onPlane(centre + turned({size.width(), 0}, angle), target) - s->centre;
    s->up = view.onPlane(centre + turned({0, -size.height()}, angle), target) - s->centre;
    if (!view.camera.isParallel)
        s->eye = view.camera.eye();
    s->isInverted = m_hand.stencil().isInverted;
    return s;
}

QPointF StencilControl::gripPlace(const Projection &view, Grip grip) const
{
    const QSizeF size = half(view);
    const QPointF own = grip == Grip::Move   ? QPointF(-size.width(), -size.height())
                        : grip == Grip::Size ? QPointF(size.width(), size.height())
                                             : QPointF(0, -size.height() - kStencilStem);
    return middle(view) + turned(own, m_hand.stencil().angle);
}

StencilControl::Grip StencilControl::gripAt(const Projection &view, QPointF at) const
{
    if (isOn())
        for (const Grip grip : {Grip::Move, Grip::Turn, Grip::Size})
            if (QLineF(gripPlace(view, grip), at).length() < kStencilReach)
                return grip;
    return Grip::None;
}

bool StencilControl::press(const Projection &view, QPointF at)
{
    m_grip = gripAt(view, at);
    m_from = at;
    m_start = m_hand.stencil();
    return m_grip != Grip::None;
}

bool StencilControl::hover(const Projection &view, QPointF at)
{
    return std::exchange(m_lit, gripAt(view, at)) != m_lit;
}

void StencilControl::drag(const Projection &view, QPointF at)
{
    StencilPlan plan = m_start;
    const QPointF way = at - m_from, centre = middle(view);
    if (m_grip == Grip::Move) {
        plan.middle += QPointF(way.x() / view.area.width(), way.y() / view.area.height());
        plan.middle = {std::clamp(plan.middle.x(), 0.0, 1.0), std::clamp(plan.middle.y(), 0.0, 1.0)};
    } else if (m_grip == Grip::Turn) {
        plan.angle = std::atan2(at.y() - centre.y(), at.x() - centre.x()) + std::numbers::pi / 2;
    } else if (m_grip == Grip::Size) {
        const double was = QLineF(centre, m_from).length(), now = QLineF(centre, at).length();
        plan.size = std::clamp(m_start.size * now / std::max(was, 1.0), 0.02, 4.0);
    }
    m_hand.setStencil(plan);
}

void StencilControl::paint(QPainter &p, const Projection &view)
{
    if (!isOn())
        return;
    const auto now = picture();
    const bool isInverted = m_hand.stencil().isInverted;
    if (m_cardOf != now || m_cardInverted != isInverted) {
        constexpr int kSide = 256;
        m_card = QImage(kSide, kSide, QImage::Format_ARGB32);
        for (int y = 0; y < kSide; ++y)
            for (int x = 0; x < kSide; ++x) {
                const float v = std::clamp(now->at((float(x) + 0.5f) / kSide, (float(y) + 0.5f) / kSide), 0.0f, 1.0f);
                reinterpret_cast<QRgb *>(m_card.scanLine(y))[x] = qRgba(43, 39, 34, int(150 * (isInverted ? v : 1 - v)));
            }
        m_cardOf = now;
        m_cardInverted = isInverted;
    }
    const QSizeF size = half(view);
    const QRectF card(-size.width(), -size.height(), 2 * size.width(), 2 * size.height());
    p.save();
    p.translate(middle(view));
    p.rotate(m_hand.stencil().angle * 180 / std::numbers::pi);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(card, m_card);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().field, 3));
    p.drawRect(card);
    p.setPen(QPen(theme().slate, 1.4));
    p.drawRect(card);
    p.drawLine(QPointF(0, -size.height()), QPointF(0, -size.height() - kStencilStem));
    p.restore();
    const std::pair<Grip, QString> grips[] = {{Grip::Move, QCoreApplication::translate("Stencil", "move")},
                                              {Grip::Turn, QCoreApplication::translate("Stencil", "turn")},
                                              {Grip::Size, QCoreApplication::translate("Stencil", "size")}};
    for (const auto &[grip, words] : grips) {
        const QPointF at = gripPlace(view, grip);
        const bool isLit = (m_grip != Grip::None ? m_grip : m_lit) == grip;
        p.setPen(QPen(theme().field, 1.5));
        p.setBrush(isLit ? theme().moss : theme().slate);
        if (grip == Grip::Size)
            p.drawRect(QRectF(at - QPointF(5.5, 5.5), QSizeF(11, 11)));
        else
            p.drawEllipse(at, 6, 6);
        if (!isLit)
            continue;
        p.setPen(theme().isDark ? theme().ink : QColor("#2B2722"));
        p.drawText(at + QPointF(10, 4), words);
    }
}

void StencilControl::cancel()
{
    StencilPlan plan = m_hand.stencil();
    if (!plan.isOn)
        return;
    if (std::exchange(m_grip, Grip::None) != Grip::None)
        plan = m_start;
    else
        plan.isOn = false;
    m_hand.setStencil(plan);
}

const ControlRow kStencilControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<StencilControl>(host.session, host.hand);
}};

} // namespace bonemoss::app
