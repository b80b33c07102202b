#pragma once

#include "app/hand/colour_hand.h"
#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"

#include <QImage>

#include <span>

class QVBoxLayout;

namespace bonemoss::app {

/// A page of the Colour bench beside its brushes and rules. Adding one is one row.
struct ColourPage {
    const char *id, *title, *hint;
    ColourHand::Holding holding;
    QImage (*picture)(QSize size);
    HandSettings *(*settings)(Session &session, HandModel &hand, QSet<QString> &openSections);
};
std::span<const ColourPage> colourPages();

extern const HandPart kColourPagePart;

/// A ready finish as it is or changed: laid on the chosen colour layer, or painted with.
class FinishSettings : public HandSettings
{
    Q_OBJECT
public:
    FinishSettings(Session &session, HandModel &hand, QSet<QString> &openSections);
    void refresh() override;

private:
    void fill();
    void addInside(QVBoxLayout *column);

    Session &m_session;
    HandModel &m_hand;
    std::vector<std::function<void()>> m_refresh;
};

} // namespace bonemoss::app
