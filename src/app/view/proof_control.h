#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/proof_hand.h"
#include "app/view/view_control.h"

#include <QCoreApplication>

namespace bonemoss::app {

/// On the Proof bench: findings are marked where they lie; a press on a mark chooses it.
class ProofControl : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(ProofControl)

public:
    ProofControl(HandModel &hand, QWidget *view);

    Press press(const Pointer &pointer) override;
    void cancel() override { held().choose(-1); }
    void paintOn(QPainter &painter, const Projection &view, const QString &viewKey) override;
    bool isOfActiveView() const override { return true; }
    QString hintFor(const HeldKeys &) const override;

private:
    ProofHand &held() const { return m_hand.of<ProofHand>(); }
    void paintLayer(QPainter &painter, const Projection &view) const;
    /// The mark under a point; -1: none.
    int markAt(const Projection &view, QPointF at) const;

    HandModel &m_hand;
};

extern const ControlRow kProofControl;

} // namespace bonemoss::app
