#include "app/view/form_control.h"

#include "app/theme/theme.h"
#include "armature/naming.h"
#include "creature/command.h"

#include <QLineF>
#include <QPainter>
#include <QPainterPath>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <numbers>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr double kStem = 74, kRing = 50, kReach = 9; // points on the screen

json row(Vec3f v)
{
    return {v.x, v.y, v.z};
}

json rows(const std::vector<armature::PathPoint> &path)
{
    json out = json::array();
    for (const auto &p : path)
        out.push_back({p.at.x, p.at.y, p.at.z, p.radius, p.squash, p.square, p.turn * 180 / std::numbers::pi_v<float>});
    return out;
}

Vec3f axisOf(int axis)
{
    return {axis == 0 ? 1.0f : 0.0f, axis == 1 ? 1.0f : 0.0f, axis == 2 ? 1.0f : 0.0f};
}

double along(QPointF v, QPointF direction)
{
    const double n = std::hypot(direction.x(), direction.y());
    return n > 1e-6 ? (v.x() * direction.x() + v.y() * direction.y()) / n : 0;
}

} // namespace

mesh::Ray Projection::rayAt(QPointF p) const
{
    return camera.rayThrough(float(p.x() / size.width() * 2 - 1), float(1 - p.y() / size.height() * 2), aspect());
}

QPointF Projection::toScreen(Vec3f p) const
{
    const Vec3f d = p - camera.eye();
    const float depth = camera.isParallel ? camera.distance : std::max(dot(d, camera.forward()), 1e-3f);
    const float half = std::tan(camera.heightAngle / 2) * depth;
    return {(0.5 + 0.5 * double(dot(d, camera.right()) / (half * aspect()))) * size.width(),
            (0.5 - 0.5 * double(dot(d, camera.up()) / half)) * size.height()};
}

float Projection::mmPerPoint(Vec3f at) const
{
    const float depth = camera.isParallel ? camera.distance : std::max(dot(at - camera.eye(), camera.forward()), 1e-3f);
    return 2 * std::tan(camera.heightAngle / 2) * depth / float(std::max(1.0, size.height()));
}

FormControl::FormControl(Session &session, HandModel &hand) : m_session(session), m_hand(hand) {}

FormControl::~FormControl() = default;

std::uint32_t FormControl::pick(const mesh::Ray &ray, Vec3f *point)
{
    const armature::Armature &a = m_session.creature().armature;
    std::erase_if(m_shapes, [&](const auto &s) { return !a.find(s.first); });
    std::uint32_t best = 0;
    float nearest = std::numeric_limits<float>::max();
    for (const armature::Form &f : a.forms) {
        if (f.isHidden)
            continue;
        Shape &s = m_shapes[f.id];
        std::vector<Transform> places = placesOf(a, f);
        if (s.surface.isEmpty() || !(s.form == f) || s.places != places)
            s = {f, std::move(places), mesh::makeSurface(tessellateAll(a, f))};
        for (int twin = 0; twin < (f.isMirrored ? 2 : 1); ++twin) {
            const mesh::Ray r = twin ? mesh::Ray{mirrored(ray.origin), mirrored(ray.direction)} : ray;
            if (const auto hit = mesh::castRay(s.surface, r); hit && hit->distance < nearest) {
                nearest = hit->distance;
                best = f.id;
                if (point)
                    *point = twin ? mirrored(hit->point) : hit->point;
            }
        }
    }
    return best;
}

std::optional<Vec3f> FormControl::pointUnder(const Projection &view, QPointF at)
{
    Vec3f p;
    if (pick(view.rayAt(at), &p))
        return p;
    return {};
}

void FormControl::hover(const Projection &view, QPointF at)
{
    m_litHandle = nearestHandle(view, at);
    m_lit = m_litHandle.kind == Drag::None && m_hand.formTile() == FormTile::Choose ? pick(view.rayAt(at)) : 0;
}

