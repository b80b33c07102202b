#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"

#include <nlohmann/json_fwd.hpp>

class QVBoxLayout;

namespace bonemoss::app {

/// The creature's palette: its colours to choose, change and name, what goes with one, files, and which look alike.
class PaletteSettings : public HandSettings
{
    Q_OBJECT
public:
    PaletteSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    void rebuild();
    void addEntries(QVBoxLayout *column);
    void addChosen(QVBoxLayout *column);
    void addFiles(QVBoxLayout *column);
    void addChecks(QVBoxLayout *column);
    void later(nlohmann::json command);
    void readFile();
    void saveFile();

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_body = nullptr;
    std::vector<skin::PaletteColour> m_built;
    std::uint32_t m_chosen = 0, m_builtChosen = 0;
};

} // namespace bonemoss::app
