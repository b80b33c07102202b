#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "colour/rule.h"

#include <QColor>

#include <optional>
#include <vector>

namespace bonemoss::app {

/// What the hand holds on the Colour bench beside its brushes: a rule, a finish, the palette, or the schemes.
class ColourHand : public BenchHand
{
    Q_OBJECT
public:
    enum class Holding { Brush, Rule, Finish, Palette, Schemes };
    explicit ColourHand(Session &session);

    Holding holding() const { return m_holding; }
    void hold(Holding what);
    /// The rule in hand: of the layer that is changed (layer() is not 0), or of a new one.
    const colour::RuleKind *kind() const { return m_holding == Holding::Rule ? m_kind : nullptr; }
    std::uint32_t layer() const { return m_layer; }
    void setKind(const colour::RuleKind *kind, std::uint32_t layer);
    colour::Rule rule() const;
    skin::ColourRamp ramp() const;
    void setRule(const colour::Rule &rule, const skin::ColourRamp &ramp); ///< of new ones of its kind

    /// A ready finish in hand, and its values as they were changed.
    std::size_t finish() const { return m_finish; }
    void setFinish(std::size_t ready);
    const std::array<float, 4> &finishValues() const { return m_finishValues; }
    void setFinishValues(const std::array<float, 4> &values);

    bool picks() const { return m_picks; } ///< the next press in the view takes its colour
    void setPicks(bool on);
    void drop(); ///< a brush is taken up; says nothing of it
    void leave() override { drop(); }
    /// A colour layer with a rule that is chosen comes into the hand; when another is chosen, it leaves it.
    void takeUp() override;

private:
    const skin::ColourLayer *ruled() const;

    Session &m_session;
    Holding m_holding = Holding::Brush;
    const colour::RuleKind *m_kind = nullptr;
    std::uint32_t m_layer = 0, m_seen = 0;
    std::vector<colour::Rule> m_rules; ///< by kind, as last set
    std::vector<skin::ColourRamp> m_ramps;
    bool m_picks = false;
    std::size_t m_finish = 0;
    std::array<float, 4> m_finishValues{};
};

/// The last ten colours that were painted with or laid, the latest first; kept between sessions.
std::vector<Vec3f> recentColours();
void rememberColour(Vec3f srgb);

QColor qtColour(Vec3f srgb);
Vec3f fromQt(const QColor &colour);

} // namespace bonemoss::app
