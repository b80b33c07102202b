#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/pose_hand.h"
#include "app/view/view_control.h"

#include <QCoreApplication>

namespace bonemoss::app {

/// On the Pose bench: bones drawn into a skin that was not built from forms, the joints of a ready skeleton, and outgrowths rooted on
/// the creature as it stands.
class BoneControl : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(BoneControl)

public:
    BoneControl(Session &session, HandModel &hand, QWidget *view) : m_session(session), m_hand(hand), m_view(view) {}

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override;
    void release(const Pointer &pointer) override;
    void cancel() override;
    bool key(int key) override;
    void paintOn(QPainter &painter, const Projection &view, const QString &viewKey) override;
    QString hintFor(const HeldKeys &) const override;

private:
    PoseHand &held() const { return m_hand.of<PoseHand>(); }
    bool isOn(PoseTool tool) const;
    std::optional<std::size_t> landmarkAt(const Projection &view, QPointF at) const;
    void placeOutgrowth();

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_view;
    std::optional<std::size_t> m_dragged; ///< landmark
    std::vector<Vec3f> m_line;            ///< of an outgrowth that is being rooted
};

extern const ControlRow kBoneControl;

} // namespace bonemoss::app
