#include "app/view/cage_control.h"

#include "app/view/form_control.h"

#include "app/theme/theme.h"
#include "app/view/form_params.h"
#include "command/command.h"
#include "command/cages/cage_fields.h"
#include "command/fields.h"

#include <QLineF>
#include <QPainter>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <set>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr double kCageStem = 54, kCageReach = 9, kPointReach = 8, kEdgeReach = 5; // points on the screen

double distanceToLine(QPointF p, QPointF a, QPointF b)
{
    const QPointF ab = b - a;
    const double n = QPointF::dotProduct(ab, ab);
    const double t = n > 0 ? std::clamp(QPointF::dotProduct(p - a, ab) / n, 0.0, 1.0) : 0;
    return QLineF(p, a + ab * t).length();
}

Vec3f axisOf(int axis)
{
    return {axis == 0 ? 1.0f : 0.0f, axis == 1 ? 1.0f : 0.0f, axis == 2 ? 1.0f : 0.0f};
}

constexpr std::size_t kMostDots = 400; // a cage with more would be a cloud of them

/// The edges and points of a choice.
void paintOutline(QPainter &p, const Projection &view, const document::Cage &cage, const CageChoice &choice, const QColor &colour)
{
    const std::vector<Vec3f> &at = cage.mesh.positions;
    p.setPen(QPen(colour, 3));
    for (const auto &[a, b] : choice.edges)
        if (a < at.size() && b < at.size())
            p.drawLine(view.toScreen(at[a]), view.toScreen(at[b]));
    p.setPen(QPen(theme().ink, 1));
    p.setBrush(colour);
    for (const std::uint32_t i : choice.points)
        if (i < at.size())
            p.drawEllipse(view.toScreen(at[i]), 4.5, 4.5);
}

Vec3f middleOf(const document::Cage &cage, const std::vector<std::uint32_t> &points)
{
    Vec3f sum;
    for (const std::uint32_t p : points)
        sum += cage.mesh.positions[p];
    return points.empty() ? sum : sum * (1 / float(points.size()));
}

} // namespace

CageControl::CageControl(Session &session, HandModel &hand, FormControl &forms) : m_session(session), m_hand(hand), m_forms(forms)
{}

CageControl::~CageControl() = default;

const document::Cage *CageControl::shownCage() const
{
    const document::Cage *cage = (m_preview ? *m_preview : m_session.creature()).cage(m_session.chosen(document::Cage::kKind));
    return cage && !cage->isHidden ? cage : nullptr;
}

std::vector<std::uint32_t> CageControl::chosenPoints(const document::Cage &cage) const
{
    const CageChoice &choice = m_hand.armature().cageChoice();
    const std::uint32_t n = std::uint32_t(cage.mesh.positions.size());
    std::set<std::uint32_t> points;
    for (const std::uint32_t p : choice.points)
        if (p < n)
            points.insert(p);
    for (const auto &[a, b] : choice.edges)
        if (a < n && b < n)
            points.insert({a, b});
    for (const std::uint32_t f : choice.faces)
        if (f < cage.mesh.faces.size())
            for (int k = 0; k < cage.mesh.faces[f].size(); ++k)
                points.insert(cage.mesh.faces[f].v[std::size_t(k)]);
    return {points.begin(), points.end()};
}

/// Not behind the cage's own faces.
bool CageControl::isSeen(const document::Cage &cage, const Projection &view, Vec3f point) const
{
    const mesh::Ray ray = view.rayAt(view.toScreen(point));
    float nearest = std::numeric_limits<float>::max();
    faceAt(cage, ray, nearest);
    return nearest > dot(point - ray.origin, ray.direction) - 2 * view.mmPerPoint(point);
}

/// A point of the cage under the pointer, or else an edge, or else nothing.
CageChoice CageControl::pickOn(const document::Cage &cage, const Projection &view, QPointF at) const
{
    const mesh::PolyMesh &m = cage.mesh;
    CageChoice choice;
    double best = kPointReach;
    for (std::uint32_t i = 0; i < m.positions.size(); ++i)
        if (const double d = QLineF(view.toScreen(m.positions[i]), at).length(); d < best && isSeen(cage, view, m.positions[i]))
            best = d, choice.points = {i};
    if (!choice.isEmpty())
        return choice;
    best = kEdgeReach;
    for (const mesh::Face &f : m.faces)
        for (int k = 0; k < f.size(); ++k) {
            const std::uint32_t a = f.v[std::size_t(k)], b = f.v[std::size_t((k + 1) % f.size())];
            const double d = distanceToLine(at, view.toScreen(m.positions[a]), view.toScreen(m.positions[b]));
            if (d < best && isSeen(cage, view, (m.positions[a] + m.positions[b]) * 0.5f))
                best = d, choice.edges = {{a, b}};
        }
    return choice;
}

