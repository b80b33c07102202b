#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/pose_hand.h"
#include "app/view/tried_command.h"
#include "app/view/view_control.h"
#include "pose/blend.h"

#include <QCoreApplication>

#include <optional>

namespace bonemoss::app {

/// On the Pose bench: the creature as it stands, its joints, and dragging its limbs.
class PoseControl : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(PoseControl)

public:
    PoseControl(Session &session, HandModel &hand, QWidget *view);

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override;
    void release(const Pointer &pointer) override;
    bool hover(const Pointer &pointer) override;
    void cancel() override;
    void paintOn(QPainter &painter, const Projection &view, const QString &viewKey) override;
    QString hintFor(const HeldKeys &) const override;
    const document::Creature *tried() override;

private:
    /// A place on the creature as it stands.
    struct Grip {
        std::uint32_t bone = kNone;
        Vec3f at, rest; ///< mm, as it stands and at rest
    };
    PoseHand &held() const { return m_hand.of<PoseHand>(); }
    const pose::Skeleton &skeleton() const { return held().skeleton(); }
    const document::Creature &shown(); ///< as it stands, what is dragged included
    std::optional<Grip> gripAt(const Pointer &pointer);
    void tryOut(const nlohmann::json &command); ///< shows what it would make of the pose
    nlohmann::json commandFor(const Pointer &pointer) const;
    void paintLimits(QPainter &painter, const Projection &view, std::uint32_t bone, const std::vector<pose::Rigid> &places) const;
    std::vector<std::uint32_t> moving() const; ///< the bones that a press would move

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_view;
    std::optional<Grip> m_grip, m_lit;
    QPointF m_from;
    std::optional<nlohmann::json> m_command;     ///< of the drag
    std::optional<pose::Posture> m_dragged;      ///< what it makes
    std::unique_ptr<document::Standing> m_shown; ///< the last that was dragged to
};

extern const ControlRow kPoseControl;

} // namespace bonemoss::app
