#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "proof/proof.h"

#include <memory>

namespace bonemoss::app {

/// What the hand holds on the Proof bench: the printer, the size of the print, and what the last check found.
class ProofHand : public BenchHand
{
    Q_OBJECT
public:
    explicit ProofHand(Session &session);

    const proof::PrinterProfile &profile() const { return m_profile; }
    void setProfile(const proof::PrinterProfile &profile);
    /// Height of the print, mm; 0: as it is.
    float height() const { return m_height; }
    void setHeight(float mm);
    /// Null before the first check.
    const std::shared_ptr<const proof::Report> &report() const { return m_report; }
    void setReport(std::shared_ptr<const proof::Report> report);
    /// The creature, the printer or the size has changed since.
    bool isStale() const { return m_isStale; }
    int chosen() const { return m_chosen; } ///< finding; -1: none
    void choose(int finding);

signals:
    void reportChanged();
    void findingChosen();
    void flyWanted(Vec3f at, Vec3f outward, float radius); ///< for the view

private:
    void outdate();

    proof::PrinterProfile m_profile = proof::printerProfiles().front();
    float m_height = 0;
    std::shared_ptr<const proof::Report> m_report;
    int m_chosen = -1;
    bool m_isStale = false;
};

} // namespace bonemoss::app