bool CageControl::meetsOutline(const Projection &view, QPointF at) const
{
    const document::Cage *cage = shownCage();
    return cage && !cage->isLocked && m_hand.armature().formTile() == FormTile::Choose && !pickOn(*cage, view, at).isEmpty();
}

bool CageControl::hover(const Projection &view, QPointF at)
{
    const document::Cage *cage = shownCage();
    CageChoice now;
    if (cage && !cage->isLocked && m_hand.armature().formTile() == FormTile::Choose && !meetsHandle(view, at)) {
        now = pickOn(*cage, view, at);
        float nearest = std::numeric_limits<float>::max();
        if (now.isEmpty())
            if (const auto face = faceAt(*cage, view.rayAt(at), nearest))
                now.faces = {*face};
    }
    const bool isOther = now.faces != m_lit.faces || now.edges != m_lit.edges || now.points != m_lit.points;
    m_lit = std::move(now);
    return isOther;
}

/// The cage's own flat face under a ray.
std::optional<std::uint32_t> CageControl::faceAt(const document::Cage &cage, const mesh::Ray &ray, float &distance) const
{
    const mesh::PolyMesh &m = cage.mesh;
    std::optional<std::uint32_t> best;
    for (std::uint32_t i = 0; i < m.faces.size(); ++i)
        for (int t = 0; t + 2 < m.faces[i].size(); ++t) {
            // Möller & Trumbore 1997.
            const Vec3f a = m.positions[m.faces[i].v[0]], u = m.positions[m.faces[i].v[std::size_t(t + 1)]] - a,
                        v = m.positions[m.faces[i].v[std::size_t(t + 2)]] - a;
            const Vec3f p = cross(ray.direction, v);
            const float det = dot(u, p);
            if (std::abs(det) < 1e-12f)
                continue;
            const Vec3f s = ray.origin - a, q = cross(s, u);
            const float x = dot(s, p) / det, y = dot(ray.direction, q) / det, d = dot(v, q) / det;
            if (x >= 0 && y >= 0 && x + y <= 1 && d > 0 && d < distance)
                distance = d, best = i;
        }
    return best;
}

std::optional<float> CageControl::distanceTo(const mesh::Ray &ray) const
{
    float nearest = std::numeric_limits<float>::max();
    bool any = false;
    for (const auto &cage : m_session.creature().cages)
        any = (!cage->isHidden && faceAt(*cage, ray, nearest)) || any;
    return any ? std::optional(nearest) : std::nullopt;
}

std::vector<CageControl::Handle> CageControl::handles(const Projection &view) const
{
    const document::Cage *cage = shownCage();
    if (!cage || cage->isLocked || m_hand.armature().formTile() != FormTile::Choose)
        return {};
    const std::vector<std::uint32_t> points = chosenPoints(*cage);
    if (points.empty())
        return {};
    const Vec3f middle = middleOf(*cage, points);
    std::vector<Handle> out{{3, view.toScreen(middle)}};
    for (int axis = 0; axis < 3; ++axis) {
        const QPointF end = view.toScreen(middle + axisOf(axis) * (float(kCageStem) * view.mmPerPoint(middle)));
        if (QLineF(out.front().at, end).length() > kCageStem * 0.3)
            out.push_back({axis, end});
    }
    return out;
}

bool CageControl::meetsHandle(const Projection &view, QPointF at) const
{
    const std::vector<Handle> all = handles(view);
    return std::any_of(all.begin(), all.end(), [&](const Handle &h) { return QLineF(h.at, at).length() < kCageReach; });
}

