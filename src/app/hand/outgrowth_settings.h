#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"
#include "outgrowth/outgrowth.h"

#include <QSet>

class QComboBox;
class QLabel;
class QVBoxLayout;

namespace bonemoss::app {

/// The settings of the outgrowth in hand, each between a picture of its least and one of its most. What stands follows while a
/// slider is dragged; one command is sent when it is let go.
class OutgrowthSettings : public HandSettings
{
    Q_OBJECT
public:
    OutgrowthSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    void addHead();
    void addNew(const outgrowth::Kind &kind);
    void addJaws();
    void addBetween();
    void addGestures(const outgrowth::Outgrowth &o);
    void addPaste();
    void addValues();
    void addValue(std::size_t k);
    void addProfile();
    void addSection();
    void addWhole();
    void addColours();
    void addFinish();
    void addMember();
    void addEnd();
    void tryOut(const outgrowth::Outgrowth &rule); ///< while something is dragged
    void apply(const outgrowth::Outgrowth &rule);
    void runLater(nlohmann::json command);
    void growAnew(nlohmann::json command);
    QComboBox *itemChoice(std::uint32_t now, const std::function<void(std::uint32_t)> &choose);
    bool section(const QString &id, const QString &title); ///< whether it is open

    Session &m_session;
    HandModel &m_hand;
    QSet<QString> &m_open;
    QVBoxLayout *m_column;
    std::vector<std::function<void()>> m_refresh;
};

QString outgrowthWords(std::string_view s);
/// A line or more of words beside what they are about.
QLabel *softWords(const QString &text);

extern const HandPart kOutgrowthPart;

} // namespace bonemoss::app
