#include "app/view/pose_control.h"

#include "app/benches/bench.h"
#include "app/theme/theme.h"
#include "app/view/balance_mark.h"
#include "command/fields.h"
#include "command/pose/drive_fields.h"
#include "command/pose/pose_fields.h"

#include <QPainter>
#include <QPainterPath>
#include <QWidget>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

using nlohmann::json;

PoseControl::PoseControl(Session &session, HandModel &hand, QWidget *view) : m_session(session), m_hand(hand), m_view(view)
{
    QObject::connect(&held(), &PoseHand::tried, view, [this] { // a slider is dragged
        m_command.reset(), m_dragged.reset();
        if (const json *command = held().triedCommand())
            tryOut(*command);
        m_command.reset();
        m_view->update();
    });
}

const document::Creature &PoseControl::shown()
{
    const auto now = m_session.share();
    if (!m_dragged || *m_dragged == now->posing.now)
        return *m_session.standing();
    if (!m_shown || m_shown->rest() != now || m_shown->posture() != *m_dragged)
        m_shown = std::make_unique<document::Standing>(now, *m_dragged, document::Standing::Part::Seen, m_shown.get());
    return *m_shown->creature();
}

const document::Creature *PoseControl::tried()
{
    return m_dragged && rowOf(m_session.bench()).poses ? &shown() : nullptr;
}

std::optional<PoseControl::Grip> PoseControl::gripAt(const Pointer &pointer)
{
    const document::Creature &rest = m_session.creature(), &now = shown();
    const mesh::Ray ray = pointer.view.rayAt(pointer.at);
    std::optional<Grip> out;
    float least = std::numeric_limits<float>::max();
    for (std::size_t k = 0; k < now.pieces.size(); ++k) {
        const document::Piece &piece = *now.pieces[k];
        if (piece.isHidden || piece.skin.isEmpty())
            continue;
        const auto hit = castRay(piece.skin.shown, ray);
        if (!hit || hit->distance >= least)
            continue;
        least = hit->distance;
        const std::uint32_t v = piece.skin.shown.topology->faceOf(hit->block, hit->face).v[0];
        Grip grip;
        int most = 0;
        for (const skin::KeptMask &m : rest.pieces[k]->skin.boneWeights)
            if (const int w = m.values[v]; w > most)
                if (const std::uint32_t b = skeleton().find(pose::boneKeyOf(m.name)); b != kNone)
                    most = w, grip.bone = b;
        if (grip.bone == kNone) { // not bound yet: by where it lies
            float nearest = std::numeric_limits<float>::max();
            for (std::uint32_t b = 0; b < skeleton().bones.size(); ++b)
                for (const pose::Flesh &f : skeleton().bones[b].flesh) {
                    const Vec3f along = f.b - f.a;
                    const float t = std::clamp(dot(hit->point - f.a, along) / std::max(squaredLength(along), 1e-9f), 0.0f, 1.0f);
                    if (const float far = length(f.a + along * t - hit->point) - f.radius; far < nearest)
                        nearest = far, grip.bone = b;
                }
        }
        if (grip.bone == kNone)
            continue;
        grip.at = hit->point;
        grip.rest = placesOf(skeleton(), rest.posing.now)[grip.bone].applyInverse(hit->point);
        out = grip;
    }
    return out;
}

ViewControl::Press PoseControl::press(const Pointer &pointer)
{
    if (!rowOf(m_session.bench()).poses || !pointer.held.isNone() || held().strokes() || held().tool() == PoseTool::Bones
        || held().tool() == PoseTool::Place)
        return Press::NotMine;
    const auto &pieces = m_session.creature().pieces;
    const bool isUnbound = std::any_of(pieces.begin(), pieces.end(),
                                       [](const auto &p) { return !p->skin.isEmpty() && p->skin.boneWeights.empty(); });
    if (isUnbound && !skeleton().bones.empty() && gripAt(pointer)
        && !m_session.runLong(toCommand(command::BindSkin{}), m_view)) // once, before anything is dragged
        return Press::Mine;
    m_grip = gripAt(pointer);
    m_from = pointer.at;
    m_command.reset(), m_dragged.reset();
    if (!m_grip)
        return Press::Camera;
    held().chooseBone(skeleton().bones[m_grip->bone].key);
    return Press::Mine;
}

