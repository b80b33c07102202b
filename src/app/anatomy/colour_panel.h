#pragma once

#include "app/hand/hand_model.h"
#include "app/session/session.h"

class QVBoxLayout;

namespace bonemoss::app {

/// The colour layers of the chosen piece, topmost first, and what is done to the chosen one.
class ColourPanel : public QWidget
{
    Q_OBJECT
public:
    ColourPanel(Session &session, HandModel &hand, QWidget *parent);

private:
    void rebuild();
    void addRow(QVBoxLayout *to, const skin::ColourLayer &layer);
    void addChosen(QVBoxLayout *to, const document::Piece &piece, const skin::ColourLayer &layer);
    /// Sent once the button that was pressed is done: the panel is made anew by it.
    template <typename P> void later(P params);

    Session &m_session;
    HandModel &m_hand;
    QVBoxLayout *m_rows = nullptr;
    QWidget *m_body = nullptr;
    /// What it was built for.
    struct Built {
        std::uint32_t piece = 0, chosen = 0;
        std::vector<skin::ColourLayer> layers;
        bool hasMask = false, isDark = false;
        friend bool operator==(const Built &, const Built &) = default;
    };
    Built m_built;
};

} // namespace bonemoss::app
