#include "app/hand/proof_hand.h"

namespace bonemoss::app {

ProofHand::ProofHand(Session &session)
{
    connect(&session, &Session::creatureChanged, this, &ProofHand::outdate);
}

void ProofHand::outdate()
{
    if (!m_report || m_isStale)
        return;
    m_isStale = true;
    emit ruleChanged();
}

void ProofHand::setProfile(const proof::PrinterProfile &profile)
{
    m_profile = profile;
    outdate();
}

void ProofHand::setHeight(float mm)
{
    m_height = mm;
    outdate();
}

void ProofHand::setReport(std::shared_ptr<const proof::Report> report)
{
    m_report = std::move(report);
    m_chosen = -1, m_isStale = false;
    emit reportChanged();
}

void ProofHand::choose(int finding)
{
    if (!m_report || finding >= int(m_report->findings.size()))
        return;
    m_chosen = finding;
    emit findingChosen();
    if (finding < 0)
        return;
    const proof::Finding &f = m_report->findings[std::size_t(finding)];
    emit flyWanted(f.at, f.outward, f.radius);
}

} // namespace bonemoss::app
