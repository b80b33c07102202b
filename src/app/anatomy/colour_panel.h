#pragma once

#include "app/hand/hand_model.h"
#include "app/session/growth_keeper.h"
#include "app/session/session.h"

#include <QColor>
#include <QWidget>

class QVBoxLayout;

namespace bonemoss::app {

/// A small ball in the colour of a layer, as glossy as it is.
struct ColourBall {
    QColor colour; ///< not valid: it holds nothing
    float shine = 0;
    friend bool operator==(const ColourBall &, const ColourBall &) = default;
};

/// The colour layers of the chosen piece, topmost first, and what is done to the chosen one.
class ColourPanel : public QWidget
{
    Q_OBJECT
public:
    ColourPanel(Session &session, HandModel &hand, GrowthKeeper &keeper, QWidget *parent);
    void toggleChosen(); ///< the chosen layer off or on

private:
    void rebuild();
    void addRow(QVBoxLayout *to, const skin::ColourLayer &layer, const ColourBall &ball);
    void layPicture(std::uint32_t layer);
    void addChosen(QVBoxLayout *to, const document::Piece &piece, const skin::ColourLayer &layer);
    /// Sent once the button that was pressed is done: the panel is made anew by it.
    template <typename P> void later(P params);

    Session &m_session;
    HandModel &m_hand;
    GrowthKeeper &m_keeper;
    QVBoxLayout *m_rows = nullptr;
    QWidget *m_body = nullptr;
    /// What it was built for.
    struct Built {
        std::uint32_t piece = 0, chosen = 0;
        std::vector<skin::ColourLayer> layers;
        std::vector<ColourBall> balls;
        std::vector<std::uint32_t> stale;
        bool hasMask = false, isDark = false;
        friend bool operator==(const Built &, const Built &) = default;
    };
    Built m_built;
};

} // namespace bonemoss::app
