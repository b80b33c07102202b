#include "app/view/outgrowth_control.h"

#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "document/ops/outgrowths.h"

#include <QPainter>
#include <QPainterPath>
#include <QWidget>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

using nlohmann::json;
using outgrowth::Outgrowth;

namespace {

/// Whether it is rooted by drawing.
bool isDrawn(const outgrowth::Kind &kind)
{
    return kind.rooting == outgrowth::Rooting::Line || kind.rooting == outgrowth::Rooting::Lines;
}

/// Up to 60 even places of a line, its ends among them.
std::vector<std::size_t> thinnedPlaces(std::size_t count)
{
    const std::size_t n = std::min<std::size_t>(count, 60);
    std::vector<std::size_t> out;
    for (std::size_t k = 0; k < n; ++k)
        out.push_back(n > 1 ? k * (count - 1) / (n - 1) : 0);
    return out;
}

std::vector<Vec3f> thinned(std::span<const outgrowth::Root> line)
{
    std::vector<Vec3f> out;
    for (const std::size_t i : thinnedPlaces(line.size()))
        out.push_back(line[i].at);
    return out;
}

/// The hull of points on the screen (Andrew 1979, monotone chain).
std::vector<QPointF> hullOf(std::vector<QPointF> on)
{
    std::sort(on.begin(), on.end(), [](QPointF a, QPointF b) { return a.x() < b.x() || (a.x() == b.x() && a.y() < b.y()); });
    std::vector<QPointF> hull;
    const auto half = [&](auto begin, auto end) {
        const std::size_t base = hull.size();
        for (auto it = begin; it != end; ++it) {
            const auto isInside = [&] {
                const QPointF a = hull[hull.size() - 2], b = hull.back();
                return (b.x() - a.x()) * (it->y() - a.y()) - (b.y() - a.y()) * (it->x() - a.x()) <= 0;
            };
            while (hull.size() >= base + 2 && isInside())
                hull.pop_back();
            hull.push_back(*it);
        }
        hull.pop_back();
    };
    half(on.begin(), on.end());
    half(on.rbegin(), on.rend());
    return hull;
}

constexpr double kGrip = 11;                           ///< points: how near a press is to a handle it takes
constexpr int kTip = -2, kMiddle = -3, kProfile = -10; ///< and below: its knobs

/// The ray in the member's own frame, with how long its unit is there.
std::optional<mesh::Ray> rayIn(const io::Placement &p, const mesh::Ray &ray, float &unit)
{
    const Vec3f x{p.m[0], p.m[1], p.m[2]}, y{p.m[3], p.m[4], p.m[5]}, z{p.m[6], p.m[7], p.m[8]}, t{p.m[9], p.m[10], p.m[11]};
    const float d = dot(cross(x, y), z);
    if (std::abs(d) < 1e-12f)
        return {};
    const auto back = [&](Vec3f v) { return Vec3f{dot(cross(y, z), v), dot(cross(z, x), v), dot(cross(x, y), v)} * (1 / d); };
    const Vec3f way = back(ray.direction);
    unit = length(way);
    return mesh::Ray{back(ray.origin - t), way * (1 / unit)};
}

} // namespace

OutgrowthControl::OutgrowthControl(Session &session, HandModel &hand, QWidget *window)
    : m_session(session), m_hand(hand), m_window(window)
{}

OutgrowthControl::~OutgrowthControl() = default;

const mesh::Surface &OutgrowthControl::surfaceOf(const std::shared_ptr<const mesh::PolyMesh> &shape)
{
    std::erase_if(m_surfaces, [](const auto &known) { return known.second.first.expired(); });
    auto &[of, surface] = m_surfaces[shape.get()];
    if (of.expired())
        of = shape, surface = mesh::makeSurface(*shape);
    return surface;
}