namespace {

/// The rotation about the way of sight that brings one place on the screen to another, about a middle; radians.
float turned(QPointF middle, QPointF from, QPointF to)
{
    const QPointF a = from - middle, b = to - middle;
    return float(std::atan2(a.x() * b.y() - a.y() * b.x(), a.x() * b.x() + a.y() * b.y()));
}

} // namespace

json PoseControl::commandFor(const Pointer &pointer) const
{
    const pose::Skeleton &bones = skeleton();
    const pose::Bone &bone = bones.bones[m_grip->bone];
    const pose::Posture &start = m_session.creature().posing.now;
    if (held().tool() == PoseTool::Look) {
        // A place between the creature and the eye, so that a head dragged to itself looks at the viewer.
        const Vec3f nearer = m_grip->at - pointer.view.camera.forward() * (0.6f * m_session.creature().bounds().diagonal());
        const bool isOnHead = bone.isLine && bone.parent != kNone && !bones.bones[bone.parent].isLine; // a jaw or an ear
        const std::uint32_t head = isOnHead ? bone.parent : m_grip->bone;
        command::LookAt look{.bone = bones.bones[head].name, .at = pointer.view.onPlane(pointer.at, nearer)};
        look.turnsHead = held().looksWithHead(), look.turnsEyes = held().looksWithEyes();
        look.keepsLimits = held().keepsLimits();
        if (held().looksWithNeck())
            if (const std::uint32_t neck = limbOf(bones, head).front(); neck != head)
                look.neck = bones.bones[neck].name;
        return toCommand(look);
    }
    if (held().tool() == PoseTool::Limb)
        return toCommand(command::ReachFor{.bone = bone.name,
                                           .at = pointer.view.onPlane(pointer.at, m_grip->at),
                                           .from = m_grip->rest,
                                           .keepsLimits = held().keepsLimits()});
    const std::vector<pose::Rigid> places = placesOf(bones, start);
    std::vector<std::uint32_t> chain = moving();
    const std::uint32_t first = chain.front();
    const pose::Rigid above = bones.bones[first].parent == kNone ? start.whole : places[bones.bones[first].parent];
    const Vec3f joint = above.apply(bones.bones[first].head);
    const float angle = turned(pointer.view.toScreen(joint), m_from, pointer.at);
    const Vec3f sight = pointer.view.camera.forward(); // screen turns are clockwise, as seen along it
    if (held().tool() == PoseTool::Joint) {
        const Quat turn = rotationAbout(sight, angle);
        const Quat own = bone.frame.conjugate() * (above.turn.conjugate() * (turn * places[m_grip->bone].turn)) * bone.frame;
        return toCommand(command::TurnBone{.bone = bone.name,
                                           .angles = pose::anglesOf(normalized(own)),
                                           .isMirrored = held().turnsTwins(),
                                           .keepsLimits = held().keepsLimits()});
    }
    const Quat frame = above.turn * bones.bones[first].frame;
    const Vec3f axis =
        rotate(frame.conjugate(), sight) * (angle * 1.6f / kRadiansPerDegree); // the end goes about as far as the hand
    return toCommand(command::CurlChain{.bone = bones.bones[first].name, .to = bones.bones[chain.back()].name, .angles = axis});
}

/// A chain from its first bone to where it branches or ends.
std::vector<std::uint32_t> PoseControl::moving() const
{
    const std::optional<Grip> &grip = m_grip ? m_grip : m_lit;
    if (!grip)
        return {};
    const pose::Skeleton &bones = skeleton();
    if (held().tool() == PoseTool::Limb || (held().tool() == PoseTool::Look && held().looksWithNeck()))
        return limbOf(bones, grip->bone);
    if (held().tool() != PoseTool::Chain)
        return {grip->bone};
    std::uint32_t first = grip->bone;
    const auto isOnly = [&](std::uint32_t b) { return bones.childrenOf(b).size() == 1; };
    while (bones.bones[first].parent != kNone && bones.bones[bones.bones[first].parent].key.form == bones.bones[first].key.form)
        first = bones.bones[first].parent;
    std::vector<std::uint32_t> out{first};
    while (isOnly(out.back()))
        out.push_back(bones.childrenOf(out.back())[0]);
    if (bones.bones[first].key.part == 0
        && bones.find(pose::BoneKey{bones.bones[first].key.form, 1, bones.bones[first].key.isTwin}) != kNone) {
        out = {first}; // of a tube its own parts
        for (std::uint32_t k = 1;; ++k) {
            pose::BoneKey key = bones.bones[first].key;
            key.part = k;
            const std::uint32_t b = bones.find(key);
            if (b == kNone)
                break;
            out.push_back(b);
        }
    }
    return out;
}

