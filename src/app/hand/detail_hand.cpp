#include "app/hand/detail_hand.h"

#include "app/benches/bench.h"

namespace bonemoss::app {

DetailHand::DetailHand(Session &session) : m_session(session)
{
    for (const growth::GrowthKind &kind : growth::growthKinds())
        m_rules.push_back(growthOf(kind));
}

void DetailHand::drop()
{
    m_growing = {};
    m_harvests = false;
}

void DetailHand::takeUp()
{
    if (!rowOf(m_session.bench()).grows)
        return;
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const skin::Layer *layer = piece ? piece->skin.layer(m_session.layer()) : nullptr;
    Growing next;
    if (layer && layer->growth)
        next.kind = layer->growth->kind, next.layer = layer->id;
    else if (m_growing.layer == 0)
        return; // a brush, or a new growth being set up
    if (next.kind != m_growing.kind || next.layer != m_growing.layer)
        setGrowing(next);
}

void DetailHand::setGrowing(const Growing &growing)
{
    const bool isOther = growing.kind != m_growing.kind || growing.layer != m_growing.layer;
    m_growing = growing;
    if (isOther)
        emit kindChanged();
    else
        emit changed();
}

growth::Growth DetailHand::rule() const
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const skin::Layer *layer = piece && m_growing.layer ? piece->skin.layer(m_growing.layer) : nullptr;
    if (layer && layer->growth)
        return *layer->growth;
    return m_rules[std::size_t(m_growing.kind - growth::growthKinds().data())];
}

void DetailHand::setRule(const growth::Growth &rule)
{
    m_rules[std::size_t(rule.kind - growth::growthKinds().data())] = rule;
    emit ruleChanged();
}

void DetailHand::beginHarvest()
{
    m_harvests = true;
    emit changed();
}

void DetailHand::endHarvest()
{
    m_harvests = false;
    emit changed();
}

void DetailHand::setShowsFlow(bool on)
{
    m_showsFlow = on;
    emit changed();
}

} // namespace bonemoss::app
