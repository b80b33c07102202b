#include "app/view/deform_control.h"

#include "app/theme/theme.h"
#include "app/view/form_params.h"
#include "command/command.h"
#include "command/fields.h"
#include "command/skin/piece_fields.h"

#include <QLineF>
#include <QPainter>
#include <QWidget>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr Vec3f kSides[6] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};

/// Of the plan, across its axis as far as can be.
Vec3f sideOf(const DeformPlan &plan)
{
    const Vec3f axis = normalized(plan.to - plan.from), side = kSides[plan.side];
    if (std::abs(dot(axis, side)) < 0.95f)
        return side;
    return std::abs(axis.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
}

command::Region regionOf(const DeformPlan &plan)
{
    command::Region region;
    if (plan.part == DeformPart::Island)
        region.island = plan.island;
    if (plan.part == DeformPart::Group && !plan.group.empty())
        region.group = plan.group;
    if (plan.moves && plan.isSoft)
        region.lineFrom = plan.from, region.lineTo = plan.to;
    return region;
}

json moveCommand(const Session &session, const HandModel &hand)
{
    const DeformPlan &plan = hand.deform();
    const bool isStill = plan.by == Vec3f{} && plan.scale == Vec3f{1, 1, 1} && plan.turn == Quat{};
    if (!plan.isOn || isStill || !session.piece())
        return nullptr;
    return toCommand(command::MovePiece{.piece = session.piece(),
                                        .by = plan.by,
                                        .turn = toEulerDeg(plan.turn),
                                        .scale = plan.scale,
                                        .about = plan.pivot,
                                        .isMirrored = plan.isTwinned,
                                        .region = regionOf(plan)});
}

} // namespace

json deformCommand(const Session &session, const HandModel &hand)
{
    const DeformPlan &plan = hand.deform();
    if (plan.moves)
        return moveCommand(session, hand);
    const bool isAngle = plan.kind == SpaceMapKind::Bend || plan.kind == SpaceMapKind::Twist;
    if (!plan.isOn || std::abs(plan.amount - (isAngle ? 0 : 1)) < 1e-4f)
        return nullptr;
    const command::AxisMap map{.kind = plan.kind, .from = plan.from, .to = plan.to, .amount = plan.amount, .side = sideOf(plan)};
    if (rowOf(session.bench()).showsForms)
        return session.forms().empty() ? json()
                                       : toCommand(command::DeformForms{.forms = command::namesOf(session.forms()), .map = map});
    return session.piece() ? toCommand(command::DeformPiece{.piece = session.piece(), .map = map, .region = regionOf(plan)})
                           : json();
}

DeformPlan startDeform(const Session &session)
{
    DeformPlan plan;
    plan.isOn = true;
    const document::Creature &c = session.creature();
    Box3f box;
    if (rowOf(session.bench()).showsForms) {
        std::vector<std::uint32_t> ids;
        for (const std::uint32_t id : session.forms())
            for (const std::uint32_t b : c.armature.branch(id))
                if (hasShape(c.armature.find(b)->kind))
                    ids.push_back(b);
        if (!ids.empty()) {
            armature::Armature alone = c.armature; // twins would widen the box
            for (armature::Form &f : alone.forms)
                f.isMirrored = false;
            box = armature::makeDistance(alone, ids)->bounds();
        }
    } else if (const document::Piece *p = c.piece(session.piece())) {
        box = p->skin.shown.box();
    }
    const Vec3f s = box.size(), m = box.centre();
    const Vec3f half = s.z >= s.x && s.z >= s.y ? Vec3f{0, 0, s.z / 2} : s.y >= s.x ? Vec3f{0, s.y / 2, 0} : Vec3f{s.x / 2, 0, 0};
    plan.from = m - half, plan.to = m + half;
    plan.pivot = m;
    plan.moves = !rowOf(session.bench()).showsForms; // forms have a handle of their own
    if (const armature::Form *f = c.armature.find(session.form()); f && rowOf(session.bench()).showsForms) {
        const Vec3f joint = c.armature.worldPlace(*f).translation; // the end that is held is the one at the joint
        if (length(joint - plan.to) < length(joint - plan.from))
            std::swap(plan.from, plan.to);
    }
    plan.side = std::abs(half.y) > 0 ? 4 : 2;
    return plan;
}

DeformControl::DeformControl(Session &session, HandModel &hand, QWidget *window)
    : m_session(session), m_hand(hand), m_next([this, window](State preview) {
          m_preview = std::move(preview);
          window->update();
      })
{}

DeformControl::~DeformControl() = default;

