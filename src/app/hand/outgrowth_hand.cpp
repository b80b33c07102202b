#include "app/hand/outgrowth_hand.h"

namespace bonemoss::app {

OutgrowthHand::OutgrowthHand(Session &session) : m_session(session)
{
    for (const outgrowth::Kind &kind : outgrowth::kinds())
        m_rules.push_back(outgrowthOf(kind));
}

void OutgrowthHand::setKind(const outgrowth::Kind *kind)
{
    m_kind = kind;
    m_tried.reset();
    m_member.reset();
    if (kind && m_session.chosen(outgrowth::Outgrowth::kKind)) {
        m_chosen = 0;
        m_session.chooseItem(0);
    }
    emit kindChanged();
}

outgrowth::Outgrowth OutgrowthHand::rule() const
{
    if (m_tried)
        return *m_tried;
    if (const outgrowth::Outgrowth *o = chosen())
        return *o;
    return m_kind ? m_rules[std::size_t(m_kind - outgrowth::kinds().data())] : outgrowth::Outgrowth();
}

void OutgrowthHand::setNewRule(const outgrowth::Outgrowth &rule)
{
    m_rules[std::size_t(rule.kind - outgrowth::kinds().data())] = rule;
    emit ruleChanged();
}

void OutgrowthHand::tryRule(const outgrowth::Outgrowth &rule)
{
    m_tried = rule;
    emit ruleChanged();
}

void OutgrowthHand::dropTried()
{
    if (!m_tried)
        return;
    m_tried.reset();
    emit ruleChanged();
}

void OutgrowthHand::setCombs(bool on)
{
    m_combs = on;
    m_member.reset();
    emit ruleChanged();
}

void OutgrowthHand::setDrawsPath(bool on)
{
    m_drawsPath = on;
    emit ruleChanged();
}

void OutgrowthHand::chooseMember(std::optional<ChosenMember> member)
{
    if (m_member == member)
        return;
    m_member = member;
    emit kindChanged();
}

void OutgrowthHand::leave()
{
    m_kind = nullptr;
    m_combs = m_drawsPath = false;
    m_tried.reset();
    m_member.reset();
}

void OutgrowthHand::takeUp()
{
    if (m_chosen == m_session.chosen(outgrowth::Outgrowth::kKind))
        return;
    m_chosen = m_session.chosen(outgrowth::Outgrowth::kKind);
    m_tried.reset();
    m_member.reset();
    emit kindChanged();
}

} // namespace bonemoss::app