std::optional<OutgrowthControl::Under> OutgrowthControl::memberOn(const mesh::Ray &ray)
{
    std::optional<Under> best;
    for (const auto &o : m_session.creature().outgrowths) {
        if (o->isHidden)
            continue;
        for (const outgrowth::Member &m : o->made->members) {
            float unit = 1;
            const auto own = rayIn(m.place, ray, unit);
            const auto hit = own ? mesh::castRay(surfaceOf(o->made->shapes[m.shape]), *own) : std::nullopt;
            if (hit && (!best || hit->distance / unit < best->distance))
                best = Under{o->id, {m.number, m.isTwin}, hit->distance / unit};
        }
    }
    return best;
}

std::vector<std::size_t> OutgrowthControl::knots(const Outgrowth &o) const
{
    std::vector<std::size_t> out;
    if (o.kind->rooting == outgrowth::Rooting::Area)
        return out; // lines there are cuts
    if (!isDrawn(*o.kind)) {
        std::vector<std::size_t> all(o.roots.size());
        for (std::size_t k = 0; k < all.size(); ++k)
            all[k] = k;
        return all;
    }
    std::size_t before = 0;
    for (const auto &line : outgrowth::linesOf(o)) {
        if (line.size() < 2) // it stands between others
            continue;
        const std::size_t n = std::clamp<std::size_t>(line.size() / 6 + 2, 2, o.starts.empty() ? 7 : 3);
        for (std::size_t k = 0; k < n; ++k)
            out.push_back(before + k * (line.size() - 1) / (n - 1));
        before += line.size();
    }
    return out;
}

int OutgrowthControl::handleAt(const Projection &view, QPointF at) const
{
    const Outgrowth *o = m_hand.of<OutgrowthHand>().chosen();
    if (!o || o->isLocked)
        return -1;
    const auto isNear = [&](Vec3f p) { return QLineF(view.toScreen(p), at).length() < kGrip; };
    if (const auto tip = handleOf(*o, OutgrowthHandle::Tip); tip && isNear(*tip))
        return kTip;
    if (const auto middle = handleOf(*o, OutgrowthHandle::Middle); middle && isNear(*middle))
        return kMiddle;
    for (const std::size_t k : knots(*o))
        if (isNear(o->roots[k].at))
            return int(k);
    const std::vector<ProfileKnob> profile = profileOf(*o);
    for (std::size_t k = 0; k < profile.size(); ++k)
        if (isNear(profile[k].at))
            return kProfile - int(k);
    return -1;
}

ViewControl::Press OutgrowthControl::press(const Pointer &pointer)
{
    m_tried.drop();
    m_points.clear();
    const int handle = handleAt(pointer.view, pointer.at);
    if (handle == kTip || handle == kMiddle) {
        m_drag = handle == kTip ? Drag::Tip : Drag::Middle;
        return Press::Mine;
    }
    if (handle <= kProfile) {
        m_knot = std::size_t(kProfile - handle);
        m_drag = Drag::Profile;
        return Press::Mine;
    }
    if (handle >= 0) {
        m_knot = std::size_t(handle);
        m_drag = isDrawn(*m_hand.of<OutgrowthHand>().chosen()->kind) ? Drag::Knot : Drag::Root;
        return Press::Mine;
    }
    const auto skin = pointer.skin();
    const auto member = memberOn(pointer.view.rayAt(pointer.at));
    if (member && (!skin || member->distance < skin->distance)) {
        m_lit = member;
        m_drag = Drag::Choose;
        return Press::Mine;
    }
    if (!skin || !m_hand.of<OutgrowthHand>().kind() || m_hand.of<OutgrowthHand>().kind()->rooting == outgrowth::Rooting::Area
        || !m_session.piece())
        return Press::Camera;
    begin(pointer);
    return Press::Mine;
}

void OutgrowthControl::begin(const Pointer &pointer)
{
    const auto *kind = m_hand.of<OutgrowthHand>().kind();
    m_points = {pointer.skin()->point};
    m_drag = isDrawn(*kind) ? Drag::NewLine : Drag::NewPoint;
    const Outgrowth *o = m_hand.of<OutgrowthHand>().chosen();
    if (o && o->kind == kind && kind->rooting == outgrowth::Rooting::Lines) { // it gets one more
        m_lines.clear();
        for (const auto &line : outgrowth::linesOf(*o))
            m_lines.push_back(thinned(line));
    } else if (o) {
        m_session.chooseItem(0); // what is set now is a new one
    }
    drag(pointer);
}

