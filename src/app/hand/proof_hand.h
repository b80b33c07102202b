#pragma once

#include "app/hand/bench_hand.h"
#include "app/session/session.h"
#include "proof/proof.h"
#include "proof/sliced.h"

#include <memory>

namespace bonemoss::app {

/// What the hand holds on the Proof bench: the printer, the size of the print, and what the last check found.
class ProofHand : public BenchHand
{
    Q_OBJECT
public:
    explicit ProofHand(Session &session);

    /// Those of the creature: setting them is a step of its history.
    const proof::PrinterProfile &profile() const { return m_profile; }
    bool setPrinter(const std::string &nameOrFile); ///< false where there is none, which is told
    /// Height of the print, mm; 0: as it is.
    float height() const { return m_session.creature().print.heightMm; }
    void setHeight(float mm);
    /// Null before the first check.
    const std::shared_ptr<const proof::Report> &report() const { return m_report; }
    void setReport(std::shared_ptr<const proof::Report> report);
    /// The creature, the printer or the size has changed since.
    bool isStale() const { return m_isStale; }
    int chosen() const { return m_chosen; } ///< finding; -1: none
    void choose(int finding);

    /// Null before it was sliced, and after the creature, the printer or the size has changed.
    const std::shared_ptr<const proof::Sliced> &sliced() const { return m_sliced; }
    void setSliced(std::shared_ptr<const proof::Sliced> sliced);
    int layer() const { return m_layer; }
    void setLayer(int layer);

signals:
    void slicedChanged();
    void layerChanged();
    void reportChanged();
    void findingChosen();
    void flyWanted(Vec3f at, Vec3f outward, float radius); ///< for the view

private:
    void follow();

    Session &m_session;
    std::string m_printer = proof::printerProfiles().front().id;
    proof::PrinterProfile m_profile = proof::printerProfiles().front();
    std::shared_ptr<const proof::Report> m_report;
    std::shared_ptr<const proof::Sliced> m_sliced;
    int m_chosen = -1, m_layer = 0;
    bool m_isStale = false;
};

} // namespace bonemoss::app