void PoseControl::drag(const Pointer &pointer)
{
    const PoseTool tool = held().tool();
    if (m_grip && tool != PoseTool::Pins && tool != PoseTool::Weights && tool != PoseTool::Controls)
        tryOut(commandFor(pointer));
}

void PoseControl::tryOut(const json &command)
{
    command::CommandContext context;
    if (const auto after = command::apply(m_session.creature(), command, context)) {
        m_command = command;
        m_dragged = after->posing.now;
    }
}

void PoseControl::release(const Pointer &)
{
    const std::optional<Grip> grip = std::exchange(m_grip, {});
    m_dragged.reset();
    if (held().tool() == PoseTool::Pins && grip) {
        const pose::Bone &bone = skeleton().bones[grip->bone];
        const auto &pins = m_session.creature().posing.pins;
        const bool isPinned = std::any_of(pins.begin(), pins.end(), [&](const auto &p) { return p.bone == bone.key; });
        m_command = toCommand(command::PinBone{.bone = bone.name, .isOn = !isPinned});
    }
    if (const auto command = std::exchange(m_command, {}))
        m_session.runLong(*command, m_view);
}

bool PoseControl::hover(const Pointer &pointer)
{
    const auto was = m_lit ? m_lit->bone : kNone;
    if (held().strokes()) {
        m_lit.reset();
        return was != kNone;
    }
    m_lit = gripAt(pointer);
    return (m_lit ? m_lit->bone : kNone) != was;
}

void PoseControl::cancel()
{
    m_grip.reset(), m_command.reset(), m_dragged.reset();
}

/// Where a bone's end may go about each of its axes that is limited: a fan from the joint, and a line where it is now.
void PoseControl::paintLimits(QPainter &p, const Projection &view, std::uint32_t b, const std::vector<pose::Rigid> &places) const
{
    const pose::Bone &bone = skeleton().bones[b];
    const pose::Posture &posture = m_dragged ? *m_dragged : m_session.creature().posing.now;
    const pose::Rigid above = bone.parent == kNone ? posture.whole : places[bone.parent];
    const Vec3f now = pose::anglesOf(posture.turnOf(bone.key)), way = bone.tail - bone.head;
    const QPointF joint = view.toScreen(above.apply(bone.head));
    const bool isBeyond = beyondLimits(bone, posture.turnOf(bone.key)) > 0.5f;
    const QColor ink = isBeyond ? theme().rust : theme().lichen;
    for (int axis = 0; axis < 3; ++axis) {
        const float low = at(bone.low, axis), high = at(bone.high, axis);
        constexpr float kMostShown = 300, kLeastShown = 8; // degrees
        if (high - low > kMostShown || high - low < kLeastShown)
            continue;
        QPainterPath fan(joint);
        constexpr int kSteps = 24;
        for (int k = 0; k <= kSteps; ++k) {
            Vec3f angles = now;
            (axis == 0 ? angles.x : axis == 1 ? angles.y : angles.z) = std::lerp(low, high, float(k) / kSteps);
            const Quat turn = bone.frame * pose::turnOfAngles(angles) * bone.frame.conjugate();
            fan.lineTo(view.toScreen(above.apply(bone.head + rotate(turn, way * 0.8f))));
        }
        fan.closeSubpath();
        QColor wash = ink;
        wash.setAlpha(34);
        p.setBrush(wash);
        p.setPen(QPen(ink, 1));
        p.drawPath(fan);
    }
}