void OutgrowthControl::drag(const Pointer &pointer)
{
    const auto skin = m_drag == Drag::Tip || m_drag == Drag::Middle || m_drag == Drag::Profile || m_drag == Drag::Choose
                          ? std::nullopt
                          : pointer.skin();
    const Outgrowth *o = m_hand.of<OutgrowthHand>().chosen();
    switch (m_drag) {
    case Drag::NewPoint:
        if (skin) {
            json c = command::outgrowCommand(m_session.piece(), 0, m_hand.of<OutgrowthHand>().rule());
            c["at"] = {skin->point.x, skin->point.y, skin->point.z};
            m_tried.attempt(m_session.creature(), c);
        }
        break;
    case Drag::NewLine:
        if (skin && length(skin->point - m_points.back()) > 3 * pointer.view.mmPerPoint(skin->point)) {
            m_points.push_back(skin->point);
            dragLine();
        }
        break;
    case Drag::Root:
        if (skin && o)
            m_tried.attempt(m_session.creature(), toCommand(command::RootOutgrowth{
                                                      .outgrowth = o->id, .at = skin->point, .root = std::uint32_t(m_knot)}));
        break;
    case Drag::Knot:
        if (skin && o)
            dragKnot(*o, skin->point);
        break;
    case Drag::Tip:
    case Drag::Middle:
        if (o) {
            const auto which = m_drag == Drag::Tip ? OutgrowthHandle::Tip : OutgrowthHandle::Middle;
            if (const auto at = handleOf(*o, which)) // in the plane of the view through it
                m_tried.attempt(m_session.creature(), command::outgrowCommand(o->parent, o->id,
                                                                              draggedTo(m_session.creature(), *o, which,
                                                                                        pointer.view.onPlane(pointer.at, *at))));
        }
        break;
    case Drag::Profile:
        if (o)
            if (const auto places = profileOf(*o); m_knot < places.size()) {
                Outgrowth rule = *o;
                rule.profile = profileDragged(*o, m_knot, pointer.view.rayAt(pointer.at));
                m_tried.attempt(m_session.creature(), command::outgrowCommand(o->parent, o->id, rule));
            }
        break;
    case Drag::Choose:
    case Drag::None: break;
    }
}

/// The command that what is drawn makes: of a kind between lines only from the second line on.
void OutgrowthControl::dragLine()
{
    const outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
    if (rule.kind->rooting == outgrowth::Rooting::Lines && m_lines.empty())
        return;
    std::vector<Vec3f> all;
    std::vector<float> starts;
    for (const auto &line : m_lines) {
        all.insert(all.end(), line.begin(), line.end());
        starts.push_back(float(all.size()));
    }
    all.insert(all.end(), m_points.begin(), m_points.end());
    if (const Outgrowth *o = m_hand.of<OutgrowthHand>().chosen()) {
        m_tried.attempt(m_session.creature(),
                        toCommand(command::RootOutgrowth{.outgrowth = o->id, .points = all, .starts = starts}));
        return;
    }
    json c = command::outgrowCommand(m_session.piece(), 0, rule);
    for (const Vec3f p : all)
        c["points"].push_back({p.x, p.y, p.z});
    if (!starts.empty())
        c["starts"] = starts;
    m_tried.attempt(m_session.creature(), c);
}

