#include "app/view/form_control.h"

#include "app/view/form_params.h"
#include "app/view/gizmo.h"
#include "command/command.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"

#include <QLineF>
#include <QRectF>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr float kSnap = 7; // points on the screen

double along(QPointF v, QPointF direction)
{
    const double n = std::hypot(direction.x(), direction.y());
    return n > 1e-6 ? (v.x() * direction.x() + v.y() * direction.y()) / n : 0;
}

} // namespace

FormControl::FormControl(Session &session, HandModel &hand) : m_session(session), m_hand(hand) {}

FormControl::~FormControl() = default;

const armature::Form *FormControl::single() const
{
    return m_session.forms().size() == 1 ? shown().armature.find(m_session.form()) : nullptr;
}

std::optional<Vec3f> FormControl::pointUnder(const Projection &view, QPointF at)
{
    const FormShapes::Hit hit = m_shapes.pick(m_session.creature().armature, view.rayAt(at));
    return hit.form ? std::optional(hit.point) : std::nullopt;
}

bool FormControl::hover(const Projection &view, QPointF at)
{
    const Handle was = m_litHandle;
    const std::uint32_t lit = m_lit;
    m_litHandle = nearestHandle(view, at);
    const bool mayChoose = m_litHandle.kind == Drag::None && m_hand.armature().formTile() == FormTile::Choose;
    m_lit = mayChoose ? m_shapes.pick(m_session.creature().armature, view.rayAt(at)).form : 0;
    return m_lit != lit || was.kind != m_litHandle.kind || was.axis != m_litHandle.axis || was.point != m_litHandle.point;
}

bool FormControl::press(const Projection &view, QPointF at, Qt::KeyboardModifiers held)
{
    m_from = m_now = at;
    m_snaps = m_hand.armature().snaps() && !(held & Qt::ControlModifier);
    if (isForm(m_hand.armature().formTile())) {
        startNew(view, at);
        return true;
    }
    if (m_hand.armature().formTile() == FormTile::Part)
        return startPart(view, at);
    m_handle = held & Qt::ShiftModifier ? Handle{} : nearestHandle(view, at);
    if (m_handle.kind == Drag::None) {
        const std::uint32_t id = m_shapes.pick(m_session.creature().armature, view.rayAt(at)).form;
        if (!id && (held & Qt::ShiftModifier))
            m_drag = Drag::Rectangle;
        if (!id)
            return m_drag == Drag::Rectangle;
        held &Qt::ShiftModifier ? m_session.toggleForm(id) : m_session.chooseForm(id);
        return true;
    }
    m_drag = m_handle.kind;
    const armature::Armature &a = m_session.creature().armature;
    m_world = {middleOfChosen(), {}, {1, 1, 1}};
    m_below = 0;
    m_path.clear();
    if (const armature::Form *f = single()) {
        m_world = a.worldPlace(*f);
        const Box3f box = m_shapes.boxOf(a, *f);
        m_below = box.isEmpty() ? 0 : m_world.translation.y - box.lo.y;
        m_path = f->path;
        for (auto &p : m_path)
            p.at = m_world.apply(p.at);
    }
    if (m_drag == Drag::PathPoint || m_drag == Drag::PathRadius)
        m_hand.armature().setCurvePoint(std::size_t(m_handle.point));
    m_start = view.onPlane(at, m_world.translation);
    return true;
}

/// Where a dragged joint or point shall be: on another joint, the middle plane or the floor when it comes near.
Vec3f FormControl::snapped(const Projection &view, Vec3f p, float below)
{
    m_snapWords.clear();
    if (!m_snaps)
        return p;
    const armature::Armature &a = m_session.creature().armature;
    const QPointF at = view.toScreen(p);
    for (const armature::Form &f : a.forms) {
        if (f.isHidden || std::find(m_session.forms().begin(), m_session.forms().end(), f.id) != m_session.forms().end())
            continue;
        const Transform world = a.worldPlace(f);
        std::vector<Vec3f> joints{world.translation};
        if (hasPath(f.kind) && f.kind != armature::FormKind::Turned)
            joints = {world.apply(f.path.front().at), world.apply(f.path.back().at)};
        for (const Vec3f joint : joints)
            if (QLineF(view.toScreen(joint), at).length() < double(kSnap)) {
                m_snapWords = tr("on the joint of %1").arg(QString::fromStdString(f.name));
                return joint;
            }
    }
    const float reach = kSnap * view.mmPerPoint(p);
    QStringList words;
    if (std::abs(p.x) < reach && std::abs(view.camera.forward().x) < 0.9f) {
        p.x = 0;
        words << tr("on the middle plane");
    }
    if (std::abs(p.y - below) < reach) {
        p.y = below;
        words << tr("on the floor");
    }
    m_snapWords = words.join(QStringLiteral(", "));
    return p;
}

void FormControl::drag(const Projection &view, QPointF at, Qt::KeyboardModifiers held)
{
    m_now = at;
    m_snaps = m_hand.armature().snaps() && !(held & Qt::ControlModifier);
    switch (m_drag) {
    case Drag::None:
    case Drag::Rectangle: return;
    case Drag::NewForm: return dragNew(view, at);
    case Drag::NewPart: {
        m_newPart.scale = std::exp(float(at.x() - m_from.x()) / 120);
        tryCommand(toCommand(m_newPart));
        return;
    }
    case Drag::Move:
    case Drag::MoveAxis:
    case Drag::Turn:
    case Drag::Size: return dragWhole(view, at);
    case Drag::PathPoint:
    case Drag::PathRadius:
    case Drag::SidePoint:
    case Drag::Param: return dragPart(view, at);
    }
}