const document::Creature *DeformControl::preview()
{
    const json c = deformCommand(m_session, m_hand);
    const bool isOther = m_askedFrom != m_session.share();
    if (c.is_null() || isOther) {
        if (m_asked)
            m_next.forget();
        m_preview.reset();
        m_asked.reset();
    }
    m_askedFrom = m_session.share();
    if (c.is_null() || (m_asked && *m_asked == c))
        return m_preview.get();
    m_asked = std::make_unique<json>(c);
    m_next.ask(
        [from = m_askedFrom, c](const std::stop_token &stop) -> State {
            command::CommandContext context{{{stop, {}}, {}}, {}};
            auto next = command::apply(*from, c, context);
            return next ? std::make_shared<const document::Creature>(std::move(*next)) : nullptr;
        },
        kFramePatience);
    return m_preview.get();
}

Gizmo DeformControl::gizmo(const Projection &view) const
{
    return {view, m_hand.deform().pivot + m_hand.deform().by};
}

bool DeformControl::press(const Projection &view, QPointF at, const std::optional<mesh::Hit> &under)
{
    const DeformPlan &plan = m_hand.deform();
    m_end = -1;
    m_grip = {};
    if (!plan.isOn)
        return false;
    m_from = at;
    m_start = plan;
    if (hasAxis())
        for (int end = 0; end < 2; ++end)
            if (QLineF(view.toScreen(end ? plan.to : plan.from), at).length() < 10)
                m_end = end;
    if (m_end >= 0)
        return true;
    if (plan.moves)
        m_grip = gizmo(view).at(at);
    if (m_grip.part != Gizmo::Part::None)
        return true;
    if (plan.part != DeformPart::Island || !under)
        return false;
    DeformPlan next = plan;
    next.island = next.pivot = under->point;
    next.by = {}, next.turn = {}, next.scale = {1, 1, 1};
    m_hand.setDeform(next);
    return true;
}

bool DeformControl::hover(const Projection &view, QPointF at)
{
    Gizmo::Grip now;
    if (m_hand.deform().isOn && m_hand.deform().moves)
        now = gizmo(view).at(at);
    const bool isOther = now.part != m_lit.part || now.axis != m_lit.axis;
    m_lit = now;
    return isOther;
}

void DeformControl::drag(const Projection &view, QPointF at)
{
    DeformPlan plan = m_hand.deform();
    if (m_grip.part != Gizmo::Part::None) {
        const Gizmo::Change c = Gizmo{view, m_start.pivot + m_start.by}.change(m_grip, m_from, at);
        if (plan.placesHandle) {
            plan.pivot = m_start.pivot + c.by;
        } else {
            plan.by = m_start.by + c.by;
            plan.turn = normalized(c.turn * m_start.turn);
            plan.scale = m_start.scale * c.scale;
        }
        return m_hand.setDeform(plan);
    }
    if (m_end < 0)
        return;
    Vec3f &end = m_end ? plan.to : plan.from;
    end = view.onPlane(at, end);
    if (length(plan.to - plan.from) > 0.1f)
        m_hand.setDeform(plan);
}

void DeformControl::release()
{
    m_end = -1;
    m_grip = {};
}

void DeformControl::paint(QPainter &p, const Projection &view) const
{
    const DeformPlan &plan = m_hand.deform();
    if (!plan.isOn)
        return;
    if (plan.moves)
        gizmo(view).paint(p, m_grip.part != Gizmo::Part::None ? m_grip : m_lit);
    if (!hasAxis())
        return;
    const QPointF a = view.toScreen(plan.from), b = view.toScreen(plan.to);
    p.setPen(QPen(theme().field, 4));
    p.drawLine(a, b);
    p.setPen(QPen(theme().moss, 1.8, Qt::DashLine));
    p.drawLine(a, b);
    if (!plan.moves && plan.kind == SpaceMapKind::Bend) { // where the far end goes
        const Vec3f to = plan.to + sideOf(plan) * (0.18f * length(plan.to - plan.from) * (plan.amount < 0 ? -1.0f : 1.0f));
        p.drawLine(b, view.toScreen(to));
    }
    p.setPen(QPen(theme().field, 1.5));
    p.setBrush(theme().moss);
    p.drawEllipse(a, 6, 6);
    p.drawRect(QRectF(b - QPointF(5, 5), QSizeF(10, 10)));
}

ViewControl::Press DeformControl::press(const Pointer &pointer)
{
    if (!m_hand.deform().isOn)
        return Press::NotMine;
    if (press(pointer.view, pointer.at, pointer.skin()))
        return Press::Mine;
    // No stroke on what is shown otherwise than it is.
    return rowOf(m_session.bench()).showsForms ? Press::NotMine : Press::Camera;
}

void DeformControl::cancel()
{
    DeformPlan plan = m_hand.deform();
    if (!plan.isOn)
        return;
    if (m_end >= 0 || m_grip.part != Gizmo::Part::None)
        plan = m_start;
    else
        plan.isOn = false;
    release();
    m_hand.setDeform(plan);
}

const ControlRow kDeformControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<DeformControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