/// What lies about the knot on its line goes along, less and less up to its neighbours.
void OutgrowthControl::dragKnot(const Outgrowth &o, Vec3f to)
{
    std::vector<Vec3f> all;
    std::vector<float> starts;
    const Vec3f by = to - o.roots[m_knot].at;
    std::size_t before = 0;
    for (const auto &line : outgrowth::linesOf(o)) {
        if (before > 0)
            starts.push_back(float(all.size()));
        const bool isOwn = m_knot >= before && m_knot < before + line.size();
        const auto stretches = float(std::clamp<std::size_t>(line.size() / 6 + 1, 1, o.starts.empty() ? 6 : 2));
        const float reach = float(line.size() - 1) / stretches + 0.5f;
        for (const std::size_t i : thinnedPlaces(line.size())) {
            const float away = isOwn ? std::min(1.0f, std::abs(float(before + i) - float(m_knot)) / reach) : 1;
            all.push_back(line[i].at + by * (0.5f + 0.5f * std::cos(kPi * away)));
        }
        before += line.size();
    }
    command::RootOutgrowth c{.outgrowth = o.id, .points = all};
    if (!starts.empty())
        c.starts = starts;
    m_tried.attempt(m_session.creature(), toCommand(c));
}

void OutgrowthControl::release(const Pointer &)
{
    const Drag what = std::exchange(m_drag, Drag::None);
    const auto command = m_tried.take();
    const std::vector<Vec3f> drawn = std::exchange(m_points, {});
    if (what == Drag::NewLine && !command) { // the next one makes it
        const auto *kind = m_hand.of<OutgrowthHand>().kind();
        if (kind && kind->rooting == outgrowth::Rooting::Lines && drawn.size() > 1)
            m_lines.push_back(drawn);
        return;
    }
    m_lines.clear();
    if (what == Drag::Choose && m_lit) {
        const Under under = *m_lit;
        if (m_session.chosen(outgrowth::Outgrowth::kKind) != under.outgrowth)
            m_session.chooseItem(under.outgrowth);
        m_hand.of<OutgrowthHand>().chooseMember(under.member);
        return;
    }
    if (!command || !m_session.runLong(*command, m_window))
        return;
    if ((what == Drag::NewPoint || what == Drag::NewLine) && !m_session.chosen(outgrowth::Outgrowth::kKind)
        && !m_session.creature().outgrowths.empty())
        m_session.chooseItem(m_session.creature().outgrowths.back()->id);
}

bool OutgrowthControl::hover(const Pointer &pointer)
{
    const auto was = m_lit;
    m_lit.reset();
    if (!m_session.creature().outgrowths.empty())
        if (const auto member = memberOn(pointer.view.rayAt(pointer.at))) {
            const auto skin = pointer.skin();
            if (!skin || member->distance < skin->distance)
                m_lit = member;
        }
    return was != m_lit;
}

void OutgrowthControl::cancel()
{
    if (m_drag != Drag::None) {
        m_drag = Drag::None;
        m_tried.drop();
        m_points.clear();
    } else if (!m_lines.empty()) {
        m_lines.clear();
    } else if (m_hand.of<OutgrowthHand>().member()) {
        m_hand.of<OutgrowthHand>().chooseMember({});
    } else if (m_session.chosen(outgrowth::Outgrowth::kKind)) {
        m_session.chooseItem(0);
    } else if (m_hand.of<OutgrowthHand>().kind()) {
        m_hand.of<OutgrowthHand>().setKind(nullptr);
    }
}

const document::Creature *OutgrowthControl::tried()
{
    if (m_drag != Drag::None || !m_hand.of<OutgrowthHand>().tried()) {
        if (m_drag == Drag::None)
            m_tried.drop();
        m_triedRule.reset();
        return m_tried.made();
    }
    const Outgrowth &rule = *m_hand.of<OutgrowthHand>().tried();
    if (m_triedRule && m_triedOn == m_session.share() && m_triedRule->values == rule.values
        && m_triedRule->profile == rule.profile && m_triedRule->section == rule.section)
        return m_tried.made();
    m_triedRule = rule, m_triedOn = m_session.share();
    document::Creature c = m_session.creature();
    Operation quiet;
    for (auto &o : c.outgrowths)
        if (o->id == rule.id) {
            auto made = document::regrown(c, rule, quiet);
            if (!made)
                return nullptr;
            o = std::make_shared<const Outgrowth>(std::move(*made));
        }
    m_tried.show(std::move(c));
    return m_tried.made();
}

