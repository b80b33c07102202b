#include "app/session/growth_keeper.h"

#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/growth/growth_fields.h"
#include "document/ops/colours.h"
#include "document/ops/growths.h"

#include <QSettings>

namespace bonemoss::app {

namespace {

constexpr int kRestMs = 400;
const QString kKey = QStringLiteral("detail/growsByItself"), kRulesKey = QStringLiteral("colour/rulesRun");

} // namespace

GrowthKeeper::GrowthKeeper(Session &session)
    : m_session(session), m_growsByItself(QSettings().value(kKey, false).toBool()),
      m_rulesRun(QSettings().value(kRulesKey, true).toBool())
{
    m_rests.setSingleShot(true);
    m_rests.setInterval(kRestMs);
    connect(&m_rests, &QTimer::timeout, this, &GrowthKeeper::look);
    connect(&session, &Session::creatureChanged, &m_rests, qOverload<>(&QTimer::start));
    connect(&session, &Session::choiceChanged, &m_rests, qOverload<>(&QTimer::start));
}

void GrowthKeeper::setGrowsByItself(bool on)
{
    m_growsByItself = on;
    QSettings().setValue(kKey, on);
    growAgain();
}

void GrowthKeeper::setRulesRun(bool on)
{
    m_rulesRun = on;
    QSettings().setValue(kRulesKey, on);
    growAgain();
}

void GrowthKeeper::look()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    std::vector<std::uint32_t> stale = piece ? document::staleGrowths(*piece) : std::vector<std::uint32_t>{};
    std::vector<std::uint32_t> colours =
        piece ? document::staleColours(m_session.creature(), *piece) : std::vector<std::uint32_t>{};
    if (stale != m_stale || colours != m_staleColours) {
        m_stale = std::move(stale), m_staleColours = std::move(colours);
        emit staleChanged();
    }
    growAgain();
}

/// Not after an undo: what was undone would come back at once.
void GrowthKeeper::growAgain()
{
    if (m_session.canRedo() || m_session.isWorkingBehind())
        return;
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const auto isFree = [&](std::uint32_t id) {
        const skin::ColourLayer *l = piece ? skin::colourLayer(piece->skin, id) : nullptr;
        return l && !l->isLocked;
    };
    if (m_growsByItself && !m_stale.empty())
        m_session.runInBackground(toCommand(command::GrowAgain{.piece = m_session.piece()}));
    else if (m_rulesRun && std::any_of(m_staleColours.begin(), m_staleColours.end(), isFree))
        m_session.runInBackground(toCommand(command::RunRules{.piece = m_session.piece()}));
}

} // namespace bonemoss::app