bool CageControl::press(const Projection &view, QPointF at, Qt::KeyboardModifiers held, std::optional<mesh::Hit> under)
{
    m_from = at;
    if (m_hand.armature().formTile() == FormTile::Cage) {
        m_drag = Drag::New;
        m_start = under ? under->point : view.onPlane(at, view.camera.target);
        m_normal = under ? under->normal : view.camera.forward() * -1.0f;
        m_drawn = {m_start}, m_drawnNormals = {m_normal};
        return true;
    }
    for (const Handle &h : handles(view))
        if (QLineF(h.at, at).length() < kCageReach) {
            m_drag = Drag::Move;
            m_handle = h;
            m_start = middleOf(*shownCage(), chosenPoints(*shownCage()));
            return true;
        }
    if (meetsOutline(view, at)) {
        const CageChoice picked = pickOn(*shownCage(), view, at);
        CageChoice choice = held & Qt::ShiftModifier ? m_hand.armature().cageChoice() : CageChoice{};
        choice.faces.clear(); // one kind at a time
        if (!picked.points.empty()) {
            choice.edges.clear();
            if (std::erase(choice.points, picked.points.front()) == 0)
                choice.points.push_back(picked.points.front());
        } else {
            choice.points.clear();
            if (std::erase(choice.edges, picked.edges.front()) == 0)
                choice.edges.push_back(picked.edges.front());
        }
        m_hand.armature().setCageChoice(std::move(choice));
        return true;
    }
    const mesh::Ray ray = view.rayAt(at);
    float nearest = std::numeric_limits<float>::max();
    std::uint32_t hit = 0, face = 0;
    for (const auto &cage : m_session.creature().cages)
        if (const auto f = cage->isHidden ? std::nullopt : faceAt(*cage, ray, nearest))
            hit = cage->id, face = *f;
    if (!hit)
        return false;
    std::vector<std::uint32_t> faces = hit == m_session.chosen(document::Cage::kKind) && held & Qt::ShiftModifier
                                           ? m_hand.armature().cageChoice().faces
                                           : std::vector<std::uint32_t>{};
    if (std::erase(faces, face) == 0)
        faces.push_back(face);
    m_session.chooseItem(hit);
    m_hand.armature().setCageChoice({std::move(faces), {}, {}});
    return true;
}

void CageControl::drag(const Projection &view, QPointF at, std::optional<mesh::Hit> under)
{
    if (m_drag == Drag::Move) {
        Vec3f by = view.onPlane(at, m_start) - view.onPlane(m_from, m_start);
        if (m_handle.axis < 3) {
            const QPointF stem = m_handle.at - view.toScreen(m_start), moved = at - m_from;
            const double n = std::max(std::hypot(stem.x(), stem.y()), 1.0),
                         along = (moved.x() * stem.x() + moved.y() * stem.y()) / n;
            by = axisOf(m_handle.axis) * float(along * kCageStem / n) * view.mmPerPoint(m_start);
        }
        const document::Cage *cage = m_session.creature().cage(m_session.chosen(document::Cage::kKind));
        if (cage) {
            const auto points = chosenPoints(*cage);
            tryCommand(toCommand(command::MovePoints{
                .cage = cage->id, .points = {points.begin(), points.end()}, .by = by, .reach = m_hand.armature().cageReach()}));
        }
        return;
    }
    if (m_drag != Drag::New)
        return;
    const Vec3f end = under && m_hand.armature().cageKind() == 2 ? under->point : view.onPlane(at, m_start);
    const float mm = view.mmPerPoint(m_start), size = length(end - m_start);
    if (size < 3 * mm)
        return;
    const auto kind = command::CageKind(m_hand.armature().cageKind());
    command::AddCage c{.kind = kind, .name = std::string(command::kCageKindNames[std::size_t(kind)])};
    c.isMirrored = m_hand.isMirrored() && std::abs(m_start.x) > size;
    c.smooth = kind == command::CageKind::Strip ? 2 : 0; // a box is wanted as a box until it has its rims
    if (kind == command::CageKind::Box) {
        c.at = m_start, c.size = Vec3f{1, 1, 1} * (2 * size);
    } else if (kind == command::CageKind::Sheet) {
        c.at = m_start, c.normal = m_normal, c.size = Vec3f{2 * size, 1, 2 * size};
    } else {
        if (length(end - m_drawn.back()) > 16 * mm)
            m_drawn.push_back(end), m_drawnNormals.push_back(under ? under->normal : m_drawnNormals.back());
        if (m_drawn.size() < 2)
            return;
        c.points = m_drawn, c.normals = m_drawnNormals, c.size = Vec3f{1, 1, 1} * (18 * mm);
    }
    tryCommand(toCommand(c));
}

