#include "app/view/guide_control.h"

#include "app/theme/theme.h"
#include "document/ops/surroundings.h"
#include "command/fields.h"
#include "command/growth/growth_fields.h"

#include <QPainter>
#include <QPainterPath>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

/// Whether a place on a skin is seen: nothing of the skin lies before it.
bool isSeen(const mesh::Surface &skin, const Projection &view, Vec3f at)
{
    const mesh::Ray ray = view.rayAt(view.toScreen(at));
    const auto hit = mesh::castRay(skin, ray);
    return !hit || length(hit->point - ray.origin) > length(at - ray.origin) - 2 * view.mmPerPoint(at) - 0.3f;
}

} // namespace

GuideControl::GuideControl(Session &session, HandModel &hand, QWidget *window)
    : m_session(session), m_hand(hand), m_window(window), m_nextFlow([this](Flow flow) {
          m_flow = std::move(flow);
          m_window->update();
      })
{}

bool GuideControl::press(const Projection &view, QPointF at, const std::optional<mesh::Hit> &under)
{
    if (!under || !piece())
        return false;
    m_points.clear();
    Growing next = m_hand.detail().growing();
    if (next.picksScales && !combs()) {
        next.scale = under->point;
        m_hand.detail().setGrowing(next);
        return true;
    }
    m_pressedGuide = guideAt(view, at);
    m_points.push_back(under->point);
    return true;
}

void GuideControl::drag(const std::optional<mesh::Hit> &under)
{
    if (m_points.empty() || !under)
        return;
    if (length(under->point - m_points.back()) > (combs() ? 0.5f : 0.5f * std::max(0.2f, m_hand.detail().rule().value("size"))))
        m_points.push_back(under->point);
}

void GuideControl::release()
{
    const std::vector<Vec3f> points = std::move(m_points);
    m_points.clear();
    if (points.size() == 1 && !combs()) {
        Growing next = m_hand.detail().growing();
        if (next.guide != m_pressedGuide) {
            next.guide = m_pressedGuide;
            m_hand.detail().setGrowing(next);
        }
        return;
    }
    if (points.size() < 2)
        return;
    command::AddGuide command{.piece = m_session.piece(), .points = points};
    if (!combs() && m_hand.detail().growing().layer)
        command.layer = m_hand.detail().growing().layer; // it follows at once
    m_session.runLong(toCommand(command), m_window);
}

int GuideControl::guideAt(const Projection &view, QPointF at) const
{
    int best = -1;
    double least = 10; // points on the screen
    const auto &guides = piece()->guides;
    for (std::size_t g = 0; g < guides.size(); ++g)
        for (const Vec3f p : guides[g].points) {
            const QPointF d = view.toScreen(p) - at;
            if (const double off = std::hypot(d.x(), d.y()); off < least && isSeen(piece()->skin.shown, view, p))
                least = off, best = int(g);
        }
    return best;
}

/// Fine lines along the flow, thicker at the root, as hairs lie.
void GuideControl::paintFlow(QPainter &painter, const Projection &view)
{
    const document::Piece &p = *piece();
    if (m_flowOf != m_session.share() || m_flowPiece != p.id) {
        if (m_flowPiece != p.id)
            m_flow.reset();
        m_flowOf = m_session.share();
        m_flowPiece = p.id;
        m_nextFlow.ask(
            [of = m_flowOf, id = p.id](const std::stop_token &) {
                const document::Piece &piece = *of->piece(id);
                return std::make_shared<const growth::Flow>(growth::groundOf(piece.skin), document::surroundingsOf(*of, piece));
            },
            kFramePatience);
    }
    if (!m_flow)
        return;
    const float spacing = m_flow->spacing();
    for (std::size_t i = 0; i < m_flow->size(); i += 3) { // every third: long enough to be followed, and not crowded
        const Vec3f n = m_flow->normal(i), root = m_flow->point(i) + n * (0.2f * spacing); // over what has grown
        const Vec3f back = normalized(view.rayAt(view.toScreen(root)).origin - root);
        if (dot(n, back) < 0.15f || !isSeen(p.skin.shown, view, root))
            continue;
        const Vec3f along = m_flow->along(i); // shorter where it is uncertain
        const Vec3f way = normalized(along) * (1.9f * spacing * std::min(1.0f, 4 * length(along)));
        const QPointF a = view.toScreen(root), middle = view.toScreen(root + way * 0.5f), b = view.toScreen(root + way);
        const auto draw = [&](QColor colour, double wider) {
            painter.setPen(QPen(colour, 1.7 + wider, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(a, middle);
            painter.setPen(QPen(colour, 0.9 + wider, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(middle, b);
        };
        QColor halo = theme().field;
        halo.setAlpha(130);
        draw(halo, 1.6);
        draw(theme().moss.darker(130), 0);
    }
}

void GuideControl::paint(QPainter &painter, const Projection &view)
{
    const document::Piece *p = piece();
    if (!isOn() || !p || p->isHidden)
        return;
    if (m_hand.detail().showsFlow() && !combs())
        paintFlow(painter, view);
    const auto draw = [&](const std::vector<Vec3f> &points, QColor colour, double width) {
        if (points.size() < 2)
            return;
        QPainterPath line(view.toScreen(points[0]));
        for (std::size_t k = 1; k < points.size(); ++k)
            line.lineTo(view.toScreen(points[k]));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().field, width + 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        painter.drawPath(line);
        painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        painter.drawPath(line);
        const QPointF end = line.currentPosition(), before = view.toScreen(points[points.size() - 2]);
        const QPointF way = end - before;
        const double len = std::max(1e-3, std::hypot(way.x(), way.y()));
        const QPointF on = way / len * 7, side(-on.y() * 0.6, on.x() * 0.6);
        painter.drawLine(end, end - on + side);
        painter.drawLine(end, end - on - side);
    };
    for (std::size_t g = 0; g < p->guides.size(); ++g) {
        const auto &points = p->guides[g].points;
        if (isSeen(p->skin.shown, view, points[points.size() / 2]))
            draw(points, int(g) == m_hand.detail().growing().guide ? theme().slate : theme().moss, 2);
    }
    draw(m_points, theme().moss, 2.4);
    if (m_hand.detail().growing().picksScales && m_hand.detail().growing().scale) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().field, 3.5));
        painter.drawEllipse(view.toScreen(*m_hand.detail().growing().scale), 8, 8);
        painter.setPen(QPen(theme().slate, 2));
        painter.drawEllipse(view.toScreen(*m_hand.detail().growing().scale), 8, 8);
    }
}

QString GuideControl::hint() const
{
    if (combs())
        return Session::tr("Outgrowths · Comb: a stroke lays what grows here its own way");
    const Growing &g = m_hand.detail().growing();
    const QString name = textOf(g.kind->title);
    return g.picksScales ? Session::tr("Detail · %1: a click picks one scale").arg(name)
                         : Session::tr("Detail · %1: a stroke on the skin is a guide, from front to back").arg(name);
}

const ControlRow kGuideControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<GuideControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
