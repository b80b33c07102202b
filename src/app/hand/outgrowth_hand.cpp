#include "app/hand/outgrowth_hand.h"

#include "document/ops/outgrowths.h"

namespace bonemoss::app {

OutgrowthHand::OutgrowthHand(Session &session) : m_session(session), m_rules(outgrowth::kinds().size()) {}

float OutgrowthHand::size() const
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    return piece && !piece->skin.isEmpty() ? document::usualSizeOn(*piece) : outgrowth::kUsualSize;
}

float OutgrowthHand::radius() const
{
    return m_radius > 0 ? m_radius : 0.05f * size();
}

void OutgrowthHand::setRadius(float mm)
{
    m_radius = mm;
    emit ruleChanged();
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
    if (!m_kind)
        return {};
    const auto &set = m_rules[std::size_t(m_kind - outgrowth::kinds().data())];
    return set ? *set : outgrowthOf(*m_kind, size());
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

void OutgrowthHand::setGesture(Gesture gesture)
{
    m_gesture = gesture;
    if (gesture != Gesture::Choose)
        m_member.reset();
    emit kindChanged();
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
    m_gesture = Gesture::Choose;
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
