#pragma once

#include "app/hand/hand_model.h"
#include "app/view/projection.h"
#include "creature/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>

class QPainter;

namespace bonemoss::app {

/// Bend, twist, taper and stretch in the view: the axis with an end to drag at each side, and what comes of it
/// before it is done. On the Armature bench the chosen forms with their branches, else the chosen piece.
class DeformControl
{
public:
    DeformControl(Session &session, HandModel &hand);
    ~DeformControl();

    /// The creature as it would be; null when nothing is being deformed.
    const creature::Creature *preview();
    bool press(const Projection &view, QPointF at); ///< false when it met neither end
    void drag(const Projection &view, QPointF at);
    void release() { m_end = -1; }
    void paint(QPainter &painter, const Projection &view) const;

private:
    Session &m_session;
    HandModel &m_hand;
    int m_end = -1;
    std::unique_ptr<nlohmann::json> m_made; ///< what m_preview shows
    std::shared_ptr<const creature::Creature> m_madeFrom;
    std::unique_ptr<creature::Creature> m_preview;
};

/// The command that the hand's plan stands for; null while it would change nothing.
nlohmann::json deformCommand(const Session &session, const HandModel &hand);
/// A plan along the longest side of what is chosen, from the joint outwards.
DeformPlan startDeform(const Session &session);

} // namespace bonemoss::app
