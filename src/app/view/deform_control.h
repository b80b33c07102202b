#pragma once

#include "app/view/view_control.h"
#include "app/hand/hand_model.h"
#include "app/session/latest.h"
#include "app/view/gizmo.h"
#include "document/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>

class QPainter;

namespace bonemoss::app {

/// Move, turn and size by a handle, and bend, twist, taper and stretch along an axis with an end to drag at each side; with
/// what comes of it before it is done. On the Armature bench the chosen forms with their branches, else the chosen piece.
class DeformControl : public ViewControl
{
public:
    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override { drag(pointer.view, pointer.at); }
    void release(const Pointer &) override { release(); }
    bool hover(const Pointer &pointer) override { return hover(pointer.view, pointer.at); }
    void cancel() override; ///< a drag goes back to where it began; else the plan is left
    void paintOn(QPainter &painter, const Projection &view, const QString &) override { paint(painter, view); }
    const document::Creature *tried() override { return preview(); }

    DeformControl(Session &session, HandModel &hand, QWidget *window);
    ~DeformControl() override;

    /// The creature as it would be, or as it would have been a moment ago where that takes long; null when nothing is being deformed.
    const document::Creature *preview();
    /// under: the place on the skin, to pick an island. False when it is not for it.
    bool press(const Projection &view, QPointF at, const std::optional<mesh::Hit> &under);
    bool hover(const Projection &view, QPointF at); ///< true when another grip is lit than before
    void drag(const Projection &view, QPointF at);
    void release();
    void paint(QPainter &painter, const Projection &view) const;

private:
    Session &m_session;
    HandModel &m_hand;
    bool hasAxis() const { return !m_hand.deform().moves || m_hand.deform().isSoft; }
    Gizmo gizmo(const Projection &view) const;

    int m_end = -1; ///< of the axis, that is dragged
    Gizmo::Grip m_grip, m_lit;
    QPointF m_from;
    DeformPlan m_start; ///< as a drag of the handle found it
    using State = std::shared_ptr<const document::Creature>;
    std::unique_ptr<nlohmann::json> m_asked; ///< what the next preview shows, or the one that is there
    State m_askedFrom, m_preview;
    Latest<State> m_next;
};

/// The command that the hand's plan stands for; null while it would change nothing.
nlohmann::json deformCommand(const Session &session, const HandModel &hand);
/// A plan along the longest side of what is chosen, from the joint outwards.
DeformPlan startDeform(const Session &session);

extern const ControlRow kDeformControl;

} // namespace bonemoss::app