void OutgrowthControl::paintOn(QPainter &painter, const Projection &view, const QString &)
{
    const document::Creature &c = m_tried.made() ? *m_tried.made() : m_session.creature();
    const auto outline = [&](std::uint32_t id, const ChosenMember &which, QColor colour, double width) {
        const Outgrowth *o = c.outgrowth(id);
        if (!o || o->isHidden)
            return;
        for (const outgrowth::Member &m : o->made->members)
            if (m.number == which.number && m.isTwin == which.isTwin) {
                const auto &points = o->made->shapes[m.shape]->positions;
                std::vector<QPointF> on;
                for (const Vec3f p : points)
                    on.push_back(view.toScreen(m.place.apply(p)));
                const std::vector<QPointF> hull = hullOf(std::move(on));
                QColor wash = colour;
                wash.setAlpha(36);
                painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
                painter.setBrush(wash);
                painter.drawPolygon(hull.data(), int(hull.size()));
            }
    };
    if (m_lit && m_drag == Drag::None)
        outline(m_lit->outgrowth, m_lit->member, theme().moss, 1.2);
    const auto paintLine = [&](const std::vector<Vec3f> &points) {
        QPainterPath path(view.toScreen(points.front()));
        for (const Vec3f p : points)
            path.lineTo(view.toScreen(p));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme().field, 3));
        painter.drawPath(path);
        painter.setPen(QPen(theme().slate, 1.4));
        painter.drawPath(path);
    };
    for (const auto &line : m_lines)
        paintLine(line);
    if (m_drag == Drag::NewLine && m_points.size() > 1)
        paintLine(m_points);
    const Outgrowth *o = c.outgrowth(m_session.chosen(outgrowth::Outgrowth::kKind));
    if (!o)
        return;
    if (const auto member = m_hand.of<OutgrowthHand>().member())
        outline(o->id, *member, theme().slate, 1.8);
    const auto dot = [&](Vec3f at, double radius, QColor fill) {
        painter.setPen(QPen(theme().field, 3));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(view.toScreen(at), radius, radius);
        painter.setPen(QPen(theme().slate, 1.5));
        painter.setBrush(fill);
        painter.drawEllipse(view.toScreen(at), radius, radius);
    };
    if (isDrawn(*o->kind) || o->kind->is(outgrowth::IsCut))
        for (const auto &line : outgrowth::linesOf(*o)) {
            if (line.empty())
                continue;
            std::vector<Vec3f> points;
            for (const outgrowth::Root &r : line)
                points.push_back(r.at);
            paintLine(points);
        }
    for (const std::size_t k : knots(*o))
        dot(o->roots[k].at, 5, theme().field);
    for (const auto which : {OutgrowthHandle::Tip, OutgrowthHandle::Middle})
        if (const auto at = handleOf(*o, which))
            dot(*at, 4, theme().moss);
    if (const std::vector<ProfileKnob> profile = profileOf(*o); profile.size() > 1) {
        std::vector<Vec3f> points;
        for (const ProfileKnob &k : profile)
            points.push_back(k.at);
        paintLine(points);
        for (const ProfileKnob &k : profile)
            dot(k.at, 3.5, theme().moss);
    }
}

QString OutgrowthControl::hintFor(const HeldKeys &) const
{
    if (m_lit)
        if (const Outgrowth *o = m_session.creature().outgrowth(m_lit->outgrowth))
            return tr("%1, member %2: click to change it").arg(QString::fromStdString(o->name)).arg(m_lit->member.number + 1);
    if (const auto *kind = m_hand.of<OutgrowthHand>().kind())
        return kind->rooting == outgrowth::Rooting::Lines
                   ? (m_lines.empty() ? tr("Draw a line on the skin: its first rib") : tr("Draw the next line: its next rib"))
               : isDrawn(*kind) ? tr("Draw a line on the skin")
                                : tr("Press on the skin where it grows out");
    return m_session.chosen(outgrowth::Outgrowth::kKind)
               ? tr("Drag a root, a line's knot, the tip, the bend, or a size beside the row")
               : QString();
}

const ControlRow kOutgrowthControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<OutgrowthControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
