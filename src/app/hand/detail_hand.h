#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "growth/growth.h"

#include <optional>
#include <vector>

namespace bonemoss::app {

/// A growth in the hand instead of a brush: a new one being set up, or one that stands.
struct Growing {
    const growth::GrowthKind *kind = nullptr; ///< null while a brush is in hand
    std::uint32_t layer = 0;                  ///< the growth that is changed; 0 for a new one
    bool picksScales = false;                 ///< a press picks one scale; else it draws a guide
    std::optional<Vec3f> scale;               ///< picked
    int guide = -1;                           ///< picked, by its number
};

/// What the hand holds on the Detail bench beside its brushes: a growth, or the taking of a stamp.
class DetailHand : public BenchHand
{
    Q_OBJECT
public:
    explicit DetailHand(Session &session);

    const Growing &growing() const { return m_growing; }
    void setGrowing(const Growing &growing);
    /// The rule in hand: of the layer that is changed, or of the new growth.
    growth::Growth rule() const;
    void setRule(const growth::Growth &rule);          ///< of a new growth of its kind
    bool growsInside() const { return m_growsInside; } ///< where the mask lies rather than where it does not
    void setGrowsInside(bool on) { m_growsInside = on; }
    bool showsFlow() const { return m_showsFlow; }
    void setShowsFlow(bool on);
    bool harvests() const { return m_harvests; } ///< the next press takes a stamp from the skin
    void beginHarvest();
    void endHarvest();
    void leave() override { m_growing = {}; }
    void drop(); ///< a brush is taken up: no growth and no stamp any more; says nothing of it
    /// A growth that is chosen among the layers comes into the hand; when another layer is chosen, it leaves it.
    void takeUp() override;

signals:
    void changed(); ///< another scale or guide is picked, or presses do something else

private:
    Session &m_session;
    Growing m_growing;
    std::vector<growth::Growth> m_rules; ///< by kind, as last set
    bool m_harvests = false, m_growsInside = false, m_showsFlow = false;
};

} // namespace bonemoss::app
