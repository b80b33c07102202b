#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/portrait_hand.h"
#include "app/view/view_control.h"

#include <QCoreApplication>

namespace bonemoss::app {

/// On the Portrait bench: the light in hand stands where its highlight, or with Shift its shadow, is dragged to; the lens focuses
/// where the creature is pressed on the Camera page.
class LightControl : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(LightControl)

public:
    LightControl(Session &session, HandModel &hand, QWidget *view) : m_session(session), m_hand(hand), m_view(view) {}

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override;
    void release(const Pointer &pointer) override;
    void cancel() override;
    void paintOn(QPainter &painter, const Projection &view, const QString &viewKey) override;
    bool isOfActiveView() const override { return true; }
    QString hintFor(const HeldKeys &) const override;

private:
    PortraitHand &held() const { return m_hand.of<PortraitHand>(); }
    nlohmann::json commandFor(const Pointer &pointer) const;
    std::optional<Vec3f> floorUnder(const Pointer &pointer) const;

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_view;
    std::optional<Vec3f> m_caster; ///< of the shadow that is dragged
    bool pressMark(const Pointer &pointer);
    void paintMarks(QPainter &painter, const Projection &view);
    const std::vector<Vec3f> &markPlaces();
    std::shared_ptr<const document::Creature> m_placesOf; ///< the creature that m_places are of
    std::vector<Vec3f> m_places;
    std::uint32_t m_movedMark = 0; ///< of the plate; kNone: a new one
    bool m_isDragging = false;
    std::optional<Vec3f> m_mark;
};

extern const ControlRow kLightControl;

} // namespace bonemoss::app
