#pragma once

#include "app/hand/colour_hand.h"
#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"

#include <nlohmann/json_fwd.hpp>

class QVBoxLayout;

namespace bonemoss::app {

class ColourChooser;
class RampBar;
class ValueSlider;

/// The rule in hand: what it goes by, its settings each between a picture of its least and one of its most, and the colours it lays. It
/// makes a new colour layer, or changes the one that stands as soon as something is changed.
class RuleSettings : public HandSettings
{
    Q_OBJECT
public:
    RuleSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    void addHead();
    void addSource();
    void addColours();
    void addValues();
    void addEdges();
    void change(const std::function<void(colour::Rule &, skin::ColourRamp &)> &edit);
    void lay();
    void runLater(nlohmann::json command);
    ColourHand &held() const { return m_hand.of<ColourHand>(); }

    Session &m_session;
    HandModel &m_hand;
    QSet<QString> &m_open;
    QVBoxLayout *m_column;
    std::vector<std::function<void()>> m_refresh;
};

extern const HandPart kRulePart;

} // namespace bonemoss::app