void PoseControl::paintOn(QPainter &p, const Projection &view, const QString &)
{
    if (held().holdsBrush())
        return; // bones would hide what is worked on
    const document::Creature &now = m_session.creature();
    const pose::Skeleton &bones = skeleton();
    const std::vector<pose::Rigid> places = placesOf(bones, m_dragged ? *m_dragged : now.posing.now);
    const std::vector<std::uint32_t> lit = moving();
    const auto has = [&](std::uint32_t b) { return std::find(lit.begin(), lit.end(), b) != lit.end(); };
    p.setRenderHint(QPainter::Antialiasing);
    for (const bool isLit : {false, true})
        for (std::uint32_t b = 0; b < bones.bones.size(); ++b) {
            if (has(b) != isLit)
                continue;
            const pose::Bone &bone = bones.bones[b];
            const QPointF head = view.toScreen(places[b].apply(bone.head)), tail = view.toScreen(places[b].apply(bone.tail));
            const bool isChosen = bone.key == held().bone();
            QColor ink = isLit ? theme().moss : isChosen ? theme().rust : theme().ink;
            if (!isLit && !isChosen)
                ink.setAlpha(110);
            // A narrow leaf from the joint to its end.
            const QPointF way = tail - head, side = QPointF(-way.y(), way.x()) * 0.05;
            QPainterPath leaf(head);
            leaf.quadTo(head + way * 0.3 + side * 2, tail);
            leaf.quadTo(head + way * 0.3 - side * 2, head);
            p.setPen(QPen(ink, isLit || isChosen ? 1.8 : 1));
            p.setBrush(Qt::NoBrush);
            p.drawPath(leaf);
            p.setBrush(isLit || isChosen ? ink : theme().field);
            p.drawEllipse(head, isLit || isChosen ? 4.2 : 2.8, isLit || isChosen ? 4.2 : 2.8);
        }
    if (held().balance() && !m_dragged)
        paintBalance(p, view, *held().balance());
    if (const std::uint32_t b = held().bone().form ? bones.find(held().bone()) : kNone; b != kNone)
        paintLimits(p, view, b, places);
    for (const document::Pin &pin : now.posing.pins) { // a small stone
        const std::uint32_t b = bones.find(pin.bone);
        if (b == kNone)
            continue;
        const QPointF at = view.toScreen(pin.place.apply((bones.bones[b].head + bones.bones[b].tail) * 0.5f));
        p.setPen(QPen(theme().ink, 1.2));
        p.setBrush(QColor("#A79F8E"));
        p.drawRoundedRect(QRectF(at - QPointF(8, 5), QSizeF(16, 10)), 5, 4);
    }
}

QString PoseControl::hintFor(const HeldKeys &) const
{
    if (!rowOf(m_session.bench()).poses || held().holdsBrush())
        return {};
    if (held().paintsWeights())
        return tr("Weights · paint on the creature; the key for the other way round takes what is given");
    if (held().tool() == PoseTool::Corrections)
        return tr("Corrections · strokes go to the chosen layer, in the pose");
    if (skeleton().bones.empty())
        return held().tool() == PoseTool::Bones
                   ? QString()
                   : tr("Pose · the creature has no bones yet: draw some, or take a ready skeleton, with Bones");
    switch (held().tool()) {
    case PoseTool::Limb: return tr("Limb · drag a place of the creature: its limb follows");
    case PoseTool::Joint: return tr("Joint · drag round the joint of the bone under the pointer");
    case PoseTool::Chain: return tr("Chain · drag round the root of a neck, tail or toe: it bends softly");
    case PoseTool::Weights: return tr("Weights · press on a bone to see what it moves");
    case PoseTool::Look: return tr("Look · press on a head and drag to where it shall look");
    case PoseTool::Controls: return tr("Controls · sliders on the right; drag a place of the creature to choose a bone");
    case PoseTool::Bones:
    case PoseTool::Place:
    case PoseTool::Corrections: break; // said by others
    case PoseTool::Pins: return tr("Pins · press on a foot: it stays where it is, or is let go");
    }
    return {};
}

const ControlRow kPoseControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<PoseControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