std::vector<FormControl::Handle> FormControl::handles(const Projection &view) const
{
    std::vector<Handle> out;
    const armature::Form *f = shown().armature.find(m_session.form());
    if (!f || f->isHidden || f->isLocked || m_hand.formTile() != FormTile::Choose)
        return out;
    const Transform world = shown().armature.worldPlace(*f);
    const QPointF middle = view.toScreen(world.move);
    const float mm = view.mmPerPoint(world.move);
    for (std::size_t i = 0; i < f->path.size(); ++i) {
        const Vec3f p = world.apply(f->path[i].at);
        out.push_back({Drag::PathPoint, 0, int(i), view.toScreen(p)});
        const float r = f->path[i].radius * std::min({world.scale.x, world.scale.y, world.scale.z});
        out.push_back({Drag::PathRadius, 0, int(i), view.toScreen(p + view.camera.up() * std::max(r, 7 * mm))});
    }
    for (int axis = 0; axis < 3; ++axis) {
        const QPointF end = view.toScreen(world.move + axisOf(axis) * (float(kStem) * mm));
        if (QLineF(middle, end).length() > kStem * 0.3) // one that points at the viewer is no handle
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
    for (const Handle &h : handles(view))
        if (const double d = QLineF(h.at, at).length(); d < nearest)
            nearest = d, best = h;
    if (best.kind != Drag::None)
        return best;
    const armature::Form *f = shown().armature.find(m_session.form());
    if (!f || f->isLocked || m_hand.formTile() != FormTile::Choose)
        return best;
    const Vec3f middle = shown().armature.worldPlace(*f).move;
    const float r = float(kRing) * view.mmPerPoint(middle);
    nearest = 5;
    for (int axis = 0; axis < 3; ++axis)
        for (int k = 0; k < 72; ++k) {
            const float a = float(k) * std::numbers::pi_v<float> / 36;
            const Vec3f p = middle + axisOf((axis + 1) % 3) * (r * std::cos(a)) + axisOf((axis + 2) % 3) * (r * std::sin(a));
            if (const double d = QLineF(view.toScreen(p), at).length(); d < nearest)
                nearest = d, best = {Drag::Turn, axis, 0, at};
        }
    return best;
}

/// Where a ray meets the plane through a point that faces the viewer.
Vec3f FormControl::onPlane(const Projection &view, QPointF at, Vec3f through) const
{
    const mesh::Ray ray = view.rayAt(at);
    const Vec3f n = view.camera.forward();
    const float slope = dot(ray.direction, n);
    return slope > 1e-4f ? ray.origin + ray.direction * (dot(through - ray.origin, n) / slope) : through;
}

/// On a form under the pointer; else on the middle plane when it is seen from a flank; else at the
/// depth of the chosen form or of what the camera looks at.
Vec3f FormControl::placeFor(const Projection &view, QPointF at)
{
    if (const auto p = pointUnder(view, at))
        return *p;
    const mesh::Ray ray = view.rayAt(at);
    if (std::abs(view.camera.forward().x) > 0.85f)
        return ray.origin + ray.direction * (-ray.origin.x / ray.direction.x);
    const armature::Form *f = m_session.creature().armature.find(m_session.form());
    return onPlane(view, at, f ? m_session.creature().armature.worldPlace(*f).move : view.camera.target);
}

bool FormControl::press(const Projection &view, QPointF at)
{
    m_from = at;
    if (m_hand.formTile() != FormTile::Choose) {
        startNew(view, at);
        return true;
    }
    m_handle = nearestHandle(view, at);
    if (m_handle.kind == Drag::None) {
        const std::uint32_t id = pick(view.rayAt(at));
        if (!id)
            return false;
        m_session.chooseForm(id);
        return true;
    }
    const armature::Form *f = m_session.creature().armature.find(m_session.form());
    m_drag = m_handle.kind;
    m_world = m_session.creature().armature.worldPlace(*f);
    m_start = onPlane(view, at, m_world.move);
    m_path = f->path;
    for (auto &p : m_path)
        p.at = m_world.apply(p.at);
    return true;
}

void FormControl::drag(const Projection &view, QPointF at)
{
    if (m_drag == Drag::None)
        return;
    if (m_drag == Drag::NewForm)
        return dragNew(view, at);
    json c = {{"do", "form.set"}, {"form", m_session.form()}};
    const QPointF moved = at - m_from;
    const QPointF middle = view.toScreen(m_world.move);
    switch (m_drag) {
    case Drag::Move: c["at"] = row(m_world.move + onPlane(view, at, m_world.move) - m_start); break;
    case Drag::MoveAxis: {
        const QPointF stem =
            view.toScreen(m_world.move + axisOf(m_handle.axis) * view.mmPerPoint(m_world.move) * 100.0f) - middle;
        const double shown = std::max(std::hypot(stem.x(), stem.y()) / 100, 0.15); // points a point of the axis
        c["at"] =
            row(m_world.move + axisOf(m_handle.axis) * float(along(moved, stem) / shown * double(view.mmPerPoint(m_world.move))));
        break;
    }
    case Drag::Turn: {
        const double a0 = std::atan2(m_from.y() - middle.y(), m_from.x() - middle.x());
        const double a1 = std::atan2(at.y() - middle.y(), at.x() - middle.x());
        const float sign = dot(axisOf(m_handle.axis), view.camera.forward()) > 0 ? 1.0f : -1.0f;
        c["turn"] = row(toEulerDeg(normalized(turnAbout(axisOf(m_handle.axis), sign * float(a1 - a0)) * m_world.turn)));
        break;
    }
    case Drag::Size: {
        const double was = QLineF(middle, m_from).length(), now = QLineF(middle, at).length();
        c["scale"] = row(m_world.scale * std::clamp(float(now / std::max(was, 1.0)), 0.05f, 20.0f));
        break;
    }
    case Drag::PathPoint: {
        auto path = m_path;
        Vec3f &p = path[std::size_t(m_handle.point)].at;
        p = onPlane(view, at, p);
        c["path"] = rows(path);
        break;
    }
    case Drag::PathRadius: {
        auto path = m_path;
        auto &p = path[std::size_t(m_handle.point)];
        const float least = std::min({m_world.scale.x, m_world.scale.y, m_world.scale.z});
        p.radius = std::max(0.05f, float(QLineF(view.toScreen(p.at), at).length()) * view.mmPerPoint(p.at) / least);
        c["path"] = rows(path);
        break;
    }
    default: return;
    }
    tryCommand(c);
}

/// Tells a new form's name from where it stands, once it is known where that is.
json FormControl::withName(json command) const
{
    creature::CommandContext context;
    if (command.value("do", std::string()) != "form.add")
        return command;
    if (const auto made = creature::apply(m_session.creature(), command, context)) {
        const armature::Form *newest = nullptr;
        for (const armature::Form &f : made->armature.forms)
            if (!newest || f.id > newest->id)
                newest = &f;
        command["name"] = proposeName(m_session.creature().armature, *newest, made->armature.worldPlace(*newest));
    }
    return command;
}

bool FormControl::tryCommand(const json &command)
{
    creature::CommandContext context;
    auto next = creature::apply(m_session.creature(), command, context);
    if (!next)
        return false;
    m_preview = std::make_unique<creature::Creature>(std::move(*next));
    m_command = std::make_unique<json>(command);
    return true;
}

void FormControl::addDrawn(Vec3f point, float mm)
{
    if (length(point - m_drawn.back()) > 14 * mm)
        m_drawn.push_back(point);
}

/// A body's side curves: from a flank the crown line, then the belly line, which makes the body; from crown
/// or belly, with a body chosen, the line of the flank it is drawn on.
void FormControl::drawSide(const Projection &view, Vec3f end)
{
    addDrawn(end, view.mmPerPoint(m_start));
    if (m_drawn.size() < 2)
        return;
    json line = json::array();
    for (const Vec3f q : m_drawn)
        line.push_back(row(q));
    const armature::Form *f = m_session.creature().armature.find(m_session.form());
    const bool fromAbove = std::abs(view.camera.forward().y) > 0.7f;
    if (fromAbove && f && f->kind == armature::FormKind::Body) {
        const Vec3f middle = m_drawn[m_drawn.size() / 2];
        tryCommand({{"do", "form.set"}, {"form", f->id}, {middle.x >= 0 ? "left" : "right", line}});
    } else if (m_crownLine.empty()) {
        m_pendingLine = m_drawn; // becomes the crown line when the pen is lifted
    } else {
        json crown = json::array();
        for (const Vec3f q : m_crownLine)
            crown.push_back(row(q));
        json c = {{"do", "form.add"}, {"kind", "body"}, {"crown", crown}, {"belly", line}};
        if (m_session.form())
            c["parent"] = m_session.form();
        tryCommand(c);
    }
}

void FormControl::startNew(const Projection &view, QPointF at)
{
    m_drag = Drag::NewForm;
    m_start = placeFor(view, at);
    m_drawn = {m_start};
}

void FormControl::dragNew(const Projection &view, QPointF at)
{
    const Vec3f end = onPlane(view, at, m_start);
    const float size = length(end - m_start);
    const float mm = view.mmPerPoint(m_start);
    if (size < 3 * mm)
        return;
    json c = {{"do", "form.add"}, {"kind", nameOf(kindOf(m_hand.formTile()))}};
    if (m_session.form())
        c["parent"] = m_session.form();
    // Away from the middle plane a form gets its twin at once.
    c["mirror"] = m_hand.isMirrored() && std::abs(m_start.x) > std::max(2.0f, size * 0.3f);
    switch (m_hand.formTile()) {
    case FormTile::Ball: c["at"] = row(m_start), c["radius"] = size; break;
    case FormTile::Ellipsoid: c["at"] = row(m_start), c["radii"] = row({size * 0.7f, size * 0.7f, size}); break;
    case FormTile::Block:
        c["at"] = row(m_start), c["radii"] = row(Vec3f{1, 1, 1} * (size * 0.7f)), c["rounding"] = size * 0.1f;
        break;
    case FormTile::Limb: c["path"] = rows({{m_start, std::max(size * 0.22f, 0.5f)}, {end, std::max(size * 0.14f, 0.4f)}}); break;
    case FormTile::Blob: c["at"] = row(m_start), c["radius"] = size; break;
    case FormTile::Torus: c["at"] = row(m_start), c["radii"] = row({size, size * 0.25f, size}); break;
    case FormTile::Disc:
        c["at"] = row(m_start), c["radii"] = row({size, size * 0.15f, size}), c["rounding"] = size * 0.08f;
        break;
    case FormTile::Wedge:
        c["at"] = row(m_start), c["radii"] = row({size * 0.5f, size * 0.5f, size}), c["rounding"] = size * 0.06f;
        break;
    case FormTile::Cylinder:
        c["path"] = rows({{m_start, std::max(size * 0.25f, 0.5f)}, {end, std::max(size * 0.25f, 0.5f)}});
        c["rounding"] = size * 0.03f;
        break;
    case FormTile::Turned: {
        addDrawn(end, mm);
        json path = json::array(); // radius is the distance from the upright line through the start, in this view
        float widest = 0;
        for (const Vec3f q : m_drawn) {
            const float r = std::abs(dot(q - m_start, view.camera.right()));
            widest = std::max(widest, r);
            path.push_back({m_start.x, q.y, m_start.z, r});
        }
        if (path.size() < 3 || widest < 2 * mm)
            return;
        c["at"] = row(m_start), c["path"] = path;
        break;
    }
    case FormTile::Body: return drawSide(view, end);
    case FormTile::Cone: c["path"] = rows({{m_start, std::max(size * 0.25f, 0.5f)}, {end, 0}}); break;
    case FormTile::Tube: {
        addDrawn(end, mm);
        if (m_drawn.size() < 2)
            return;
        std::vector<armature::PathPoint> path;
        const std::size_t step = std::max<std::size_t>(1, m_drawn.size() / 10);
        float whole = 0;
        for (std::size_t i = 1; i < m_drawn.size(); ++i)
            whole += length(m_drawn[i] - m_drawn[i - 1]);
        for (std::size_t i = 0; i < m_drawn.size(); i += step)
            path.push_back({m_drawn[i], whole * 0.09f * (1 - 0.6f * float(i) / float(m_drawn.size()))});
        if (path.size() < 2)
            return;
        c["path"] = rows(path);
        break;
    }
    default: return;
    }
    tryCommand(c);
}

void FormControl::release()
{
    const bool isNew = m_drag == Drag::NewForm;
    m_drag = Drag::None;
    m_preview.reset();
    if (!m_pendingLine.empty()) {
        m_crownLine = std::move(m_pendingLine);
        m_pendingLine.clear();
        return;
    }
    if (isNew && m_command)
        m_crownLine.clear();
    if (!m_command)
        return;
    const auto command = std::move(m_command);
    if (m_session.run(withName(*command)) && isNew) {
        std::uint32_t newest = 0;
        for (const auto &f : m_session.creature().armature.forms)
            newest = std::max(newest, f.id);
        m_session.chooseForm(newest);
        m_hand.setFormTile(FormTile::Choose);
    }
}

void FormControl::cancel()
{
    m_drag = Drag::None;
    m_preview.reset();
    m_command.reset();
    m_crownLine.clear();
    m_pendingLine.clear();
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
    const auto all = handles(view);
    if (all.empty())
        return;
    const armature::Form *f = shown().armature.find(m_session.form());
    const Vec3f middle = shown().armature.worldPlace(*f).move;
    const QPointF centre = view.toScreen(middle);
    const float r = float(kRing) * view.mmPerPoint(middle);
    const auto lit = [&](const Handle &h) {
        const Handle &l = m_drag != Drag::None ? m_handle : m_litHandle;
        return l.kind == h.kind && l.axis == h.axis && l.point == h.point;
    };
    const auto colour = [&](bool isLit) { return isLit ? theme().moss : theme().slate; };
    const QColor halo = theme().field;
    const auto stroke = [&](const QPainterPath &path, bool isLit) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(halo, 3.4));
        painter.drawPath(path);
        painter.setPen(QPen(colour(isLit), 1.6));
        painter.drawPath(path);
    };
    for (int axis = 0; axis < 3; ++axis) {
        QPainterPath ring;
        for (int k = 0; k <= 48; ++k) {
            const float a = float(k) * std::numbers::pi_v<float> / 24;
            const Vec3f p = middle + axisOf((axis + 1) % 3) * (r * std::cos(a)) + axisOf((axis + 2) % 3) * (r * std::sin(a));
            k == 0 ? ring.moveTo(view.toScreen(p)) : ring.lineTo(view.toScreen(p));
        }
        stroke(ring, lit({Drag::Turn, axis, 0, {}}));
    }
    static const char *const kEnds[3] = {"left", "crown", "nose"};
    for (const Handle &h : all) {
        const bool isLit = lit(h);
        if (h.kind == Drag::MoveAxis || h.kind == Drag::Size) {
            QPainterPath stem(centre);
            stem.lineTo(h.at);
            stroke(stem, isLit);
        }
        painter.setPen(QPen(halo, 1.5));
        painter.setBrush(h.kind == Drag::PathRadius ? halo : colour(isLit));
        if (h.kind == Drag::PathRadius)
            painter.setPen(QPen(colour(isLit), 1.5));
        if (h.kind == Drag::Size)
            painter.drawRect(QRectF(h.at - QPointF(5, 5), QSizeF(10, 10)));
        else
            painter.drawEllipse(h.at, h.kind == Drag::PathRadius ? 3.5 : 5.5, h.kind == Drag::PathRadius ? 3.5 : 5.5);
        if (isLit && (h.kind == Drag::MoveAxis || h.kind == Drag::Size)) {
            painter.setPen(theme().isDark ? theme().ink : QColor("#2B2722"));
            painter.drawText(h.at + QPointF(8, 4), h.kind == Drag::Size ? QStringLiteral("size") : QLatin1String(kEnds[h.axis]));
        }
    }
}

} // namespace bonemoss::app
