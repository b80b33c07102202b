#pragma once

#include "app/hand/bench_hand.h"
#include "app/hand/outgrowth_gestures.h"
#include "app/session/session.h"
#include "outgrowth/outgrowth.h"

#include <optional>
#include <vector>

namespace bonemoss::app {

/// One member of the chosen outgrowth.
struct ChosenMember {
    std::uint32_t number = 0;
    bool isTwin = false;
    friend bool operator==(const ChosenMember &, const ChosenMember &) = default;
};

/// What the hand holds on the Outgrowths bench: a kind to root, or an outgrowth that stands.
class OutgrowthHand : public BenchHand
{
    Q_OBJECT
public:
    explicit OutgrowthHand(Session &session);

    const outgrowth::Kind *kind() const { return m_kind; } ///< that a press on the skin roots; null: presses choose
    void setKind(const outgrowth::Kind *kind);
    /// The outgrowth whose settings are shown; null: those of a new one.
    const outgrowth::Outgrowth *chosen() const
    {
        return m_session.creature().outgrowth(m_session.chosen(outgrowth::Outgrowth::kKind));
    }
    /// The rule in hand: as it is tried out, of the chosen one, or of a new one of the kind; without a kind where there is neither.
    outgrowth::Outgrowth rule() const;
    void setNewRule(const outgrowth::Outgrowth &rule); ///< of new ones of its kind
    /// Shows the chosen one with these settings until they are done or dropped.
    void tryRule(const outgrowth::Outgrowth &rule);
    void dropTried();
    const std::optional<outgrowth::Outgrowth> &tried() const { return m_tried; }
    const std::optional<ChosenMember> &member() const { return m_member; }
    void chooseMember(std::optional<ChosenMember> member);
    /// What a drag does to the chosen one.
    Gesture gesture() const { return chosen() && rowOf(m_gesture).fits(*chosen()->kind) ? m_gesture : Gesture::Choose; }
    void setGesture(Gesture gesture);
    bool combs() const { return gesture() == Gesture::Comb; }
    float radius() const; ///< of strokes, mm; in proportion to the creature until it is set
    void setRadius(float mm);
    void leave() override;
    void takeUp() override;

private:
    Session &m_session;
    const outgrowth::Kind *m_kind = nullptr;
    std::vector<std::optional<outgrowth::Outgrowth>> m_rules; ///< by kind, as last set; none: as usual for the creature
    float size() const;                                       ///< of the creature, for usual lengths, mm
    std::optional<outgrowth::Outgrowth> m_tried;
    std::optional<ChosenMember> m_member;
    Gesture m_gesture = Gesture::Choose;
    float m_radius = 0;         ///< 0: in proportion
    std::uint32_t m_chosen = 0; ///< when it was last looked
};

} // namespace bonemoss::app
