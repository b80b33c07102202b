#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "colour/rule.h"

#include <QColor>
#include <QImage>
#include <QPointF>

#include <array>
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
    const FinishValues &finishValues() const { return m_finishValues; }
    void setFinishValues(const FinishValues &values);

    bool picks() const { return m_picks; } ///< the next press in the view takes its colour
    void setPicks(bool on);
    /// What the next press in the view fills, from there on; none while it does not.
    enum class Fills { No, Island, Angle, Border };
    Fills fills() const { return m_fills; }
    void setFills(Fills fills);
    /// How far Angle (degrees) and Border (difference of colour, of 255) go.
    float fillLimit(Fills fills) const { return fills == Fills::Border ? m_border : m_angle; }
    void setFillLimit(Fills fills, float limit) { (fills == Fills::Border ? m_border : m_angle) = limit; }
    /// A photograph before the view; none where its image is null.
    struct Photo {
        QString path;
        QImage image;                     ///< at most 1024 pixels wide, as it is shown
        std::array<QPointF, 4> corners{}; ///< shares of the view: top left, top right, bottom right, bottom left
    };
    const Photo &photo() const { return m_photo; }
    void setPhoto(Photo photo);
    void setPhotoCorners(const std::array<QPointF, 4> &corners);
    /// Takes up a picture file, before the middle of the view; says why it cannot.
    Status takePhoto(const QString &path);
    void drop(); ///< a brush is taken up; says nothing of it
    void leave() override { drop(); }
    /// A colour layer with a rule that is chosen comes into the hand; when another is chosen, it leaves it.
    void takeUp() override;

signals:
    void photoAsked(); ///< it shall be laid on what is seen

private:
    const skin::ColourLayer *ruled() const;

    Session &m_session;
    Holding m_holding = Holding::Brush;
    const colour::RuleKind *m_kind = nullptr;
    std::uint32_t m_layer = 0, m_seen = 0;
    std::vector<colour::Rule> m_rules; ///< by kind, as last set
    std::vector<skin::ColourRamp> m_ramps;
    bool m_picks = false;
    Photo m_photo;
    Fills m_fills = Fills::No;
    float m_angle = 25, m_border = 30;
    std::size_t m_finish = 0;
    FinishValues m_finishValues{};
};

/// The last ten colours that were painted with or laid, the latest first; kept between sessions.
std::vector<Vec3f> recentColours();
void rememberColour(Vec3f srgb);

QColor qtColour(Vec3f srgb);
Vec3f fromQt(const QColor &colour);

} // namespace bonemoss::app