/// One form is moved by form.set, so that its numbers are what was asked for; several by forms.move.
void FormControl::dragWhole(const Projection &view, QPointF at)
{
    const bool isOne = single() != nullptr;
    command::SetForm one{.form = m_session.form()};
    command::MoveForms all{.forms = command::namesOf(m_session.forms()), .about = m_world.translation};
    const Gizmo::Part part = m_drag == Drag::Move       ? Gizmo::Part::Move
                             : m_drag == Drag::MoveAxis ? Gizmo::Part::Axis
                             : m_drag == Drag::Turn     ? Gizmo::Part::Turn
                                                        : Gizmo::Part::Size;
    const Gizmo::Change change = Gizmo{view, m_world.translation}.change({part, m_handle.axis, {}}, m_from, at);
    if (m_drag == Drag::Move || m_drag == Drag::MoveAxis) {
        const Vec3f to = snapped(view, m_world.translation + change.by, m_below);
        one.changes.at = to, all.move = to - m_world.translation;
    } else if (m_drag == Drag::Turn) {
        one.changes.turn = toEulerDeg(normalized(change.turn * m_world.rotation)), all.turn = toEulerDeg(change.turn);
    } else {
        one.changes.scale = m_world.scale * change.scale, all.scale = change.scale;
    }
    tryCommand(isOne ? toCommand(one) : toCommand(all));
}

void FormControl::dragPart(const Projection &view, QPointF at)
{
    const armature::Form *f = m_session.creature().armature.find(m_session.form());
    if (!f)
        return;
    command::FormChanges changes;
    const auto point = std::size_t(m_handle.point);
    if (m_drag == Drag::PathPoint) {
        const Vec3f was = m_path[point].at;
        const Vec3f to = snapped(view, view.onPlane(at, was), m_path[point].radius);
        float whole = 0;
        for (std::size_t i = 1; i < m_path.size(); ++i)
            whole += length(m_path[i].at - m_path[i - 1].at);
        tryCommand(toCommand(command::EditCurve{.form = f->id,
                                                .edit = command::CurveEdit::Move,
                                                .point = std::uint32_t(point),
                                                .by = to - was,
                                                .reach = m_path.size() > 2 ? m_hand.armature().curveReach() * whole : 0}));
        return;
    } else if (m_drag == Drag::PathRadius) {
        auto path = m_path;
        auto &p = path[point];
        const float least = std::min({m_world.scale.x, m_world.scale.y, m_world.scale.z});
        p.radius = std::max(0.05f, float(QLineF(view.toScreen(p.at), at).length()) * view.mmPerPoint(p.at) / least);
        changes.path = path;
    } else if (m_drag == Drag::SidePoint) {
        std::vector<Vec3f> curve;
        for (const Vec3f q : f->sides[std::size_t(m_handle.axis)])
            curve.push_back(m_world.apply(q));
        curve[point] = view.onPlane(at, curve[point]);
        const std::array outlines{&changes.crown, &changes.belly, &changes.left, &changes.right};
        *outlines[std::size_t(m_handle.axis)] = std::move(curve);
    } else {
        const std::vector<FormParam> params = paramsOf(*f, m_world, m_hand.armature().curvePoint());
        if (point >= params.size())
            return;
        const FormParam &p = params[point];
        const float mm = view.mmPerPoint(p.at);
        const QPointF line = view.toScreen(p.at + p.along * (mm * 100.0f)) - view.toScreen(p.at);
        const double points = std::max(std::hypot(line.x(), line.y()) / 100, 0.15);
        const float by = float(along(at - m_from, line) / points) * mm;
        changes = p.change(std::clamp(p.value + by * p.perMm, p.min, p.max));
    }
    tryCommand(toCommand(command::SetForm{.form = f->id, .changes = std::move(changes)}));
}

bool FormControl::tryCommand(const json &command)
{
    command::CommandContext context;
    auto next = command::apply(m_session.creature(), command, context);
    if (!next)
        return false;
    m_preview = std::make_unique<document::Creature>(std::move(*next));
    m_command = std::make_unique<json>(command);
    return true;
}

void FormControl::release(const Projection &view)
{
    const Drag ended = m_drag;
    m_drag = Drag::None;
    m_preview.reset();
    m_snapWords.clear();
    if (ended == Drag::Rectangle) {
        const QRectF box = QRectF(m_from, m_now).normalized();
        std::vector<std::uint32_t> ids = m_session.forms();
        const armature::Armature &a = m_session.creature().armature;
        for (const armature::Form &f : a.forms) {
            const Box3f own = f.isHidden ? Box3f{} : m_shapes.boxOf(a, f);
            if (!own.isEmpty() && box.contains(view.toScreen(own.centre()))
                && std::find(ids.begin(), ids.end(), f.id) == ids.end())
                ids.push_back(f.id);
        }
        return m_session.chooseForms(std::move(ids));
    }
    if (!m_pendingLine.empty()) {
        m_crownLine = std::move(m_pendingLine);
        m_pendingLine.clear();
        return;
    }
    if (ended == Drag::NewForm && !m_command && QLineF(m_from, m_now).length() < 3)
        return insertAt(view);
    const auto command = std::move(m_command);
    if (!command)
        return;
    if (ended == Drag::NewForm) {
        m_crownLine.clear();
        return finishNew(withName(*command));
    }
    if (ended == Drag::NewPart)
        return finishNew(*command);
    m_session.run(*command);
}

void FormControl::cancel()
{
    m_drag = Drag::None;
    m_preview.reset();
    m_command.reset();
    m_crownLine.clear();
    m_pendingLine.clear();
    m_snapWords.clear();
}

const ControlRow kFormControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<FormControl>(host.session, host.hand);
}};

} // namespace bonemoss::app
