#include "app/hand/proof_hand.h"

#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/proof/print_fields.h"

#include <nlohmann/json.hpp>

namespace bonemoss::app {

ProofHand::ProofHand(Session &session) : m_session(session)
{
    connect(&session, &Session::creatureChanged, this, &ProofHand::follow);
    follow();
}

void ProofHand::follow()
{
    if (const std::string &wanted = m_session.creature().print.printer; wanted != m_printer) {
        m_printer = wanted;
        const auto profile = proof::printerProfile(wanted);
        if (!profile) // a file that is gone: the creature keeps its name
            m_session.complain(textOf(profile.error().text()));
        m_profile = profile ? *profile : proof::printerProfiles().front();
    }
    if (m_sliced)
        setSliced(nullptr);
    if (!m_report || m_isStale)
        return;
    m_isStale = true;
    emit ruleChanged();
}

bool ProofHand::setPrinter(const std::string &nameOrFile)
{
    return m_session.run(toCommand(command::SetPrint{.printer = nameOrFile}));
}

void ProofHand::setHeight(float mm)
{
    m_session.run(toCommand(command::SetPrint{.height = mm}));
}

void ProofHand::setReport(std::shared_ptr<const proof::Report> report)
{
    m_report = std::move(report);
    m_chosen = -1, m_isStale = false;
    emit reportChanged();
}

void ProofHand::setSliced(std::shared_ptr<const proof::Sliced> sliced)
{
    m_sliced = std::move(sliced);
    m_layer = m_sliced ? std::clamp(m_layer, 0, m_sliced->layers.count - 1) : 0;
    emit slicedChanged();
}

void ProofHand::setLayer(int layer)
{
    if (!m_sliced || layer == m_layer)
        return;
    m_layer = std::clamp(layer, 0, m_sliced->layers.count - 1);
    emit layerChanged();
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
