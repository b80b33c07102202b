#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"

#include <QSet>

class QLabel;
class QVBoxLayout;

namespace bonemoss::app {

/// The settings of the growth in hand, each between a picture of its least and one of its most; grows a new layer, or the
/// one that stands again as soon as something is changed.
class GrowthSettings : public HandSettings
{
    Q_OBJECT
public:
    GrowthSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    void addHead();
    void addBegin();
    void addAgain();
    void addCoarseness();
    void addValues();
    void addSizes();
    void addPresses();
    void addScale(QVBoxLayout *column);
    void addGuide(QVBoxLayout *column);
    void apply(const growth::Growth &rule); ///< to the layer that stands, or keeps it for the new one
    void grow();
    void runLater(nlohmann::json command);

    Session &m_session;
    HandModel &m_hand;
    QSet<QString> &m_open;
    QVBoxLayout *m_column;
    QLabel *m_coarse = nullptr;
    QWidget *m_presses = nullptr;
    std::vector<std::function<void()>> m_refresh;
};

extern const HandPart kGrowthPart;

} // namespace bonemoss::app
