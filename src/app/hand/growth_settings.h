#pragma once

#include "app/hand/hand_model.h"

#include <QSet>
#include <QWidget>

class QLabel;
class QVBoxLayout;

namespace bonemoss::app {

/// The settings of the growth in hand, each between a picture of its least and one of its most; grows a new layer, or the
/// one that stands again as soon as something is changed.
class GrowthSettings : public QWidget
{
    Q_OBJECT
public:
    GrowthSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh(); ///< shows the rule's values

signals:
    void refineAsked();
    void foldChanged();

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

} // namespace bonemoss::app