bool CageControl::tryCommand(const json &command)
{
    command::CommandContext context;
    auto next = command::apply(m_session.creature(), command, context);
    if (!next)
        return false;
    m_preview = std::make_unique<document::Creature>(std::move(*next));
    m_command = std::make_unique<json>(command);
    return true;
}

void CageControl::release()
{
    const bool isNew = m_drag == Drag::New;
    m_drag = Drag::None;
    m_preview.reset();
    const auto command = std::move(m_command);
    if (!command)
        return;
    const std::uint32_t next = m_session.creature().nextId;
    if (!m_session.run(*command) || !isNew)
        return;
    m_session.chooseItem(next);
    m_hand.armature().setCageChoice({});
    m_hand.armature().setFormTile(FormTile::Choose);
}

void CageControl::cancel()
{
    m_drag = Drag::None;
    m_preview.reset();
    m_command.reset();
}

/// The chosen cage as lines and dots, what is chosen and what is lit, and the handles.
void CageControl::paint(QPainter &p, const Projection &view) const
{
    const document::Cage *cage = shownCage();
    if (!cage)
        return;
    QColor line = theme().slate, wash = theme().moss;
    line.setAlpha(150);
    wash.setAlpha(90);
    QColor faint = theme().field;
    faint.setAlpha(70);
    for (std::uint32_t i = 0; i < cage->mesh.faces.size(); ++i) {
        QPolygonF outline;
        for (int k = 0; k < cage->mesh.faces[i].size(); ++k)
            outline << view.toScreen(cage->mesh.positions[cage->mesh.faces[i].v[std::size_t(k)]]);
        const auto has = [i](const std::vector<std::uint32_t> &all) { return std::find(all.begin(), all.end(), i) != all.end(); };
        p.setPen(QPen(line, 1.2));
        p.setBrush(has(m_hand.armature().cageChoice().faces) ? QBrush(wash)
                   : has(m_lit.faces)                        ? QBrush(faint)
                                                             : QBrush(Qt::NoBrush));
        p.drawPolygon(outline);
    }
    if (!cage->isLocked) {
        p.setPen(Qt::NoPen);
        p.setBrush(line);
        for (const Vec3f &at : cage->mesh.positions)
            if (cage->mesh.positions.size() <= kMostDots && isSeen(*cage, view, at))
                p.drawEllipse(view.toScreen(at), 2.2, 2.2);
        paintOutline(p, view, *cage, m_lit, theme().field);
        paintOutline(p, view, *cage, m_hand.armature().cageChoice(), theme().moss);
    }
    const std::vector<Handle> all = handles(view);
    for (const Handle &h : all) {
        if (h.axis < 3) {
            p.setPen(QPen(theme().field, 3.4));
            p.drawLine(all.front().at, h.at);
            p.setPen(QPen(theme().slate, 1.6));
            p.drawLine(all.front().at, h.at);
        }
        p.setPen(QPen(theme().field, 1.5));
        p.setBrush(theme().slate);
        p.drawEllipse(h.at, 5.5, 5.5);
    }
}

/// A press is a cage's when it draws one, catches its handle, or meets it before any form.
ViewControl::Press CageControl::press(const Pointer &pointer)
{
    const FormTile tile = m_hand.armature().formTile();
    if (tile != FormTile::Cage && tile != FormTile::Choose)
        return Press::NotMine;
    if (tile == FormTile::Choose && m_forms.meetsHandle(pointer.view, pointer.at))
        return Press::NotMine;
    const mesh::Ray ray = pointer.view.rayAt(pointer.at);
    const auto cage = distanceTo(ray);
    const auto form = m_forms.pointUnder(pointer.view, pointer.at);
    if (tile == FormTile::Choose && form && (!cage || length(*form - ray.origin) < *cage)
        && !meetsHandle(pointer.view, pointer.at) && !meetsOutline(pointer.view, pointer.at))
        return Press::NotMine;
    return press(pointer.view, pointer.at, pointer.modifiers, pointer.skin()) ? Press::Mine : Press::NotMine;
}

const ControlRow kCageControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<CageControl>(host.session, host.hand, host.the<FormControl>(kFormControl));
}};

} // namespace bonemoss::app
